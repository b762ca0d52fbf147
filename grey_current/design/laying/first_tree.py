"""A collector sized where no duct is drawn yet: through one quickly laid tree, its main sized for
each candidate.

The tree is a guess at what will be built, so the answer has a band; what is drawn already stays and
is used.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

from grey_current.design.collector.candidates import stood_in, with_candidate
from grey_current.design.collector.sizing import Sizing, sizing
from grey_current.design.collector.system_kinds import system_kinds
from grey_current.design.flow.assess import assess
from grey_current.design.flow.assessment import Assessment
from grey_current.design.flow.scenarios import all_scenarios
from grey_current.design.laying.flushing import flushed
from grey_current.design.laying.kept import kept
from grey_current.design.laying.proposals import quickly_laid
from grey_current.design.laying.sizes import SizeSearch, allowed_sizes
from grey_current.errors import GreyCurrentError
from grey_current.shop.catalogue import CollectorModel, collector_model
from grey_current.shop.model import Project

TREES = 8
# What the first tree leads to where no collector is there yet.
STAND_IN = "3 hp cyclone, 15 in impeller"


@dataclass(frozen=True)
class FirstTree:
    """A shop with a tree laid to what waited: the project, its collector, the runs that are new,
    what they connect.
    """

    project: Project
    collector: str
    runs: frozenset[str]
    refs: frozenset[str]

    def refitted(self, project: Project) -> Project:
        """The shop with a candidate: the new ducts in sizes that it can use, gates opened where
        that carries chips.

        Raises nothing.
        """
        sizes = allowed_sizes(project, project.collector[self.collector].duct_inlet)
        search = SizeSearch(project, self.runs, sizes)
        if not search.segments:
            return project
        return flushed(
            search.with_sizes(min([search.by_rule(), *search.uniforms()[:2]], key=search.key))
        )


def sizing_for(
    now: Assessment,
    collector: str | None,
    models: Sequence[CollectorModel] = (),
    should_continue: Callable[[], bool] = lambda: True,
) -> Sizing:
    """What a collector must do and which would do it, by the ducts that are drawn and a first tree
    to what waits.

    Where nothing can be laid, what waits is estimated along the walls. Raises nothing.
    """
    # Pickups without ducts would be judged by a rough way along the walls; a tree laid in a moment
    # is nearer to what will be built.
    tree = first_tree(now.project, collector)
    if tree is None:
        return sizing(now, collector, models, should_continue)
    then = assess(tree.project, all_scenarios(tree.project))
    found = sizing(then, tree.collector, models, should_continue, tree.refitted, guessed=True)
    # Other kinds of system have ducts of their own, and do not take over this tree's.
    kinds = tuple(system_kinds(now)) if should_continue() else ()
    marked = tuple(
        replace(r, estimated=r.estimated or _uses(tree, r.scenario.running))
        for r in found.requirements
    )
    hard = next(
        (r for r in marked if found.hardest is not None and r.scenario == found.hardest.scenario),
        None,
    )
    return replace(found, requirements=marked, hardest=hard, system_kinds=kinds, estimated=True)


def _uses(tree: FirstTree, running: tuple[str, ...]) -> bool:
    """Whether a machine among these is led to the collector by the first tree."""
    return any(ref.split("/")[0] in running for ref in tree.refs)


def first_tree(project: Project, collector: str | None) -> FirstTree | None:
    """A tree of ducts to every pickup that waits; None where none waits, or nothing can be laid.
    Raises nothing.
    """
    waiting = kept(project, only_unconnected=True).wanted
    if not waiting:
        return None
    ident = collector
    if ident is None:
        item = stood_in(project, None, collector_model(STAND_IN))
        project, ident = with_candidate(project, None, item), item.id
    try:
        laid = quickly_laid(project, TREES, only_unconnected=True)
    except GreyCurrentError:
        return None
    if laid is None or not set(waiting) - set(laid.stranded):
        return None
    before = set(project.run)
    new = frozenset(run.id for run in laid.project.runs if run.id not in before)
    tree = FirstTree(laid.project, ident, new, frozenset(waiting) - frozenset(laid.stranded))
    return replace(tree, project=tree.refitted(laid.project))
