"""What a change wants bought that no list of ducts counts: a filter, a seal, a wider port, a grille
before an opening, what joints are sealed with.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator

from grey_current.design.parts.keys import mm
from grey_current.design.parts.takeoffs import Use, is_hose
from grey_current.shop.collectors import Collector
from grey_current.shop.fitting_sizes import fitting_sizes
from grey_current.shop.machines import Pickup
from grey_current.shop.model import Project

# Share of the bore up to which a gate counts as one with a seal.
SEALED = 0.001


def bought_besides(before: Project, after: Project) -> Iterator[Use]:
    """Return what is bought for a change besides the parts of the ducts. Raises nothing."""
    for item in after.collectors:
        was = before.collector.get(item.id)
        # Another model comes with all of its own.
        if was is not None and was is not item and was.model == item.model:
            yield from _of_collector(was, item)
    for gate in after.gates:
        old = before.gate.get(gate.id)
        if old is not None and old.leak > SEALED >= gate.leak:
            yield Use(f"seal/{mm(after.run[gate.run].diameter)}", gate.id)
    for ref, (_, pickup) in after.pickup.items():
        known = before.pickup.get(ref)
        if known is not None and known[1] is not pickup:
            yield from _of_pickup(ref, known[1], pickup)
    if after.settings.duct_leakage < before.settings.duct_leakage:
        yield from _sealing(after)


def _of_collector(was: Collector, item: Collector) -> Iterable[Use]:
    new, old = item.filter, was.filter
    if new.kind != "none" and (new.kind, new.area) != (old.kind, old.area):
        # Square decimetres, so that its price grows with the cloth.
        yield Use(f"filter/{new.kind.replace(' ', '-')}/{new.area * 100:.0f}", item.id)
    if item.opening is not None and item.opening > (was.opening or 0.0) + 1e-6:
        side = math.sqrt(item.opening)
        yield Use(f"grille/{mm(side)}", item.id)


def _of_pickup(ref: str, was: Pickup, pickup: Pickup) -> Iterable[Use]:
    if pickup.port > was.port + 1e-3:
        yield Use(f"port/{mm(pickup.port)}", ref)
    if pickup.opening != was.opening:
        yield Use(f"hood/{mm(pickup.port)}", ref)
    if pickup.own_fan is not None and was.own_fan is None:
        yield Use("own-fan", ref)


def _sealing(project: Project) -> Iterable[Use]:
    """Mastic for the two ends of every pipe."""
    around = sum(2 * math.pi * run.diameter for run in project.runs if not is_hose(run))
    if around:
        litres = around * fitting_sizes().sealing.mastic_litres_per_metre
        yield Use("mastic", project.runs[0].id, litres)
