"""Makes the pieces of a network: each fitting and length with its law and everything it was made
from.

What was made is kept, and given out again for the same part in the same place.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace
from functools import lru_cache
from typing import NamedTuple

from grey_current.air import fan as fans
from grey_current.air import fittings, laws, pieces
from grey_current.air.gas import Air
from grey_current.air.pieces import Piece, Straight
from grey_current.shop.catalogue import FITS_OVER, materials
from grey_current.shop.collectors import Apart, Collector, Filter, PartName, Separator
from grey_current.shop.ducts import Gate, Point, Run
from grey_current.shop.fans import Claim, CurvePoints
from grey_current.shop.machines import Measured, Pickup
from grey_current.shop.places import LEAD_HOSE, hung_at, lead_ends, lead_length

# What the ids of that hose's pieces have.
OF_LEAD = "/fan-hose"
# Share of the bore through which a cap leaks. Allowance.
CAP_LEAK = 0.001
# No gate is perfectly tight; keeps a branch behind a sealed gate computable.
LEAST_LEAK = 1e-6
# Pieces that are kept: most parts of an edited shop are as they were, and a piece takes time to
# make.
KEPT = 4096
# Quarter turns besides of a hose that goes up to what it hangs from and down again. Allowance.
HOOK_TURNS = 2.0
# K (-) of a machine's own fan that stands, on its port's velocity pressure. Allowance.
STANDING_WHEEL = 3.0
FITTINGS = (pieces.Elbow, pieces.Mitre, pieces.WyeLeg, pieces.SizeChange, pieces.Splitter)
RAISED = (pieces.Elbow, pieces.Mitre, pieces.SizeChange)
# m² by which air comes back where no opening is given: a building's or a box's own gaps, 100 to 300
# cm². Allowance.
LEAKS = 0.02
# Degrees of turn that are a straight joint, not an elbow.
STRAIGHT_WITHIN = 3.0


def straight(
    ident: str,
    source: str,
    length: float,
    diameter: float,
    roughness: float,
    *,
    hose: bool,
    rises: bool,
    forward: bool,
) -> Straight:
    """Straight friction over `length` (m), of duct or hose; whether it lifts the chips and runs as
    drawn.
    """
    law = laws.Friction(length, diameter, roughness)
    kind = pieces.Hose if hose else pieces.Duct
    return kind(
        ident,
        source,
        law,
        diameter,
        length=length,
        roughness=roughness,
        rises=rises,
        forward=forward,
    )


def hose_bends(
    run: str, length: float, straight: float, diameter: float, roughness: float, more: float = 0.0
) -> Piece:
    """What a hose of `length` turns through over a `straight` distance between its ends (m), and
    `more` quarter turns: an allowance.
    """
    # The slack lies in an arc; counted in quarter turns.
    count = fittings.hose_turn(length, straight) / 90 + more
    law = laws.Constant(count * fittings.hose_bend(diameter, roughness), diameter)
    friction = fittings.fitting_friction(diameter, roughness)
    return pieces.HoseBend(
        f"{run}/bends",
        run,
        law,
        diameter,
        count=count,
        radius_ratio=2.0,
        roughness=roughness,
        friction_factor=friction,
        allowance=True,
    )


@lru_cache(maxsize=KEPT)
def elbows(
    point: Point, angle: float, diameter: float, roughness: float, guessed: bool = False
) -> tuple[Piece, ...]:
    """The elbow at a point, or the two that stand for it; `guessed` where no correlation covers its
    place.
    """
    friction = fittings.fitting_friction(diameter, roughness)
    halves = 2 if point.elbow == "two 45s" else 1
    construction = "smooth" if point.elbow == "two 45s" else point.elbow
    law = laws.Constant(
        fittings.elbow(diameter, angle / halves, point.radius_ratio, friction, construction),
        diameter,
    )
    names = [f"{point.id}/elbow" + (f"-{i + 1}" if halves > 1 else "") for i in range(halves)]
    if construction == "mitre":
        return tuple(
            pieces.Mitre(n, point.id, law, diameter, angle=angle, allowance=guessed) for n in names
        )
    # Gored elbows are an allowance on the smooth one.
    gored = construction in ("five gores", "three gores")
    return tuple(
        pieces.Elbow(
            name,
            point.id,
            law,
            diameter,
            angle=angle / halves,
            radius_ratio=point.radius_ratio,
            construction=construction,
            friction_factor=friction,
            allowance=gored or guessed,
        )
        for name in names
    )


@lru_cache(maxsize=KEPT)
def reducer(
    ident: str, source: str, before: float, after: float, roughness: float, taper: bool
) -> Piece | None:
    """The change from diameter `before` to `after` (m) along the flow; None where one slips over
    the other.
    """
    if abs(before - after) < FITS_OVER:
        return None
    small, large = min(before, after), max(before, after)
    friction = fittings.fitting_friction(small, roughness)
    angle = fittings.TAPER_ANGLE if taper else None
    kind: type[pieces.SizeChange]
    # Along the flow: air that slows down loses more than air that speeds up.
    if after > before:
        kind, k = pieces.Expansion, fittings.expansion(small, large, friction, angle)
    else:
        kind, k = pieces.Contraction, fittings.contraction(large, small, friction, angle)
    return kind(
        ident,
        source,
        laws.Constant(k, small),
        small,
        small=small,
        large=large,
        angle=angle,
        friction_factor=friction if taper else None,
    )


class WyeShape(NamedTuple):
    """A wye, or a splitter, at a point.

    Attributes:
        suffix: What tells it from others at the same point, in its pieces' ids.
        combined: Bore of the leg that both others lead to, m.
        angle: Degrees between its branch and its main.
        side: Bore of the run that is its branch, m.
        crowded: Whether it is not the first one at its place, which no correlation covers.
    """

    point: Point
    suffix: str
    combined: float
    angle: float
    side: float
    crowded: bool


@lru_cache(maxsize=KEPT)
def wye_leg(
    wye: WyeShape, diameter: float, roughness: float, *, is_main: bool
) -> tuple[Piece, ...]:
    """One leg of a wye in flow order: a reducer where its bore does not fit, then the wye.

    `diameter` and `roughness` (m) are those of the run that comes into the leg. Raises nothing.
    """
    at, name = wye.point.id, "main" if is_main else "branch"
    if wye.point.splitter:
        small = min(diameter, wye.combined)
        k = fittings.splitter(wye.combined, small)
        return (
            pieces.Splitter(
                f"{at}/splitter{wye.suffix}-{name}",
                at,
                laws.Constant(k, small),
                small,
                small=small,
                large=wye.combined,
                allowance=True,
            ),
        )
    own = wye.combined if is_main else min(diameter, wye.combined)
    taper = wye.point.reducer == "taper"
    step = reducer(f"{at}/reducer{wye.suffix}-{name}", at, diameter, own, roughness, taper)
    side_bore = min(wye.side, wye.combined)
    kind = pieces.WyeMain if is_main else pieces.WyeBranch
    leg = kind(
        f"{at}/wye{wye.suffix}-{name}",
        at,
        laws.Wye(is_main, wye.angle, side_bore, wye.combined, own),
        own,
        angle=min(max(wye.angle, 30.0), 90.0),
        combined=wye.combined,
        other=side_bore if is_main else wye.combined,
        outside_data=wye.crowded or not 29.5 <= wye.angle <= 90.5,
    )
    return (step, leg) if step else (leg,)


@lru_cache(maxsize=KEPT)
def run_pieces(
    run: Run, distance: float, forward: bool, rises: bool, gates: tuple[tuple[int, Gate], ...]
) -> tuple[Piece, ...]:
    """A run's own pieces in flow order: lengths between gates, bends of a hose, gates.

    `distance` is the straight one (m) between its ends as it lies now, `forward` whether air passes
    it as drawn, `gates` its gates with their indices in the project. Kept, because most runs of an
    edited shop are as they were. Raises `KeyError` for an unknown material.
    """
    material = materials()[run.material]
    length = max(run.length or distance, distance) if material.hose else distance
    # Gates in the order in which air meets them; between them lie straight lengths.
    stops = sorted((item.at if forward else 1 - item.at, index, item) for index, item in gates)
    base = f"{run.id}/{'hose' if material.hose else 'duct'}"
    made: list[Piece] = []
    last = 0.0
    for number, (at, index, stop) in enumerate([*stops, (1.0, -1, None)], 1):
        if at > last:
            ident = f"{base}-{number}" if stops else base
            part = (at - last) * length, run.diameter, material.roughness
            made.append(
                straight(ident, run.id, *part, hose=material.hose, rises=rises, forward=forward)
            )
        if stop is not None:
            made.append(gate(stop, index, run.diameter))
        last = at
    if material.hose:
        more = 0.0 if hung_at(run) is None else HOOK_TURNS
        make_of = run.diameter, material.roughness
        made.append(hose_bends(run.id, length, distance, *make_of, more))
    return tuple(made)


def with_spacing(branch: Sequence[Piece], clear: float) -> tuple[tuple[Piece, ...], float]:
    """A branch's pieces with an allowance behind each fitting that stands too close after another
    one.

    `clear` is the straight length (m) since the last fitting before the branch; answered with it is
    that at its end.
    """
    made: list[Piece] = []
    for piece in branch:
        made.append(piece)
        if isinstance(piece, Straight):
            clear += piece.length
        # What a collector is joined together with has its own straight lengths.
        if not isinstance(piece, FITTINGS) or OF_LEAD in piece.id:
            continue
        # Two 45s at one point are one turn: the second does not stand too near after the first.
        second_of_two = piece.id.endswith("elbow-2")
        if isinstance(piece, RAISED) and not second_of_two:
            made.extend(_spacing(piece, clear))
        clear = 0.0
    return tuple(made), clear


def _spacing(piece: Piece, gap: float) -> tuple[Piece, ...]:
    share, law = fittings.spacing_share(gap, piece.diameter), piece.law
    if not isinstance(law, laws.Constant) or share == 0:
        return ()
    more, ident = laws.Constant(share * law.k, law.diameter), f"{piece.id}/spacing"
    return (pieces.Spacing(ident, piece.source_id, more, law.diameter, gap=gap, allowance=True),)


def gate(item: Gate, index: int, diameter: float) -> Piece:
    """A blast gate with both of its states."""
    leak = max(item.leak, LEAST_LEAK)
    k = fittings.gate(fittings.GATE_K[item.bore], item.opening)
    law = laws.Gate(k, fittings.leak(leak), diameter, index)
    return pieces.BlastGate(
        f"{item.id}/gate",
        item.id,
        law,
        diameter,
        construction=item.bore,
        leak_share=leak,
        opening=item.opening,
        allowance=True,
    )


@lru_cache(maxsize=KEPT)
def open_end(point: Point, diameter: float) -> Piece:
    """What a run that ends in the air has on its end: nothing, or a cap that leaks a little."""
    if point.end == "cap":
        law = laws.Constant(fittings.leak(CAP_LEAK), diameter)
        return pieces.Cap(
            f"{point.id}/cap", point.id, law, diameter, leak_share=CAP_LEAK, allowance=True
        )
    law = laws.Constant(fittings.entry("plain"), diameter)
    return pieces.Entry(f"{point.id}/entry", point.id, law, diameter, construction="plain")


@lru_cache(maxsize=KEPT)
def pickup(ref: str, machine: str, item: Pickup, air: Air, switch: int = 0) -> tuple[Piece, ...]:
    """A machine's own resistance before its port, and the port's opening; its own fan if it has
    one.

    `switch` is that fan's place among the scenario's switches.
    """
    made: list[Piece] = []
    # A measurement holds the intake and the port's opening together.
    if isinstance(item.intake, Measured):
        seen = item.intake
        density = seen.density or air.density
        k = fittings.intake_from_measurement(seen.airflow, seen.static_pressure, item.port, density)
        law = laws.Constant(k, item.port)
        made.append(pieces.Intake(f"{ref}/intake", machine, law, item.port, free_area=None))
    else:
        area = item.intake.area
        law = laws.Constant(fittings.free_intake(), across(area))
        made.append(pieces.Intake(f"{ref}/intake", machine, law, across(area), free_area=area))
        law = laws.Constant(fittings.entry(item.opening), item.port)
        made.append(
            pieces.Entry(f"{ref}/entry", machine, law, item.port, construction=item.opening)
        )
    if item.own_fan:
        own = laws.MachineFan(fan_curve(item.own_fan, air), STANDING_WHEEL, item.port, switch)
        made.append(pieces.Fan(f"{ref}/fan", machine, own, item.port))
    return tuple(made)


def across(area: float) -> float:
    """Diameter (m) of a round opening of an area (m²)."""
    return math.sqrt(4 * area / math.pi)


@lru_cache(maxsize=64)
def fan_curve(spec: CurvePoints | Claim, air: Air) -> fans.FanCurve:
    """A fan's curve in this air."""
    if isinstance(spec, Claim):
        curve = fans.curve_from_claim(spec.impeller, spec.free_air, spec.hertz)
        return fans.scaled(curve, air.density, fans.REFERENCE_DENSITY)
    ratio = spec.speed * spec.impeller_ratio
    return fans.scaled(fans.curve_from_points(spec.points), air.density, spec.density, ratio)


