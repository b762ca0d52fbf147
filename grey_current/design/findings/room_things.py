"""What stands in the room besides machines: what opens, hangs, burns, lies in the floor or is
hidden.
"""

from __future__ import annotations

import shapely

from grey_current.design.findings.finding import Finding, Found, Inspection, Rule
from grey_current.design.findings.room_to_work import TOUCHES
from grey_current.design.space.outlines import plan
from grey_current.design.space.reached import front_blocked
from grey_current.shop.person import head_room
from grey_current.shop.room import HOT
from grey_current.shop.stacking import top_of

# m kept between finish or solvents and heat, or a motor that is no spark-proof one. Allowance.
STORE_DISTANCE = 2.0
# m up to which nothing is walked into with the head, and m within which a socket is hidden by what
# stands before it. Allowances.
SHOULDER, BEHIND = 1.2, 0.15


def fronts(inspection: Inspection) -> Found:
    """Doors and drawers that do not open."""
    for feature in inspection.project.features:
        blocked = front_blocked(inspection.space, feature)
        if blocked is not None:
            yield Finding(
                "front-blocked",
                "warning",
                feature.id,
                f"{feature.name}: its front must stay free to open, but "
                f"{inspection.names.of(blocked)} is in the way.",
                also=() if blocked == "wall" else (blocked,),
                remedies=("Move one of them, or turn its front.",),
            )
        yield None


def hung(inspection: Inspection) -> Found:
    """What hangs from the ceiling: too high for it, or so low that people walk into it."""
    display, space = inspection.display, inspection.space
    least = head_room(inspection.project.settings)
    for feature in inspection.project.features:
        if feature.kind != "air cleaner" or feature.away:
            continue
        above, top = space.height_over_ground(feature.outline), top_of(feature)
        if top > above + TOUCHES and feature.top is not None:
            yield Finding(
                "under-ceiling",
                "fault",
                feature.id,
                f"{feature.name}: {display.length(top)} up at its top, but what is over it is "
                f"{display.length(above)} up.",
                top,
                above,
                remedies=("Hang it lower, or where the ceiling is higher.",),
            )
        # Over a table or a bench nobody walks.
        over = [ident for ident in space.within(feature.outline, 0.3) if ident != feature.id]
        if SHOULDER < feature.bottom < least and not over:
            yield Finding(
                "hangs-low",
                "warning",
                feature.id,
                f"{feature.name}: its underside is {display.length(feature.bottom)} up; people "
                "walk into it.",
                feature.bottom,
                least,
                remedies=("Hang it higher, or over a bench.",),
            )
        yield None


def heated_floors(inspection: Inspection) -> Found:
    """What is bolted down where tubes lie in the floor."""
    project = inspection.project
    for feature in project.features:
        if feature.kind != "heated floor":
            continue
        standing = inspection.space.within(feature.outline, 0.0, 0.1)
        for ident in standing:
            if ident in project.collector or ident in project.machine:
                yield Finding(
                    "no-drilling",
                    "note",
                    ident,
                    f"{project.element[ident].name}: stands where the floor must not be drilled "
                    f"({feature.name.lower()}).",
                    also=(feature.id,),
                    remedies=("Let it stand on its own feet or a glued plate, without anchors.",),
                )
        yield None


def outlets(inspection: Inspection) -> Found:
    """Sockets behind what stands before them at their height."""
    project, display = inspection.project, inspection.display
    for outlet in project.outlets:
        if outlet.height is None:
            continue
        place = shapely.Point(outlet.x, outlet.y)
        hiding = [
            body.ident
            for body in inspection.space.bodies()
            if body.bottom - 0.01 <= outlet.height <= body.top + 0.01
            and not body.wheeled
            and body.shape.distance(place) < BEHIND
        ]
        for ident in hiding[:1]:
            yield Finding(
                "outlet-hidden",
                "note",
                outlet.id,
                f"{outlet.name}: {display.length(outlet.height)} up, behind "
                f"{inspection.names.of(ident)}.",
                outlet.height,
                also=(ident,),
                remedies=("Set it higher than what stands before it, or lead a strip out.",),
            )
        yield None


def finish_stores(inspection: Inspection) -> Found:
    """What burns as vapour beside what lights it: heat, or a collector's motor."""
    project, display = inspection.project, inspection.display
    for store in project.features:
        if store.kind != "finish store":
            continue
        ground = plan(store.outline)
        near = [
            (float(ground.distance(plan(other.outline))), other.id)
            for other in project.features
            if other.kind in HOT
        ]
        near += [(inspection.space.distance(item, store), item.id) for item in project.collectors]
        for away, other in sorted(near)[:1]:
            if away < STORE_DISTANCE:
                yield Finding(
                    "store-near-heat",
                    "warning",
                    store.id,
                    f"{store.name}: {display.about(away)} from {inspection.names.of(other)}. "
                    "Its vapours catch fire.",
                    away,
                    STORE_DISTANCE,
                    also=(other,),
                    remedies=(
                        f"Keep at least {display.about(STORE_DISTANCE)} from heat and motors, in a "
                        "metal cabinet that shuts; the local fire code decides.",
                    ),
                )
        yield None


RULES: tuple[Rule, ...] = (fronts, hung, heated_floors, outlets, finish_stores)
