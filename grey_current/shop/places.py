"""Where things are: the ends of runs, footprints."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from functools import lru_cache
from statistics import fmean

from grey_current.shop.catalogue import materials
from grey_current.shop.collectors import PARTS, Collector, PartName
from grey_current.shop.design_parts import Parts
from grey_current.shop.ducts import Run
from grey_current.shop.machines import Machine

XY = tuple[float, float]
# A place in plan, and in space, m.
XYZ = tuple[float, float, float]
# What a part of a collector that stands by itself is joined to its fan with. Allowance.
LEAD_HOSE = "ribbed-hose"
# How much longer a hose between two parts of a collector is than straight, and m that it is at
# least. Allowances.
LEAD_SLACK, LEAST_LEAD = 1.25, 0.4
# m from a collector's middle within which its inlet is on top.
ON_TOP = 0.05


def bounds(corners: Iterable[tuple[float, float]]) -> tuple[float, float, float, float]:
    """The left, low, right and high edge of several places, m. Raises `ValueError` for none."""
    xs, ys = zip(*corners, strict=True)
    return min(xs), min(ys), max(xs), max(ys)


def middle_of(places: Sequence[tuple[float, ...]]) -> tuple[float, float]:
    """The middle of several places in plan, m."""
    return fmean(place[0] for place in places), fmean(place[1] for place in places)


def standing(x: float, y: float, turn: float, dx: float, dy: float) -> tuple[float, float]:
    """A place (dx, dy) from the centre of something that stands at (x, y), turned by degrees."""
    c, s = math.cos(math.radians(turn)), math.sin(math.radians(turn))
    return x + c * dx - s * dy, y + s * dx + c * dy


def position(project: Parts, ref: str) -> tuple[float, float, float]:
    """Where a run's end is: x, y and height in m. Raises `KeyError` for an unknown reference."""
    if ref in project.point:
        point = project.point[ref]
        return point.x, point.y, point.height
    if ref in project.collector:
        return inlet_of(project.collector[ref])
    machine, pickup = project.pickup[ref]
    place = standing(machine.x, machine.y, machine.turn, pickup.dx, pickup.dy)
    return (*place, machine.bottom + pickup.height)


def body_name(item: Machine | Collector, body: Machine | Collector) -> str:
    """What a body is called: "Cyclone", or "Cyclone, filter" for what stands by itself of it."""
    return item.name if body is item else f"{item.name}, {body.name.lower()}"


def all_bodies(project: Parts) -> list[Machine | Collector]:
    """Everything that stands on a footprint, parts of collectors that stand by themselves too."""
    return [body for item in bodies(project) for body in own_bodies(item)]


@lru_cache(maxsize=512)
def stood_apart(item: Collector, name: PartName) -> Collector:
    """The separator or filter of a collector that stands by itself, as a body in its own place.
    Raises `ValueError` for one that does not.
    """
    part = item.apart(name)
    if part is None:
        raise ValueError(f"the {name} of {item.name} does not stand by itself")
    kind = item.separator.kind if name == "separator" and item.separator else name
    x, y = standing(item.x, item.y, item.turn, part.dx, part.dy)
    own = {name: getattr(part, name) for name in _OWN}
    turn = math.remainder(item.turn + part.turn, 360)
    # The same id: it is never in its own collector's way.
    changes = {**own, "x": x, "y": y, "turn": turn, "inlet": part.port, "host": None}
    named = {"name": kind.capitalize(), "separator": None, "stand": 0.0}
    return item.model_copy(update=changes | named)


# What a part that stands by itself has of its own.
_OWN = (
    *("bottom", "width", "depth", "height", "inlet_dx", "inlet_dy", "inlet_height"),
    *("service", "service_depth"),
)


def parts_apart(item: Machine | Collector) -> tuple[tuple[PartName, Collector], ...]:
    """The parts of a collector that stand by themselves, each with its body."""
    if not isinstance(item, Collector):
        return ()
    return tuple((name, stood_apart(item, name)) for name in PARTS if item.apart(name))


