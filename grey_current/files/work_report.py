"""A day's work and the room's air as text and as plain values for JSON."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import asdict
from typing import Any

from grey_current.design.collector.noise import PROTECT_FROM
from grey_current.keep.reading_words import dust_words
from grey_current.numerals import compact, decimal
from grey_current.shop.names import Names
from grey_current.units import Display
from grey_current.work.day import Day
from grey_current.work.day_tasks import LEAST_GAIN
from grey_current.work.day_text import job_name
from grey_current.work.dust_budget import DayDust, before_and_after
from grey_current.work.ears import BEHIND, quieter
from grey_current.work.exposure import COUNTED, Exposure, exposure, figure
from grey_current.work.order import Order
from grey_current.work.room_changes import RoomChange
from grey_current.work.room_day import RoomDay, minutes_words, shares_of
from grey_current.work.room_readings import MINUTES, MeterTest
from grey_current.work.varnish import roughly

# Every so many minutes of the course are reported.
KEPT_EVERY = 5


def day_text(day: Day, best: Order, saved: float) -> str:
    """A day in lines: the time line, what it adds up to, the better order."""
    project = day.project
    lines = [f"{project.name}: a day's work"]
    for step in day.steps:
        mark = "  " if step.kind == "move" else "* "
        lines.append(f"{minutes_words(step.starts):>12}  {mark}{step.words}, {_span(step.seconds)}")
    lines.append("")
    lines += [f"{line}" for line in day_lines(day)]
    proven = "" if best.proven else " (best found)"
    if saved >= LEAST_GAIN:
        names = ", ".join(
            job_name(project, day.jobs[n].machine, day.jobs[n].place).lower() for n in best.jobs
        )
        lines.append(f"Better order{proven}: {names}; it saves {_span(saved)}.")
    else:
        lines.append(f"No order of these jobs saves {_span(LEAST_GAIN)}{proven}.")
    return "\n".join(lines)


def day_rows(day: Day) -> list[tuple[str, str, str]]:
    """What a day adds up to as rows of label, figure and state."""
    project = day.project
    display = Display(project.settings.units)
    moved = [f"{day.gate_moves} gate{'' if day.gate_moves == 1 else 's'}"]
    moved += [f"{day.hose_swaps} hose swaps"] if day.hose_swaps else []
    moved += [f"{day.hoods_turned} hoods"] if day.hoods_turned else []
    moved += [f"{day.stands_turned} stands"] if day.stands_turned else []
    moved += [f"{display.far(day.walked)} walked"]
    rows = [("Moving", f"{_span(day.move_seconds)}: {', '.join(moved)}", "")]
    rows.append(("Chips", display.volume(day.litres), ""))
    for collector in day.on:
        full, name = day.bin_full_after(collector), project.collector[collector].name
        rows.append((f"{name} runs", f"{decimal(day.hours_on(collector), 1)} h", ""))
        if full is not None:
            rows.append((f"{name}'s bin, two thirds full", f"after {minutes_words(full)}", ""))
    price = project.work.kwh_price
    money = "" if price is None else f", {decimal(day.kwh * price, 2)} {project.build.currency}"
    rows.append(("Energy", f"{decimal(day.kwh, 1)} kWh{money}", ""))
    if math.isfinite(day.dose):
        state = "good" if day.dose < PROTECT_FROM else "short"
        rows.append(("Noise dose over 8 h", f"{day.dose:.0f} dB(A)", state))
        if project.work.hearing:
            rows.append(("Behind what you wear", f"{day.dose_with_protection:.0f} dB(A)", ""))
    if day.next_door is not None:
        rows.append((f"Behind {BEHIND[project.work.wall]}", f"{day.next_door:.0f} dB(A)", ""))
    for machine, seconds in sorted(day.run_on.items(), key=lambda item: -item[1])[:1]:
        words = f"{seconds:.0f} s" if math.isfinite(seconds) else "its chips lie still"
        rows.append((f"Run-on after the {job_name(project, machine).lower()}", words, ""))
    if day.missing:
        rows.append(("Left out, for they are gone", ", ".join(day.missing), "short"))
    return rows


def day_lines(day: Day) -> list[str]:
    """What a day adds up to, a line each."""
    project = day.project
    display = Display(project.settings.units)
    gates = f"{day.gate_moves} gate{'' if day.gate_moves == 1 else 's'} moved"
    hoods = f", {day.hoods_turned} hoods turned over" if day.hoods_turned else ""
    hoods += f", {day.stands_turned} stands turned" if day.stands_turned else ""
    lines = [
        f"Moving takes {_span(day.move_seconds)}: {gates}, {day.hose_swaps} hose swaps{hoods}, "
        f"{display.far(day.walked)} walked."
    ]
    lines.append(f"Chips: {display.volume(day.litres)}.")
    for collector in day.on:
        full, name = day.bin_full_after(collector), project.collector[collector].name
        lines.append(f"{name}: on for {decimal(day.hours_on(collector), 1)} h, and so its filter.")
        if full is not None:
            lines.append(f"{name}: an empty bin is at two thirds after {minutes_words(full)}.")
    if project.work.kwh_price is None:
        money = ""
    else:
        money = f", {decimal(day.kwh * project.work.kwh_price, 2)} {project.build.currency}"
    lines.append(f"Energy: {decimal(day.kwh, 1)} kWh{money}.")
    if math.isfinite(day.dose):
        worn = (
            f", {day.dose_with_protection:.0f} behind what is worn" if project.work.hearing else ""
        )
        lines.append(
            f"Noise dose: {day.dose:.0f} dB(A) over 8 h{worn}, machines and collectors "
            "together (ISO 1999). "
            f"Protect your ears from {PROTECT_FROM:.0f}."
        )
    if day.next_door is not None:
        behind = BEHIND[project.work.wall]
        lines.append(f"Behind {behind} one hears about {day.next_door:.0f} dB(A).")
        lines += [f"  {line}." for line in quieter(project.work.wall, day.next_door)]
    for machine, seconds in sorted(day.run_on.items(), key=lambda item: -item[1])[:1]:
        words = f"{seconds:.0f} s" if math.isfinite(seconds) else "for ever: its chips lie still"
        lines.append(f"Run-on: the {job_name(project, machine).lower()} asks for {words}.")
    if day.missing:
        lines.append(f"Left out, for they are gone: {', '.join(day.missing)}.")
    return lines


def _span(seconds: float) -> str:
    return f"{seconds:.0f} s" if seconds < 90 else minutes_words(seconds)


def room_text(found: RoomDay, dust: DayDust, changes: Sequence[RoomChange]) -> str:
    """The air of the rooms in lines: the dose, whose dust it is, when it is clean, what would clear
    it.
    """
    project = found.day.project
    return "\n".join(
        [
            f"{project.name}: dust in the air",
            *(f"  {line}" for line in room_lines(found, dust)),
            *change_lines(changes, dust),
        ]
    )


def room_lines(found: RoomDay, dust: DayDust) -> list[str]:
    """What the day's dust is, a line each."""
    project = found.day.project
    lines = []
    for room in found.rooms:
        dose, place = found.dose(room), found.rooms.index(room)
        name = next(item.name for item in project.rooms if item.id == room)
        most = float(found.mid.dust[:, place].max())
        low, high = float(found.low[:, place].max()), float(found.high[:, place].max())
        lines.append(
            f"{name}: fine dust to {decimal(most, 2)} mg/m³ (likely {decimal(low, 2)} to "
            f"{decimal(high, 2)}), {decimal(dose, 2)} over eight hours."
        )
    lines += exposure_lines(exposure(found))
    lines.append(
        f"After the last job it takes {minutes_words(found.decay)} until it is down to a tenth."
    )
    lines.append(", ".join(f"{share:.0%} {words}" for words, share in shares_of(found)) + ".")
    return [*lines, *dust_lines(found, dust), *dust.early, *found.warnings]


