"""What the user chooses before ducts are laid by computation: sizes, material, height, gates,
walls.
"""

from __future__ import annotations

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from grey_current.shop.values import Bore, Height, Value

# Where a main may run; "between the beams" is close under the ceiling, with the beams in its way.
LayingHeight = Literal[
    "under the beams",
    "between the beams",
    "along the wall",
    "at a height",
    "on the floor",
    "under the floor",
]
GatePlace = Literal["at the tool", "at the wye"]


class LayingChoices(Value):
    """How ducts may be laid.

    `sizes` are the pipe sizes allowed (m), none for all that are sold; `wall_height` the centre
    line's height (m) of a main along the wall or at a height; `through_walls` whether a hole may be
    made for a duct.
    """

    sizes: Annotated[tuple[Bore, ...], Field(max_length=20)] = ()
    material: Literal["pvc", "spiral-steel", "snap-lock-steel"] = "spiral-steel"
    height: LayingHeight = "under the beams"
    wall_height: Height = 1.2192
    gates: GatePlace = "at the tool"
    through_walls: bool = False

    @model_validator(mode="after")
    def _each_size_once(self) -> Self:
        if len(set(self.sizes)) < len(self.sizes):
            raise ValueError("each size is to be named once")
        return self
