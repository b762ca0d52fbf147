"""What a solid is painted as, and its colour on light and on dark paper."""

from __future__ import annotations

from typing import Literal

Tone = Literal[
    "floor",
    "wall",
    "door",
    "window",
    "beam",
    "fixture",
    "machine",
    "table",
    "steel",
    "blade",
    "wood",
    "collector",
    "filter",
    "bin",
    "duct",
    "hose",
    "gate",
    "lever",
    "hanger",
    "person",
    "lane",
    "lit",
]

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


def rgb(tone: Tone, colours: dict[Tone, str] = LIGHT) -> tuple[float, float, float]:
    """A tone's colour as three numbers, 0 to 255."""
    text = colours[tone]
    red, green, blue = (float(int(text[n : n + 2], 16)) for n in (1, 3, 5))
    return red, green, blue
