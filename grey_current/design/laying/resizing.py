"""Size it: other sizes for the ducts that are drawn, by both rules of thumb, each the best of its
kind.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

from grey_current.design.flow.assess import assess
from grey_current.design.flow.assessment import Assessment
from grey_current.design.flow.scenarios import all_scenarios
from grey_current.design.judgement import Judgement, judge, worsenings
from grey_current.design.laying.sizes import SizeSearch, allowed_sizes, size_runs
from grey_current.errors import RefusedEdit
from grey_current.shop.duct_graph import downstream_ends
from grey_current.shop.model import Project
from grey_current.shop.names import Names

STEPPED, ONE_SIZE = "Stepped", "One size"


@dataclass(frozen=True)
class Resized:
    """The drawn ducts in other sizes: how they were chosen, the project, its judgement, what
    changes.

    `changes` are run ids with the size before and after (m), in the shop's order; `tried` how many
    choices were judged; `costs` what gets worse against the sizes as drawn, the worst first.
    """

    name: str
    project: Project
    judgement: Judgement
    changes: tuple[tuple[str, float, float], ...]
    tried: int
    costs: tuple[str, ...]
    assessment: Assessment = field(repr=False, compare=False)

    @property
    def in_words(self) -> tuple[tuple[str, float, float], ...]:
        """What changes by what it is called, sizes (m) before and after; runs of one duct in a row
        are said once.
        """
        names = Names(self.project)
        return tuple(
            dict.fromkeys((names.start(run), before, after) for run, before, after in self.changes)
        )


def resized(
    project: Project, should_continue: Callable[[], bool] = lambda: True
) -> tuple[Resized, ...]:
    """The drawn ducts sized by search, stepped and in one size, the better first; runs that are
    pinned stay.

    Raises `RefusedEdit` when no duct leads to a collector.
    """
    if not size_runs(project):
        raise RefusedEdit(
            "the ducts", "sizing them", "draw ducts that lead to a collector first, or unpin some"
        )
    drawn = judge(assess(project, all_scenarios(project)))
    found = [
        _resized(project, drawn, STEPPED, False, should_continue),
        _resized(project, drawn, ONE_SIZE, True, should_continue),
    ]
    return tuple(sorted(found, key=lambda one: (one.judgement.rank[:2], one.name != STEPPED)))


def _resized(
    project: Project,
    drawn: Judgement,
    name: str,
    uniform: bool,
    should_continue: Callable[[], bool],
) -> Resized:
    made, tried = project, 0
    for item in project.collectors:
        mine = size_runs(made) & frozenset(downstream_ends(made, item.id))
        if mine:
            search = SizeSearch(
                made,
                mine,
                allowed_sizes(made, item.duct_inlet),
                uniform,
                should_continue=should_continue,
            )
            made = search.with_sizes(search.best())
            tried += len(search.known)
    changes = tuple(
        (run.id, run.diameter, made.run[run.id].diameter)
        for run in project.runs
        if abs(made.run[run.id].diameter - run.diameter) > 1e-6
    )
    done = assess(made, all_scenarios(made))
    judged = judge(done, drawn)
    costs = tuple(worse.words for worse in worsenings(made, drawn, judged))
    return Resized(name, made, judged, changes, tried, costs, done)
