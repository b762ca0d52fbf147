"""How much pipe fittings and joints take, by material: generic dimensions that ship with the
program.
"""

from __future__ import annotations

import json
from functools import cache
from importlib.resources import files
from typing import Annotated, Literal

from pydantic import Field

from grey_current.shop.build_plan import StockLength
from grey_current.shop.model import Project
from grey_current.shop.values import Name, Value

Part = Annotated[float, Field(ge=0, le=3)]


# How a part's end goes together with another: into it, over it, into it or over it ("plain"), or
# over it and clamped ("cuff").
Gender = Literal["male", "female", "plain", "cuff"]


class Rule(Value):
    """A length (m) that grows with the bore: `times` the bore and `plus` so much."""

    times: Part
    plus: Part

    def at(self, bore: float) -> float:
        """The length (m) for a bore (m)."""
        return self.times * bore + self.plus


class PipeSizes(Value):
    """How pipe of a material goes together.

    `collar` is what a fitting has of straight collar before its shoulder; `joint_upstream` and
    `joint_downstream` how deep the pipe's ends go into what stands there; `coupling` half of what a
    coupling keeps two pipes apart, from shoulder to middle; `least` the shortest piece that two
    joints leave room for. All as rules on the bore.
    """

    material: Name
    collar: Rule
    joint_upstream: Rule
    joint_downstream: Rule
    coupling: Rule
    coupled_by: Literal["coupling", "crimp"]
    least: Rule
    # The ends of fittings and of pipe, where air comes in and where it goes out.
    fitting_ends: tuple[Gender, Gender]
    pipe_ends: tuple[Gender, Gender]
    # Whether pipe goes over a machine's spigot by itself, or a rubber sleeve has to go over both.
    on_spigot: Literal["over", "sleeve"]
    # Angles (degrees) that are sold; an adjustable elbow is turned to any up to 90.
    elbow_angles: tuple[float, ...]
    wye_angles: tuple[float, ...]
    adjustable: bool
    stock_us: tuple[float, ...]
    stock_metric: tuple[float, ...]
    source: str

    @property
    def has_hubs(self) -> bool:
        """Whether fittings take the pipe into them at every end."""
        return self.fitting_ends == ("female", "female")

    def joint(self, bore: float) -> float:
        """How much (m) of a piece goes into the joints at both of its ends."""
        return self.joint_upstream.at(bore) + self.joint_downstream.at(bore)


class Takes(Value):
    """A length (m) that a part takes of the centre line, and where that is from."""

    takes: Part
    source: str


class Box(Value):
    """What a splitter box takes, over the large pipe's bore."""

    times: Part
    source: str


class Sealing(Value):
    """What sealing and fastening a joint takes, by the metre round it."""

    tape_turns: float
    mastic_litres_per_metre: float
    screws_each_metre: float
    cement_litres_per_metre: float
    primer_litres_per_metre: float
    source: str


class FittingSizes(Value):
    """What the file of fitting sizes holds."""

    pipes: tuple[PipeSizes, ...]
    gate: Takes
    step: Takes
    splitter: Box
    sealing: Sealing


@cache
def fitting_sizes() -> FittingSizes:
    """The shipped sizes."""
    text = (files("grey_current.shop") / "data" / "fitting_sizes.json").read_text(encoding="utf-8")
    return FittingSizes.model_validate(json.loads(text))


@cache
def pipe_sizes_of(material: str) -> PipeSizes:
    """How pipe of a material goes together. Raises `KeyError` for a hose or an unknown one."""
    return {item.material: item for item in fitting_sizes().pipes}[material]


def stock_lengths(project: Project, material: str, bore: float) -> tuple[float, ...]:
    """Lengths (m) in which pipe of a material and bore (m) can be bought here, the shortest first.

    The user's own where any are entered for the material, else the usual ones; empty when all of
    the user's are for other bores.
    """
    own = [item for item in project.build.stock if item.material == material]
    if own:
        return tuple(sorted({item.length for item in own if _fits(item, bore)}))
    shelf = pipe_sizes_of(material)
    return shelf.stock_us if project.settings.units == "us" else shelf.stock_metric


def _fits(item: StockLength, bore: float) -> bool:
    return item.diameter is None or abs(item.diameter - bore) < 1e-3
