"""From where a thing is best seen: the eye goes round it until nothing stands before it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from grey_current.build.solid.camera import Camera
from grey_current.build.solid.presets import near_step
from grey_current.build.solid.shop_solids import Solid
from grey_current.build.solid.view import Packed, paper_look, seen
from grey_current.build.steps import Step

# Degrees to either side that are tried in turn, and pixels of the pictures that are tried.
TURNS = (0.0, 40.0, -40.0, 80.0, -80.0, 125.0, -125.0, 180.0)
SMALL = (120, 96)
# The share of a thing that has to be in sight.
ENOUGH = 0.6
# m; what is higher hides the shop, and is seen through where it is no machine.
TALL = 1.6


def seen_through(solid: Solid) -> bool:
    """Whether one sees through something: light, or a chimney or a cupboard as high as somebody."""
    tall = solid.tone == "fixture" and float(solid.mesh.points[:, 2].max()) > TALL
    return tall or solid.tone == "lane"


def facing_step(camera: Camera, packed: Packed, step: Step) -> Camera:
    """The eye near to what a step puts up: looking as it does where most of it is in sight from
    there, else from the side from where most is.
    """
    near = near_step(camera, packed.solids, step)
    names = frozenset(step.parts)
    alone: Sequence[Solid] = [solid for solid in packed.solids if solid.part in names]
    look = replace(paper_look(), times=1, veiled=seen_through)
    parts = Packed(alone)
    found: list[tuple[float, Camera]] = []
    for turn in TURNS:
        there = near.orbited(turn, 0.0)
        whole = seen(parts, there, *SMALL, look).pixels_of(names)
        share = seen(packed, there, *SMALL, look).pixels_of(names) / max(whole, 1)
        if share >= ENOUGH:
            return there
        found.append((share, there))
    return max(found, key=lambda item: item[0])[1]
