"""What the user says about building: prices, stock, what is owned and done, phases, own sizes, what
is shop-made.
"""

from __future__ import annotations

import datetime
from typing import Annotated, Literal, Self

from pydantic import Field, StringConstraints, model_validator

from grey_current.shop.limits import CURRENCY
from grey_current.shop.values import Bore, Id, Name, Size, Value

# What a kind of part is called in files: "elbow/spiral-steel/102/90/1.5", sizes in millimetres.
PartKey = Annotated[str, StringConstraints(pattern=r"^[a-z0-9]+([-./][a-z0-9]+)*$", max_length=160)]
# A straight piece of pipe: its run and its number along it, or its joint and its number there.
PieceId = Annotated[
    str,
    StringConstraints(pattern=r"^[a-z0-9]+(-[a-z0-9]+)*/(pipe|nipple)-[1-9][0-9]?$", max_length=80),
]
Money = Annotated[float, Field(ge=0, le=1e7)]
Currency = Annotated[str, StringConstraints(pattern=CURRENCY)]
PhaseNumber = Annotated[int, Field(ge=1, le=9)]
MOST_PHASES = 9
# m within which two bores are one.
SAME_BORE = 1e-3


class Price(Value):
    """What one unit of a part costs, and when that was. `made_up` marks prices of the demo
    shops.
    """

    key: PartKey
    price: Money
    currency: Currency
    date: datetime.date
    made_up: bool = False


class PriceShelf(Value):
    """What the user's own price book holds."""

    prices: tuple[Price, ...]


class Owned(Value):
    """How many units of a part are there already, had before (which costs nothing) or bought, and
    used up of them.
    """

    key: PartKey
    had: Annotated[float, Field(ge=0, le=10_000)] = 0.0
    bought: Annotated[float, Field(ge=0, le=10_000)] = 0.0
    # Lengths of pipe that are cut up already; they are wanted no more, and were paid for.
    used: Annotated[float, Field(ge=0, le=10_000)] = 0.0


class StockLength(Value):
    """A length (m) in which pipe of a material is sold; of one bore (m), or of all."""

    material: Name
    length: Annotated[float, Field(ge=0.1, le=12, description="m")]
    diameter: Bore | None = None


class Offcut(Value):
    """Pieces of pipe that are there already, each of a length (m)."""

    material: Name
    diameter: Bore
    length: Annotated[float, Field(ge=0.05, le=12, description="m")]
    count: Annotated[int, Field(ge=1, le=100)] = 1

    def is_of(self, material: str, diameter: float) -> bool:
        """Whether it is of a pipe of a material and bore (m)."""
        return self.material == material and abs(self.diameter - diameter) < SAME_BORE


class OwnSize(Value):
    """How much (m) of the centre line a part takes at each of its ends, as the user measured it."""

    key: PartKey
    takes: Annotated[
        tuple[Annotated[float, Field(ge=0, le=3, description="m")], ...],
        Field(min_length=1, max_length=3),
    ]


class CutPiece(Value):
    """A piece that was cut, and to which length (m); `away`: its bar is used up, and what was left
    of it kept.
    """

    piece: PieceId
    length: Size
    away: bool = False


class Phase(Value):
    """A step of the building: what it may cost, and the kept design that stands then instead of
    part of this one.
    """

    name: Name
    budget: Money | None = None
    design: Id | None = None


class ShopMade(Value):
    """A thing made in the shop for an element, by template, with the figures that were chosen (SI
    units).
    """

    template: Id
    element: Annotated[str, Field(max_length=121)] = ""
    figures: Annotated[
        dict[Id, Annotated[float, Field(ge=0, le=100_000)]], Field(max_length=20)
    ] = Field(default_factory=dict)
    replaces: PartKey | None = None


Sealing = Literal["tape", "mastic", "nothing"]
Fixing = Literal["wood", "masonry"]


class BuildPlan(Value):
    """Everything about building that is not in the drawing.

    `stock` is empty for what is usually sold; `kerf` (m) is what a cut takes; `reserve` says
    whether the longest piece of each pipe can be cut once more, or one whole length more is bought;
    `keep_offcuts` (m) is the shortest offcut worth keeping; `fixing` what hangers are screwed into;
    `mounted` and `sealed` name runs, `cut` pieces.
    """

    currency: Currency = "USD"
    prices: Annotated[tuple[Price, ...], Field(max_length=1000)] = ()
    owned: Annotated[tuple[Owned, ...], Field(max_length=1000)] = ()
    stock: Annotated[tuple[StockLength, ...], Field(max_length=60)] = ()
    offcuts: Annotated[tuple[Offcut, ...], Field(max_length=60)] = ()
    kerf: Annotated[float, Field(ge=0, le=0.02, description="m")] = 0.003175
    reserve: Literal["none", "one cut", "one length"] = "one cut"
    keep_offcuts: Annotated[float, Field(ge=0.05, le=3, description="m")] = 0.3048
    sizes: Annotated[tuple[OwnSize, ...], Field(max_length=300)] = ()
    sealing: Sealing = "tape"
    fixing: Fixing = "wood"
    earthing: bool = False
    phases: Annotated[tuple[Phase, ...], Field(max_length=MOST_PHASES)] = ()
    made: Annotated[tuple[ShopMade, ...], Field(max_length=60)] = ()
    cut: Annotated[tuple[CutPiece, ...], Field(max_length=2000)] = ()
    mounted: Annotated[tuple[Id, ...], Field(max_length=600)] = ()
    sealed: Annotated[tuple[Id, ...], Field(max_length=600)] = ()

    @model_validator(mode="after")
    def _each_once(self) -> Self:
        for name, keys in (
            ("prices", [item.key for item in self.prices]),
            ("owned", [item.key for item in self.owned]),
            ("sizes", [item.key for item in self.sizes]),
            ("cut", [item.piece for item in self.cut]),
            ("mounted", list(self.mounted)),
            ("sealed", list(self.sealed)),
        ):
            if len(set(keys)) < len(keys):
                raise ValueError(f"each part is to be named once in {name}")
        return self