def dust_lines(found: RoomDay, dust: DayDust) -> list[str]:
    """Whose dust one breathes, and when the air is clean enough to varnish, a line each."""
    lines = [f"{share.whole:.0%} of it: {share.words}, {share.way}." for share in dust.shares]
    names = {room.id: room.name for room in found.day.project.rooms}
    for room in dust.clean:
        words = f"{names[room.room]}, clean enough to varnish: {room.words}"
        if room.band:
            words += f" ({room.band})"
        if room.without > room.likely:
            words += f"; {roughly(room.without)} with no cleaner"
        if room.running < room.likely:
            words += f"; {roughly(room.running)} with the collector left on"
        lines.append(f"{words}.")
    if dust.meter is not None:
        lines += _meter_lines(found, dust.meter)
    return lines


def _meter_lines(found: RoomDay, meter: MeterTest) -> list[str]:
    """What a particle counter should show, and how much was narrowed by what it has shown."""
    one, names = meter.expected, Names(found.day.project)
    line = (
        f"A particle counter after {MINUTES:.0f} min at {names.of(one.machine)} (log add dust "
        f"{one.machine} {one.room}): likely {dust_words(one.low)} to {dust_words(one.high)}."
    )
    if not meter.readings:
        return [line]
    return [line, f"By the tables alone {meter.tables.wide:.0f} times, now {one.wide:.0f}."]


def exposure_lines(made: Exposure) -> list[str]:
    """What the day is against the reference, a line each."""
    counted, room, breathed = COUNTED[made.reference.counts], made.room, made.breathed
    lines = [
        made.words,
        f"The room's mean: {figure(room.low)} to {figure(room.high)} mg/m³ of {counted}, "
        f"{room.against(made.reference.value)}.",
    ]
    if made.protection > 1:
        lines.append(
            f"Behind the respirator: {figure(breathed.low)} to {figure(breathed.high)} mg/m³."
        )
    lines.append(
        f"Reference: {compact(made.reference.value)} mg/m³ ({made.reference.source}). Your "
        "country's limit decides."
    )
    return lines


