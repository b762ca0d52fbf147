"""Collectors where they stand: height, wiring, noise, openings, flues, bins, filters, implausible
curves.
"""

from __future__ import annotations

import math
from functools import partial

from grey_current.design.collector.candidates import OVERLOAD, fan_power
from grey_current.design.collector.fit import WARN_AT, days_to_empty, fit, full_bin
from grey_current.design.collector.make_up_air import (
    DEPRESSION,
    area_back,
    make_up_air,
    most_depression,
)
from grey_current.design.collector.noise import PROTECT_FROM, at_machine
from grey_current.design.collector.plausible import VACUUM_INLET, implausible
from grey_current.design.collector.small_ports import small_ports
from grey_current.design.findings.finding import Finding, Found, Inspection, Rule
from grey_current.design.flow.assessment import ScenarioAir
from grey_current.design.flow.run_on import run_on
from grey_current.design.space.ground import TALLER
from grey_current.numerals import decimal
from grey_current.shop.collectors import Collector
from grey_current.shop.edits import Change, changed
from grey_current.shop.model import Project
from grey_current.shop.places import body_name, parts_apart
from grey_current.shop.stacking import top_of

# Days between emptyings below which nobody keeps it up. Allowance.
FEW_DAYS = 3.0
# What a collector does to the room's air, by whether it blows outdoors and where it stands.
TAKES_AWAY = {
    **{
        (True, place): "blows outdoors"
        for place in ("in the room", "boxed in", "next room", "outdoors")
    },
    (False, "boxed in"): "draws the shop's air into its box",
    (False, "next room"): "draws the shop's air into the next room",
    (False, "outdoors"): "draws the shop's air outdoors",
}
# Share of the opening that is wanted below which it is worth a line.
NARROW = 0.8
# m/s through bag, felt or pleated cartridge in a home shop (10 fpm). Allowance.
FILTER_VELOCITY = 0.05
# s beyond which no run-on is spoken of: chips that creep like that are another finding's matter.
MOST_RUN_ON = 600.0


def _height(inspection: Inspection, collector: Collector) -> Found:
    yield from _parts_height(inspection, collector)
    display, found = inspection.display, fit(inspection.project, collector)
    if found.spare >= 0:
        return
    under = "the ceiling" if found.by == "ceiling" else inspection.names.of(found.by)
    # Cheapest first: a smaller bin, then a shorter stand, then another place.
    remedies = ["Move it to where the ceiling is higher, or choose a lower one."]
    if found.cut is not None:
        remedies.insert(0, f"Cut {display.length(found.cut)} off its stand.")
    if found.bin is not None:
        volume, high = display.volume(found.bin.volume * 1000), display.length(found.bin.height)
        remedies.insert(0, f"With a bin of {volume}, {high} high, it fits.")
    yield Finding(
        "too-tall",
        "fault",
        collector.id,
        f"{collector.name}: {display.length(collector.height)} high, but {under} is "
        f"{display.length(found.above)} up; "
        f"{display.length(-found.spare)} too tall with room for its lid.",
        collector.height,
        found.above,
        also=() if found.by == "ceiling" else (found.by,),
        remedies=tuple(remedies),
    )


def _parts_height(inspection: Inspection, collector: Collector) -> Found:
    """What stands by itself of a collector and is taller than what is over it."""
    for _, body in parts_apart(collector):
        high, above = top_of(body), inspection.space.height_over(body)
        if high > above + TALLER:
            say = inspection.display.length
            yield Finding(
                "too-tall",
                "fault",
                collector.id,
                f"{body_name(collector, body)}: {say(high)} up at its top, but what is over it is "
                f"{say(above)} up.",
                high,
                above,
                remedies=("Move it to where the ceiling is higher, or choose a lower one.",),
            )


def _noise(inspection: Inspection, collector: Collector) -> Found:
    project = inspection.project
    heard = [
        (loud.level, machine)
        for machine in project.machines
        if (answer := inspection.assessment.of_machine.get(machine.id)) is not None
        and collector.id in answer.systems
        and (loud := at_machine(project, collector, machine)) is not None
        and loud.needs_protection
    ]
    if heard:
        # The loudest place, once; the machine's own noise is not in it.
        level, machine = max(heard, key=lambda pair: pair[0])
        yield Finding(
            "loud",
            "note",
            collector.id,
            f"{collector.name}: about {level:.0f} dB(A) at {inspection.names.of(machine.id)}, "
            "give or take 5, and the "
            "machine's own noise comes on top.",
            level,
            PROTECT_FROM,
            remedies=("Wear hearing protection; a box or a wall takes 10 to 30 dB off.",),
        )


