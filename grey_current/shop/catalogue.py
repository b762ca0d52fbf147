"""The generic catalogue that ships with the program: collectors and pipe materials."""

from __future__ import annotations

import json
import math
import re
from functools import cache
from importlib.resources import files
from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from grey_current.shop.collectors import PARTS, Bin, Collector, Filter, Motor, Separator
from grey_current.shop.fans import Fan
from grey_current.shop.machines import MachineBody
from grey_current.shop.model import Project
from grey_current.shop.values import Bore, Height, Name, Note, Size, Value
from grey_current.spelling import localised
from grey_current.units import System

# m by which two bores differ that are one trade size: a 4 in port and 100 mm pipe, 125 and 127, 150
# and 152 mm.
FITS_OVER = 0.003

CollectorKind = Literal["vacuum", "single-stage", "cyclone"]


class Material(Value):
    """A pipe or hose: roughness of its inside (m), and how it may be named."""

    name: Name
    label: Name
    hose: bool
    roughness: Annotated[float, Field(gt=0, le=0.01)]
    source: Note


class CollectorModel(Value):
    """A generic collector as sold: everything but its place."""

    model: Name
    kind: CollectorKind
    width: Size
    depth: Size
    height: Size
    inlet_height: Height
    inlet: Bore
    fan: Fan
    curve_note: Note
    separator: Separator | None = None
    filter: Filter
    motor: Motor
    impeller: Size
    bin: Bin
    noise: Annotated[float, Field(ge=40, le=120, description="dB(A) at 1 m, in the open")]

    @model_validator(mode="before")
    @classmethod
    def _without_price(cls, raw: Any) -> Any:
        """Libraries kept a price once; it stands in the price book now."""
        if isinstance(raw, dict):
            return {key: value for key, value in raw.items() if key != "price"}
        return raw


class CollectorShelf(Value):
    """What the user's own library of collectors holds."""

    collectors: tuple[CollectorModel, ...]


class Catalogue(Value):
    """What the catalogue file holds."""

    materials: tuple[Material, ...]
    collectors: tuple[CollectorModel, ...]
    pipe_sizes_us: tuple[Bore, ...]
    pipe_sizes_metric: tuple[Bore, ...]


class MachineModel(Value):
    """A generic machine: its group in the catalogue, its body, and how the figures were derived."""

    group: Name
    derived: Annotated[str, Field(max_length=400)]
    body: MachineBody


class MachineShelf(Value):
    """What the machine catalogue, or the user's own library, holds."""

    machines: tuple[MachineModel, ...]


@cache
def catalogue() -> Catalogue:
    """The shipped catalogue."""
    return Catalogue.model_validate(json.loads(_data("catalogue.json")))


@cache
def machine_models() -> tuple[MachineModel, ...]:
    """The shipped machines."""
    return MachineShelf.model_validate(json.loads(_data("machines.json"))).machines


@cache
def chip_fan() -> Fan:
    """The generic fan of a machine that blows its own chips out."""
    fans = (pickup.own_fan for model in machine_models() for pickup in model.body.pickups)
    return next(fan for fan in fans if fan is not None)


# V of the mains in shops of metric units.
METRIC_MAINS = 230.0
# What is measured in whole millimetres there.
_LENGTHS = (
    *("width", "depth", "height", "table_height", "lane_width", "service_depth"),
    *("under", "left_wing", "right_wing"),
)


def local_body(body: MachineBody, system: System) -> MachineBody:
    """A shipped machine as a shop of a system of units has it: its words, whole millimetres, the
    mains there; one of the user's own as it is.
    """
    if body.name not in _shipped():
        return body
    words = {"name": localised(body.name, system), "kind": localised(body.kind, system)}
    if system == "us":
        return body.replaced(**words)
    lengths = {key: getattr(body, key) for key in _LENGTHS}
    whole = {key: round(value, 3) for key, value in lengths.items() if value is not None}
    mains = {}
    if body.volts is not None and body.amps is not None:
        mains = {"volts": METRIC_MAINS, "amps": round(body.amps * body.volts / METRIC_MAINS, 1)}
    pickups = tuple(
        item.replaced(dx=round(item.dx, 3), dy=round(item.dy, 3), height=round(item.height, 3))
        for item in body.pickups
    )
    return body.replaced(**words, **whole, **mains, pickups=pickups)


