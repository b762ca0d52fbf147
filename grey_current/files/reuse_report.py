"""What becomes of another shop's pieces, as text and as plain values."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from typing import Any

from grey_current.build.bill import Bill
from grey_current.build.reuse import Reuse, ReusedPart, ReusedPipe, reused_parts, reused_pipes
from grey_current.design.parts.keys import kind_of, part_words, pipe_key
from grey_current.numerals import compact, decimal
from grey_current.shop.names import Names
from grey_current.units import Display

# Signs below which a count is none: of hose by the metre.
SMALL = 1e-6


def reuse_text(found: Reuse, old: str) -> str:
    """What is used again, what is bought and what is left over, line by line."""
    project = found.project
    display, currency = Display(project.settings.units), project.build.currency
    lines = [f"{project.name}, with the pieces of {old}", reuse_words(found, old), "", "Pipe"]
    names = Names(project)
    lines += [f"  {line}" for line in counted(pipe_words(names, display, p) for p in found.pipes)]
    lines += ["", "Parts"]
    lines += [f"  {part_line(display, part)}" for part in found.parts]
    lines += [
        "",
        f"To pay: {decimal(found.after.total)} {currency} instead of "
        f"{decimal(found.before.total)}.",
    ]
    return "\n".join(lines)


def reuse_words(found: Reuse, old: str) -> str:
    """What it comes to, in a sentence."""
    used = sum(bool(pipe.pieces) for pipe in found.pipes)
    kinds = [part for part in found.parts if part.there]
    again = sum(part.used > SMALL for part in kinds)
    currency = found.project.build.currency
    return (
        f"Of {old} {used} of {len(found.pipes)} pieces of pipe and {again} of {len(kinds)} kinds "
        f"of parts are used again: about {decimal(found.saved)} {currency} less "
        "to pay."
    )


def pipe_words(names: Names, display: Display, pipe: ReusedPipe) -> str:
    """An old piece of pipe and what becomes of it."""
    kind = part_words(pipe_key(pipe.material, pipe.diameter), display)
    words = f"{kind}, {display.length(pipe.length)}"
    if not pipe.pieces:
        return f"{words}: left over"
    into = ", ".join(
        f"{display.length(piece.length)} for {names.of(piece.run)}" for piece in pipe.pieces
    )
    return f"{words}: {'' if pipe.as_it_is else 'cut to '}{into}"


def counted(lines: Iterable[str]) -> list[str]:
    """Lines that are the same as one, with how many there are."""
    return [f"{count} × {line}" if count > 1 else line for line, count in Counter(lines).items()]


def part_line(display: Display, part: ReusedPart) -> str:
    """A kind of part: how many there are, and what becomes of them."""
    said = [f"{_count(display, part.key, part.used)} used again"] if part.used > SMALL else []
    if part.to_buy > SMALL:
        said.append(f"{_count(display, part.key, part.to_buy)} to buy")
    if part.left_over > SMALL:
        said.append(f"{_count(display, part.key, part.left_over)} left over")
    return f"{part_words(part.key, display)}: {', '.join(said)}"


def _count(display: Display, key: str, count: float) -> str:
    by_the_metre = kind_of(key).unit == "m"
    return display.far(count) if by_the_metre and count >= 1 else compact(count)


def left_over_lines(found: Bill) -> list[str]:
    """What is there and is not used in this shop: to sell, or to keep."""
    project = found.parts.project
    display = Display(project.settings.units)
    pipes = [pipe for pipe in reused_pipes(project, found) if not pipe.pieces]
    lines = counted(
        f"{part_words(pipe_key(pipe.material, pipe.diameter), display)}, "
        f"{display.length(pipe.length)}"
        for pipe in pipes
    )
    for part in reused_parts(found):
        if part.left_over > SMALL:
            count = _count(display, part.key, part.left_over)
            lines.append(f"{count} × {part_words(part.key, display)}")
    return lines


def reuse_report(found: Reuse) -> dict[str, Any]:
    """The same in SI units, as JSON has it."""
    return {
        "format": "grey-current/reuse/1",
        "currency": found.project.build.currency,
        "to_pay": round(found.after.total, 2),
        "saved": round(found.saved, 2),
        "pipes": [
            {
                "material": pipe.material,
                "diameter_m": pipe.diameter,
                "length_m": pipe.length,
                "pieces": [
                    {"piece": piece.id, "length_m": round(piece.length, 6)} for piece in pipe.pieces
                ],
            }
            for pipe in found.pipes
        ],
        "parts": [
            {
                "key": part.key,
                "there": part.there,
                "used": part.used,
                "to_buy": part.to_buy,
                "left_over": part.left_over,
            }
            for part in found.parts
        ],
    }