def own_bodies(item: Machine | Collector) -> tuple[Machine | Collector, ...]:
    """All bodies that something is made of: a collector's fan, and what stands by itself of it."""
    return (item, *(body for _, body in parts_apart(item)))


def lead_ends(item: Collector, name: PartName) -> tuple[XYZ, XYZ]:
    """From where to where the hose goes between a part that stands by itself and the fan, m."""
    there = stood_apart(item, name)
    top = (there.x, there.y, there.bottom + there.height)
    return top, _own_inlet(item)


def lead_length(item: Collector, name: PartName) -> float:
    """How long (m) that hose is: what is said, else what the distance asks for."""
    part = item.apart(name)
    if part is not None and part.length is not None:
        return part.length
    return max(math.dist(*lead_ends(item, name)) * LEAD_SLACK, LEAST_LEAD)


def inlet_of(item: Collector) -> tuple[float, float, float]:
    """Where ducts come to a collector: x, y and height in m."""
    return _own_inlet(head_of(item))


def head_of(item: Collector) -> Collector:
    """The body that ducts come to: the fan's, or that of a separator which stands by itself before
    it.
    """
    return item if item.led_through is None else stood_apart(item, "separator")


def _own_inlet(item: Collector) -> XYZ:
    at = standing(item.x, item.y, item.turn, item.inlet_dx, item.inlet_dy)
    return (*at, item.bottom + item.inlet_height)


def outwards(item: Collector) -> tuple[float, float] | None:
    """The way out of a collector's inlet, as a unit vector in plan; None for an inlet on top.

    A round inlet beside the middle of a side comes in along the wall of the cyclone, at right
    angles to that side.
    """
    item = head_of(item)
    dx, dy = item.inlet_dx, item.inlet_dy
    if math.hypot(dx, dy) < ON_TOP:
        return None
    # Out of the side that it is nearer to, by the body's proportions.
    across = abs(dx) / item.width >= abs(dy) / item.depth
    return standing(
        0.0,
        0.0,
        item.turn,
        *((math.copysign(1.0, dx), 0.0) if across else (0.0, math.copysign(1.0, dy))),
    )


def distance(project: Parts, run: Run, start: str | None = None) -> float:
    """Distance (m) between a run's ends, from `start` instead of its own when given: straight, or
    over what a hose hangs from.
    """
    return bridged(position(project, start or run.start), position(project, run.end), run)


def bridged(a: XYZ, b: XYZ, run: Run) -> float:
    """M from one place to another: straight, or up to what a hose hangs from, level, and down;
    never less than straight.
    """
    straight, height = math.dist(a, b), hung_at(run)
    if height is None:
        return straight
    over = math.dist(a[:2], b[:2]) + max(height - a[2], 0.0) + max(height - b[2], 0.0)
    return max(over, straight)


def lies_over(a: XYZ, b: XYZ, run: Run) -> tuple[XYZ, ...]:
    """The corners by which a run lies from one place to another: straight, or up to what a hose
    hangs from, level, and down.
    """
    height = hung_at(run)
    if height is None:
        return a, b
    return a, (a[0], a[1], max(height, a[2])), (b[0], b[1], max(height, b[2])), b


def hung_at(run: Run) -> float | None:
    """The height (m) that a hose hangs at; None for one that does not, and for a rigid duct."""
    if run.hung is None:
        return None
    kind = materials().get(run.material)
    return run.hung if kind is not None and kind.hose else None


def bodies(project: Parts) -> tuple[Machine | Collector, ...]:
    """Everything that stands on a footprint: machines, then collectors."""
    return (*project.machines, *project.collectors)


def footprint(item: Machine | Collector) -> tuple[tuple[float, float], ...]:
    """The four corners of what a machine or collector covers, m."""
    w, d = item.width / 2, item.depth / 2
    return tuple(
        standing(item.x, item.y, item.turn, dx, dy)
        for dx, dy in ((-w, -d), (w, -d), (w, d), (-w, d))
    )
