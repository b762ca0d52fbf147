"""The Project: everything that the user draws and owns, as frozen values in SI units.

Imports only `errors`, `units` and the air's vocabulary. Values are checked when they are made, so a
Project that exists is sound; results never live here.
"""

from __future__ import annotations

import itertools
import math
from collections import Counter
from collections.abc import Iterable, Iterator
from functools import cached_property
from typing import Annotated, Any, Literal, Self

from pydantic import Field, model_validator

from grey_current.air.needs import Chips, DesignCriterion
from grey_current.errors import DuctworkError
from grey_current.shop.room import Beam, Circuit, Feature, Opening, Outlet, Room, Underlay
from grey_current.shop.values import Airflow, Bore, Height, Id, Name, Place, Pressure, Ref, Share, Size, Turn, Value

FORMAT = "grey-current/project"
FORMAT_VERSION = 4


class Settings(Value):
    """How the shop counts: units on screen, design criterion, and its air."""

    units: Literal["us", "metric"] = "us"
    criterion: DesignCriterion = "clear chips"
    altitude: Annotated[float, Field(ge=-400, le=5000, description="m")] = 0.0
    temperature: Annotated[float, Field(ge=-30, le=50, description="°C")] = 21.0
    humidity: Share = 0.0
    longest_board: Annotated[float, Field(gt=0.1, le=12, description="m")] | None = None
    """The longest board that the user wants to work; lanes that cannot are flagged."""
    duct_leakage: Annotated[float, Field(ge=0, le=0.01)] = 0.0
    """Leakage of the ducts' own joints, m³/s per m² of duct at 1 Pa, with Δp^0.65; 0 for tight ones."""
    together: Annotated[tuple[tuple[Id, ...], ...], Field(max_length=40)] = ()
    """Machines that are run at the same time, besides each on its own."""
    outside: Annotated[float, Field(ge=-50, le=45, description="°C")] = 2.0
    """Usual temperature outdoors in the heating season."""


class FreeArea(Value):
    """A cabinet or hood known by its free intake area (m²)."""

    by: Literal["free area"] = "free area"
    area: Annotated[float, Field(gt=0, le=4, description="m²")]


class Measured(Value):
    """A hood known by one measurement: this airflow (m³/s) at this static pressure (Pa below the room)."""

    by: Literal["measured"] = "measured"
    airflow: Airflow
    static_pressure: Pressure


class Capture(Value):
    """Where dust is released before an opening: distance (m), speed needed there (m/s), opening (m²)."""

    distance: Annotated[float, Field(ge=0, le=2)]
    velocity: Annotated[float, Field(gt=0, le=20)]
    area: Annotated[float, Field(gt=0, le=4)]
    flanged: bool = False


class CurvePoints(Value):
    """A fan known by points of airflow (m³/s) and fan static pressure (Pa) at a density (kg/m³)."""

    by: Literal["points"] = "points"
    points: Annotated[tuple[tuple[float, float], ...], Field(min_length=2, max_length=200)]
    density: Annotated[float, Field(ge=0.5, le=2)] = 1.2014
    speed: Annotated[float, Field(ge=0.2, le=2)] = 1.0
    """Speed over the speed at which the points were taken."""
    impeller_ratio: Annotated[float, Field(ge=0.5, le=1.5)] = 1.0
    """Impeller in it over the impeller with which the points were taken, in the same housing."""

    @model_validator(mode="after")
    def _falls(self) -> Self:
        ordered = sorted(self.points)
        if any(q < 0 or p < 0 or q > 20 or p > 60_000 for q, p in ordered):
            raise ValueError("airflows go from 0 to 20 m³/s and pressures from 0 to 60,000 Pa")
        if any(b[0] - a[0] < 1e-6 for a, b in itertools.pairwise(ordered)):
            raise ValueError("two points share one airflow")
        if ordered[-1][1] >= ordered[-2][1]:
            raise ValueError("the pressure must fall towards the last point")
        return self


class Claim(Value):
    """A fan known by its maker's claim only: impeller (m), "free air" (m³/s), motor (W), mains (Hz)."""

    by: Literal["claim"] = "claim"
    impeller: Annotated[float, Field(gt=0.05, le=1.5)]
    free_air: Airflow
    motor_power: Annotated[float, Field(gt=10, le=50_000)]
    hertz: Literal[50, 60] = 60


