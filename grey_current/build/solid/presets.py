"""Where one looks from: above, the door, along the main, or at something."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from grey_current.build.solid.camera import Camera, corners_of
from grey_current.build.solid.shop_solids import Solid
from grey_current.build.steps import Step
from grey_current.shop.model import Project
from grey_current.shop.places import position
from grey_current.shop.roofs import highest

Preset = Literal["corner", "above", "door", "main"]
# Degrees over the level from which one looks in at a door and along a main, and past its middle.
FROM_DOOR, ALONG, BESIDE = 16.0, 18.0, 8.0
# m from the eye to the part that is put up next.
STEP_FAR = 4.5
# How much nearer to its surroundings than all of them one looks at a thing.
AROUND = 0.55


def ceiling_of(project: Project) -> float:
    """The highest ceiling of a shop, m."""
    return max((highest(room) for room in project.rooms), default=2.5)


def all_of(project: Project) -> NDArray[np.float64]:
    """The corners of all rooms, on the floor and under the ceiling."""
    return corners_of(project.corners, 0.0, ceiling_of(project))


def preset(
    project: Project, name: Preset, width: float, height: float, margin: float = 0.0
) -> Camera:
    """The eye that sees all of a shop from somewhere, in a picture of so many pixels."""
    turn, tilt = {
        "corner": lambda: (-60.0, 32.0),
        "above": lambda: (-90.0, 89.9),
        "door": lambda: (_door(project), FROM_DOOR),
        "main": lambda: (_main(project) + BESIDE, ALONG),
    }[name]()
    return Camera((0.0, 0.0, 1.0), turn, tilt).fitted(all_of(project), width, height, margin)


def _door(project: Project) -> float:
    """The way to the first door from the middle of the shop, in degrees; to the front without."""
    doors = [item for item in project.openings if item.kind != "window"]
    if not doors:
        return -90.0
    middle = all_of(project).mean(axis=0)
    x = (doors[0].start[0] + doors[0].end[0]) / 2 - middle[0]
    y = (doors[0].start[1] + doors[0].end[1]) / 2 - middle[1]
    return math.degrees(math.atan2(y, x))


def _main(project: Project) -> float:
    """The way that the longest level duct takes, in degrees."""
    longest, turn = 0.0, 0.0
    for run in project.runs:
        a, b = position(project, run.start), position(project, run.end)
        far = math.dist(a[:2], b[:2])
        if far > longest:
            longest, turn = far, math.degrees(math.atan2(b[1] - a[1], b[0] - a[0]))
    return turn


def looking_at(
    camera: Camera,
    solids: Iterable[Solid],
    chosen: frozenset[str],
    size: tuple[float, float],
    margin: float = 0.0,
) -> Camera | None:
    """The eye gone near to some elements or parts, looking the same way; None for no solid."""
    places = [solid.mesh.points for solid in solids if {solid.element, solid.part} & chosen]
    if not places:
        return None
    return camera.fitted(np.concatenate(places), *size, margin).zoomed(AROUND)


def near_step(camera: Camera, solids: Iterable[Solid], step: Step) -> Camera:
    """The eye gone near to what a step puts up, looking the same way; where it was for nothing."""
    places = [solid.mesh.points for solid in solids if solid.part in step.parts]
    if not places:
        return camera
    x, y, z = (float(v) for v in np.concatenate(places).mean(axis=0))
    return replace(camera, target=(x, y, z), far=STEP_FAR)
