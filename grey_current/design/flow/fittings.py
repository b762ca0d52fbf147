"""Makes the pieces of a network: each fitting and length with its law and everything it was made from.

What was made is kept, and given out again for the same part in the same place.
"""

from __future__ import annotations

import math
from functools import lru_cache

from grey_current.air import fan as fans
from grey_current.air import fittings, laws
from grey_current.air.gas import Air
from grey_current.air.network import Piece
from grey_current.shop.model import Claim, Collector, CurvePoints, Filter, Gate, Measured, Pickup, Point

CAP_LEAK = 0.001
"""Share of the bore through which a cap leaks. Allowance."""
LEAST_LEAK = 1e-6
"""No gate is perfectly tight; keeps a branch behind a sealed gate computable."""
KEPT = 4096
"""Pieces that are kept: most parts of an edited shop are as they were, and a piece takes time to make."""
STRAIGHT_WITHIN = 3.0
"""Degrees of turn that are a straight joint, not an elbow."""


def duct(
    ident: str, of: str, *, length: float, diameter: float, roughness: float, hose: bool, rises: bool, forward: bool
) -> Piece:
    """Straight friction over `length`, of duct or hose; whether it lifts the chips and runs as drawn."""
    law = laws.Friction(length, diameter, roughness)
    return Piece(
        ident,
        of,
        "hose" if hose else "duct",
        law,
        diameter,
        length=length,
        roughness=roughness,
        rises=rises,
        forward=forward,
    )


def hose_bends(run: str, length: float, straight: float, diameter: float, roughness: float) -> Piece:
    """What a hose of `length` turns through over a `straight` distance between its ends: an allowance."""
    count = fittings.hose_turn(length, straight) / 90
    k = count * fittings.hose_bend(diameter, roughness)
    return Piece(
        f"{run}/bends",
        run,
        "hose_bend",
        laws.Constant(k, diameter),
        diameter,
        angle=90.0,
        count=count,
        radius_ratio=2.0,
        roughness=roughness,
        friction_factor=fittings.fitting_friction(diameter, roughness),
        allowance=True,
    )


@lru_cache(maxsize=KEPT)
def elbows(point: Point, angle: float, diameter: float, roughness: float) -> tuple[Piece, ...]:
    """The elbow at a point, or the two that stand for it."""
    friction = fittings.fitting_friction(diameter, roughness)
    halves = 2 if point.elbow == "two 45s" else 1
    construction = "smooth" if point.elbow == "two 45s" else point.elbow
    k = fittings.elbow(diameter, angle / halves, point.radius_ratio, friction, construction)
    mitre = construction == "mitre"
    return tuple(
        Piece(
            f"{point.id}/elbow" + (f"-{i + 1}" if halves > 1 else ""),
            point.id,
            "mitre" if mitre else "elbow",
            laws.Constant(k, diameter),
            diameter,
            angle=angle / halves,
            radius_ratio=None if mitre else point.radius_ratio,
            construction=construction,
            friction_factor=None if mitre else friction,
            allowance=construction in ("five gores", "three gores"),
        )
        for i in range(halves)
    )


@lru_cache(maxsize=KEPT)
def reducer(ident: str, of: str, before: float, after: float, roughness: float, taper: bool) -> Piece | None:
    """The change from diameter `before` to `after` along the flow, or None when there is none."""
    if abs(before - after) < 1e-4:
        return None
    small, large = min(before, after), max(before, after)
    friction = fittings.fitting_friction(small, roughness)
    angle = fittings.TAPER_ANGLE if taper else None
    grows = after > before
    k = (
        fittings.expansion(small, large, friction, angle)
        if grows
        else fittings.contraction(large, small, friction, angle)
    )
    return Piece(
        ident,
        of,
        "expansion" if grows else "contraction",
        laws.Constant(k, small),
        small,
        small=small,
        large=large,
        angle=angle,
        friction_factor=friction if taper else None,
        construction="taper" if taper else "step",
        coefficient_on="diameter_small_m",
    )


