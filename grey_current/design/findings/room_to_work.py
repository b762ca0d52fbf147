"""Room to work: lanes, service sides, what stands in what, heat, doors, walkways."""

from __future__ import annotations

from dataclasses import replace

from grey_current.design.findings.finding import Finding, Found, Inspection, Rule
from grey_current.design.space.ground import ELSEWHERE, FloorSpace
from grey_current.design.space.lanes import Lane
from grey_current.design.space.outlines import parked, swing_outline, track_outline
from grey_current.design.space.reached import service_blocked
from grey_current.design.space.solids import in_itself
from grey_current.design.supply.circuits import lead_needed, outlet_of
from grey_current.shop.arrangements import as_arranged
from grey_current.shop.collectors import Collector
from grey_current.shop.machines import Machine
from grey_current.shop.places import bodies, body_name, own_bodies
from grey_current.shop.room import HOT
from grey_current.shop.stacking import top_of
from grey_current.units import Display

# m by which a machine may touch what is over it.
TOUCHES = 0.01
# m; a lane shorter than this on either side is blocked. Allowance.
LEAST_LANE = 0.75
# m (3 ft) kept between dust and a heater, stove or flue where no code asks for more. Allowance.
HEAT_DISTANCE = 0.9144
# Where one walks or climbs, and what is asked of it.
WAYS = {
    "walkway": "Keep the way out free.",
    "kept free": "Move it, or make the area smaller.",
    "hatch": "Keep it free to open.",
    "stair": "Keep the stair free.",
}
# m: the top of what is as high as the room, or has no height of its own.
ABOVE_ALL = 99.0
# m kept between a machine and a return-air grille. Allowance.
GRILLE_DISTANCE = 1.5


def _places(inspection: Inspection, item: Machine | Collector) -> Found:
    project, display, space = inspection.project, inspection.display, inspection.space
    if space.outside(item):
        yield Finding(
            "in-the-wall",
            "fault",
            item.id,
            f"{item.name}: stands in or beyond a wall.",
            remedies=("Move it into the room.",),
        )
    order = list(project.element)
    for other in space.overlaps(item):
        # Two that stand in one another are one finding, said of the first.
        said_already = isinstance(item, Collector) and order.index(other) < order.index(item.id)
        if not (said_already and isinstance(project.element[other], Machine | Collector)):
            yield Finding(
                "overlap",
                "fault",
                item.id,
                f"{item.name}: stands in {inspection.names.of(other)}.",
                also=(other,),
                remedies=(
                    "Move one of them, or put one on wheels. If it stands on, under or in the "
                    "other, choose that at It stands.",
                ),
            )
    for part in in_itself(item):
        yield Finding(
            "overlap",
            "fault",
            item.id,
            f"{body_name(item, part)}: stands in the rest of it.",
            remedies=(f"Drag the {part.name.lower()} aside.",),
        )
    for body in own_bodies(item):
        if space.in_the_air(body):
            yield Finding(
                "in-the-air",
                "warning",
                item.id,
                f"{body_name(item, body)}: {display.length(body.bottom)} off the floor with "
                "nothing under it.",
                body.bottom,
                remedies=("Move it onto what it stands on, or set it on the floor.",),
            )
    yield from _near_heat(inspection, item)


def _near_heat(inspection: Inspection, item: Machine | Collector) -> Found:
    """What burns, or carries dust into the house, too near a machine or collector."""
    project, display, space = inspection.project, inspection.display, inspection.space
    for feature in project.features:
        if feature.kind in HOT or feature.kind == "return-air grille":
            away = space.distance(item, feature)
        else:
            away = 99.0
        if feature.kind in HOT and away < HEAT_DISTANCE:
            yield Finding(
                "near-heat",
                "warning",
                item.id,
                f"{item.name}: {display.about(away)} from {inspection.names.of(feature.id)}. "
                "Dust burns.",
                away,
                HEAT_DISTANCE,
                also=(feature.id,),
                remedies=(
                    f"Keep at least {display.about(HEAT_DISTANCE)}, or what the local fire "
                    "code asks for.",
                ),
            )
        elif feature.kind == "return-air grille" and away < GRILLE_DISTANCE:
            yield Finding(
                "near-grille",
                "warning",
                item.id,
                f"{item.name}: {display.about(away)} from {inspection.names.of(feature.id)}, "
                "which carries dust "
                "into the house.",
                away,
                GRILLE_DISTANCE,
                also=(feature.id,),
                remedies=("Move it away, or close the grille while working.",),
            )


