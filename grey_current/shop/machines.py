"""Machines: body, work, pickups, and where they stand."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from grey_current.air.needs import Chips
from grey_current.shop.build_plan import PhaseNumber
from grey_current.shop.fans import Fan
from grey_current.shop.values import (
    LEAST_AREA,
    Airflow,
    Bore,
    Height,
    Id,
    Name,
    Place,
    Pressure,
    Share,
    Size,
    Turn,
    Value,
)


class FreeArea(Value):
    """A cabinet or hood known by its free intake area (m²)."""

    by: Literal["free area"] = "free area"
    area: Annotated[float, Field(ge=LEAST_AREA, le=4, description="m²")]


class Measured(Value):
    """A hood known by one measurement: this airflow (m³/s) at this static pressure (Pa below the
    room).

    `density` is that of the air in which it was measured (kg/m³); None for this shop's own.
    """

    by: Literal["measured"] = "measured"
    airflow: Airflow
    static_pressure: Pressure
    density: Annotated[float, Field(ge=0.5, le=2)] | None = None


class Capture(Value):
    """Where dust is released before an opening: distance (m), speed needed there (m/s), opening
    (m²).
    """

    distance: Annotated[float, Field(ge=0, le=2, description="m")]
    velocity: Annotated[float, Field(gt=0, le=20, description="m/s")]
    area: Annotated[float, Field(ge=LEAST_AREA, le=4, description="m²")]
    flanged: bool = False


# How a machine's port or a collector's inlet ends: pipe and hose go over a spigot, pipe goes into a
# socket.
PortEnd = Literal["spigot", "socket"]


class Pickup(Value):
    """A place where a machine gives up its dust: position from the machine's centre, height,
    port.
    """

    id: Id
    name: Name
    dx: Place = 0.0
    dy: Place = 0.0
    height: Height
    port: Bore
    port_end: PortEnd = "spigot"
    intake: Annotated[FreeArea | Measured, Field(discriminator="by")]
    # How the port opens into the hood or cabinet.
    opening: Literal["plain", "flanged", "tapered", "bell"] = "flanged"
    capture: Capture | None = None
    # The user's own figure, which overrides both criteria.
    need: Airflow | None = None
    # A machine with its own chip fan is a fan in the branch.
    own_fan: Fan | None = None
    # That fan blows into a bag of its own, as long as no duct or hose leads to a collector.
    own_bag: bool = False
    # Share of the fine dust that it catches, by the user's own eye; None works it out.
    caught: Share | None = None
    # The port swings with the machine's blade or table, so a rigid duct would be torn off.
    tilts: bool = False

    @property
    def bags_itself(self) -> bool:
        """Whether its own fan blows into a bag where nothing leads to a collector."""
        return self.own_bag and self.own_fan is not None


class ParkedPlace(Value):
    """A place where a machine on wheels is parked."""

    x: Place
    y: Place
    turn: Turn = 0.0


Side = Literal["front", "back", "left", "right"]
# What steers dust to a hood or keeps it from flying past (work/data/dust.json).
Aid = Literal["brushes", "insert", "edge block", "side flaps"]
# What a lamp behind the work shows of the dust that flies past the hoods.
LampShows = Literal["nothing", "a thin veil", "a plume", "a cloud"]


class HoodTest(Value):
    """How a machine's hoods were tested, and with which aids on.

    Attributes:
        lamp: What a lamp showed; None where it was not tried.
        removed: Wood that some cuts took away (kg).
        swept: What of it lay on floor and table afterwards (kg).
    """

    lamp: LampShows | None = None
    removed: Annotated[float, Field(gt=0, le=100, description="kg")] | None = None
    swept: Annotated[float, Field(ge=0, le=100, description="kg")] | None = None
    aids: tuple[Aid, ...] = ()

    @property
    def chips_caught(self) -> float | None:
        """The share of the chips that was caught, by weight; None where it was not weighed."""
        if self.removed is None or self.swept is None:
            return None
        return max(1 - self.swept / self.removed, 0.0)


class MachineBody(Value):
    """What a machine is wherever it stands: size, work, pickups, electrical load."""

    name: Name
    kind: Name
    width: Size
    depth: Size
    # Overall height, m; None: no higher than its table.
    height: Height | None = None
    table_height: Height = 0.86
    # m free under it, up from its foot: it then stands on legs.
    under: Annotated[float, Field(ge=0, le=5, description="m")] = 0.0
    # How much of its width, on either side, is only a wing of its table.
    left_wing: Annotated[float, Field(ge=0, le=5, description="m")] = 0.0
    right_wing: Annotated[float, Field(ge=0, le=5, description="m")] = 0.0
    # Direction in which stock travels, degrees from the machine's own left-to-right; None: none.
    feed: Turn | None = None
    # Stock lies still across the machine (mitre saw) instead of passing through it.
    feeds_across: bool = False
    lane_width: Size = 0.3
    takes_sheets: bool = False
    wheels: bool = False
    # Sides from which bin, filter, blade or belt are reached.
    service: tuple[Side, ...] = ()
    service_depth: Size = 0.5
    chips: Chips = "dry dust"
    chip_litres_per_hour: Annotated[float, Field(ge=0, le=2000)] | None = None
    cutter: Literal["straight knives", "segmented", "blade", "abrasive"] | None = None
    volts: Annotated[float, Field(ge=90, le=480)] | None = None
    amps: Annotated[float, Field(gt=0, le=200)] | None = None
    # m of its power lead; None where it is not known.
    lead: Annotated[float, Field(gt=0, le=100, description="m")] | None = None
    uses_per_week: Annotated[float, Field(ge=0, le=500)] = 1.0
    minutes_per_use: Annotated[float, Field(ge=0, le=600)] = 10.0
    # Must never be short of air.
    priority: bool = False
    pickups: tuple[Pickup, ...] = ()
    noise: (
        Annotated[float, Field(ge=40, le=130, description="dB(A) where one stands, at work")] | None
    ) = None
    # A combination machine: of its several working places one is used at a time.
    one_at_a_time: bool = False
    # s to turn its hood over from one working place to another; None: an allowance.
    turn_over: Annotated[float, Field(ge=0, le=1800, description="s")] | None = None
    # Its chips fall into a drawer or box under it.
    chip_drawer: bool = False
    # Share of the fine dust that the drawer keeps, by the user's own eye; None: an allowance.
    drawer_caught: Share | None = None
    # What keeps its dust from flying past its hoods, and how those were tested.
    aids: tuple[Aid, ...] = ()
    hood_test: HoodTest | None = None
    # How the figures were derived, or the user's own words.
    note: Annotated[str, Field(max_length=400)] = ""


class Machine(MachineBody):
    """A machine in the shop: where its centre stands, how it is turned, where it is parked.

    Its heights are over its own foot.
    """

    id: Id
    x: Place
    y: Place
    turn: Turn = 0.0
    # m over the floor at which its foot is, and what it stands on, under or in.
    bottom: Annotated[float, Field(ge=0, le=20, description="m")] = 0.0
    host: Id | None = None
    # It shares the stand of its host, which is turned: one of them is up at a time.
    turns: bool = False
    parked: tuple[ParkedPlace, ...] = ()
    # When it is connected.
    phase: PhaseNumber = 1
    # The circuit that it is plugged into; None: that of the nearest outlet.
    circuit: Id | None = None
