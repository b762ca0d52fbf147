"""The vocabulary of project values: the frozen base and the kinds of number and name."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING, Annotated, Any, Self

from pydantic import (
    BaseModel,
    BeforeValidator,
    ConfigDict,
    Field,
    StringConstraints,
    ValidationError,
)

from grey_current.errors import InputError
from grey_current.shop.limits import refused

Id = Annotated[str, StringConstraints(pattern=r"^[a-z0-9]+(-[a-z0-9]+)*$", max_length=60)]
# The end of a run: a point's id, a collector's id, or "machine/pickup".
Ref = Annotated[
    str,
    StringConstraints(
        pattern=r"^[a-z0-9]+(-[a-z0-9]+)*(/[a-z0-9]+(-[a-z0-9]+)*)?$", max_length=121
    ),
]


_CONTROLS = re.compile(r"[\x00-\x1f\x7f-\x9f\u2028\u2029\u202a-\u202e\u2066-\u2069]+")


def _one_line(text: object) -> object:
    """A name on one line, without characters that work a terminal instead of being read."""
    return _CONTROLS.sub(" ", text) if isinstance(text, str) else text


# Letters of a name: more fits on no card and into no row.
MOST_LETTERS = 80
Name = Annotated[
    str,
    StringConstraints(min_length=1, max_length=MOST_LETTERS, strip_whitespace=True),
    BeforeValidator(_one_line),
]


def checked_name(of: str, text: str) -> str:
    """A name without blanks around it, `of` what it is the name. Raises `InputError` for an empty
    or endless one.
    """
    if not text.strip() or len(text) > MOST_LETTERS:
        raise InputError(f"{of}, name", text, f"write a name of 1 to {MOST_LETTERS} letters")
    return text.strip()


# A remark on one line.
Note = Annotated[
    str,
    StringConstraints(min_length=1, max_length=200, strip_whitespace=True),
    BeforeValidator(_one_line),
]
Place = Annotated[float, Field(ge=-200, le=200, description="m")]
Height = Annotated[float, Field(ge=-5, le=20, description="m above the floor")]
Bore = Annotated[float, Field(ge=0.015, le=1.0, description="inside diameter, m")]
Size = Annotated[float, Field(gt=0, le=100, description="m")]
Turn = Annotated[float, Field(ge=-360, le=360, description="degrees anticlockwise")]
# m³/s and m²: what is less is a slip of the pen.
LEAST_AIRFLOW, LEAST_AREA = 1e-4, 1e-4
Share = Annotated[float, Field(ge=0, le=1, description="share")]
Airflow = Annotated[float, Field(ge=LEAST_AIRFLOW, le=20, description="m³/s")]
Pressure = Annotated[float, Field(ge=0, le=60_000, description="Pa")]
XY = tuple[Place, Place]


if TYPE_CHECKING:  # a type checker reads the fields of each class
    _Base = BaseModel
else:

    class _Refusing(type(BaseModel)):
        """Makes the project's own error of what a model refuses, so that no caller meets the
        validating library's.

        Values inside a value are made by the library itself, which tells their whole place when a
        file is read.
        """

        def __call__(cls, *args, **fields):
            try:
                return super().__call__(*args, **fields)
            except (ValidationError, OverflowError) as problem:
                raise refused(cls, problem) from None

    class _Base(BaseModel, metaclass=_Refusing):
        """What `Value` is built on."""


class Value(_Base):
    """Base of all project values: frozen, strict about unknown names, finite numbers only.

    One that cannot be raises `ValueRefused`.
    """

    # Built when first used: most commands make few of the sixty kinds, and building them all took
    # half of a start.
    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False, defer_build=True)

    def replaced(self, **changes: Any) -> Self:
        """This value with some fields changed, checked like a new one. Raises `ValueRefused`."""
        kept = {name: getattr(self, name) for name in type(self).model_fields}
        try:
            return type(self).model_validate(kept | changes)
        except (ValidationError, OverflowError) as problem:
            raise refused(type(self), problem) from None
