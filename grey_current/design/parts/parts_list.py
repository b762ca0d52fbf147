"""The list of everything that a design wants bought, each part with the elements that it is for.

Pipe is counted by the metre of cut pieces here; `build/bill.py` turns it into lengths as they are
sold.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from functools import cached_property

from grey_current.design.parts.assembly import Assembly, assemble, connector_uses
from grey_current.design.parts.keys import GROUPS, Unit, hose_key, kind_of, mm, pipe_key
from grey_current.design.parts.straights import CUT_WITHIN, Straight, straights
from grey_current.design.parts.takeoffs import Joints, Use, gate_uses, is_hose
from grey_current.design.space.clashes import hangers
from grey_current.shop.build_plan import ShopMade
from grey_current.shop.catalogue import FITS_OVER, collector_key, usual_separator
from grey_current.shop.collectors import PARTS, Collector
from grey_current.shop.ducts import Run
from grey_current.shop.fitting_sizes import fitting_sizes
from grey_current.shop.hoses import cut_length
from grey_current.shop.model import Project
from grey_current.shop.places import LEAD_HOSE, distance, lead_length

# m of a run from which on it wants a hanger of its own. Allowance.
LEAST_HUNG = 0.6
# Hooks or straps that a hose hangs from. Allowance.
HOOKS = 2
# Screws or anchors: a strap is held at both ends, a hook at one, a bracket at its corners.
# Allowance.
OF_STRAP, OF_HOOK, OF_BRACKET = 2, 1, 4
# Length of earthing wire over the pipe that it follows. Allowance.
EARTH_SLACK = 1.1


@dataclass(frozen=True)
class Part:
    """A kind of part: its key, how many units in all, and how many for each element."""

    key: str
    quantity: float
    uses: tuple[tuple[str, float], ...]

    @property
    def group(self) -> str:
        """The group that it stands in."""
        return kind_of(self.key).group

    @property
    def unit(self) -> Unit:
        """What its quantity counts."""
        return kind_of(self.key).unit

    @property
    def elements(self) -> tuple[str, ...]:
        """What it is for: ids of runs, points, gates and collectors, references of pickups."""
        return tuple(element for element, _ in self.uses)


class PartsList:
    """Straight pieces and parts of one project, worked out once."""

    def __init__(self, project: Project) -> None:
        self.project = project
        self.joints = Joints(project)
        self.straights, self._couplings = straights(project, self.joints)

    @cached_property
    def assembly(self) -> Assembly:
        """Everything in its place, of the same fittings and pieces."""
        return assemble(self.project, self.joints, self.straights)

    @cached_property
    def parts(self) -> tuple[Part, ...]:
        """All parts, group by group, pipe in metres; what is made in the shop stands in place of
        what it replaces.
        """
        return gathered(with_shop_made(self._uses(), self.project.build.made, self.project))

    def of_element(self, element: str) -> list[Part]:
        """The parts that an element wants, in its own quantities."""
        found = [(part, dict(part.uses).get(element)) for part in self.parts]
        return [Part(part.key, here, ((element, here),)) for part, here in found if here]

    def _uses(self) -> Iterator[Use]:
        project = self.project
        for collector in project.collectors:
            yield Use(collector_key(collector.model), collector.id)
            if (
                collector.separator is not None
                and collector.separator.kind == "cyclone"
                and collector.stand == 0
            ):
                yield Use("bracket", collector.id)
                yield self._anchors(collector.id, OF_BRACKET)
            # A model's own separator comes with it.
            if collector.separator is not None and usual_separator(collector.model) is None:
                kind = collector.separator.kind.replace(" ", "-")
                yield Use(f"separator/{kind}", collector.id)
            yield from _lead_uses(collector)
        # In the order in which a list is read: collectors, fittings, gates, pipe, hose and hangers.
        yield from self.joints.uses
        yield from self._couplings
        yield from connector_uses(self.assembly)
        yield from gate_uses(project)
        for piece in self.straights:
            if piece.is_pipe:
                yield Use(pipe_key(piece.material, piece.diameter), piece.run, piece.length)
                yield from self._joint_uses(piece)
        for run in project.runs:
            yield from self._hose_uses(run) if is_hose(run) else self._hanger_uses(run)
            if project.build.earthing:
                yield from self._earth_uses(run)

    def _joint_uses(self, piece: Straight) -> Iterator[Use]:
        """What fastens and seals the two joints of a piece; a coupling's is counted with both of
        its pieces.
        """
        around = math.pi * piece.diameter
        sealing, rule = self.project.build.sealing, fitting_sizes().sealing
        if piece.material == "pvc":
            yield Use("cement", piece.run, 2 * around * rule.cement_litres_per_metre)
            yield Use("primer", piece.run, 2 * around * rule.primer_litres_per_metre)
            return
        yield Use("screws", piece.run, 2 * max(3, round(around * rule.screws_each_metre)))
        if sealing == "tape":
            yield Use("tape", piece.run, 2 * around * rule.tape_turns)
        elif sealing == "mastic":
            yield Use("mastic", piece.run, 2 * around * rule.mastic_litres_per_metre)

    def _hanger_uses(self, run: Run) -> Iterator[Use]:
        length = distance(self.project, run)
        if length >= LEAST_HUNG - CUT_WITHIN:
            count = hangers(run, length)
            yield Use(f"hanger/{mm(run.diameter)}", run.id, count)
            yield self._anchors(run.id, count * OF_STRAP)

    def _anchors(self, element: str, count: int) -> Use:
        """What holds a hanger or a bracket in the wall or ceiling that the shop has."""
        return Use(f"anchor/{self.project.build.fixing}", element, count)

    def _hose_uses(self, run: Run) -> Iterator[Use]:
        length = run.length or cut_length(self.project, distance(self.project, run))
        group = self.project.same_hose(run)
        if group:
            yield from self._plugged(run)
            longest = max(group, key=lambda each: each.length or distance(self.project, each))
            if run is not longest:
                return
        yield Use(hose_key(run.material, run.diameter), run.id, length)
        if run.hung is not None:
            yield Use(f"hanger/{mm(run.diameter)}", run.id, HOOKS)
            yield self._anchors(run.id, HOOKS * OF_HOOK)
        if run.also_serves and run.coupling == "quick":
            yield Use(f"quick/{mm(run.diameter)}", run.id)
            yield Use(f"clamp/{mm(run.diameter)}", run.id, 2)
            for ref in run.serves:
                yield Use(f"collar/{mm(run.diameter)}", ref)
        else:
            yield Use(f"clamp/{mm(run.diameter)}", run.id, 2)
        for ref in run.also_serves:
            port = self.project.pickup[ref][1].port
            if abs(port - run.diameter) >= FITS_OVER:
                yield Use(f"adaptor/{mm(port)}-{mm(run.diameter)}", ref)

    def _plugged(self, run: Run) -> Iterator[Use]:
        """What one port of a hose that is plugged in at several takes: its collars and adaptor."""
        if run.coupling == "quick":
            yield Use(f"collar/{mm(run.diameter)}", run.id, 2)

    def _earth_uses(self, run: Run) -> Iterator[Use]:
        if run.material == "pvc" or is_hose(run):
            yield Use(
                "earth-wire", run.id, (run.length or distance(self.project, run)) * EARTH_SLACK
            )
            yield Use("earth-clamp", run.id, 2)


def _lead_uses(item: Collector) -> Iterator[Use]:
    """The hoses between a fan and what stands by itself of it, with clamps and what goes between
    ports of other sizes.
    """
    for name in PARTS:
        part = item.apart(name)
        if part is None:
            continue
        bore = part.hose or part.port
        yield Use(hose_key(LEAD_HOSE, bore), item.id, lead_length(item, name))
        yield Use(f"clamp/{mm(bore)}", item.id, 2)
        for port in (part.port, item.inlet):
            if abs(port - bore) >= FITS_OVER:
                yield Use(f"adaptor/{mm(port)}-{mm(bore)}", item.id)


def gathered(uses: Iterable[Use]) -> tuple[Part, ...]:
    """Uses of one key as one part, group by group, by key within a group."""
    by_key: dict[str, dict[str, float]] = defaultdict(dict)
    for use in uses:
        by_key[use.key][use.element] = by_key[use.key].get(use.element, 0.0) + use.quantity
    parts = [
        Part(key, math.fsum(found.values()), tuple(found.items())) for key, found in by_key.items()
    ]
    return tuple(sorted(parts, key=lambda part: (GROUPS.index(part.group), _natural(part.key))))


def _natural(key: str) -> list[tuple[int, float, str]]:
    """A key for sorting, with its sizes as numbers."""
    words = key.replace("-", "/").split("/")
    return [
        (0, float(word), "") if word.replace(".", "", 1).isdigit() else (1, 0.0, word)
        for word in words
    ]


def with_shop_made(
    uses: Iterable[Use], made: Iterable[ShopMade], project: Project
) -> Iterator[Use]:
    """Uses with shop-made things in place of the bought parts that they replace, and beside the
    others.
    """
    standing = [item for item in made if not item.element or project.find(item.element) is not None]
    instead = {(item.replaces, item.element) for item in standing if item.replaces is not None}
    for use in uses:
        if (use.key, use.element) not in instead:
            yield use
    for number, item in enumerate(standing):
        yield Use(f"made/{item.template}", item.element or f"made-{number + 1}")
