"""Edits of a collector: its curve typed as text, its claim, separator, filter, motor and bin. Pure
functions.
"""

from __future__ import annotations

import math
import re
from collections.abc import Sequence

from grey_current.air.fan import CLAIM_DERATING, curve_from_claim
from grey_current.errors import InputError
from grey_current.numerals import compact, decimal
from grey_current.shop.catalogue import collector_model, fitted
from grey_current.shop.collectors import Apart, Bin, Collector, Motor, PartName, Separator
from grey_current.shop.duct_edits import SAME_HEIGHT, is_level, level_with
from grey_current.shop.duct_graph import far_end
from grey_current.shop.edits import changed, checked
from grey_current.shop.fans import Claim, CurvePoints
from grey_current.shop.model import Project
from grey_current.shop.places import inlet_of, position
from grey_current.spelling import localised
from grey_current.units import CFM, CUBIC_METRE_PER_HOUR, INH2O, Display, parse_number

# Generic separators. Allowance.
SEPARATORS = {
    "cyclone": Separator(kind="cyclone", loss=750, at_airflow=0.47),
    "small cyclone": Separator(kind="small cyclone", loss=900, at_airflow=0.06),
    "lid with baffle": Separator(kind="lid with baffle", loss=420, at_airflow=0.35),
    "drum lid": Separator(kind="drum lid", loss=350, at_airflow=0.35),
    "bucket": Separator(kind="bucket", loss=900, at_airflow=0.047),
}
# Resistance when new (Pa per m/s through the cloth) of each kind of filter. Allowance.
FILTERS = {"bag": 830.0, "felt bag": 1000.0, "pleated cartridge": 2500.0, "none": 0.0}
# How wide, deep and high (m) what stands by itself is with what is under it, and how wide its ports
# are; None for as wide as the collector's inlet. Allowances.
SIZES: dict[str, tuple[float, float, float, float | None]] = {
    "cyclone": (0.6096, 0.6096, 1.905, None),
    "small cyclone": (0.3556, 0.3556, 0.9525, 0.058),
    "lid with baffle": (0.6096, 0.6096, 0.9525, 0.102),
    "drum lid": (0.6096, 0.6096, 0.9144, 0.102),
    "bucket": (0.3556, 0.3556, 0.6096, 0.058),
    "filter": (0.508, 0.508, 1.6002, None),
}
# What of a part by itself is its place, whatever its kind.
_PLACE = ("dx", "dy", "turn", "bottom", "length")
# m kept between a fan and what stands beside it. Allowance.
BESIDE = 0.15
# m that a riser keeps at least when what leads to an inlet follows it: two elbows and a piece of
# pipe. Allowance.
LEAST_RISER = 0.4
INLET_SIDES = {"right": (1, 0), "left": (-1, 0), "back": (0, 1), "front": (0, -1), "top": (0, 0)}
_PAIR = re.compile(r"\s*([\d.,]+)\s*(?:at|@|:|\s)\s*([\d.,]+)\s*", re.IGNORECASE)


def with_collector(project: Project, collector: str, model: str) -> Project:
    """The project with a collector exchanged for a catalogue model; the ducts at its inlet follow.

    Raises `InputError` for an unknown one.
    """
    try:
        chosen = collector_model(model)
    except KeyError:
        raise InputError(f"{collector}, model", model, "choose a model of the catalogue") from None
    name = localised(chosen.model, project.settings.units)
    return exchanged(project, fitted(project.collector[collector], chosen).replaced(name=name))


def exchanged(project: Project, new: Collector) -> Project:
    """The project with a collector as it is given, in the place of the one of its id.

    Ducts that lead level to its inlet are brought to the height of the new one, where what comes
    down or up to them has room for that; pinned joints stay. Raises nothing.
    """
    old = project.collector[new.id]
    others = tuple(new if item.id == new.id else item for item in project.collectors)
    there = project.replaced(collectors=others)
    rise = inlet_of(new)[2] - inlet_of(old)[2]
    if abs(rise) < SAME_HEIGHT:
        return there
    lead = [run for run in project.runs if new.id in run.ends and is_level(project, run)]
    joints = {end for run in lead for end in run.ends if end in project.point}
    group = set().union(*(level_with(project, joint) for joint in joints))
    if not all(_may_rise(project, joint, group, rise) for joint in group):
        return there
    return there.replaced(
        points=tuple(
            point.replaced(height=round(point.height + rise, 4)) if point.id in group else point
            for point in project.points
        )
    )


