"""What a solid is painted as; the desk knows the colours."""

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
