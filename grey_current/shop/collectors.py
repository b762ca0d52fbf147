"""Collectors: fan, separator, filter, motor and bin, and where they stand."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from grey_current.shop.build_plan import PhaseNumber
from grey_current.shop.fans import Fan
from grey_current.shop.machines import PortEnd, Side
from grey_current.shop.values import (
    LEAST_AREA,
    Airflow,
    Bore,
    Height,
    Id,
    Name,
    Note,
    Place,
    Pressure,
    Size,
    Turn,
    Value,
)

# The parts of a collector that may stand by themselves.
PartName = Literal["separator", "filter"]
PARTS: tuple[PartName, ...] = ("separator", "filter")


class Apart(Value):
    """How a collector's separator or filter stands by itself, joined to the fan by a hose.

    Its middle lies (dx, dy) m from the fan's, to the fan's own right and back, so that both are
    moved and turned as one.

    Attributes:
        bottom: How high over the floor (m) it stands; `turn` is besides the fan's own.
        port: What its own ports are wide, and `inlet_dx`, `inlet_dy`, `inlet_height` where the one
            is that ducts or the fan lead to, from its middle and its foot.
        hose: How wide the hose to the fan is; None for as wide as the port.
        length: How long that hose is (m); None for what the distance asks for.
    """

    dx: Place
    dy: Place
    turn: Turn = 0.0
    bottom: Annotated[float, Field(ge=0, le=20, description="m")] = 0.0
    width: Size
    depth: Size
    height: Size
    port: Bore
    inlet_dx: Place = 0.0
    inlet_dy: Place = 0.0
    inlet_height: Height
    hose: Bore | None = None
    length: Annotated[float, Field(gt=0, le=30, description="m")] | None = None
    # Sides from which its bin is pulled or it is cleaned.
    service: tuple[Side, ...] = ()
    service_depth: Size = 0.6


class Separator(Value):
    """A cyclone, drum lid or bucket: its loss (Pa) at an airflow (m³/s), and on which side of the
    fan it stands.
    """

    kind: Literal["cyclone", "small cyclone", "lid with baffle", "drum lid", "bucket"]
    loss: Pressure
    at_airflow: Airflow
    placed: Literal["before the fan", "after the fan"] = "before the fan"
    # None: it is part of the collector's own body.
    apart: Apart | None = None


class Filter(Value):
    """The filter after the fan: resistance when new (Pa per m³/s), area (m²), loading (0 = new).

    A loading of 1 doubles the resistance. `seasoned` is the loading that a filter in use settles
    at, which cleaning brings it back to; `due` the one at which it is to be cleaned. Kind "none":
    the air goes out as it is.
    """

    kind: Literal["bag", "felt bag", "pleated cartridge", "none"]
    resistance: Annotated[float, Field(ge=0, le=200_000)]
    area: Annotated[float, Field(gt=0, le=200)]
    loading: Annotated[float, Field(ge=0, le=20, description="share")] = 0.0
    seasoned: Annotated[float, Field(ge=0, le=20, description="share")] = 2.0
    due: Annotated[float, Field(ge=0, le=20, description="share")] = 5.0
    # None: it is part of the collector's own body.
    apart: Apart | None = None


class Motor(Value):
    """A motor: shaft power (W), and its plate's voltage and current (A) where they are known."""

    power: Annotated[float, Field(gt=10, le=50_000)]
    volts: Annotated[float, Field(ge=90, le=480)] | None = None
    amps: Annotated[float, Field(gt=0, le=200)] | None = None


class Bin(Value):
    """What the chips fall into: volume (m³) and height (m), which is part of the collector's
    height.
    """

    volume: Annotated[float, Field(gt=0.001, le=5, description="m³")]
    height: Size


class Collector(Value):
    """A collector or vacuum: its place and size, inlet, fan, separator and filter, motor and
    bin.
    """

    id: Id
    name: Name
    model: Name
    x: Place
    y: Place
    turn: Turn = 0.0
    # m over the floor at which its foot is, and what it stands on, under or in.
    bottom: Annotated[float, Field(ge=0, le=20, description="m")] = 0.0
    host: Id | None = None
    width: Size
    depth: Size
    height: Size
    # How much of its height is a stand that can be cut or left out.
    stand: Annotated[float, Field(ge=0, le=4, description="m")] = 0.0
    inlet_dx: Place = 0.0
    inlet_dy: Place = 0.0
    inlet_height: Height
    inlet: Bore
    inlet_end: PortEnd = "spigot"
    fan: Fan
    # Where the curve comes from, in words.
    curve_note: Note
    separator: Separator | None = None
    filter: Filter
    # Sides from which the bin is pulled and the filter reached.
    service: tuple[Side, ...] = ()
    service_depth: Size = 0.6
    motor: Motor | None = None
    # Impeller diameter, m.
    impeller: Size | None = None
    bin: Bin | None = None
    noise: (
        Annotated[float, Field(ge=40, le=120, description="dB(A) at 1 m, in the open")] | None
    ) = None
    stands: Literal["in the room", "boxed in", "next room", "outdoors"] = "in the room"
    exhausts: Literal["into the shop", "outdoors"] = "into the shop"
    # Free area through which air comes back: into the shop from a box or another room, or as
    # make-up air.
    opening: Annotated[float, Field(ge=LEAST_AREA, le=20, description="m²")] | None = None
    # The circuit that it is plugged into; None: that of the nearest outlet.
    circuit: Id | None = None
    # m of its power lead; None where it is not known.
    lead: Annotated[float, Field(gt=0, le=100, description="m")] | None = None
    # It is rolled aside where boards want its place.
    wheels: bool = False
    # Started by the current of the machine that it serves.
    auto_start: bool = False
    # How long it goes on when the machine has stopped.
    run_on: Annotated[float, Field(ge=0, le=600, description="s")] = 0.0
    # When it is bought.
    phase: PhaseNumber = 1

    def apart(self, part: PartName) -> Apart | None:
        """How its separator or filter stands by itself; None where it does not."""
        item = self.separator if part == "separator" else self.filter
        return None if item is None else item.apart

    @property
    def led_through(self) -> Apart | None:
        """The separator that stands by itself before the fan: ducts come to it, not to the fan."""
        item = self.separator
        return item.apart if item is not None and item.placed == "before the fan" else None

    @property
    def duct_inlet(self) -> float:
        """Inside diameter (m) of the port that ducts come to: the fan's, or that of a separator
        which stands by itself before it.
        """
        return self.inlet if self.led_through is None else self.led_through.port

    @property
    def takes_air_away(self) -> bool:
        """Whether its air leaves the room, so that it must come back through an opening."""
        return self.stands != "in the room" or self.exhausts == "outdoors"
