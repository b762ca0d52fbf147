"""Changes of gates: those that are missing, those that stand open, leak or narrow the bore.

Every pickup that is not in use should be shut off from the fan. A branch that no gate shuts draws
air for as long as the collector runs.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from grey_current.design.parts.besides import SEALED
from grey_current.design.parts.make_room import builds_no_worse, troubles
from grey_current.design.parts.takeoffs import is_hose
from grey_current.shop import edits
from grey_current.shop.duct_edits import upright
from grey_current.shop.duct_graph import AirPaths, branch_segment, downstream_ends
from grey_current.shop.edits import Change
from grey_current.shop.fitting_edits import with_gate_at, with_gate_on
from grey_current.shop.model import Project
from grey_current.shop.names import called
from grey_current.shop.places import distance, position

# m from the foot of a drop at which a gate sits: within reach, with pipe below it. Allowance.
FROM_FOOT = 0.3
# The same where fittings leave little room.
FROM_FOOT_TOO = (FROM_FOOT, 0.2)


@dataclass(frozen=True)
class OpenBranch:
    """A branch without a gate: the run that a gate would stand on, and whom it serves.

    Attributes:
        run: The run's id.
        serves: Machines that draw through it; several where one hose is moved between them.
    """

    run: str
    serves: tuple[str, ...]


def open_branches(project: Project) -> list[OpenBranch]:
    """Return the branches that nothing shuts while another machine of the same collector runs.

    One gate where all pickups of a machine come together does for them all. A collector with a
    single branch needs none.
    """
    paths = AirPaths(project)
    gated = {gate.run for gate in project.gates}
    found: list[OpenBranch] = []
    for leaves in _leaves_by_collector(project, paths).values():
        users = _users(project, leaves)
        if len(users) < 2:
            continue
        passed = {user: [list(paths.onward(run)) for run in runs] for user, runs in users.items()}
        for user, chains in passed.items():
            of_others = {
                run
                for other, theirs in passed.items()
                if other != user
                for c in theirs
                for run in c
            }
            own = [[run for run in chain if run not in of_others] for chain in chains]
            bare = [chain for chain in own if chain and gated.isdisjoint(chain)]
            found += [OpenBranch(run, user) for run in _where_gates_stand(project, own, bare)]
    return found


def _leaves_by_collector(project: Project, paths: AirPaths) -> dict[str, list[str]]:
    """The runs that begin at pickups, by the collector that their air goes to."""
    found: dict[str, list[str]] = {}
    for run in project.runs:
        if run.id not in paths.down or not any(ref in project.pickup for ref in run.touches):
            continue
        found.setdefault(paths.head(run.id), []).append(run.id)
    return found


def _users(project: Project, leaves: list[str]) -> dict[tuple[str, ...], list[str]]:
    """Leaves by the machines that they serve: those of one machine belong together."""
    users: dict[tuple[str, ...], list[str]] = {}
    for leaf in leaves:
        refs = [ref for ref in project.run[leaf].touches if ref in project.pickup]
        machines = tuple(dict.fromkeys(project.pickup[ref][0].id for ref in refs))
        users.setdefault(machines, []).append(leaf)
    return users


def _where_gates_stand(project: Project, own: list[list[str]], bare: list[list[str]]) -> list[str]:
    """One run where all of a machine's pickups have come together, else one on each bare chain."""
    if not bare:
        return []
    together = set(own[0]).intersection(*own[1:])
    if len(own) > 1 and len(bare) == len(own) and together:
        common = [run for run in own[0] if run in together]
        return [_best_for_a_gate(project, common)]
    return list(dict.fromkeys(_best_for_a_gate(project, chain) for chain in bare))


def _best_for_a_gate(project: Project, chain: list[str]) -> str:
    """The run of a chain that a gate stands on: its drop, where a hand reaches it, else its longest
    rigid duct, else its last hose.
    """
    pipes = [run for run in chain if not is_hose(project.run[run])]
    drops = [run for run in pipes if upright(project, project.run[run])]
    if not pipes:
        return chain[-1]
    return max(drops or pipes, key=lambda run: distance(project, project.run[run]))


