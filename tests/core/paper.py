"""The same shop drawn elsewhere on the paper: turned by quarters and shifted."""

from __future__ import annotations

import json
from collections.abc import Callable
from typing import Any

from grey_current.files import project_file
from grey_current.shop.model import Project


def elsewhere(project: Project, quarters: int, shift: tuple[float, float]) -> Project:
    """A shop turned to the left by quarters about the paper's corner, then shifted (m); one without
    a picture or a drawing under it."""
    raw = json.loads(project_file.dump(project))
    for _ in range(quarters % 4):
        raw = _turned(_on_paper(raw, lambda x, y: [-y, x]))
    raw = _on_paper(raw, lambda x, y: [x + shift[0], y + shift[1]])
    return project_file.parse(json.dumps(raw), "elsewhere")


# What holds places (m) on the paper; other pairs of figures, such as a fan's, are none.
PLACES = {"start", "end", "outline"}


def _on_paper(value: Any, change: Callable[[float, float], list[float]]) -> Any:
    """A value of a project file with every place in it changed."""
    if isinstance(value, list):
        return [_on_paper(item, change) for item in value]
    if not isinstance(value, dict):
        return value
    made = {key: _on_paper(item, change) for key, item in value.items()}
    for key in PLACES & value.keys():
        made[key] = _places(value[key], change)
    if "x" in value and "y" in value:
        made["x"], made["y"] = change(value["x"], value["y"])
    return made


def _places(value: Any, change: Callable[[float, float], list[float]]) -> Any:
    if not isinstance(value, list):
        return value  # where a run begins and ends is a name
    if value and not isinstance(value[0], list):
        return change(*value)
    return [_places(item, change) for item in value]


def _turned(value: Any) -> Any:
    """What else is turned when a shop is: bodies, and the way in which a ceiling slopes."""
    if isinstance(value, list):
        return [_turned(item) for item in value]
    if not isinstance(value, dict):
        return value
    made = {key: _turned(item) for key, item in value.items()}
    if "x" in value and "turn" in value:
        made["turn"] = (value["turn"] + 90) % 360
    if "slopes_along" in value:
        made["slopes_along"] = "x" if value["slopes_along"] == "y" else "y"
        if value["slopes_along"] == "y" and value["far_ceiling"] is not None:
            made |= {"ceiling": value["far_ceiling"], "far_ceiling": value["ceiling"]}
    return made
