"""What a collector must do and which would do it, as text and as JSON in SI units."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from grey_current.design.collector.candidates import Offer, offer_troubles, stood_in
from grey_current.design.collector.requirement import Requirement, required_fan_pressure
from grey_current.design.collector.sizing import Sizing
from grey_current.design.flow.trace import shop_air
from grey_current.errors import InputError
from grey_current.files.curve_csv import load_curve
from grey_current.shop.catalogue import CollectorModel, catalogue
from grey_current.shop.collectors import Bin, Collector, Motor
from grey_current.shop.model import Project
from grey_current.shop.values import MOST_LETTERS
from grey_current.spelling import localised
from grey_current.units import Display

ESTIMATE = "Estimates for planning, not a certificate."
GUESSED = (
    "Ducts are missing, so these figures are for ducts laid quickly here; better ones "
    "may lose less, others more."
)


def model_from_curve(project: Project, collector: str | None, path: Path) -> CollectorModel:
    """A candidate with a fan curve of the user's own and everything else of the collector that is
    there.

    Raises `FileError` for a curve that cannot be read, `InputError` for a name that cannot be.
    """
    now = project.collector.get(collector or "")
    base: Collector = (
        now if now is not None else stood_in(project, None, catalogue().collectors[-1])
    )
    fields = {
        key: getattr(base, key)
        for key in CollectorModel.model_fields
        if key not in ("kind", "model")
    }
    fields |= {"fan": load_curve(path), "curve_note": f"Read from {path.name}"[:200]}
    fields |= {"motor": base.motor or Motor(power=1500.0), "impeller": base.impeller or 0.3}
    fields |= {"bin": base.bin or Bin(volume=0.1, height=0.6), "noise": base.noise or 80.0}
    if not path.stem.strip():
        raise InputError("curve", str(path), "give the file a name")
    return CollectorModel(**fields, kind="single-stage", model=path.stem[:MOST_LETTERS])


def size_text(project: Project, collector: str | None, found: Sizing) -> str:
    """The requirement and the ranking in words, in the project's units."""
    display = Display(project.settings.units)
    if found.hardest is None:
        return f"{project.name}: no machine has a pickup that a collector could serve."
    lines = [
        f"{project.name}: what the collector must do at its inlet so that every need is just met"
    ]
    lines += [_requirement_line(project, r, display) for r in found.requirements]
    hardest = found.hardest.scenario.name(project)
    fan = _fan_words(project, collector, found.hardest)
    lines.append(f"Hardest: {hardest}.{fan} {ESTIMATE}")
    if found.estimated:
        lines.append(GUESSED)
    lines += [
        "",
        "Recommended collectors, the smallest that serves all first; each scenario on its own:",
    ]
    lines += [_offer_line(project, offer) for offer in found.offers]
    lines += ["", "Other ways for the same machines:"]
    for kind in found.system_kinds:
        if kind.transport is None:
            slow = ""
        else:
            slow = f", slowest air {kind.transport:.0%} of what chips need"
        swaps = f", {kind.swap_minutes:.0f} min of swaps a week" if kind.swap_minutes else ""
        if kind.loudness:
            loud = f", to {kind.loudness.level:.0f} dB(A) give or take {kind.loudness.band:.0f}"
        else:
            loud = ""
        lines.append(
            f"  {kind.name:<24} serves {kind.served} of {kind.asked}, worst "
            f"{kind.worst:.0%}{slow}{swaps}{loud}"
        )
    return "\n".join(lines)


def _fan_words(project: Project, collector: str | None, hard: Requirement) -> str:
    """What the fan itself must hold, with what the collector's own parts take."""
    item = project.collector.get(collector or "")
    if item is None:
        return ""
    display, held = Display(project.settings.units), _fan_must_hold(project, collector, hard)
    assert held is not None
    usual, due = display.pressure(held["seasoned"]), display.pressure(held["due"])
    if item.filter.kind == "none":
        return f" The fan itself must hold {usual}; it has no filter."
    return (
        f" The fan itself must hold {usual} with a seasoned filter, {due} with one due for "
        "cleaning."
    )


def _fan_must_hold(
    project: Project, collector: str | None, asked: Requirement
) -> dict[str, float] | None:
    """Fan static pressure (Pa) for a requirement with the collector's filter in its two states;
    None without one.
    """
    item, air = project.collector.get(collector or ""), shop_air(project)
    if item is None:
        return None
    states = {"seasoned": item.filter.seasoned, "due": item.filter.due}
    return {
        name: required_fan_pressure(item, asked, air, loading) for name, loading in states.items()
    }


def _requirement_line(project: Project, item: Requirement, display: Display) -> str:
    notes = ("  estimated, its duct is missing" if item.estimated else "") + (
        "" if item.reached else "  out of reach"
    )
    return (
        f"  {item.scenario.name(project):<24} {display.airflow(item.airflow):>11} at "
        f"{display.pressure(item.pressure):>12} (a gauge shows "
        f"{display.pressure(item.static)}){notes}"
    )


def _offer_line(project: Project, offer: Offer) -> str:
    if offer.worst_scenario:
        worst = f", worst {offer.worst_scenario.name(project).lower()} {offer.worst:.0%}"
    else:
        worst = ""
    troubles = offer_troubles(project, offer)
    over = f"  but {', '.join(troubles)}" if troubles else ""
    model = localised(offer.model, project.settings.units)
    return (
        f"  {model:<42} {offer.served_words} ({offer.loaded} with the filter due){worst}, "
        f"{Display(project.settings.units).power(offer.power)} at the shaft{over}"
    )


def size_report(project: Project, collector: str | None, found: Sizing) -> dict[str, Any]:
    """The same as plain values: m³/s, Pa, W, shares."""
    return {
        "format": "grey-current/size-report",
        "format_version": 1,
        "project": project.name,
        "collector": collector,
        "note": ESTIMATE,
        "requirements": [
            {
                "machines": list(r.scenario.running),
                "places": list(r.scenario.places),
                "airflow_m3_s": r.airflow,
                "total_pressure_pa": r.pressure,
                "static_pressure_pa": r.static,
                "ruling_pickup": r.ruling,
                "estimated": r.estimated,
                "reached": r.reached,
                "fan_must_hold_pa": _fan_must_hold(project, collector, r),
                "system_curve": [list(point) for point in r.curve],
            }
            for r in found.requirements
        ],
        "hardest": list(found.hardest.scenario.running) if found.hardest else None,
        "hardest_places": list(found.hardest.scenario.places) if found.hardest else None,
        "estimated": found.estimated,
        "candidates": [
            {
                "model": o.model,
                "served": o.served,
                "loaded": o.loaded,
                "asked": o.asked,
                "worst": o.worst,
                "worst_use": list(o.worst_scenario.running) if o.worst_scenario else None,
                "worst_places": list(o.worst_scenario.places) if o.worst_scenario else None,
                "served_likely": list(o.close),
                "carry": o.transport,
                "power": o.power,
                "overloads": o.overloads,
                "too_tall": o.too_tall,
                "over_amps": o.over_amps,
                "price": o.price,
            }
            for o in found.offers
        ],
        "ways": [
            {
                "name": kind.name,
                "served": kind.served,
                "asked": kind.asked,
                "worst_share": kind.worst,
                "slowest_air_share": kind.transport,
                "swap_minutes_a_week": kind.swap_minutes,
                "loudest_db_a": kind.loudness.level if kind.loudness else None,
                "price": kind.price,
            }
            for kind in found.system_kinds
        ],
    }
