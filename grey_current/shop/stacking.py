"""What stands on, under or in what: heights of things over the floor, and hosts whose guests follow
them.

Every machine, collector and thing has a foot (`bottom`) and a top. A guest names its host; whether
it stands on it, under it or in it follows from their heights.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import Any, Literal

from grey_current.errors import RefusedEdit
from grey_current.shop.collectors import Collector
from grey_current.shop.machines import Machine
from grey_current.shop.model import Project
from grey_current.shop.places import XY, footprint, standing
from grey_current.shop.room import FLAT, Feature, within

Thing = Machine | Collector | Feature
Relation = Literal["on", "under", "in"]
# m within which two heights are one.
TOUCH = 0.005
# m kept between something and what it stands under, and m that a bench's top is thick at least.
# Allowances.
OVER_IT, LEAST_TOP = 0.01, 0.02
# m that a wing of a machine's table is thick with its ribs. Allowance.
WING = 0.1


def bottom_of(item: Thing) -> float:
    """How high over the floor (m) the foot of something is; a bench's is on the floor, whatever is
    free under it.
    """
    return 0.0 if isinstance(item, Feature) and item.kind == "bench" else item.bottom


def rolled_by(project: Project, item: Thing) -> str | None:
    """The thing on wheels that something stands on, under or in, and is rolled aside with; None
    for what stands on the floor.
    """
    host = host_of(project, item)
    if host is None:
        return None
    return host.id if host.wheels else rolled_by(project, host)


def table_of(machine: Machine) -> float:
    """How high over the floor (m) a machine's table is."""
    return machine.bottom + machine.table_height


def top_of(item: Thing) -> float:
    """How high over the floor (m) the top of something is; infinite for up to the ceiling."""
    if isinstance(item, Feature):
        return math.inf if item.top is None else item.top
    if isinstance(item, Collector):
        return item.bottom + item.height
    own = item.table_height if item.height is None else item.height
    return item.bottom + own


def free_under(item: Thing) -> float:
    """Up to which height (m) there is room under something; its foot where there is none."""
    if isinstance(item, Feature):
        return item.bottom
    if isinstance(item, Machine):
        wings = item.left_wing > 0 or item.right_wing > 0
        return max(item.bottom + item.under, table_of(item) - WING if wings else 0.0)
    return item.bottom


def free_under_at(host: Thing, guest: Thing) -> float:
    """Up to which height (m) there is room under a host where a guest stands: under its table's
    wings where all of it is under one, else under its body.
    """
    if not isinstance(host, Machine) or isinstance(guest, Feature):
        return free_under(host)
    corners = [
        standing(0.0, 0.0, -host.turn, x - host.x, y - host.y)[0] for x, y in outline_of(guest)
    ]
    half = host.width / 2
    left = host.left_wing > 0 and max(corners) <= -half + host.left_wing + TOUCH
    right = host.right_wing > 0 and min(corners) >= half - host.right_wing - TOUCH
    if left or right:
        return free_under(host)
    return host.bottom + host.under


def host_of(project: Project, item: Thing) -> Thing | None:
    """What something stands on, under or in, if that is said."""
    found = project.element.get(item.host) if item.host else None
    return found if isinstance(found, Machine | Collector | Feature) else None


def relation(host: Thing, guest: Thing) -> Relation:
    """How a guest stands to its host, by their heights."""
    if guest.bottom >= top_of(host) - TOUCH:
        return "on"
    room = free_under(host)
    return "under" if room > 0 and top_of(guest) <= room + TOUCH else "in"


def things(project: Project) -> Iterator[Thing]:
    """Everything that may stand on, under or in something else, or bear it."""
    yield from project.machines
    yield from project.collectors
    yield from (item for item in project.features if item.kind not in FLAT)


def guests_of(project: Project, host: str) -> list[Thing]:
    """What is said to stand on, under or in a thing."""
    return [item for item in things(project) if item.host == host]


def stand_mates(project: Project, ident: str) -> frozenset[str]:
    """The machines that share a turning stand with one, itself not counted."""
    item = project.machine.get(ident)
    if item is None:
        return frozenset()
    owner = item.host if item.turns and item.host else ident
    group = {m.id for m in project.machines if m.turns and m.host == owner} | {owner}
    return frozenset(group - {ident}) if len(group) > 1 else frozenset()


