"""What is wrong in a shop, as plain values for other programs."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from typing import Any

from grey_current.design.diagnosis.diagnose import Diagnosis
from grey_current.design.diagnosis.words import cause_sentence, cure_words
from grey_current.design.findings.finding import Finding
from grey_current.shop.model import Project

FORMAT = "grey-current/check/1"


def check_report(
    found: Sequence[Finding], depression: float, diagnosis: Diagnosis
) -> dict[str, Any]:
    """Every finding, worst first: its code, how bad, the stage where it is mended, what it is
    about, its figures in SI.

    Beside them how far (Pa) the collectors pull the shop below what surrounds it, and the causes
    behind them, the root cause first, each with the places of the findings that it explains.

    A figure that is none, or none that can be written, is left empty. Raises nothing.
    """
    return {
        "format": FORMAT,
        "shop_depression_pa": depression,
        "causes": [
            {
                "code": cause.code,
                "elements": list(cause.suspect.elements),
                "says": cause_sentence(cause),
                "explains": [
                    place
                    for place, item in enumerate(found)
                    if (item.code, item.element) in cause.explains
                ],
            }
            for cause in diagnosis.causes
        ],
        "findings": [
            {
                "code": item.code,
                "severity": item.severity,
                "stage": item.stage,
                "element": item.element,
                "also": list(item.also),
                "running": list(item.scenario),
                "message": item.message,
                "value": _figure(item.value),
                "limit": _figure(item.limit),
                "remedies": list(item.remedies),
            }
            for item in found
        ],
    }


def check_lines(project: Project, found: Sequence[Finding], diagnosis: Diagnosis) -> Iterator[str]:
    """Faults that no cause explains, then the causes with the findings that each explains under it,
    then the other findings.
    """
    if not found:
        yield f"{project.name}: nothing found."
    left, groups = list(found), []
    for cause in diagnosis.causes:
        mine = [item for item in left if (item.code, item.element) in cause.explains]
        left = [item for item in left if item not in mine]
        if mine:
            head = f"cause: {cause_sentence(cause)} {cure_words(project, diagnosis, cause)}"
            groups += [head, *(f"    {_line(item)}" for item in mine)]
    # What can kill is a fault without a cause here: it comes before all advice.
    yield from (_line(item) for item in left if item.severity == "fault")
    yield from groups
    yield from (_line(item) for item in left if item.severity != "fault")


def _line(item: Finding) -> str:
    return f"{item.severity}: {item.message} {' '.join(item.remedies)}".rstrip()


def _figure(value: float | None) -> float | None:
    return value if value is not None and math.isfinite(value) else None