Fan = Annotated[CurvePoints | Claim, Field(discriminator="by")]


class Pickup(Value):
    """A place where a machine gives up its dust: position from the machine's centre, height, port."""

    id: Id
    name: Name
    dx: Place = 0.0
    dy: Place = 0.0
    height: Height
    port: Bore
    intake: Annotated[FreeArea | Measured, Field(discriminator="by")]
    opening: Literal["plain", "flanged", "tapered", "bell"] = "flanged"
    """How the port opens into the hood or cabinet."""
    capture: Capture | None = None
    need: Airflow | None = None
    """The user's own figure, which overrides both criteria."""
    own_fan: Fan | None = None
    """A machine with its own chip fan is a fan in the branch."""
    tilts: bool = False
    """The port swings with the machine's blade or table, so a rigid duct would be torn off."""


class ParkedPlace(Value):
    """A place where a machine on wheels is parked."""

    x: Place
    y: Place
    turn: Turn = 0.0


Side = Literal["front", "back", "left", "right"]


class MachineBody(Value):
    """What a machine is wherever it stands: size, work, pickups, electrical load."""

    name: Name
    kind: Name
    width: Size
    depth: Size
    height: Height | None = None
    """Overall height, m; None: no higher than its table."""
    table_height: Height = 0.86
    feed: Turn | None = None
    """Direction in which stock travels, degrees from the machine's own left-to-right; None: none."""
    feeds_across: bool = False
    """Stock lies still across the machine (mitre saw) instead of passing through it."""
    lane_width: Size = 0.3
    takes_sheets: bool = False
    wheels: bool = False
    service: tuple[Side, ...] = ()
    """Sides from which bin, filter, blade or belt are reached."""
    service_depth: Size = 0.5
    chips: Chips = "dry dust"
    chip_litres_per_hour: Annotated[float, Field(ge=0, le=2000)] | None = None
    cutter: Literal["straight knives", "segmented", "blade", "abrasive"] | None = None
    volts: Annotated[float, Field(ge=90, le=480)] | None = None
    amps: Annotated[float, Field(gt=0, le=200)] | None = None
    uses_per_week: Annotated[float, Field(ge=0, le=500)] = 1.0
    minutes_per_use: Annotated[float, Field(ge=0, le=600)] = 10.0
    priority: bool = False
    """Must never be short of air."""
    pickups: tuple[Pickup, ...] = ()
    note: Annotated[str, Field(max_length=400)] = ""
    """How the figures were derived, or the user's own words."""


class Machine(MachineBody):
    """A machine in the shop: where its centre stands, how it is turned, where it is parked."""

    id: Id
    x: Place
    y: Place
    turn: Turn = 0.0
    parked: tuple[ParkedPlace, ...] = ()
    circuit: Id | None = None
    """The circuit that it is plugged into; None: that of the nearest outlet."""


class Separator(Value):
    """A cyclone, drum lid or bucket: its loss (Pa) at an airflow (m³/s), and on which side of the fan it stands."""

    kind: Literal["cyclone", "drum lid", "bucket"]
    loss: Pressure
    at_airflow: Airflow
    placed: Literal["before the fan", "after the fan"] = "before the fan"


class Filter(Value):
    """The filter after the fan: clean resistance (Pa per m³/s), area (m²), loading (0 = clean)."""

    kind: Literal["bag", "felt bag", "pleated cartridge"]
    resistance: Annotated[float, Field(ge=0, le=200_000)]
    area: Annotated[float, Field(gt=0, le=200)]
    loading: Annotated[float, Field(ge=0, le=20)] = 0.0


class Motor(Value):
    """A motor: shaft power (W), and its plate's voltage and current (A) where they are known."""

    power: Annotated[float, Field(gt=10, le=50_000)]
    volts: Annotated[float, Field(ge=90, le=480)] | None = None
    amps: Annotated[float, Field(gt=0, le=200)] | None = None


class Bin(Value):
    """What the chips fall into: volume (m³) and height (m), which is part of the collector's height."""

    volume: Annotated[float, Field(gt=0.001, le=5)]
    height: Size


