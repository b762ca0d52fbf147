"""Parts, cuts and phases as text, as CSV and as plain values for JSON."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Any

from grey_current.build.bill import Bill, Line
from grey_current.build.cuts import PipeCuts, numbered, proof_words
from grey_current.build.miscuts import miscut_words, one_more, one_more_words
from grey_current.build.phases import PhaseFacts
from grey_current.build.selling import sold_by
from grey_current.build.words import (
    bought_words,
    line_money,
    misfits,
    money_words,
    packs_words,
    quantity_words,
    totals_words,
)
from grey_current.design.parts.clean_outs import main_ends
from grey_current.design.parts.keys import part_words
from grey_current.design.parts.straights import Straight
from grey_current.design.words import served_words
from grey_current.files.csv_text import csv_of
from grey_current.numerals import as_in_files, compact
from grey_current.shop.catalogue import materials
from grey_current.shop.duct_graph import AirPaths
from grey_current.shop.model import Project
from grey_current.shop.names import Names
from grey_current.units import Display

ESTIMATE = "Measure the fittings that you bought before you cut: lay lengths are generic."


# -- parts


def parts_text(found: Bill) -> str:
    """The bill in lines, group by group."""
    project = found.parts.project
    display, currency = Display(project.settings.units), project.build.currency
    lines = [f"{project.name}: what to buy"]
    group = ""
    for line in found.lines:
        if line.part.group != group:
            group = line.part.group
            lines += ["", group]
        lines.append(f"  {_line_words(line, display, currency)}")
    lines += ["", *totals_words(found)]
    names = Names(project)
    bare = [end for end in main_ends(AirPaths(project), project) if end.edit is not None]
    no_cap = [
        f"No clean-out at the end of {names.of(end.run)}: the Build stage adds one." for end in bare
    ]
    return "\n".join([*lines, *misfits(found), *no_cap, "", ESTIMATE])


def _line_words(line: Line, display: Display, currency: str) -> str:
    words = f"{quantity_words(line.part, display):>8}  {bought_words(line, display):<62}"
    there = f"  ({compact(line.had + line.bought)} there)" if line.had + line.bought else ""
    return f"{words} {line_money(line, currency):>20}{there}"


@as_in_files()
def parts_csv(found: Bill) -> str:
    """The bill as CSV with everything in it."""
    display = Display(found.parts.project.settings.units)
    heading = (
        "part",
        "name",
        "group",
        "quantity",
        "unit",
        "price",
        "sum",
        "had",
        "bought",
        "left",
        "for",
        "buy",
    )
    return csv_of(heading, [_csv_row(line, display) for line in found.lines])


def _csv_row(line: Line, display: Display) -> tuple[str, ...]:
    """A line of the bill; quantities and price in the unit that the part is sold by."""
    unit = sold_by(line.part.key, display)
    return (
        line.part.key,
        part_words(line.part.key, display),
        line.part.group,
        f"{line.part.quantity / unit.size:.4g}",
        unit.name,
        "" if line.price is None else f"{line.price * unit.size:.4g}",
        "" if line.sum is None else f"{line.sum:.2f}",
        f"{line.had / unit.size:.4g}",
        f"{line.bought / unit.size:.4g}",
        f"{line.left / unit.size:.4g}",
        " ".join(line.part.elements),
        packs_words(line, display),
    )


def parts_report(found: Bill) -> dict[str, Any]:
    """The bill as plain values, SI units."""
    project = found.parts.project
    display = Display(project.settings.units)
    return {
        "format": "grey-current/parts/1",
        "currency": project.build.currency,
        "parts": [
            {
                "key": line.part.key,
                "name": part_words(line.part.key, display),
                "group": line.part.group,
                "quantity": round(line.part.quantity, 4),
                "unit": line.part.unit,
                "for": list(line.part.elements),
                "price": line.price,
                "usual": line.usual is not None,
                "owned": line.had + line.bought,
                "left": round(line.left, 4),
                "packs": [
                    {"size": round(size, 4), "count": count}
                    for size, count in sorted(line.packs(line.left).items())
                ],
                "sum": None if line.sum is None else round(line.sum, 2),
            }
            for line in found.lines
        ],
        "straights": [straight_report(piece) for piece in found.parts.straights],
        "total": round(found.total, 2),
        "likely": [round(money, 2) for money in found.range],
        "left_to_buy": round(found.left_to_buy, 2),
        "unpriced": [line.part.key for line in found.unpriced],
        "by_group": {group: round(money, 2) for group, money in found.by_group().items()},
        "by_machine": {
            machine or "shared": round(money, 2) for machine, money in found.by_machine.items()
        },
    }


def straight_report(piece: Straight) -> dict[str, Any]:
    """A straight piece as plain values."""
    return {
        "id": piece.id,
        "run": piece.run,
        "material": piece.material,
        "diameter_m": round(piece.diameter, 5),
        "length_m": round(piece.length, 6),
        "centre_line_m": round(piece.centre_line, 6),
        "takeoff_m": [round(takes, 6) for takes in piece.takeoff],
        "joint_m": round(piece.joint, 6),
        "fits": piece.fits,
    }


# -- cuts


def cuts_text(project: Project, cuts: Sequence[PipeCuts]) -> str:
    """The cutting list, bar by bar."""
    display, names, numbers = Display(project.settings.units), Names(project), numbered(cuts)
    lines = [f"{project.name}: what to cut, with a kerf of {display.length(project.build.kerf)}"]
    for pipe in cuts:
        lines += [
            "",
            f"{materials()[pipe.material].label}, {display.diameter(pipe.diameter)}: "
            f"{proof_words(pipe)}",
            miscut_words(pipe, display),
            one_more_words(one_more(project, pipe), project.build.currency, display),
        ]
        for count, bar in enumerate(pipe.bars, 1):
            stock = f"{'offcut' if bar.owned else 'length'} {count}, {display.length(bar.length)}"
            lines.append(f"  {stock}, {display.length(bar.rest)} left over")
            lines += [
                f"    {numbers[piece.id]:>3}  {display.length(piece.length):>14}  "
                f"{names.of(piece.run)}"
                for piece in bar.pieces
            ]
    return "\n".join([*lines, "", ESTIMATE]) if cuts else f"{project.name}: no pipe to cut."


@as_in_files()
def cuts_csv(project: Project, cuts: Sequence[PipeCuts]) -> str:
    """The cutting list as CSV, one piece a line."""
    names, display, numbers = Names(project), Display(project.settings.units), numbered(cuts)
    rows = [
        (
            numbers[piece.id],
            piece.id,
            names.of(piece.run),
            pipe.material,
            f"{pipe.diameter * 1000:.1f}",
            f"{piece.length * 1000:.1f}",
            display.length(piece.length),
            count,
            f"{bar.length * 1000:.1f}",
            "offcut" if bar.owned else "new",
        )
        for pipe in cuts
        for count, bar in enumerate(pipe.bars, 1)
        for piece in bar.pieces
    ]
    heading = (
        "number",
        "piece",
        "place",
        "material",
        "bore_mm",
        "length_mm",
        "length",
        "bar",
        "bar_mm",
        "bar_is",
    )
    return csv_of(heading, rows)


def cuts_report(project: Project, cuts: Sequence[PipeCuts]) -> dict[str, Any]:
    """The cutting list as plain values, SI units."""
    return {
        "format": "grey-current/cuts/1",
        "kerf_m": project.build.kerf,
        "reserve": project.build.reserve,
        "stock": [
            {
                "material": pipe.material,
                "diameter_m": round(pipe.diameter, 5),
                "length_m": bar.length,
                "owned": bar.owned,
                "pieces": [
                    {"id": piece.id, "length_m": round(piece.length, 6)} for piece in bar.pieces
                ],
                "offcut_m": round(bar.rest, 6),
            }
            for pipe in cuts
            for bar in pipe.bars
        ],
        "one_more": [
            {
                "material": pipe.material,
                "diameter_m": round(pipe.diameter, 5),
                "length_m": found.length,
                "price": None if found.price is None else round(found.price, 2),
                "pieces": found.pieces,
                "again_now": found.again_now,
                "again_then": found.again_then,
                "longest_times": found.times,
            }
            for pipe, found in ((pipe, one_more(project, pipe)) for pipe in cuts)
        ],
        "lengths_used": sum(sum(pipe.bought.values()) for pipe in cuts),
        "lower_bound": sum(
            sum(pipe.bought.values())
            if pipe.proven
            else min(pipe.least_bars, sum(pipe.bought.values()))
            for pipe in cuts
        ),
        "pipes": [
            {
                "material": pipe.material,
                "diameter_m": round(pipe.diameter, 5),
                "bought_m": round(pipe.bought_length, 4),
                "bound_m": round(pipe.bound, 4),
                "proven": pipe.proven,
            }
            for pipe in cuts
        ],
    }


# -- phases


def phases_text(project: Project, phases: Iterable[PhaseFacts]) -> str:
    """The phases, one after the other."""
    display, currency, names = (
        Display(project.settings.units),
        project.build.currency,
        Names(project),
    )
    lines = [f"{project.name}: building in phases"]
    for facts in phases:
        served, asked = facts.served
        lines += [
            "",
            f"{facts.number}  {facts.phase.name}: {money_words(facts.money.money, currency)}, "
            "so far "
            f"{money_words(facts.so_far, currency)}",
        ]
        if facts.over:
            lines.append(f"   over its budget by {money_words(facts.over, currency)}")
        lines.append(
            f"   {served_words(facts.met, served, asked)}"
            + (f"; new: {', '.join(names.of(i) for i in facts.new)}" if facts.new else "")
        )
        if facts.capped:
            lines.append(f"   {len(facts.capped)} capped for what comes later")
        if facts.waste:
            named = ", ".join(
                f"{quantity_words(p, display)} × {part_words(p.key, display)}" for p in facts.waste
            )
            lines.append(
                f"   of no use any more, worth {money_words(facts.waste_money, currency)}: {named}"
            )
        if facts.money.unpriced:
            lines.append(f"   {len(facts.money.unpriced)} parts without a price are not in it")
    return "\n".join(lines)


def phases_report(project: Project, phases: Iterable[PhaseFacts]) -> dict[str, Any]:
    """The phases as plain values."""
    return {
        "format": "grey-current/phases/1",
        "currency": project.build.currency,
        "phases": [
            {
                "number": facts.number,
                "name": facts.phase.name,
                "budget": facts.phase.budget,
                "money": round(facts.money.money, 2),
                "so_far": round(facts.so_far, 2),
                "over": round(facts.over, 2),
                "unpriced": list(facts.money.unpriced),
                "new": list(facts.new),
                "met": facts.met,
                "served": facts.served[0],
                "asked": facts.served[1],
                "worst_share": facts.judgement.worst,
                "buys": [
                    {"key": part.key, "quantity": round(part.quantity, 4)} for part in facts.bought
                ],
                "waste": [
                    {"key": part.key, "quantity": round(part.quantity, 4)} for part in facts.waste
                ],
                "waste_money": round(facts.waste_money, 2),
                "capped": len(facts.capped),
            }
            for facts in phases
        ],
    }


@as_in_files()
def phases_csv(project: Project, phases: Iterable[PhaseFacts]) -> str:
    """What each phase buys, as CSV."""
    display = Display(project.settings.units)
    rows = [
        (
            facts.number,
            facts.phase.name,
            part.key,
            part_words(part.key, display),
            f"{part.quantity / sold_by(part.key, display).size:.4g}",
            sold_by(part.key, display).name,
        )
        for facts in phases
        for part in facts.bought
    ]
    return csv_of(("phase", "phase_name", "part", "name", "quantity", "unit"), rows)