def change_lines(changes: Sequence[RoomChange], dust: DayDust) -> list[str]:
    """What one change is worth, a line each; then whose dust is left with the best."""
    lines = [
        f"  -{c.less:.0%}  {c.change.words}" + (f"; {c.costs}" if c.costs else "") for c in changes
    ]
    if changes:
        rows = before_and_after(dust.shares, changes[0].dust)
        lines.append(f"Whose dust, now and then ({changes[0].change.words}), of what it is now:")
        lines += [f"  {row.now:4.0%} {row.then:4.0%}  {row.share.words}" for row in rows]
        lines.append(f"  100% {sum(row.then for row in rows):4.0%}  all together")
    return lines


def day_report(
    day: Day, better: Day, proven: bool, saved: float, found: RoomDay, dust: DayDust
) -> dict[str, Any]:
    """A day as plain values, SI units, beside the same in its better order."""
    return {
        "format": "grey-current/day/1",
        "order": [day.jobs[n].machine for n in day.order],
        "best_order": [day.jobs[n].machine for n in better.order],
        "proven": proven,
        "moves": [
            {"at_s": round(s.starts, 1), "seconds": round(s.seconds, 1), "words": s.words}
            for s in day.steps
            if s.kind == "move"
        ],
        "seconds": round(day.move_seconds, 1),
        "seconds_saved": round(saved, 1),
        "swaps": day.hose_swaps,
        "hoods_turned": day.hoods_turned,
        "stands_turned": day.stands_turned,
        "swaps_saved": max(day.hose_swaps - better.hose_swaps, 0),
        "bin_litres": {collector: round(litres, 1) for collector, litres in day.bins.items()},
        "kwh": round(day.kwh, 3),
        "run_on_s": {machine: _finite(seconds) for machine, seconds in day.run_on.items()},
        "dose_db_a": _finite(day.dose),
        **room_report(found, dust),
    }


def changes_report(changes: Sequence[RoomChange], dust: DayDust) -> list[dict[str, Any]]:
    """What each change is worth as plain values, and for the best whose dust is left."""
    return [
        {
            "words": c.change.words,
            "less": round(c.less, 4),
            "costs": c.costs,
            "dust_of": [
                {
                    "machine": row.share.machine,
                    "words": row.share.words,
                    "now": round(row.now, 6),
                    "then": round(row.then, 6),
                }
                for row in (before_and_after(dust.shares, c.dust) if c.dust else ())
            ],
        }
        for c in changes
    ]


def room_report(found: RoomDay, dust: DayDust) -> dict[str, Any]:
    """The rooms' air as plain values."""
    return {
        "room": [
            {
                "room": room,
                "t_s": [round(float(t), 1) for t in found.mid.times[::KEPT_EVERY]],
                "fine_mg_m3": [round(float(c), 6) for c in found.mid.dust[::KEPT_EVERY, place]],
                "low": [round(float(c), 6) for c in found.low[::KEPT_EVERY, place]],
                "high": [round(float(c), 6) for c in found.high[::KEPT_EVERY, place]],
                "dose_8h_mg_m3": round(found.dose(room), 6),
            }
            for place, room in enumerate(found.rooms)
        ],
        "exposure": _exposure_report(exposure(found)),
        "decay_s": _finite(found.decay),
        "caught_share": {machine: round(share, 4) for machine, share in found.caught.items()},
        "shares": {words: round(share, 6) for words, share in shares_of(found)},
        "dust_of": [
            {
                "machine": share.machine,
                "words": share.words,
                "missed": round(share.missed, 6),
                "returned": round(share.returned, 6),
            }
            for share in dust.shares
        ],
        "clean_after_s": {
            room.room: {
                "soonest": _finite(room.soonest),
                "likely": _finite(room.likely),
                "latest": _finite(room.latest),
                "without_cleaners": _finite(room.without),
                "collectors_left_on": _finite(room.running),
            }
            for room in dust.clean
        },
        "finishing": list(dust.early),
        "meter": None if dust.meter is None else _meter_report(dust.meter),
    }


def _meter_report(meter: MeterTest) -> dict[str, Any]:
    one = meter.expected
    return {
        "machine": one.machine,
        "room": one.room,
        "minutes": MINUTES,
        "low_mg_m3": one.low,
        "mid_mg_m3": one.mid,
        "high_mg_m3": one.high,
        "tables_high_over_low": meter.tables.wide,
        "readings": meter.readings,
    }


def _finite(value: float) -> float | None:
    """A figure for JSON, to a tenth: none for what never comes, or for silence."""
    return round(value, 1) if math.isfinite(value) else None


def _exposure_report(made: Exposure) -> dict[str, Any]:
    """The exposure as plain values: mg/m³ as its reference counts them."""
    return {
        "verdict": made.verdict,
        "counts": made.reference.counts,
        "reference_mg_m3": made.reference.value,
        "hours": made.reference.hours,
        "room_mg_m3": asdict(made.room),
        "person_mg_m3": asdict(made.person),
    }