def outline_of(item: Thing) -> tuple[XY, ...]:
    """The corners of what something covers, m."""
    return item.outline if isinstance(item, Feature) else footprint(item)


def settled(project: Project, item: Machine | Collector) -> dict[str, Any]:
    """What changes of something that was moved: it is off its host when it is no longer at it, on
    the floor again when it stood on its top, and under a bench where it goes under one.
    """
    host = host_of(project, item)
    if host is not None:
        if within((item.x, item.y), outline_of(host)):
            return {}
        on = relation(host, item) == "on"
        turns = isinstance(item, Machine) and item.turns
        return {
            "host": None,
            **({"bottom": 0.0} if on else {}),
            **({"turns": False} if turns else {}),
        }
    if item.bottom == 0:
        for other in project.features:
            # What hangs on a wall over something does not take it along.
            under = other.kind == "bench" and top_of(item) <= free_under(other)
            if under and within((item.x, item.y), other.outline):
                return {"host": other.id}
    return {}


def stands_in_itself(project: Project, guest: str, host: str) -> bool:
    """Whether a guest would, over others, come to stand on itself."""
    seen: set[str] = set()
    here: str | None = host
    while here is not None and here not in seen:
        if here == guest:
            return True
        seen.add(here)
        item = project.element.get(here)
        here = getattr(item, "host", None)
    return False


def check_stands(project: Project, guest: str, host: str) -> None:
    """Raises `RefusedEdit` for something that would come to stand on itself."""
    if stands_in_itself(project, guest, host):
        name = project.element[guest].name
        raise RefusedEdit(name, "standing on itself", "choose something that does not stand on it")


def after_its_host(was: Thing, now: Thing, guest: Thing) -> dict[str, Any]:
    """What of a guest changes when its host was otherwise: it is moved and turned with it, and
    stays on its top.
    """
    changes: dict[str, Any] = {}
    angle, shift = _motion(was, now)
    if angle or shift != (0.0, 0.0):
        centre = _centre(was)

        def there(place: XY) -> XY:
            dx, dy = place[0] - centre[0], place[1] - centre[1]
            c, s = math.cos(math.radians(angle)), math.sin(math.radians(angle))
            x, y = centre[0] + c * dx - s * dy, centre[1] + s * dx + c * dy
            return round(x + shift[0], 4), round(y + shift[1], 4)

        if isinstance(guest, Feature):
            changes["outline"] = tuple(there(place) for place in guest.outline)
        else:
            changes["x"], changes["y"] = there((guest.x, guest.y))
            if angle:
                changes["turn"] = (guest.turn + angle) % 360
    rises = bottom_of(now) - bottom_of(was)
    if relation(was, guest) == "on":
        rises = top_of(now) - top_of(was)
    if math.isfinite(rises) and abs(rises) > 1e-9:
        changes["bottom"] = round(max(guest.bottom + rises, 0.0), 4)
        if isinstance(guest, Feature) and guest.top is not None:
            changes["top"] = round(guest.top + rises, 4)
    return changes


def _centre(item: Thing) -> XY:
    return item.outline[0] if isinstance(item, Feature) else (item.x, item.y)


def _motion(was: Thing, now: Thing) -> tuple[float, XY]:
    """By how much something was turned (degrees) about its centre or first corner and moved (m);
    nothing where it was only made larger or smaller.
    """
    (x, y), (to_x, to_y) = _centre(was), _centre(now)
    shift = (to_x - x, to_y - y)
    if not isinstance(was, Feature) or not isinstance(now, Feature):
        return getattr(now, "turn", 0.0) - getattr(was, "turn", 0.0), shift
    if len(was.outline) != len(now.outline):
        return 0.0, (0.0, 0.0)
    far = [math.dist(a, b) for a, b in zip(was.outline, was.outline[1:], strict=False)]
    far_now = [math.dist(a, b) for a, b in zip(now.outline, now.outline[1:], strict=False)]
    if any(abs(a - b) > TOUCH for a, b in zip(far, far_now, strict=True)):
        return 0.0, (0.0, 0.0)
    heads = [
        math.degrees(math.atan2(b[1] - a[1], b[0] - a[0]))
        for a, b in (item.outline[:2] for item in (was, now))
    ]
    angle = heads[1] - heads[0]
    return (0.0 if abs(angle) < 1e-6 else angle), shift
