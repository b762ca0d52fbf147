"""What must be reached: sides for service, doors and drawers that open; and what is in the way."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any, Protocol

from grey_current.design.space.outlines import front_outline, plan, service_outline
from grey_current.design.space.solids import Block
from grey_current.shop.collectors import Collector
from grey_current.shop.machines import Machine, Side
from grey_current.shop.model import Project
from grey_current.shop.person import HEAD_ROOM
from grey_current.shop.places import footprint, own_bodies
from grey_current.shop.room import Feature
from grey_current.shop.stacking import TOUCH, bottom_of, host_of, relation, top_of

ALL_SIDES: tuple[Side, ...] = ("front", "left", "back", "right")
# The share of the ground before a front that may be taken: one reaches past a corner. Allowance.
BLOCKS = 0.05
# m over the floor that one steps over. Allowance.
SILL = 0.1


class Standing(Protocol):
    """What is asked about: the shop, its floor as one shape, and the solids that stand there."""

    project: Project

    @property
    def floor(self) -> Any:
        """The ground of all rooms."""

    def bodies(self, running: str | None = None) -> list[Block]:
        """What stands there, while a machine runs."""


def front_blocked(space: Standing, feature: Feature) -> str | None:
    """What stands before the doors or drawers of something ("wall" for a wall), at their
    height; None where they open.
    """
    outline = front_outline(feature)
    if not outline or feature.away:
        return None
    ground = plan(outline)
    if ground.difference(space.floor).area > BLOCKS * ground.area:
        return "wall"
    # What hangs opens over what is lower; before a bench one stands.
    low = max(bottom_of(feature), SILL)
    high = max(min(top_of(feature), HEAD_ROOM), low + SILL)
    return next(
        (
            body.ident
            for body in space.bodies()
            if body.ident != feature.id
            and body.meets(low, high)
            and body.shape.intersection(ground).area > BLOCKS * ground.area
        ),
        None,
    )


def service_blocked(space: Standing, machine: Machine | Collector) -> list[tuple[Side, str]]:
    """Service sides that are not free, each with what is in the way ("wall" for a wall)."""
    return [
        (side, other) for body in own_bodies(machine) for side, other in _sides_blocked(space, body)
    ]


def _sides_blocked(space: Standing, machine: Machine | Collector) -> list[tuple[Side, str]]:
    blocked = _blocked_of(space, machine, machine.service)
    if not blocked or not isinstance(machine, Collector):
        return blocked
    host = host_of(space.project, machine)
    if host is None or relation(host, machine) == "on":
        return blocked
    # It is pulled out from under its host to be opened, to whichever side is free.
    ways = {side for side, _ in _blocked_of(space, machine, ALL_SIDES)}
    return [] if len(ways) < len(ALL_SIDES) else blocked


def _blocked_of(
    space: Standing, machine: Machine | Collector, sides: Iterable[Side]
) -> list[tuple[Side, str]]:
    found: list[tuple[Side, str]] = []
    for side in sides:
        ground = plan(service_outline(machine, side))
        # A few per cent of a service side may be blocked: one still reaches past a corner.
        if ground.difference(space.floor).area > 0.03 * ground.area:
            found.append((side, "wall"))
            continue
        blockers = (
            body.ident
            for body in space.bodies(machine.id)
            if body.ident != machine.id
            and body.meets(SILL, max(top_of(machine), HEAD_ROOM))
            and not _over_it(machine, body)
            and body.shape.intersection(ground).area > 0.05 * ground.area
        )
        found.extend((side, ident) for ident in list(blockers)[:1])
    return found


def _over_it(guest: Machine | Collector, body: Block) -> bool:
    """Whether something stands under a solid for the most part: one reaches in below it."""
    ground = plan(footprint(guest))
    covered = body.shape.intersection(ground).area > 0.5 * ground.area
    return body.bottom >= top_of(guest) - TOUCH and bool(covered)
