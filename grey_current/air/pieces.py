"""What air passes, one value for each kind of piece with its own geometry, SI units throughout.

A piece knows its law, the diameter whose velocity is shown for it and the element that it came
from. What else it was made from belongs to its kind. Imports only `laws`.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import ClassVar

from grey_current.air import laws


@dataclass(frozen=True)
class Piece:
    """One thing that air passes.

    `source_id` is the id of the run, point, gate, machine or collector that it came from;
    `diameter` (m) the one whose velocity is shown; `allowance` marks a rule of thumb without a
    measured correlation.
    """

    kind: ClassVar[str] = ""
    id: str
    source_id: str
    law: laws.Law
    diameter: float
    allowance: bool = field(default=False, kw_only=True)


@dataclass(frozen=True, kw_only=True)
class Straight(Piece):
    """Duct or hose: length and roughness (m). `rises`: it lifts the chips; `forward`: air passes it
    as drawn.
    """

    length: float
    roughness: float
    # An upright or steep run asks for more velocity than one that lies level.
    rises: bool = False
    forward: bool = True


@dataclass(frozen=True, kw_only=True)
class Duct(Straight):
    """Rigid duct."""

    kind = "duct"


@dataclass(frozen=True, kw_only=True)
class Hose(Straight):
    """Flexible hose, without its bends."""

    kind = "hose"


@dataclass(frozen=True, kw_only=True)
class HoseBend(Piece):
    """What a drooping hose turns through, counted in bends of 90°."""

    kind = "hose_bend"
    count: float
    radius_ratio: float
    roughness: float
    friction_factor: float


@dataclass(frozen=True, kw_only=True)
class Elbow(Piece):
    """An elbow: degrees, centre-line radius over diameter, how it is made, the friction factor
    inside its K.
    """

    kind = "elbow"
    angle: float
    radius_ratio: float
    construction: str
    friction_factor: float


@dataclass(frozen=True, kw_only=True)
class Mitre(Piece):
    """A mitred elbow of so many degrees."""

    kind = "mitre"
    angle: float


@dataclass(frozen=True, kw_only=True)
class SizeChange(Piece):
    """A change of diameter: both ends (m), a taper's included angle (degrees; None: a sudden
    step).
    """

    small: float
    large: float
    angle: float | None
    friction_factor: float | None

    @property
    def sudden(self) -> bool:
        """Whether it is a step instead of a taper."""
        return self.angle is None


@dataclass(frozen=True, kw_only=True)
class Expansion(SizeChange):
    """A widening with the flow."""

    kind = "expansion"


@dataclass(frozen=True, kw_only=True)
class Contraction(SizeChange):
    """A narrowing with the flow."""

    kind = "contraction"


@dataclass(frozen=True, kw_only=True)
class WyeLeg(Piece):
    """One leg of a wye: the branch's angle (degrees), the combined leg and the other upstream leg
    (m).

    `outside_data` marks a joint beyond its correlation, computed at the edge of it.
    """

    angle: float
    combined: float
    other: float
    outside_data: bool


@dataclass(frozen=True, kw_only=True)
class WyeBranch(WyeLeg):
    """The leg that comes in from the side."""

    kind = "wye_branch"


@dataclass(frozen=True, kw_only=True)
class WyeMain(WyeLeg):
    """The straight leg."""

    kind = "wye_main"


@dataclass(frozen=True, kw_only=True)
class Splitter(Piece):
    """One leg of a two-into-one box: the leg and the pipe behind the box (m)."""

    kind = "splitter"
    # Both legs are alike in a box; the pipe behind it takes them together.
    small: float
    large: float


@dataclass(frozen=True, kw_only=True)
class BlastGate(Piece):
    """A blast gate: its bore, the free share of it when open, the share through which it leaks when
    shut.
    """

    kind = "gate"
    construction: str
    opening: float
    leak_share: float


@dataclass(frozen=True, kw_only=True)
class Cap(Piece):
    """A cap or closed clean-out that leaks through a share of its bore."""

    # A leak is a branch of its own: it draws air all the time, whoever works.
    kind = "leak"
    leak_share: float


@dataclass(frozen=True, kw_only=True)
class Entry(Piece):
    """The opening through which air enters a duct: plain, flanged, tapered or bell."""

    kind = "entry"
    construction: str


@dataclass(frozen=True, kw_only=True)
class Intake(Piece):
    """What a machine does to the air before its port: by its free area (m²), or None when it was
    measured.
    """

    kind = "intake"
    free_area: float | None


@dataclass(frozen=True, kw_only=True)
class Leakage(Piece):
    """A run's own leaky joints: m³/s at 1 Pa."""

    kind = "seam"
    capacity: float


@dataclass(frozen=True, kw_only=True)
class Spacing(Piece):
    """What a fitting loses more because another stands so close (m) before it."""

    kind = "spacing"
    gap: float


@dataclass(frozen=True, kw_only=True)
class InletDisturbance(Piece):
    """What a turn so close (m) before a collector's inlet costs."""

    kind = "inlet_disturbance"
    gap: float


@dataclass(frozen=True, kw_only=True)
class Separator(Piece):
    """A cyclone, drum lid or bucket."""

    kind = "separator"


@dataclass(frozen=True, kw_only=True)
class CollectorHose(Piece):
    """The hose (m) between a fan and a separator or filter that stands by itself, without its
    bends. `to` says which of the two.
    """

    kind = "collector_hose"
    to: str
    length: float
    roughness: float


@dataclass(frozen=True, kw_only=True)
class Filter(Piece):
    """A filter."""

    kind = "filter"


@dataclass(frozen=True, kw_only=True)
class Fan(Piece):
    """A fan."""

    kind = "fan"


@dataclass(frozen=True, kw_only=True)
class ReturnOpening(Piece):
    """The free area (m²) through which the air comes back."""

    kind = "return_opening"
    free_area: float