class Collector(Value):
    """A collector or vacuum: its place and size, inlet, fan, separator and filter, motor and bin."""

    id: Id
    name: Name
    model: Name
    x: Place
    y: Place
    turn: Turn = 0.0
    width: Size
    depth: Size
    height: Size
    inlet_dx: Place = 0.0
    inlet_dy: Place = 0.0
    inlet_height: Height
    inlet: Bore
    fan: Fan
    curve_note: Name
    """Where the curve comes from, in words."""
    separator: Separator | None = None
    filter: Filter
    service: tuple[Side, ...] = ()
    """Sides from which the bin is pulled and the filter reached."""
    service_depth: Size = 0.6
    motor: Motor | None = None
    impeller: Size | None = None
    """Impeller diameter, m."""
    bin: Bin | None = None
    noise: Annotated[float, Field(ge=40, le=120, description="dB(A) at 1 m, in the open")] | None = None
    stands: Literal["in the room", "boxed in", "next room", "outdoors"] = "in the room"
    exhausts: Literal["into the shop", "outdoors"] = "into the shop"
    opening: Annotated[float, Field(gt=0, le=20, description="m²")] | None = None
    """Free area through which air comes back: into the shop from a box or another room, or as make-up air."""
    circuit: Id | None = None
    """The circuit that it is plugged into; None: that of the nearest outlet."""
    auto_start: bool = False
    """Started by the current of the machine that it serves."""
    run_on: Annotated[float, Field(ge=0, le=600, description="s")] = 0.0
    """How long it goes on when the machine has stopped."""
    price: Annotated[float, Field(ge=0, le=1e6)] | None = None
    """In the user's own money."""


class Point(Value):
    """A place that ducts pass or end at. What stands there is inferred; the rest overrides it."""

    id: Id
    x: Place
    y: Place
    height: Height
    end: Literal["open", "cap"] = "open"
    """What a run that ends here has on its end."""
    elbow: Literal["smooth", "five gores", "three gores", "mitre", "two 45s"] = "smooth"
    radius_ratio: Annotated[float, Field(ge=0.5, le=10)] = 1.5
    """Centre-line radius of an elbow here over its diameter."""
    reducer: Literal["taper", "step"] = "taper"
    wye_angle: Annotated[float, Field(ge=15, le=90)] | None = None
    """Angle of a wye here; None reads it off the drawing."""
    splitter: bool = False
    """A box that joins two pipes into one, instead of a wye."""


class Run(Value):
    """A straight length of duct, or a hose, between two ends."""

    id: Id
    start: Ref
    end: Ref
    diameter: Bore
    material: Name
    length: Size | None = None
    """A hose's own length (m); None, and any rigid duct, is as long as the way between its ends."""
    also_serves: tuple[Ref, ...] = ()
    """Other pickups that this hose's start is moved to."""
    coupling: Literal["clamp", "quick"] = "clamp"
    """How a moved hose is fastened: a hose clamp, or a connector that pushes on."""
    swap_seconds: Annotated[float, Field(gt=0, le=3600, description="s")] | None = None
    """The user's own time for moving it once; None takes the usual time for its coupling."""


class Gate(Value):
    """A blast gate on a run, at a share of the way from the run's start."""

    id: Id
    run: Id
    at: Share = 0.5
    rule: Literal["with its machine", "left open", "kept shut"] = "with its machine"
    opening: Annotated[float, Field(ge=0.05, le=1)] = 1.0
    """Free share of the bore when open."""
    bore: Literal["full bore", "stepped"] = "stepped"
    leak: Annotated[float, Field(ge=0, le=0.2)] = 0.005
    """Share of the bore through which the shut gate leaks."""


LISTS = (
    "rooms",
    "openings",
    "beams",
    "features",
    "circuits",
    "outlets",
    "machines",
    "collectors",
    "points",
    "runs",
    "gates",
)
"""Fields of a project that hold elements with ids."""


