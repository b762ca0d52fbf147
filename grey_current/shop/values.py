"""The vocabulary of project values: the frozen base and the kinds of number and name. Imports nothing of ours."""

from __future__ import annotations

import re
from typing import Annotated, Any, Self

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, StringConstraints

Id = Annotated[str, StringConstraints(pattern=r"^[a-z0-9]+(-[a-z0-9]+)*$", max_length=60)]
Ref = Annotated[str, StringConstraints(pattern=r"^[a-z0-9]+(-[a-z0-9]+)*(/[a-z0-9]+(-[a-z0-9]+)*)?$", max_length=121)]
"""The end of a run: a point's id, a collector's id, or "machine/pickup"."""


_CONTROLS = re.compile(r"[\x00-\x1f\x7f-\x9f\u2028\u2029\u202a-\u202e\u2066-\u2069]+")


def _one_line(text: object) -> object:
    """A name on one line, without characters that work a terminal instead of being read."""
    return _CONTROLS.sub(" ", text) if isinstance(text, str) else text


Name = Annotated[
    str, StringConstraints(min_length=1, max_length=120, strip_whitespace=True), BeforeValidator(_one_line)
]
Place = Annotated[float, Field(ge=-200, le=200, description="m")]
Height = Annotated[float, Field(ge=-5, le=20, description="m above the floor")]
Bore = Annotated[float, Field(ge=0.015, le=1.0, description="inside diameter, m")]
Size = Annotated[float, Field(gt=0, le=100, description="m")]
Turn = Annotated[float, Field(ge=-360, le=360, description="degrees anticlockwise")]
Share = Annotated[float, Field(ge=0, le=1)]
Airflow = Annotated[float, Field(gt=0, le=20, description="m³/s")]
Pressure = Annotated[float, Field(ge=0, le=60_000, description="Pa")]
XY = tuple[Place, Place]


class Value(BaseModel):
    """Base of all project values: frozen, strict about unknown names, finite numbers only."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)

    def replaced(self, **changes: Any) -> Self:
        """This value with some fields changed, checked like a new one."""
        kept = {name: getattr(self, name) for name in type(self).model_fields}
        return type(self).model_validate(kept | changes)
