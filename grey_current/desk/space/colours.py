"""What solids are painted in, by the palette: greys of a workshop, ducts in the colour of their
state.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping

from PyQt6.QtGui import QColor

from grey_current.build.solid.shop_solids import Solid
from grey_current.build.solid.tones import DARK, LIGHT
from grey_current.build.solid.view import Colour
from grey_current.desk.theme import Palette

# How much of a duct's colour is its state's.
OF_STATE = 0.62


def rgb(colour: QColor) -> Colour:
    """A colour as three numbers, 0 to 255."""
    return float(colour.red()), float(colour.green()), float(colour.blue())


def colour_of(
    palette: Palette, states: Mapping[str, str], running: frozenset[str]
) -> Callable[[Solid], Colour]:
    """What each solid is painted in: ducts by the `states` of their runs, machines that run as on
    the plan.
    """
    tones = {
        tone: rgb(QColor(text))
        for tone, text in (LIGHT if palette.name == "light" else DARK).items()
    }
    on = rgb(palette.machine_on)
    of_state: dict[str, Colour] = {}

    def of(solid: Solid) -> Colour:
        own = tones[solid.tone]
        if solid.tone in ("duct", "hose"):
            word = states.get(solid.element, "idle")
            if word == "idle":
                return own
            if word not in of_state:
                of_state[word] = rgb(palette.state(word))
            return mixed(own, of_state[word], OF_STATE)
        if solid.tone in ("machine", "collector") and solid.element in running:
            return mixed(own, on, 0.5)
        return own

    return of


def mixed(a: Colour, b: Colour, share: float) -> Colour:
    """A colour with a share of another."""
    r, g, bl = (x + (y - x) * share for x, y in zip(a, b, strict=True))
    return r, g, bl
