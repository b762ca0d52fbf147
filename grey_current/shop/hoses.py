"""How long a hose is cut: one slack with one meaning, wherever a hose is cut, checked or
proposed.
"""

from __future__ import annotations

from grey_current.shop.model import Project
from grey_current.units import Display

# Length of a hose over the distance that it bridges, so that it hangs easily and is never taut.
# Allowance.
HOSE_SLACK = 1.15
# kg of a hose by the metre and by the metre of its bore. Allowance.
HOSE_MASS = 4.0


def hose_mass(bore: float, length: float) -> float:
    """What a hose weighs (kg), by its bore and length (m)."""
    return HOSE_MASS * bore * length


def cut_length(project: Project, distance: float) -> float:
    """Length (m) to which a hose is cut that bridges a distance (m), rounded up as the shop's tape
    reads.
    """
    return Display(project.settings.units).tape(distance * HOSE_SLACK)