def _openings(inspection: Inspection, collector: Collector) -> Found:
    airflow = inspection.assessment.most_airflow(collector.id)
    if airflow <= 0 or not collector.takes_air_away:
        return
    display, outdoors = inspection.display, collector.exhausts == "outdoors"
    needed = make_up_air(inspection.project, collector, airflow, inspection.assessment.air)
    pulled = most_depression(inspection.assessment, collector.id)
    below = f"up to {display.pressure(-pulled)}"
    # Flue gases first: this can kill, everything else costs.
    if needed.flue:
        names = " and ".join(inspection.names.of(ident) for ident in needed.flue)
        yield Finding(
            "flue",
            "fault" if outdoors or pulled > DEPRESSION else "warning",
            collector.id,
            f"{collector.name}: {TAKES_AWAY[outdoors, collector.stands]} while {names} burns. "
            f"The pressure in the shop falls ({below}): flue gases pulled into the room can kill.",
            pulled,
            DEPRESSION,
            also=needed.flue,
            remedies=(
                "Do not run both; let a heating engineer judge it by the local code. Fit a CO "
                "alarm.",
            ),
        )
    have = area_back(collector)
    # An opening that is only a little narrow is within what the allowance knows.
    if have < NARROW * needed.opening:
        what = "make-up air from outdoors" if outdoors else "the air to come back"
        has = f"{display.area(have)} of opening for {what}"
        if collector.opening is None:
            gaps = (
                "the box's" if collector.stands == "boxed in" and not outdoors else "the building's"
            )
            has = (
                f"no opening for {what} is entered, so {gaps} own gaps count, about "
                f"{display.area(have)} (allowance)"
            )
        yield Finding(
            "opening",
            "warning",
            collector.id,
            f"{collector.name}: {has}; {display.airflow(airflow)} wants "
            f"{display.area(needed.opening)}. "
            f"The shop is under negative pressure ({below}).",
            have,
            needed.opening,
            remedies=("Make the opening larger, with a filter before it where dust may pass.",),
        )


def _bin(inspection: Inspection, collector: Collector) -> Found:
    days = days_to_empty(inspection.project, collector)
    if days is not None and days < FEW_DAYS:
        yield Finding(
            "small-bin",
            "note",
            collector.id,
            f"{collector.name}: its bin is two thirds full after {decimal(days, 1)} days of the "
            "scenarios that are entered.",
            days,
            FEW_DAYS,
            remedies=(
                "A larger bin, or a bin sensor: an over-full one sends it all to the filter.",
            ),
        )
    lifts, weight = inspection.project.settings.lifts, full_bin(collector)
    if lifts is not None and weight is not None and weight * WARN_AT > lifts:
        display = inspection.display
        at = lifts / weight
        yield Finding(
            "heavy-bin",
            "note",
            collector.id,
            f"{collector.name}: its bin weighs {display.mass(weight * WARN_AT)} when it is two "
            f"thirds full, and you lift {display.mass(lifts)}.",
            weight * WARN_AT,
            lifts,
            remedies=(f"Empty it at {at:.0%}, put it on wheels, or line it with a bag.",),
        )


def _curve(inspection: Inspection, collector: Collector) -> Found:
    """A curve or claim that neither the motor nor the impeller could give."""
    for each in implausible(collector, inspection.display):
        yield Finding(
            "implausible-curve",
            "warning",
            collector.id,
            f"{collector.name}: {each.words}.",
            each.value,
            each.limit,
            remedies=(each.remedy,),
        )


def _motor(inspection: Inspection, collector: Collector) -> Found:
    if collector.motor is None:
        return
    systems = [
        u.systems[collector.id] for u in inspection.assessment.answers if collector.id in u.systems
    ]
    # Power grows with the airflow: the scenario with the most open gates decides.
    powers = [
        fan_power(collector, s.airflow, inspection.assessment.air) for s in systems if s.converged
    ]
    if powers and max(powers) > OVERLOAD * collector.motor.power:
        yield Finding(
            "motor",
            "warning",
            collector.id,
            f"{collector.name}: its fan takes about {inspection.display.power(max(powers))} at the "
            f"shaft, more than the motor's {inspection.display.power(collector.motor.power)}.",
            max(powers),
            collector.motor.power,
            remedies=("Open fewer gates at once, or measure the current.",),
        )


def _no_filter(inspection: Inspection, collector: Collector) -> Found:
    """Air that goes back into the shop as dusty as it came."""
    if collector.filter.kind == "none" and collector.exhausts == "into the shop":
        yield Finding(
            "no-filter",
            "warning",
            collector.id,
            f"{collector.name}: no filter, so the fine dust that it draws in goes back into "
            "the shop.",
            remedies=("Fit a filter, or let it blow outdoors.", "Wear a respirator until then."),
        )


def _order(inspection: Inspection, collector: Collector) -> Found:
    del inspection
    if collector.separator and collector.separator.placed == "after the fan":
        yield Finding(
            "through-the-fan",
            "note",
            collector.id,
            f"{collector.name}: chips pass through the fan before the "
            f"{collector.separator.kind}, which wears it and "
            "can strike sparks from a stray nail.",
            remedies=("A separator before the fan keeps chips out of it.",),
        )


