"""The assembly as text and as plain values for JSON."""

from __future__ import annotations

from collections import Counter
from typing import Any

from grey_current.design.parts.assembly import Assembly, PlacedPart
from grey_current.design.parts.joint_words import misfit_words, unsold_words
from grey_current.shop.model import Project
from grey_current.shop.names import Names
from grey_current.units import Display

FORMAT = "grey-current/assembly/1"
MOST_PARTS_NAMED = 4


def assembly_report(project: Project, made: Assembly) -> dict[str, Any]:
    """The assembly as plain values: metres, directions out of each end, what joins what."""
    pickups = []
    for ref, (machine, pickup) in project.pickup.items():
        path = made.path(ref)
        if path:
            pickups.append({"machine": machine.id, "pickup": pickup.id, "path": path})
    return {
        "format": FORMAT,
        "parts": [_part(made, part) for part in made.parts],
        "pickups": pickups,
        "unsold": [
            {
                "element": item.element,
                "kind": item.kind,
                "material": item.material,
                "angle": round(item.angle, 2),
                "sold": list(item.sold),
            }
            for item in made.unsold
        ],
        "too_short": [
            {
                "piece": piece.id,
                "run": piece.run,
                "free_m": round(piece.free, 6),
                "least_m": round(piece.least - piece.joint, 6),
            }
            for piece in made.pieces
        ],
        "no_room": [
            {"element": item.point, "run": item.run, "by_m": round(item.by, 6)}
            for item in made.misfits
        ],
    }


def _part(made: Assembly, part: PlacedPart) -> dict[str, Any]:
    ends = []
    for number, end in enumerate(part.ends):
        joined = made.joins.get((part.id, number))
        ends.append(
            {
                "at": [round(v, 6) for v in end.at],
                "direction": [round(v, 9) for v in end.out],
                "bore_m": round(end.bore, 5),
                "gender": end.gender,
                "joins": None if joined is None else {"part": joined[0], "end": joined[1]},
            }
        )
    length = None if part.length is None else round(part.length, 6)
    return {
        "id": part.id,
        "kind": part.kind,
        "key": part.key,
        "run": part.run,
        "length_m": length,
        "ends": ends,
    }


def assembly_text(project: Project, made: Assembly) -> str:
    """How many parts there are, each pickup's chain, and what cannot be put together."""
    display, names = Display(project.settings.units), Names(project)
    counts = Counter(part.kind for part in made.parts)
    counted = ", ".join(
        f"{count} {kind}{'' if count == 1 else 's'}" for kind, count in counts.items()
    )
    lines = [
        f"{project.name}: {counted}" if counted else f"{project.name}: nothing to put together"
    ]
    for ref in project.pickup:
        path = made.path(ref)
        if path:
            lines.append(f"  {names.start(ref)}: {len(path)} parts to the collector")
    lines += [
        f"{names.start(piece.run)} has no room for pipe: {display.length(-piece.free)} is wanting."
        for piece in made.pieces
        if not piece.fits
    ]
    lines += [
        f"{names.start(piece.run)}: a piece of {display.length(piece.length)} is too short for its "
        f"joints, which want {display.length(piece.least)}."
        for piece in made.pieces
        if piece.fits
    ]
    lines += [misfit_words(misfit, names, display) for misfit in made.misfits]
    lines += [unsold_words(unsold, names) for unsold in made.unsold]
    return "\n".join(lines)