def fan_piece(source: str, curve: fans.FanCurve, inlet: float) -> Piece:
    """A collector's fan."""
    return pieces.Fan(f"{source}/fan", source, laws.Fan(curve), inlet)


def filter_piece(source: str, item: Filter, inlet: float) -> Piece:
    """A collector's filter, as loaded as it is."""
    law = laws.FilterMedium(0.0 if item.kind == "none" else item.resistance * (1 + item.loading))
    return pieces.Filter(f"{source}/filter", source, law, inlet)


@lru_cache(maxsize=64)
def collector(item: Collector, air: Air) -> tuple[Piece, ...]:
    """Separator, fan and filter in the order that air passes them, and what the air comes back
    through.
    """
    made = [fan_piece(item.id, fan_curve(item.fan, air), item.inlet)]
    if item.separator:
        made = _with_separator(item, item.separator, made)
    if item.filter.apart:
        made += _lead(item, "filter", item.filter.apart, from_fan=True)
    made.append(filter_piece(item.id, item.filter, item.inlet))
    if item.takes_air_away:
        made.append(_way_back(item))
    return tuple(made)


def _with_separator(item: Collector, separator: Separator, fan: list[Piece]) -> list[Piece]:
    """A fan with its separator before or after it, and the hose between them where that stands by
    itself.
    """
    part = separator.apart
    law = laws.QuadraticLoss(separator.loss / separator.at_airflow**2)
    bore = item.inlet if part is None else part.port
    piece = pieces.Separator(f"{item.id}/separator", item.id, law, bore)
    if separator.placed == "before the fan":
        lead = _lead(item, "separator", part, from_fan=False) if part else []
        return [piece, *lead, *fan]
    lead = _lead(item, "separator", part, from_fan=True) if part else []
    return [*fan, *lead, piece]


