"""Crane's wyes as an outsider works them: by the library, and by docs/air-report.md where two of
his factors meet."""

import fluids
import numpy as np


def crane_branch(combined: float, branch: float, share: float, angle: float) -> float:
    """K of the branch of a converging wye at its share of the flow (m, m, -, degrees)."""
    ratio = (branch / combined) ** 2
    angles = fluids.fittings.branch_converging_Crane_angles
    term = float(np.interp(angle, angles, fluids.fittings.branch_converging_Crane_Fs))
    narrow = 4 * share - 1 + (1 / ratio**2 - 2 - term / ratio) * share**2
    if ratio <= 0.28:
        return narrow
    wide = (0.9 * (1 - share) if share <= 0.4 else 0.55) * narrow
    t = min((ratio - 0.28) / 0.14, 1.0)
    mix = t * t * (3 - 2 * t)
    return (1 - mix) * narrow + mix * wide
