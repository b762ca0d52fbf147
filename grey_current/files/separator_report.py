"""The separators that a collector could have, compared, as text and as JSON."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import asdict
from typing import Any

from grey_current.shop.model import Project
from grey_current.work.separators import SeparatorRow, air_words, dust_words, title, work_words

FORMAT = "grey-current/separators/1"
NOTE = "Shares are allowances: nobody has measured yours. The fuller the bin, the less is kept."


def separators_text(project: Project, collector: str, rows: Sequence[SeparatorRow]) -> str:
    """The rows as lines, what it has now marked."""
    now = next(row for row in rows if row.now)
    lines = [f"{project.collector[collector].name}: which separator", ""]
    for row in rows:
        words = [air_words(project, row, now), dust_words(row), work_words(project, row)]
        lines.append(f"{title(row)}{' (as it is)' if row.now else ''}")
        lines += [f"    {line}" for line in words if line]
    return "\n".join([*lines, "", NOTE])


def separators_report(collector: str, rows: Sequence[SeparatorRow]) -> dict[str, Any]:
    """The rows in SI units, as JSON has them."""
    return {
        "format": FORMAT,
        "collector": collector,
        "separators": [_without_nan(asdict(row)) for row in rows],
    }


def _without_nan(row: dict[str, Any]) -> dict[str, Any]:
    return {
        key: None if isinstance(value, float) and math.isnan(value) else value
        for key, value in row.items()
    }