def _lead(item: Collector, name: PartName, part: Apart, *, from_fan: bool) -> list[Piece]:
    """The hose between the fan and a part that stands by itself, along the air."""
    bore, source = part.hose or part.port, f"{item.id}/{name}{OF_LEAD}"
    rough = materials()[LEAD_HOSE].roughness
    ends = (item.inlet, part.port) if from_fan else (part.port, item.inlet)
    steps = (ends[0], bore), (bore, ends[1])
    first, last = (
        reducer(f"{source}/adapter-{number}", item.id, *step, rough, True)
        for number, step in enumerate(steps, 1)
    )
    length, (a, b) = lead_length(item, name), lead_ends(item, name)
    law = laws.Friction(length, bore, rough)
    hose = pieces.CollectorHose(source, item.id, law, bore, to=name, length=length, roughness=rough)
    bends = replace(hose_bends(source, length, math.dist(a, b), bore, rough), source_id=item.id)
    return [piece for piece in (first, hose, bends, last) if piece is not None]


def is_own(piece: Piece, collector: str) -> bool:
    """Whether a piece belongs to a collector itself, and not to what leads to it."""
    if piece.source_id != collector:
        return False
    own = (pieces.Fan, pieces.Separator, pieces.CollectorHose, pieces.Filter, pieces.ReturnOpening)
    return isinstance(piece, own) or OF_LEAD in piece.id


def _way_back(item: Collector) -> Piece:
    """The opening that a collector's air comes back through; the building's own gaps where none is
    given.
    """
    area = LEAKS if item.opening is None else item.opening
    law = laws.Constant(fittings.free_intake(), across(area))
    guessed = item.opening is None
    return pieces.ReturnOpening(
        f"{item.id}/opening", item.id, law, across(area), free_area=area, allowance=guessed
    )