def gate(item: Gate, index: int, diameter: float) -> Piece:
    """A blast gate with both of its states."""
    leak = max(item.leak, LEAST_LEAK)
    k = fittings.gate(fittings.GATE_K[item.bore], item.opening)
    law = laws.Gate(k, fittings.leak(leak), diameter, index)
    return Piece(
        f"{item.id}/gate",
        item.id,
        "gate",
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
        return Piece(
            f"{point.id}/cap",
            point.id,
            "leak",
            laws.Constant(fittings.leak(CAP_LEAK), diameter),
            diameter,
            leak_share=CAP_LEAK,
            allowance=True,
        )
    return Piece(
        f"{point.id}/entry",
        point.id,
        "entry",
        laws.Constant(fittings.entry("plain"), diameter),
        diameter,
        construction="plain",
    )


@lru_cache(maxsize=KEPT)
def pickup(ref: str, machine: str, item: Pickup, air: Air) -> tuple[Piece, ...]:
    """A machine's own resistance before its port, and the port's opening; its own fan if it has one."""
    made: list[Piece] = []
    if isinstance(item.intake, Measured):
        k = fittings.intake_from_measurement(item.intake.airflow, item.intake.static_pressure, item.port, air.density)
        made.append(Piece(f"{ref}/intake", machine, "intake", laws.Constant(k, item.port), item.port))
    else:
        across = math.sqrt(4 * item.intake.area / math.pi)
        k = fittings.free_intake()
        made.append(
            Piece(
                f"{ref}/intake",
                machine,
                "intake",
                laws.Constant(k, across),
                across,
                free_area=item.intake.area,
                coefficient_on="free_area_m2",
            )
        )
        opening = laws.Constant(fittings.entry(item.opening), item.port)
        made.append(Piece(f"{ref}/entry", machine, "entry", opening, item.port, construction=item.opening))
    if item.own_fan:
        law = laws.Fan(fan_curve(item.own_fan, air))
        made.append(Piece(f"{ref}/fan", machine, "fan", law, item.port, coefficient_on="flow"))
    return tuple(made)


def fan_curve(spec: CurvePoints | Claim, air: Air) -> fans.FanCurve:
    """A fan's curve in this air."""
    if isinstance(spec, Claim):
        curve = fans.curve_from_claim(spec.impeller, spec.free_air, spec.hertz)
        return fans.scaled(curve, air.density, fans.REFERENCE_DENSITY)
    ratio = spec.speed * spec.impeller_ratio
    return fans.scaled(fans.curve_from_points(spec.points), air.density, spec.density, ratio)


def fan_piece(of: str, curve: fans.FanCurve, inlet: float) -> Piece:
    """A collector's fan."""
    return Piece(f"{of}/fan", of, "fan", laws.Fan(curve), inlet, coefficient_on="flow")


def filter_piece(of: str, item: Filter, inlet: float) -> Piece:
    """A collector's filter, as loaded as it is."""
    law = laws.FilterMedium(item.resistance * (1 + item.loading))
    return Piece(f"{of}/filter", of, "filter", law, inlet, coefficient_on="flow")


@lru_cache(maxsize=64)
def collector(item: Collector, air: Air) -> tuple[Piece, ...]:
    """Separator, fan and filter in the order that air passes them, and what the air comes back through."""
    made = [fan_piece(item.id, fan_curve(item.fan, air), item.inlet)]
    if item.separator:
        law = laws.QuadraticLoss(item.separator.loss / item.separator.at_airflow**2)
        piece = Piece(f"{item.id}/separator", item.id, "separator", law, item.inlet, coefficient_on="flow")
        made.insert(0 if item.separator.placed == "before the fan" else 1, piece)
    made.append(filter_piece(item.id, item.filter, item.inlet))
    if item.opening is not None and (item.stands != "in the room" or item.exhausts == "outdoors"):
        across = math.sqrt(4 * item.opening / math.pi)
        back = laws.Constant(fittings.free_intake(), across)
        made.append(
            Piece(
                f"{item.id}/opening",
                item.id,
                "return_opening",
                back,
                across,
                free_area=item.opening,
                coefficient_on="free_area_m2",
            )
        )
    return tuple(made)
