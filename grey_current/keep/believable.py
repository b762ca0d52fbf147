"""What no reading of a shop can be: it is refused when typed, and never followed when a file
brings it, however often it was noted.
"""

from __future__ import annotations

from grey_current.air.gas import air_at
from grey_current.design.flow.fittings import fan_curve
from grey_current.shop.keep_plan import ReadingKind
from grey_current.shop.model import Project

# The largest reading of each kind that is believed (SI, dB(A), mg/m³).
MOST: dict[ReadingKind, float] = {
    "static pressure": 50e3,
    "airflow": 20.0,
    "velocity": 150.0,
    "filter drop": 50e3,
    "motor current": 200.0,
    "sound": 130.0,
    "dust": 100.0,
}
# Times a fan's shut-off pressure that a reading may be. Allowance.
BEYOND_SHUT_OFF = 1.5


def most_believed(project: Project, kind: ReadingKind) -> float:
    """The most that a reading of a kind can be (SI): no duct has more suction than the strongest
    fan gives, half as much again for what its curve leaves open.
    """
    if kind not in ("static pressure", "filter drop") or not project.collectors:
        return MOST[kind]
    air = air_at()
    strongest = max(fan_curve(item.fan, air).shut_off for item in project.collectors)
    return min(MOST[kind], BEYOND_SHUT_OFF * strongest)