class Design(Value):
    """Machines, collectors and the ductwork between them: what a kept design is made of."""

    machines: tuple[Machine, ...] = ()
    collectors: tuple[Collector, ...] = ()
    points: tuple[Point, ...] = ()
    runs: tuple[Run, ...] = ()
    gates: tuple[Gate, ...] = ()

    @cached_property
    def machine(self) -> dict[str, Machine]:
        return {item.id: item for item in self.machines}

    @cached_property
    def collector(self) -> dict[str, Collector]:
        return {item.id: item for item in self.collectors}

    @cached_property
    def point(self) -> dict[str, Point]:
        return {item.id: item for item in self.points}

    @cached_property
    def run(self) -> dict[str, Run]:
        return {item.id: item for item in self.runs}

    @cached_property
    def gate(self) -> dict[str, Gate]:
        return {item.id: item for item in self.gates}

    @cached_property
    def pickup(self) -> dict[str, tuple[Machine, Pickup]]:
        """Every pickup by its reference "machine/pickup"."""
        return {f"{m.id}/{p.id}": (m, p) for m in self.machines for p in m.pickups}

    @model_validator(mode="after")
    def _holds_together(self) -> Self:
        for problem in structure_problems(self):
            raise problem
        return self


class KeptDesign(Design):
    """A design of the same shop that was kept aside, to go back to or to compare with."""

    id: Id
    name: Name


class Project(Design):
    """A shop and its dust collection."""

    format: Literal["grey-current/project"] = "grey-current/project"
    format_version: Literal[4] = 4
    name: Name
    settings: Settings = Settings()
    rooms: Annotated[tuple[Room, ...], Field(min_length=1, max_length=20)]
    openings: tuple[Opening, ...] = ()
    beams: tuple[Beam, ...] = ()
    features: tuple[Feature, ...] = ()
    circuits: tuple[Circuit, ...] = ()
    outlets: tuple[Outlet, ...] = ()
    underlay: Underlay | None = None
    kept_designs: Annotated[tuple[KeptDesign, ...], Field(max_length=12)] = ()

    @cached_property
    def element(self) -> dict[str, Any]:
        """Everything that has an id of its own, by that id."""
        return {item.id: item for name in LISTS for item in getattr(self, name)}

    def find(self, element: str) -> Any:
        """The element with an id or reference, or None: "room/wall-2" is the room, "saw/parked-1" the saw."""
        if element in self.element:
            return self.element[element]
        if element in self.pickup:
            return self.pickup[element][1]
        owner, _, part = element.partition("/")
        item = self.element.get(owner)
        kind, _, number = part.rpartition("-")
        count = {"wall": len(getattr(item, "outline", ())), "parked": len(getattr(item, "parked", ()))}
        known = number.isdigit() and 1 <= int(number) <= count.get(kind, 0)
        return item if known else None

    @model_validator(mode="after")
    def _names_what_it_has(self) -> Self:
        for problem in _shop_problems(self):
            raise problem
        return self


def structure_problems(design: Design) -> Iterator[DuctworkError]:
    """What keeps the elements of a design from being one: ids used twice, unknown ends, loops."""
    yield from _repeated_ids(design, [name for name in LISTS if name in type(design).model_fields])
    yield from _repeated_pickups(design)
    yield from _unknown_ends(design)
    yield from _crowded_ports(design)
    yield from _loops(design)


def _shop_problems(project: Project) -> Iterator[DuctworkError]:
    yield from _repeated_ids(project, ("kept_designs",))
    circuits = {circuit.id for circuit in project.circuits}
    plugged = [("outlet", o.id, o.circuit) for o in project.outlets]
    plugged += [("machine", m.id, m.circuit) for m in project.machines if m.circuit]
    plugged += [("collector", c.id, c.circuit) for c in project.collectors if c.circuit]
    for what, ident, circuit in plugged:
        if circuit not in circuits:
            yield DuctworkError(
                f"{what} '{ident}'", f"is on circuit '{circuit}', which does not exist", "name a circuit of this shop"
            )


def _repeated_ids(design: Design, lists: Iterable[str]) -> Iterator[DuctworkError]:
    seen: set[str] = set()
    for group in lists:
        for item in getattr(design, group):
            if item.id in seen:
                yield DuctworkError(f"'{item.id}'", "is the id of two things", "give one of them another id")
            seen.add(item.id)