@cache
def _shipped() -> frozenset[str]:
    return frozenset(model.body.name for model in machine_models())


def _data(name: str) -> str:
    return (files("grey_current.shop") / "data" / name).read_text(encoding="utf-8")


@cache
def materials() -> dict[str, Material]:
    """Pipe and hose materials by name."""
    return {item.name: item for item in catalogue().materials}


def pipe_sizes(project: Project) -> tuple[float, ...]:
    """Inside diameters (m) that pipe comes in, in the project's units."""
    shelf = catalogue()
    return shelf.pipe_sizes_us if project.settings.units == "us" else shelf.pipe_sizes_metric


def next_size(project: Project, bore: float, *, up: bool = True) -> float | None:
    """The size of pipe (m) next above a bore, or below it; None when none is sold.

    Sizes that slip over one another, such as 150 and 152 mm, are one size.
    """
    sizes = pipe_sizes(project) if up else tuple(reversed(pipe_sizes(project)))
    return next((s for s in sizes if (s > bore + FITS_OVER if up else s < bore - FITS_OVER)), None)


def size_for_port(project: Project, port: float) -> float:
    """The smallest pipe (m) that takes a port; the port's own bore when none is sold."""
    return next((s for s in pipe_sizes(project) if s >= port - FITS_OVER), port)


def collector_key(model: str) -> str:
    """The part key of a collector by its model, under which its price stands."""
    return "collector/" + (
        re.sub(r"[^a-z0-9]+", "-", model.lower()).strip("-")[:120].strip("-") or "unnamed"
    )


@cache
def collector_model(name: str) -> CollectorModel:
    """A generic collector by its model name. Raises `KeyError` for an unknown one."""
    return {item.model: item for item in catalogue().collectors}[name]


def new_collector(model: CollectorModel, ident: str, name: str, x: float, y: float) -> Collector:
    """A catalogue collector stood at a place (m), its inlet on its right."""
    fields = {key: getattr(model, key) for key in CollectorModel.model_fields if key != "kind"}
    return Collector(
        **fields,
        id=ident,
        name=name,
        x=round(x, 4),
        y=round(y, 4),
        inlet_dx=round(model.width / 2, 4),
        service=("front",),
    )


def usual_separator(model: str) -> Separator | None:
    """The separator that a catalogue model comes with; None for one without, and for a model of
    the user's own.
    """
    chosen = {item.model: item for item in catalogue().collectors}.get(model)
    return chosen.separator if chosen is not None else None


def fitted(collector: Collector, model: CollectorModel) -> Collector:
    """The collector at its place, exchanged for another model.

    A separator that was added to it stays, unless the new model comes with one; what stands by
    itself goes on doing so.
    """
    fields = {key: getattr(model, key) for key in CollectorModel.model_fields if key != "kind"}
    if model.separator is None and usual_separator(collector.model) is None:
        fields["separator"] = collector.separator
    for part in PARTS:
        place, new = collector.apart(part), fields[part]
        if place is not None and new is not None and new.apart is None:
            fields[part] = new.replaced(apart=place)
    return collector.replaced(**fields, name=model.model, inlet_dx=_inlet_dx(collector, model))


def _inlet_dx(collector: Collector, model: CollectorModel) -> float:
    """The inlet stays on its side when the body gets wider or narrower."""
    at_edge = abs(abs(collector.inlet_dx) - collector.width / 2) < 0.02
    return math.copysign(model.width / 2, collector.inlet_dx) if at_edge else collector.inlet_dx


def model_of(collector: Collector, kind: CollectorKind) -> CollectorModel | None:
    """A collector of the user's as a model to keep; None when its motor, impeller, bin or noise is
    not known.
    """
    fields = {
        key: getattr(collector, key)
        for key in CollectorModel.model_fields
        if key not in ("kind", "model")
    }
    if any(fields[key] is None for key in ("motor", "impeller", "bin", "noise")):
        return None
    return CollectorModel(**fields, kind=kind, model=collector.name)
