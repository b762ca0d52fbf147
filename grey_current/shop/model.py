"""The Project: everything that the user draws and owns, as one frozen value in SI units.

Values are checked when they are made, so a Project that exists is sound; results never live here.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterator
from functools import cached_property
from typing import Annotated, Any, Literal, Self

from pydantic import Field, model_validator

from grey_current.air.needs import DesignCriterion
from grey_current.errors import DuctworkError
from grey_current.shop.build_plan import BuildPlan
from grey_current.shop.collectors import PARTS, Collector
from grey_current.shop.design_parts import LISTS, Parts
from grey_current.shop.keep_plan import KeepPlan
from grey_current.shop.laying import LayingChoices
from grey_current.shop.room import Beam, Circuit, Feature, Opening, Outlet, Room, Underlay
from grey_current.shop.structure import repeated_ids, structure_problems
from grey_current.shop.values import XY, Height, Id, Name, Place, Share, Turn, Value
from grey_current.shop.work_plan import WorkPlan
from grey_current.units import System

FORMAT = "grey-current/project"
FORMAT_VERSION = 11


# °C of a room where nobody says: a round figure in metric shops, and in those of feet and inches.
ROOM_TEMPERATURE = (21.0, 21.1111)


class Settings(Value):
    """How the shop counts: units on screen, design criterion, and its air."""

    units: System = "us"
    criterion: DesignCriterion = "clear chips"
    altitude: Annotated[float, Field(ge=-400, le=5000, description="m")] = 0.0
    temperature: Annotated[float, Field(ge=-30, le=50, description="°C")] = 21.0
    humidity: Share = 0.0
    # The longest board that the user wants to work; lanes that cannot are flagged.
    longest_board: Annotated[float, Field(gt=0.1, le=12, description="m")] | None = None
    # Leakage of the ducts' own joints, m³/s per m² of duct at 1 Pa, with Δp^0.65; 0 for tight ones.
    duct_leakage: Annotated[float, Field(ge=0, le=0.01)] = 0.0
    # Machines that are run at the same time, besides each on its own.
    together: Annotated[tuple[tuple[Id, ...], ...], Field(max_length=40)] = ()
    # Breaker before all circuits of the shop, for each leg of a split supply.
    main_breaker: Annotated[float, Field(gt=0, le=1000, description="A")] | None = None
    # Height (m) of whoever works here, how high he or she reaches from the floor (m), and what he
    # or she lifts alone (kg); None: not said.
    tall: Annotated[float, Field(ge=1.0, le=2.4, description="m")] | None = None
    reaches: Annotated[float, Field(ge=0.8, le=2.8, description="m")] | None = None
    lifts: Annotated[float, Field(ge=1, le=100, description="kg")] | None = None
    # Usual temperature outdoors in the heating season.
    outside: Annotated[float, Field(ge=-50, le=45, description="°C")] = 2.0


class Design(Parts):
    """A design whose parts make one whole: what is kept aside, and what a project has."""

    @model_validator(mode="after")
    def _holds_together(self) -> Self:
        for problem in structure_problems(self):
            raise problem
        return self


class KeptDesign(Design):
    """A design of the same shop that was kept aside, to go back to or to compare with."""

    id: Id
    name: Name


class PlaceIn(Value):
    """Where something is in an arrangement: a machine or collector at a place, a thing by its
    outline, or `away`.
    """

    id: Id
    x: Place = 0.0
    y: Place = 0.0
    turn: Turn = 0.0
    bottom: Height = 0.0
    host: Id | None = None
    outline: Annotated[tuple[XY, ...], Field(max_length=64)] = ()
    away: bool = False


class FloorArrangement(Value):
    """A named set of places: how the shop stands on some days."""

    id: Id
    name: Name
    places: Annotated[tuple[PlaceIn, ...], Field(max_length=460)] = ()


class Project(Design):
    """A shop and its dust collection."""

    format: Literal["grey-current/project"] = "grey-current/project"
    format_version: Literal[11] = 11
    name: Name
    settings: Settings = Settings()
    laying: LayingChoices = LayingChoices()
    build: BuildPlan = BuildPlan()
    work: WorkPlan = WorkPlan()
    keep: KeepPlan = KeepPlan()
    rooms: Annotated[tuple[Room, ...], Field(min_length=1, max_length=20)]
    openings: Annotated[tuple[Opening, ...], Field(max_length=100)] = ()
    beams: Annotated[tuple[Beam, ...], Field(max_length=100)] = ()
    features: Annotated[tuple[Feature, ...], Field(max_length=200)] = ()
    circuits: Annotated[tuple[Circuit, ...], Field(max_length=60)] = ()
    outlets: Annotated[tuple[Outlet, ...], Field(max_length=200)] = ()
    underlay: Underlay | None = None
    kept_designs: Annotated[tuple[KeptDesign, ...], Field(max_length=12)] = ()
    # How the shop may stand, and which of these is laid out.
    arrangements: Annotated[tuple[FloorArrangement, ...], Field(max_length=8)] = ()
    arranged: Id | None = None

    @cached_property
    def corners(self) -> list[XY]:
        """The corners of all rooms, m."""
        return list(itertools.chain.from_iterable(room.outline for room in self.rooms))

    @cached_property
    def element(self) -> dict[str, Any]:
        """Everything that has an id of its own, by that id."""
        return {item.id: item for name in LISTS for item in getattr(self, name)}

    def find(self, element: str) -> Any:
        """The element with an id or reference, or None.

        "room/wall-2" and "room/corner-1" are the room, "saw/parked-1" is the saw, "beam/end-2" the
        beam.
        """
        if element in self.element:
            return self.element[element]
        if element in self.pickup:
            return self.pickup[element][1]
        # A wall, corner, parked place or beam's end is counted within its owner, from 1.
        owner, _, part = element.partition("/")
        item = self.element.get(owner)
        if isinstance(item, Collector) and part in PARTS:
            return item if item.apart(part) is not None else None
        kind, _, number = part.rpartition("-")
        corners = len(item.outline) if isinstance(item, Room) else 0
        parked = len(getattr(item, "parked", ()))
        count = {
            "wall": corners,
            "corner": corners,
            "parked": parked,
            "end": 2 if isinstance(item, Beam) else 0,
        }
        known = number.isdigit() and 1 <= int(number) <= count.get(kind, 0)
        return item if known else None

    @model_validator(mode="after")
    def _names_what_it_has(self) -> Self:
        for problem in _shop_problems(self):
            raise problem
        return self


def _shop_problems(project: Project) -> Iterator[DuctworkError]:
    yield from repeated_ids(project, ("kept_designs",))
    yield from repeated_ids(project, ("arrangements",))
    known = {each.id for each in project.arrangements}
    if (project.arranged is None) != (not known) or project.arranged not in {None, *known}:
        yield DuctworkError(
            f"arrangement '{project.arranged}'",
            "is said to be laid out, but is not there",
            "name one of the shop's arrangements, or none where there is none",
        )
    kept = {design.id for design in project.kept_designs}
    for number, phase in enumerate(project.build.phases, 1):
        if phase.design is not None and phase.design not in kept:
            yield DuctworkError(
                f"phase {number}",
                f"is to stand as kept design '{phase.design}', which does not exist",
                "name a design that is kept, or none",
            )
    yield from _hosts(project)
    circuits = {circuit.id for circuit in project.circuits}
    plugged = [("outlet", o.id, o.circuit) for o in project.outlets]
    plugged += [("machine", m.id, m.circuit) for m in project.machines if m.circuit]
    plugged += [("collector", c.id, c.circuit) for c in project.collectors if c.circuit]
    for what, ident, circuit in plugged:
        if circuit not in circuits:
            yield DuctworkError(
                f"{what} '{ident}'",
                f"is on circuit '{circuit}', which does not exist",
                "name a circuit of this shop",
            )


def _hosts(project: Project) -> Iterator[DuctworkError]:
    """Guests whose host is not there, or that stand on themselves over others."""
    items: list[Any] = [*project.machines, *project.collectors, *project.features]
    guests = {item.id: item.host for item in items if item.host is not None}
    known = {item.id for item in items}
    for ident, host in guests.items():
        if host not in known:
            yield DuctworkError(
                f"'{ident}'",
                f"stands on '{host}', which does not exist",
                "name a machine, a collector or a thing of this shop, or none",
            )
        here, steps = host, 0
        while here in guests and here != ident and steps < len(guests):
            here, steps = guests[here], steps + 1
        if here == ident:
            yield DuctworkError(
                f"'{ident}'", "stands on itself", "let the lowest of them stand on the floor"
            )