def _repeated_pickups(design: Design) -> Iterator[DuctworkError]:
    for machine in design.machines:
        names = [pickup.id for pickup in machine.pickups]
        for name in names:
            if names.count(name) > 1:
                yield DuctworkError(
                    f"machine '{machine.id}'", f"has two pickups '{name}'", "give one of them another id"
                )


def _unknown_ends(design: Design) -> Iterator[DuctworkError]:
    known = {*design.point, *design.collector, *design.pickup}
    for run in design.runs:
        for ref in (run.start, run.end, *run.also_serves):
            if ref not in known:
                yield DuctworkError(
                    f"run '{run.id}'",
                    f"goes to '{ref}', which does not exist",
                    "name a point, a collector or a machine/pickup of this shop",
                )
        if run.start == run.end:
            yield DuctworkError(f"run '{run.id}'", f"begins and ends at '{run.start}'", "give it two different ends")
        for ref in run.also_serves:
            if ref in design.collector or ref in design.point:
                yield DuctworkError(
                    f"run '{run.id}'",
                    f"is said to be moved to '{ref}', which is no pickup",
                    "name only machine/pickup references in also_serves",
                )
        if run.also_serves and run.start not in design.pickup:
            yield DuctworkError(
                f"run '{run.id}'",
                "is moved between machines but starts at no pickup",
                "let it start at the pickup where it rests",
            )
    for gate in design.gates:
        if gate.run not in design.run:
            yield DuctworkError(
                f"gate '{gate.id}'", f"sits on run '{gate.run}', which does not exist", "name a run of this shop"
            )


def _crowded_ports(design: Design) -> Iterator[DuctworkError]:
    ends = Counter(ref for run in design.runs for ref in (run.start, run.end))
    for ref in sorted(ref for ref, count in ends.items() if count > 1 and ref not in design.point):
        what = "collector inlet" if ref in design.collector else "pickup"
        yield DuctworkError(
            f"{what} '{ref}'", "has more than one run on it", "join them in a wye at a point and lead one run on"
        )


def _loops(design: Design) -> Iterator[DuctworkError]:
    group: dict[str, str] = {}

    def root(ref: str) -> str:
        while group.get(ref, ref) != ref:
            ref = group[ref]
        return ref

    for run in design.runs:
        start, end = root(run.start), root(run.end)
        if start == end:
            yield DuctworkError(
                f"run '{run.id}'",
                f"closes a loop of ducts between '{run.start}' and '{run.end}'",
                "take one run of the loop away: air must have one way only to the collector",
            )
        group[start] = end
    for a in design.collectors:
        for b in design.collectors:
            if a.id < b.id and root(a.id) == root(b.id) and a.id in group:
                yield DuctworkError(
                    f"collectors '{a.id}' and '{b.id}'",
                    "are joined by ducts",
                    "separate them: each system has one collector",
                )


def standing(x: float, y: float, turn: float, dx: float, dy: float) -> tuple[float, float]:
    """A place (dx, dy) from the centre of something that stands at (x, y), turned by degrees."""
    c, s = math.cos(math.radians(turn)), math.sin(math.radians(turn))
    return x + c * dx - s * dy, y + s * dx + c * dy


def position(project: Design, ref: str) -> tuple[float, float, float]:
    """Where a run's end is: x, y and height in m. Raises `KeyError` for an unknown reference."""
    if ref in project.point:
        point = project.point[ref]
        return point.x, point.y, point.height
    if ref in project.collector:
        c = project.collector[ref]
        return (*standing(c.x, c.y, c.turn, c.inlet_dx, c.inlet_dy), c.inlet_height)
    machine, pickup = project.pickup[ref]
    place = standing(machine.x, machine.y, machine.turn, pickup.dx, pickup.dy)
    return (*place, pickup.height)


def distance(project: Design, run: Run, start: str | None = None) -> float:
    """Straight distance (m) between a run's ends, from `start` instead of its own when given."""
    return math.dist(position(project, start or run.start), position(project, run.end))


def footprint(item: Machine | Collector) -> tuple[tuple[float, float], ...]:
    """The four corners of what a machine or collector covers, m."""
    w, d = item.width / 2, item.depth / 2
    return tuple(standing(item.x, item.y, item.turn, dx, dy) for dx, dy in ((-w, -d), (w, -d), (w, d), (-w, d)))