def small_ports_without_a_vacuum(inspection: Inspection) -> Found:
    """Small ports that a vacuum on a short hose would serve better."""
    project, display = inspection.project, inspection.display
    vacuums = {c.id for c in project.collectors if c.inlet < VACUUM_INLET}
    for port in small_ports(inspection.assessment):
        machine, pickup = project.pickup[port.ref]
        answer = inspection.assessment.of_machine.get(machine.id)
        # Whoever has a vacuum on it already needs no such advice.
        served = {p.collector for p in answer.pickups if p.pickup == pickup.id} if answer else set()
        if port.vacuum_better and not served & vacuums:
            if port.duct is None:
                duct = "no duct"
            else:
                duct = f"the duct {display.airflow(port.duct, unit=False)}"
            yield Finding(
                "small-port",
                "note",
                port.ref,
                f"{machine.name}, {pickup.name.lower()}: through a "
                f"{display.diameter(pickup.port)} port a vacuum on a "
                f"short hose gives {display.airflow(port.vacuum)}, {duct}; it needs "
                f"{display.airflow(port.needed)}.",
                port.vacuum,
                port.needed,
                remedies=("A vacuum for the small ports, started by the tool's current.",),
            )


def off_the_curve(inspection: Inspection) -> Found:
    """A fan that works outside the points that its curve was given."""
    display = inspection.display
    seen: set[str] = set()
    for answer in inspection.assessment.answers:
        for ident, system in answer.systems.items():
            curve = system.network.pieces[system.fan_piece].law.curve  # type: ignore[union-attr]
            # Said once for each collector, in the first scenario in which it happens.
            if not system.converged or curve.knows(system.airflow) or ident in seen:
                continue
            seen.add(ident)
            yield Finding(
                "off-curve",
                "note",
                ident,
                f"{inspection.project.collector[ident].name}: works at "
                f"{display.airflow(system.airflow)}, "
                "outside the points of its fan curve, so the figures are a guess there.",
                system.airflow,
                curve.known[1],
                answer.scenario.running,
                remedies=("Add a curve point beyond it.",),
            )


def filter_too_small(inspection: Inspection) -> Found:
    """A filter that air passes too fast, so that fine dust goes through it and it blinds soon."""
    display = inspection.display
    fastest: dict[str, tuple[float, ScenarioAir]] = {}
    for answer in inspection.assessment.answers:
        for ident, system in answer.systems.items():
            if system.converged and system.airflow > fastest.get(ident, (0.0, answer))[0]:
                fastest[ident] = (system.airflow, answer)
    # The largest airflow in any scenario decides how large a filter must be.
    for ident, (airflow, answer) in fastest.items():
        collector = inspection.project.collector[ident]
        if collector.filter.kind == "none":
            continue
        filter_area = collector.filter.area
        speed = airflow / filter_area
        if speed > FILTER_VELOCITY:
            wanted = airflow / FILTER_VELOCITY
            yield Finding(
                "small-filter",
                "note",
                ident,
                f"{collector.name}: {display.airflow(airflow)} through "
                f"{display.surface(filter_area)} of filter, "
                f"{decimal(speed / FILTER_VELOCITY, 1)} times what it takes well.",
                speed,
                FILTER_VELOCITY,
                answer.scenario.running,
                remedies=(
                    f"A filter of {display.surface(wanted)}, and a respirator for what it lets "
                    "through.",
                ),
            )


def each_collector(inspection: Inspection) -> Found:
    """Each collector: does it fit, its wiring, noise, openings, bin, curve, motor, order."""
    for collector in inspection.project.collectors:
        for each in (_height, _noise, _openings, _bin, _curve, _motor, _no_filter, _order):
            yield from each(inspection, collector)
        yield None


def run_on_too_short(inspection: Inspection) -> Found:
    """Collectors that stop with their tool before its last chip is in the bin."""
    for collector in inspection.project.collectors:
        if not collector.auto_start:
            continue
        # Longer run-on than the longest that is sensible is no advice: chips lie in the duct then
        # anyway.
        asked = [
            (seconds, answer.scenario.running[0])
            for answer in inspection.assessment.answers
            if len(answer.scenario.running) == 1
            and collector.id in answer.systems
            and collector.run_on < (seconds := run_on(answer)) <= MOST_RUN_ON
        ]
        if not asked:
            continue
        seconds, machine = max(asked)
        enough = float(math.ceil(seconds))
        change = Change(
            f"Run on for {enough:.0f} s",
            collector.id,
            partial(_runs_on, collector=collector.id, seconds=enough),
        )
        yield Finding(
            "run-on",
            "warning",
            collector.id,
            f"{collector.name}: {collector.run_on:.0f} s of run-on is too short for "
            f"{inspection.names.of(machine)}: "
            f"its last chip takes {seconds:.0f} s to the bin.",
            collector.run_on,
            seconds,
            (machine,),
            remedies=(f"Let it run on for {enough:.0f} s.",),
            fixes=(change,),
        )


def _runs_on(project: Project, collector: str, seconds: float) -> Project:
    return changed(project, collector, run_on=seconds)


RULES: tuple[Rule, ...] = (
    off_the_curve,
    filter_too_small,
    each_collector,
    small_ports_without_a_vacuum,
    run_on_too_short,
)
