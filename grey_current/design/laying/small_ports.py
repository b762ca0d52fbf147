"""A vacuum for the small ports of a shop: one hose that is moved from port to port, beside the
ducts for the others.
"""

from __future__ import annotations

import math
from collections.abc import Collection
from dataclasses import dataclass, replace

from grey_current.design.collector.small_ports import SMALL
from grey_current.design.judgement import Judgement
from grey_current.design.laying.moved_hose import hose_to, length_to
from grey_current.design.space.free_places import freely_standing
from grey_current.shop.catalogue import catalogue, new_collector
from grey_current.shop.collectors import Collector
from grey_current.shop.ducts import ends_of
from grey_current.shop.edits import added, fresh_id, removed
from grey_current.shop.hoses import HOSE_SLACK, cut_length
from grey_current.shop.model import Project
from grey_current.shop.places import middle_of, position

# m of hose on a vacuum beyond which the user rolls it along instead. Allowance.
LONGEST = 6.0
HOSE = "smooth-hose"


@dataclass(frozen=True)
class VacuumForSmall:
    """Pickups that a vacuum's hose goes to, which vacuum, and that in words."""

    refs: frozenset[str]
    vacuum: Collector
    is_new: bool
    words: str

    def added_to(self, project: Project) -> Project:
        """The project with the vacuum and its hose, long enough for every port that it goes to."""
        made = added(project, self.vacuum) if self.is_new else project
        here = position(made, self.vacuum.id)
        order = sorted(self.refs, key=lambda ref: (math.dist(position(made, ref), here), ref))
        needed = max(self.needed(made, ref) for ref in order)
        length = cut_length(made, needed / HOSE_SLACK)
        return added(made, hose_to(made, self.vacuum, order, self.vacuum.duct_inlet, length, HOSE))

    def needed(self, project: Project, ref: str) -> float:
        """Length (m) of hose to one port, round what stands there; infinite where walls leave no
        way.
        """
        return length_to(project, self.vacuum, ref, HOSE)


def with_vacuum(
    project: Project, judged: Judgement, laid: Collection[str]
) -> VacuumForSmall | None:
    """The small ports among those `laid` that a design does not serve, and the vacuum that might;
    None without any.
    """
    failing = {
        ref
        for (_, ref), p in judged.pickups.items()
        if ref in laid and not (p.met and p.carried) and project.pickup[ref][1].port <= SMALL
    }
    if not failing:
        return None
    x, y = middle_of([position(project, ref) for ref in sorted(failing)])
    joined = ends_of(project.runs)
    # A vacuum that stands there unused costs nothing.
    idle = [c for c in project.collectors if c.inlet < SMALL + 0.01 and c.id not in joined]
    if idle:
        vacuum, is_new = idle[0], False
    else:
        model = next(m for m in catalogue().collectors if m.kind == "vacuum")
        made = new_collector(model, fresh_id(project, "vacuum"), "Vacuum", x, y)
        vacuum, is_new = freely_standing(project, made), True
    found = VacuumForSmall(frozenset(failing), vacuum, is_new, "")
    bare = without_hoses(project, failing)
    bare = added(bare, vacuum) if is_new else bare
    near = frozenset(ref for ref in failing if found.needed(bare, ref) <= LONGEST * HOSE_SLACK)
    if not near:
        return None
    also = "" if not is_new else ", which is one more thing to buy"
    ports = "one small port" if len(near) == 1 else f"{len(near)} small ports"
    return replace(found, refs=near, words=f"A vacuum on one hose serves {ports}{also}.")


def without_hoses(project: Project, refs: Collection[str]) -> Project:
    """The project without the runs on some ports, so that another hose can be put on them."""
    return removed(project, [run.id for run in project.runs if {run.start, run.end} & set(refs)])
