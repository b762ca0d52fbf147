"""What solids are painted in, by the palette: greys of a workshop, ducts in the colour of their
state.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping

from PyQt6.QtGui import QColor

from grey_current.build.solid.shop_solids import Solid
from grey_current.build.solid.tones import Tone
from grey_current.build.solid.view import Colour
from grey_current.desk.theme import Palette

# Colours of what has none on the plan, in light and in dark.
LIGHT: dict[Tone, str] = {
    "floor": "#e9e7df",
    "wall": "#efeee9",
    "door": "#b9a589",
    "window": "#c3d3d9",
    "beam": "#c9b797",
    "fixture": "#cdc8bd",
    "machine": "#a9b3b4",
    "table": "#ccd2d2",
    "steel": "#949b9f",
    "blade": "#5c6368",
    "wood": "#d0b388",
    "collector": "#8fb0b0",
    "filter": "#ded8c8",
    "bin": "#a89a88",
    "duct": "#c9cfd1",
    "hose": "#8a8d8b",
    "gate": "#4c5357",
    "lever": "#c87a2c",
    "hanger": "#8c9194",
    "person": "#b79d86",
    "lane": "#f0d9a4",
    "lit": "#0b6e7f",
}
DARK: dict[Tone, str] = {
    "floor": "#33383b",
    "wall": "#3c4245",
    "door": "#6b5c46",
    "window": "#4d6069",
    "beam": "#7a6a4e",
    "fixture": "#575a57",
    "machine": "#6f7b7d",
    "table": "#98a2a3",
    "steel": "#858c90",
    "blade": "#b2b8bb",
    "wood": "#a58a60",
    "collector": "#5f8484",
    "filter": "#a39d8d",
    "bin": "#7c7062",
    "duct": "#9aa2a5",
    "hose": "#6a6e6c",
    "gate": "#c3c8ca",
    "lever": "#e09a4c",
    "hanger": "#767c80",
    "person": "#927c68",
    "lane": "#8b7740",
    "lit": "#3fb3c6",
}
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
