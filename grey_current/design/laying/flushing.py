"""Gates opened for another machine, where its chips then lie no more, and sizes that go with
that.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import replace

from grey_current.design.flow.assess import assess
from grey_current.design.flow.gates import opened_for
from grey_current.design.flow.scenarios import all_scenarios
from grey_current.design.judgement import Judgement, air_judgement
from grey_current.design.laying.segments import Sizes
from grey_current.design.laying.sizes import SizeSearch
from grey_current.shop.duct_graph import AirPaths
from grey_current.shop.ducts import Gate
from grey_current.shop.model import Project

# Gates that are tried for each machine, those nearest to where its chips lie first.
TRIED = 6
# Machines, the worst first, for which gates are tried.
MACHINES = 6
# Single sizes, the best by themselves, that are tried with gates opened.
UNIFORM_TRIED = 2


def tuned(search: SizeSearch, before: SizeSearch | None = None) -> SizeSearch:
    """A search for the sizes of a design in which gates are opened where that carries chips; its
    best goes with them.

    Sizes and gates are found in turn, for each asks for the other: from the best sizes with no gate
    opened, and from the best single sizes. `before` is another such search for the same ducts,
    which is gone on from too.
    """
    if not search.segments:
        return search
    # Large ducts with one more gate open may be better than the best ducts without: several starts.
    starts: list[Sizes] = search.uniforms()[:UNIFORM_TRIED]
    if not search.uniform:
        starts = [search.best(), *(starts[:1] if before is None else ())]
    found = [_tuned_from(search, start) for start in starts if search.should_continue()]
    if before is not None and not search.uniform and len(before.segments) == len(search.segments):
        found.append(replace(search, project=before.project, start=before.best(), exact=0))
    return min(found, key=lambda one: one.key(one.best()), default=search)


def _tuned_from(search: SizeSearch, start: Sizes) -> SizeSearch:
    opened = flushed(search.with_sizes(start), search.should_continue)
    made = replace(search, project=opened, start=start, exact=0)
    if search.uniform:
        return made.only(start)
    if opened.gates == search.project.gates:
        return made
    again = flushed(made.with_sizes(made.best()), search.should_continue)
    if again.gates == opened.gates:
        return made
    return replace(search, project=again, start=made.best(), exact=0)


def flushed(project: Project, should_continue: Callable[[], bool] = lambda: True) -> Project:
    """The project with one more gate open for each machine whose chips settle, where the whole shop
    is better so.

    Gates that a user has left open, kept shut or opened for others stay as they are. Raises
    nothing.
    """
    now = _judged(project)
    for machine in _settling(now)[:MACHINES]:
        if not should_continue():
            break
        best = project, now
        for gate in list(_candidates(project, machine))[:TRIED]:
            trial = opened_for(project, gate.id, machine)
            judged = _judged(trial)
            # Opening a gate costs a hand's turn; it has to carry something for it.
            if judged.rank < best[1].rank and judged.trouble < best[1].trouble - 1e-3:
                best = trial, judged
        project, now = best
    return project


def _judged(project: Project) -> Judgement:
    return air_judgement(assess(project, all_scenarios(project)))


def _settling(judged: Judgement) -> list[str]:
    """Machines that run alone while their chips settle, the worst first."""
    slow = {
        scenario.running[0]: pickup.transport
        for (scenario, _), pickup in judged.pickups.items()
        if len(scenario.running) == 1 and pickup.transport is not None and not pickup.carried
    }
    return sorted(slow, key=lambda machine: (slow[machine] or 0.0, machine))


def _candidates(project: Project, machine: str) -> Iterator[Gate]:
    """Gates of other machines on the same system, those that share most of the way with it last to
    join it.
    """
    paths = AirPaths(project)
    runs = [
        run.id
        for run in project.runs
        if run.start.split("/")[0] == machine and run.start in project.pickup
    ]
    own = paths.passed(runs)
    shared = {}
    for gate in project.gates:
        way = list(paths.onward(gate.run))
        common = [run for run in way if run in own]
        if gate.run not in own and common and gate.rule == "with its machine":
            shared[gate.id] = (-len(common), gate.id)
    yield from sorted(
        (gate for gate in project.gates if gate.id in shared), key=lambda gate: shared[gate.id]
    )