def _lane(inspection: Inspection, machine: Machine) -> Found:
    project, display, space = inspection.project, inspection.display, inspection.space
    lane = space.lane(machine)
    if lane is None:
        return
    for side, free, stop in (
        ("Infeed", lane.before, lane.stopped_before),
        ("Outfeed", lane.after, lane.stopped_after),
    ):
        # Half the body, and room for a hand to take hold.
        needed = max(LEAST_LANE, (machine.width if lane.across else machine.depth) / 2 + 0.3)
        if free < needed and not lane.across:
            yield Finding(
                "lane-blocked",
                "fault",
                machine.id,
                f"{machine.name}: {side.lower()} ends after {display.about(free)} at "
                f"{inspection.names.of(stop or 'wall')}.",
                free,
                needed,
                also=(stop,) if stop else (),
                remedies=("Turn or move the machine, or what stands in its lane.",),
            )
    wish = project.settings.longest_board
    if wish is not None and lane.longest < wish and not lane.across:
        yield Finding(
            "lane-short",
            "warning",
            machine.id,
            f"{machine.name}: takes boards up to {display.about(lane.longest, down=True)}, not "
            f"{display.about(wish)}; "
            f"{inspection.names.of(lane.stopper or 'wall')} ends its lane.",
            lane.longest,
            wish,
            also=(lane.stopper,) if lane.stopper else (),
            remedies=_lane_remedies(space, machine, lane, wish),
        )
    for other in space.must_move(machine):
        yield Finding(
            "must-move",
            "note",
            machine.id,
            f"{machine.name}: roll {inspection.names.of(other)} away before it runs.",
            also=(other,),
            remedies=(
                "Give that one a parked place out of this lane."
                if other in inspection.project.machine
                else "Let it stand aside in an arrangement.",
            ),
        )


def _lane_remedies(space: FloorSpace, machine: Machine, lane: Lane, wish: float) -> tuple[str, ...]:
    # The cheapest cure first: rolling away, moving along, then turning.
    away = space.lane(machine, moved_away=True)
    if away is not None and away.longest >= wish:
        return ("With what is on wheels rolled away it does.",)
    middle = (lane.before + lane.after) / 2
    if middle >= wish:
        display = Display(space.project.settings.units)
        shift = display.length(display.tape(abs(lane.before - lane.after) / 2))
        return (f"Moved {shift} along its lane it would.",)
    return ("Turn it along the room, or point it at a door.",)


def _service(inspection: Inspection, machine: Machine | Collector) -> Found:
    for side, blocker in service_blocked(inspection.space, machine):
        what = inspection.names.of(blocker)
        yield Finding(
            "service-blocked",
            "warning",
            machine.id,
            f"{machine.name}: its {side} must stay free for service, but {what} is in the way.",
            also=(blocker,),
            remedies=("Move one of them, or what must be reached cannot be.",),
        )


def _ceiling(inspection: Inspection, machine: Machine) -> Found:
    """A machine that is taller than the ceiling over one of its corners, or than a beam over it."""
    display, high = inspection.display, top_of(machine)
    lowest = inspection.space.height_over(machine)
    if high > lowest + TOUCHES:
        yield Finding(
            "under-ceiling",
            "fault",
            machine.id,
            f"{machine.name}: {display.length(high)} up at its top, but what is over it is "
            f"{display.length(lowest)} up.",
            high,
            lowest,
            remedies=("Move it to where the ceiling is higher.",),
        )


def _parked(inspection: Inspection, machine: Machine) -> Found:
    """Parked places in a wall, in what stands there, or in one another."""
    for number, place in enumerate(parked(machine), 1):
        what = inspection.space.parked_in(place)
        if what is not None:
            where = "a wall" if what == "wall" else inspection.names.of(what)
            nth = f"parked place {number}" if len(machine.parked) > 1 else "parked place"
            yield Finding(
                "parked-in",
                "warning",
                machine.id,
                f"{machine.name}: its {nth} lies in {where}.",
                also=() if what == "wall" else (what,),
                remedies=("Drag the parked place to where there is room.",),
            )