def _may_rise(project: Project, joint: str, group: set[str], rise: float) -> bool:
    """Whether what meets a joint from above or below stays there, and long enough for its fittings,
    when the joint goes up by `rise` m.
    """
    if project.point[joint].pinned:
        return False
    here = position(project, joint)[2]
    for run in project.runs:
        if joint not in run.ends:
            continue
        far = far_end(run, joint)
        if far in group or far in project.collector:
            continue
        away = position(project, far)[2] - here
        if (away - rise) * away <= 0 or abs(away - rise) < LEAST_RISER:
            return False
    return True


def curve_text(fan: CurvePoints, display: Display) -> str:
    """A fan's points as they are typed: "0 at 13.9; 400 at 12.1"."""
    across, up = _units(display)
    return "; ".join(
        f"{q / across:.0f} at {decimal(p / up, 2) if display.us else f'{p / up:.0f}'}"
        for q, p in fan.points
    )


def _units(display: Display) -> tuple[float, float]:
    return (CFM, INH2O) if display.us else (CUBIC_METRE_PER_HOUR, 1.0)


def with_curve_text(project: Project, collector: str, text: str) -> Project:
    """The project with a collector's curve typed or pasted, in the project's units. Raises
    `InputError`.
    """
    across, up = _units(Display(project.settings.units))
    points = []
    for number, part in enumerate((p for p in re.split(r"[;\n]", text) if p.strip()), 1):
        match = _PAIR.fullmatch(part)
        try:
            q, p = (parse_number(v) for v in match.groups()) if match else (-1.0, -1.0)
        except ValueError:
            q = p = -1.0
        if match is None or q < 0:
            raise InputError(
                f"curve, point {number}",
                part.strip(),
                "write airflow at pressure, such as 400 at 12.1",
            )
        points.append((q * across, p * up))
    return with_curve(project, collector, points)


def with_curve(project: Project, collector: str, points: Sequence[tuple[float, float]]) -> Project:
    """The project with a collector's curve as (m³/s, Pa) points in standard air. Raises
    `InputError`.
    """
    fan = {"by": "points", "points": sorted(points)}
    return changed(project, collector, fan=fan, curve_note="Your own curve points")


def with_fan(project: Project, collector: str, **changes: object) -> Project:
    """The project with fields of a collector's fan changed. Raises `InputError` for a value that
    cannot be.
    """
    item = project.collector[collector]
    return changed(project, collector, fan=checked(item.fan, f"{item.name}, fan", changes))


def with_claim(project: Project, collector: str, claimed: bool) -> Project:
    """The project with a collector's fan known by its maker's claim, or by points, each made from
    the other.
    """
    item = project.collector[collector]
    # Each form is made from the other, so that nothing is lost in going to and fro.
    if claimed and isinstance(item.fan, CurvePoints):
        free = max(q for q, _ in item.fan.points) / (1 - CLAIM_DERATING)
        power = item.motor.power if item.motor else 1500.0
        claim = Claim(impeller=item.impeller or 0.3, free_air=free, motor_power=power)
        return changed(project, collector, fan=claim, curve_note="Estimated from the maker's claim")
    if not claimed and isinstance(item.fan, Claim):
        estimated = curve_from_claim(item.fan.impeller, item.fan.free_air, item.fan.hertz).points
        note = "Points of the curve that was estimated from its claim"
        return changed(project, collector, fan=CurvePoints(points=estimated), curve_note=note)
    return project


def with_separator(project: Project, collector: str, kind: str) -> Project:
    """The project with a generic separator of a kind, or with none; it stands on the side of the
    fan, and at the place by itself, where the one before it did.
    """
    if kind != "none" and kind not in SEPARATORS:
        raise InputError("separator", kind, f"use one of none, {', '.join(SEPARATORS)}")
    new = SEPARATORS.get(kind)
    if new is None:
        return changed(project, collector, separator=None)
    return with_separator_in_place(project, collector, new)


def with_separator_in_place(project: Project, collector: str, new: Separator) -> Project:
    """The project with another separator where the one before it stood: on its side of the fan,
    and by itself where that did, in the size usual for its kind.
    """
    item = project.collector[collector]
    was = item.separator
    if was is None:
        return changed(project, collector, separator=new)
    new = new.replaced(placed=was.placed, apart=None)
    if was.apart is not None:
        place = {name: getattr(was.apart, name) for name in _PLACE}
        body = was.apart
        if new.kind != was.kind:
            body = usual_body(item.replaced(separator=new), "separator").replaced(**place)
        new = new.replaced(apart=body)
    return changed(project, collector, separator=new)