def with_gates_on(project: Project, runs: tuple[str, ...]) -> Project:
    """Return the project with one more gate on each of some runs, or beside it where it has no
    room there.
    """
    usual = project
    for run in runs:
        usual = _with_gate(usual, run, FROM_FOOT)
    known = troubles(project).keys()
    tight = {piece.run for ident, piece in troubles(usual).items() if ident not in known}
    for run in runs:
        if run in tight:
            project = _with_gate_where_it_fits(project, run)
        else:
            project = _with_gate(project, run, FROM_FOOT)
    return project


def _with_gate_where_it_fits(project: Project, run: str) -> Project:
    """A gate on a run, higher on it, or on the next pipe of the same branch; where nothing has room
    it stands where it would usually be.
    """
    usual = _with_gate(project, run, FROM_FOOT)
    beside = [r for r in branch_segment(project, run) if r != run]
    pipes = [r for r in beside if not is_hose(project.run[r])]
    for other in (run, *sorted(pipes, key=lambda r: -distance(project, project.run[r]))):
        for from_foot in (*FROM_FOOT_TOO, distance(project, project.run[other]) / 2):
            made = _with_gate(project, other, from_foot)
            if builds_no_worse(project, made):
                return made
    return usual


def _with_gate(project: Project, run: str, from_foot: float) -> Project:
    """A gate so far (m) from the lower end of a pipe, or at the fixed end of a hose."""
    down = downstream_ends(project)
    project, gate = with_gate_on(project, run)
    item = project.run[run]
    if is_hose(item):
        return edits.changed(project, gate, at=1.0 if item.end == down.get(run) else 0.0)
    share = min(from_foot / max(distance(project, item), 1e-6), 0.5)
    foot = min(item.ends, key=lambda end: position(project, end)[2])
    return edits.changed(project, gate, at=round(share if item.start == foot else 1 - share, 4))


def gate_changes(project: Project, mine: set[str]) -> Iterator[Change]:
    """Gates that are missing, and less air through those that are not a machine's own; `mine` is
    empty where the whole shop is asked about.
    """
    yield from missing_gates(project)
    strays = [g.id for g in project.gates if g.rule == "left open" and g.id not in mine]
    if strays:
        words = "Shut what is left open: " + ", ".join(called(project, s) for s in strays)
        yield Change(
            words, strays[0], lambda p: edits.changed_all(p, strays, rule="with its machine")
        )
    leaky = [g.id for g in project.gates if g.leak > SEALED and g.id not in mine]
    if leaky:
        where = f"elsewhere ({len(leaky)})" if mine else f"everywhere ({len(leaky)})"
        yield Change(
            f"Gates with seals {where}",
            leaky[0],
            lambda p: edits.changed_all(p, leaky, leak=SEALED),
        )
        yield Change(f"Gates at the wyes {where}", leaky[0], lambda p: with_gates_at_wyes(p, leaky))


def missing_gates(project: Project) -> Iterator[Change]:
    """A gate on every branch that has none, as one change; nothing where all have one."""
    return gates_on_branches(project, open_branches(project))


def gates_on_branches(project: Project, branches: list[OpenBranch]) -> Iterator[Change]:
    """A gate on each of some branches, as one change; nothing for none."""
    runs = tuple(branch.run for branch in branches)
    if runs:
        words = f"A gate on {called(project, runs[0])}"
        if runs[1:]:
            words = f"A gate on each of {len(runs)} branches"
        yield Change(words, runs[0], lambda p: with_gates_on(p, runs))


def with_gates_at_wyes(project: Project, gates: list[str]) -> Project:
    """Return the project with some gates moved to where their branches join the main."""
    for gate in gates:
        project = with_gate_at(project, gate, "at the wye")
    return project
