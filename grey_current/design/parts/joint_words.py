"""What cannot be put together as drawn, or is not sold, in words."""

from __future__ import annotations

from grey_current.design.parts.joint_places import Misfit, Unsold
from grey_current.design.parts.keys import SHORT_MATERIAL
from grey_current.numerals import compact
from grey_current.shop.names import Names
from grey_current.units import Display


def misfit_words(misfit: Misfit, names: Names, display: Display) -> str:
    """Where fittings have no room in a joint, and how much is wanting."""
    return (
        f"{names.start(misfit.point)} cannot be put together as drawn: {misfit.why}; "
        f"{display.length(misfit.by)} is wanting."
    )


def unsold_words(unsold: Unsold, names: Names) -> str:
    """A fitting that nobody sells."""
    material = SHORT_MATERIAL.get(unsold.material, unsold.material)
    what = "an elbow" if unsold.kind == "elbow" else "a wye"
    return (
        f"{names.start(unsold.element)} wants {what} of {unsold.angle:.0f}°, which is not sold in "
        f"{material}."
    )


def sold_words(unsold: Unsold) -> str:
    """The angles that are sold."""
    return ", ".join(f"{compact(angle)}°" for angle in sorted(unsold.sold))