def usual_body(item: Collector, part: PartName) -> Apart:
    """A part of a collector as it usually stands by itself, to the right of the fan."""
    kind = item.separator.kind if part == "separator" and item.separator else part
    width, depth, height, port = SIZES[kind]
    return Apart(
        dx=round(item.width / 2 + BESIDE + width / 2, 4),
        dy=0.0,
        width=width,
        depth=depth,
        height=height,
        port=item.inlet if port is None else min(port, item.inlet),
        inlet_height=height,
        service=("front",) if part == "separator" else (),
    )


def with_filter(project: Project, collector: str, **changes: object) -> Project:
    """The project with another kind, area or loading of filter; its resistance follows kind and
    area.

    Raises `InputError` for an area that is none.
    """
    item = project.collector[collector].filter
    kind, area = str(changes.get("kind", item.kind)), changes.get("area", item.area)
    if not isinstance(area, float) or area <= 0:
        example = Display(project.settings.units).surface(6.0)
        raise InputError("filter, area", area, f"write an area such as {example}")
    if "kind" in changes or "area" in changes:
        before = FILTERS[item.kind]
        # One's own figure keeps its ratio.
        per_area = item.resistance * item.area / before if before else 1.0
        changes["resistance"] = FILTERS.get(kind, 0.0) * per_area / area
    raw = {**item.model_dump(), **changes}
    return changed(project, collector, filter=raw)


def with_motor(project: Project, collector: str, power: float) -> Project:
    """The project with a collector's motor of another shaft power (W). Raises `InputError`."""
    if not 10 < power <= 50_000:
        raise InputError("motor", power, "write its power, such as 3 hp or 2200 W")
    item = project.collector[collector]
    motor = item.motor.replaced(power=power) if item.motor else Motor(power=power)
    return changed(project, collector, motor=motor)


def with_stand(project: Project, collector: str, stand: float) -> Project:
    """The project with so much (m) of a collector's height being a stand. Raises `InputError` for
    more than that.
    """
    item = project.collector[collector]
    if not 0 <= stand < item.height:
        high = Display(project.settings.units).length(item.height)
        raise InputError(
            "stand", f"{compact(stand)} m", f"it is part of the {high} that the collector is high"
        )
    return changed(project, collector, stand=stand)


def standing(project: Project, collector: str, where: str) -> Project:
    """The project with a collector in the room, boxed in, in the next room or outdoors, where its
    air goes too.

    One that comes in again blows into the shop again. Raises `InputError` for another word.
    """
    was = project.collector[collector].stands
    # What stands outdoors blows outdoors; what comes in blows into the shop again.
    if "outdoors" not in (where, was):
        return changed(project, collector, stands=where)
    return changed(
        project,
        collector,
        stands=where,
        exhausts="outdoors" if where == "outdoors" else "into the shop",
    )


def inlet_side(item: Collector | Apart) -> str:
    """The side of a collector, or of what stands by itself of it, that its inlet is on: right,
    left, back, front, or top when it is inside its plan.
    """
    sides = {
        name: (item.width / 2 * dx, item.depth / 2 * dy) for name, (dx, dy) in INLET_SIDES.items()
    }
    near = min(sides, key=lambda name: math.dist(sides[name], (item.inlet_dx, item.inlet_dy)))
    return near if math.dist(sides[near], (item.inlet_dx, item.inlet_dy)) < 0.1 else "top"


def with_inlet_side(project: Project, collector: str, side: str) -> Project:
    """The project with a collector's inlet on another side. Raises `InputError` for an unknown
    side.
    """
    if side not in INLET_SIDES:
        raise InputError("inlet", side, f"use one of {', '.join(INLET_SIDES)}")
    item, (dx, dy) = project.collector[collector], INLET_SIDES[side]
    place = {"inlet_dx": round(item.width / 2 * dx, 4), "inlet_dy": round(item.depth / 2 * dy, 4)}
    return changed(project, collector, **place)


def with_bin(project: Project, collector: str, new: Bin | None, *, lower: bool = False) -> Project:
    """The project with another bin; `lower` lets the collector come down by what the bin is
    lower.
    """
    item = project.collector[collector]
    if new is None or item.bin is None or not lower:
        return changed(project, collector, bin=new)
    # With its stand as it is everything comes down by as much as the bin is lower.
    less = item.bin.height - new.height
    return changed(
        project,
        collector,
        bin=new,
        height=item.height - less,
        inlet_height=item.inlet_height - less,
    )


def with_bin_volume(project: Project, collector: str, volume: float) -> Project:
    """The project with a bin of another volume (m³). Raises `InputError` for a volume that cannot
    be.
    """
    item = project.collector[collector]
    if item.bin is None:
        return project
    return changed(
        project, collector, bin=checked(item.bin, f"{item.name}, bin", {"volume": volume})
    )