def doors(inspection: Inspection) -> Found:
    """Doors that cannot open, and things under a roll-up door's tracks."""
    project, space = inspection.project, inspection.space
    for opening in project.openings:
        swept = swing_outline(opening)
        for ident in space.within(swept, opening.sill, opening.head) if swept else ():
            yield Finding(
                "door-blocked",
                "warning",
                opening.id,
                f"{opening.name}: cannot open, {inspection.names.of(ident)} stands in its way.",
                also=(ident,),
                remedies=("Move it, or hang the door the other way.",),
            )
        centre = space.floor.centroid
        tracks = track_outline(opening, (centre.x, centre.y))
        for ident in space.within(tracks, opening.head, ABOVE_ALL) if tracks else ():
            yield Finding(
                "door-tracks",
                "warning",
                opening.id,
                f"{opening.name}: rolls up over {inspection.names.of(ident)}, which is "
                "higher than the door.",
                also=(ident,),
                remedies=("Move it from under the tracks.",),
            )
        yield None


def walkways(inspection: Inspection) -> Found:
    """Things in a walkway, on a hatch or on a stair."""
    project, space = inspection.project, inspection.space
    for feature in project.features:
        if feature.kind in WAYS:
            for ident in space.within(feature.outline):
                if ident == feature.id:
                    continue
                where = "on it" if feature.kind == "hatch" else "in it"
                yield Finding(
                    "walkway",
                    "warning",
                    feature.id,
                    f"{feature.name}: {inspection.names.of(ident)} stands {where}.",
                    also=(ident,),
                    remedies=(WAYS[feature.kind],),
                )


def machines(inspection: Inspection) -> Found:
    """Each machine where it stands: its place, height, parked places, lane and service sides."""
    for machine in inspection.project.machines:
        for each in (_places, _ceiling, _parked, _lane, _service):
            yield from each(inspection, machine)
            yield None


def collectors(inspection: Inspection) -> Found:
    """Each collector where it stands."""
    for collector in inspection.project.collectors:
        yield from _places(inspection, collector)
        yield from _service(inspection, collector)
        yield None


def places(inspection: Inspection) -> Found:
    """What is in the way as the shop stands, then what is so only in its other arrangements."""
    # What is so in every arrangement is said once, of the shop as it stands.
    here = set()
    for found in as_it_stands(inspection):
        if found is not None:
            here.add((found.code, found.element, found.also))
        yield found
    project = inspection.project
    for arrangement, other in as_arranged(project):
        if arrangement.id == project.arranged:
            continue
        for found in as_it_stands(inspection.in_arrangement(other)):
            if found is None:
                yield None
            elif (found.code, found.element, found.also) not in here:
                yield replace(
                    found,
                    code="in-arrangement",
                    message=f"In “{arrangement.name}”: {found.message}",
                    remedies=(f"Lay out “{arrangement.name}” and mend it there.",),
                )


def leads(inspection: Inspection) -> Found:
    """Power leads that do not reach the nearest outlet for them."""
    project, display = inspection.project, inspection.display
    for item in bodies(project):
        elsewhere = isinstance(item, Collector) and item.stands in ELSEWHERE
        # Asked after every edit: most leads are not known.
        if item.lead is None or elsewhere:
            continue
        outlet = outlet_of(project, item)
        if outlet is None:
            continue
        needed = lead_needed(item, outlet)
        if item.lead < needed - TOUCHES:
            yield Finding(
                "lead-short",
                "warning",
                item.id,
                f"{item.name}: its lead is {display.length(item.lead)} long, but to "
                f"{inspection.names.of(outlet.id)} it takes {display.length(needed)}.",
                item.lead,
                needed,
                also=(outlet.id,),
                remedies=(
                    "Move it nearer, or have a longer lead of the same gauge or a nearer outlet "
                    "fitted. A licensed electrician; the local code decides.",
                ),
            )
        yield None


def as_it_stands(inspection: Inspection) -> Found:
    """What is in the way in the one arrangement that is looked at."""
    for rule in (machines, collectors, doors, walkways, leads):
        yield from rule(inspection)
        yield None


RULES: tuple[Rule, ...] = (places,)
