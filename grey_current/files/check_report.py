"""What is wrong in a shop, as plain values for other programs."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

from grey_current.design.findings.finding import Finding

FORMAT = "grey-current/check/1"


def check_report(found: Sequence[Finding], depression: float) -> dict[str, Any]:
    """Every finding, worst first: its code, how bad, the stage where it is mended, what it is
    about, its figures in SI.

    Beside them how far (Pa) the collectors pull the shop below what surrounds it.

    A figure that is none, or none that can be written, is left empty. Raises nothing.
    """
    return {
        "format": FORMAT,
        "shop_depression_pa": depression,
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


def _figure(value: float | None) -> float | None:
    return value if value is not None and math.isfinite(value) else None
