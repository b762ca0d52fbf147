"""Why a value cannot be, told in the user's own units: "it should be at most 328' 1"", not in
metres.

Project values raise through here: `shop/values.py` imports this module, so it knows no value of its
own.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Iterator, Mapping, Sequence
from typing import Any, get_args

from pydantic import BaseModel, ValidationError
from pydantic.fields import FieldInfo

from grey_current.errors import InputError, ValueRefused
from grey_current.numerals import compact, decimal
from grey_current.units import FOOT, INCH, Display

# Kinds of fault that are a limit: the name of its figure, and how it is said.
BOUNDS = {
    "greater_than": ("gt", "more than"),
    "greater_than_equal": ("ge", "at least"),
    "less_than": ("lt", "less than"),
    "less_than_equal": ("le", "at most"),
}
# How a currency is written.
CURRENCY = r"^[A-Z]{3}$"
# The units that a field's description may name, the longer ones first.
UNITS = (
    "m³/s",
    "m³",
    "m/s",
    "m²",
    "m",
    "Pa",
    "°C",
    "share",
    "degrees",
    "s",
    "l",
    "hours",
    "minutes",
    "A",
)
# From here on a number is written with its thousands set apart.
MANY = 100_000
TOO_LARGE = "a figure is far larger than a workshop has; write one that a workshop could have"
# Rules of the validating library that say more about it than about the value.
PLAIN_RULES = {
    "string_pattern_mismatch": "it should be small letters and digits, with single hyphens "
    "between them",
    "string_too_short": "it should not be empty",
    "missing": "it should be there",
    "extra_forbidden": "it is not known here",
    **dict.fromkeys(
        ("finite_number", "float_parsing", "float_type"), "it should be a plain number"
    ),
    **dict.fromkeys(("int_parsing", "int_type", "int_from_float"), "it should be a whole number"),
    **dict.fromkeys(("tuple_type", "list_type"), "it should be a list"),
    "model_type": "it should be a whole one of its kind",
    "dict_type": "it should be a whole one of its kind",
}


def refused(kind: type[BaseModel], problem: ValidationError | OverflowError) -> ValueRefused:
    """The error for a value that its model refuses, in metric units until somebody knows better."""
    if isinstance(problem, OverflowError):
        return ValueRefused(
            _plain(kind.__name__),
            None,
            TOO_LARGE,
            kind,
            {"type": "overflow", "loc": (), "msg": TOO_LARGE},
        )
    fault = problem.errors(include_url=False)[0]
    place = _plain(kind.__name__)
    return ValueRefused(*_told(place, kind, fault, Display("metric")), kind, fault)


def in_units(problem: ValueRefused, where: str, display: Display) -> InputError:
    """The same error in the user's units, about what owns the value, or else about `where`."""
    return InputError(*_told(problem.owner or where, problem.kind, problem.fault, display))


def owned(problem: ValueRefused, owner: str) -> ValueRefused:
    """The same error about what owns the value, in metric units until somebody knows better."""
    told = _told(owner, problem.kind, problem.fault, Display("metric"))
    return ValueRefused(*told, problem.kind, problem.fault, owner)


def _told(
    where: str, kind: type[BaseModel], fault: Mapping[str, Any], display: Display
) -> tuple[str, object, str]:
    """Place, value and rule of a fault, as `InputError` wants them."""
    names = [_plain(step) for step in fault["loc"] if isinstance(step, str)]
    place = ", ".join([where, *names[-1:]])
    given, unit = fault.get("input"), _unit(kind, fault["loc"])
    write = _writer(unit, display)
    # Bounds in the user's units, rounded to the allowed side, so that what is told is taken.
    if fault["type"] in BOUNDS and isinstance(given, int | float):
        figure, words = BOUNDS[fault["type"]]
        limit = float(fault.get("ctx", {})[figure])
        if unit == "m":
            limit = _inwards(limit, figure in ("gt", "ge"), display)
        return (
            place,
            _Bare(write(float(given))),
            f"it should be {_bound_words(words, limit, write)}",
        )
    return place, shown(given, write), rule_of(fault)


def _bound_words(words: str, limit: float, write: Callable[[float], str]) -> str:
    """A bound in words; one so small that it shows as nothing is more than nothing."""
    text = write(limit) if limit else "0"
    nothing = limit > 0 and not re.search("[1-9]", text)
    return f"more than {text}" if nothing else f"{words} {text}"


def shown(given: object, write: Callable[[float], str] = compact) -> object:
    """A refused value as one may read it; None for what is no single text or number."""
    if isinstance(given, str):
        return given
    number = isinstance(given, int | float) and not isinstance(given, bool) and math.isfinite(given)
    return _Bare(write(float(given))) if number else None  # type: ignore[arg-type]


def _inwards(limit: float, least: bool, display: Display) -> float:
    """A length (m) that is allowed, next to a limit, and can be told without a long fraction."""
    fine, coarse = (INCH / 16, INCH) if display.us else (0.001, 0.01)
    step = fine if abs(limit) < FOOT else coarse
    return (math.ceil(limit / step - 1e-9) if least else math.floor(limit / step + 1e-9)) * step


class _Bare(str):
    """A figure with its unit, which is shown without quotation marks."""

    __slots__ = ()

    def __repr__(self) -> str:
        return str(self)


def _writer(unit: str, display: Display) -> Callable[[float], str]:
    writers: dict[str, Callable[[float], str]] = {
        "m": display.length,
        "m²": display.area,
        "m³/s": display.airflow,
        "Pa": display.pressure,
        "m/s": display.velocity,
        "°C": display.temperature,
        "m³": lambda value: display.volume(value * 1000),
        "l": display.volume,
        "share": lambda value: f"{compact(value * 100)} %",
        "degrees": lambda value: f"{compact(value)}°",
    }
    return writers.get(unit, lambda value: f"{_plain_number(value)} {unit}".rstrip())


def _plain_number(value: float) -> str:
    """A number as people write it, without an exponent."""
    return decimal(value) if abs(value) >= MANY else compact(value)


def _unit(kind: type[BaseModel], place: Sequence[object]) -> str:
    """The unit of a field, as its description gives it; nothing where it has none.

    `place` leads from a value of that kind to the figure, through the values that it holds.
    """
    names = [step for step in place if isinstance(step, str)]
    field = kind.model_fields.get(names[0]) if names else None
    if field is None:
        return ""
    held = _model_within(field.annotation) if names[1:] else None
    if held is not None:
        return _unit(held, names[1:])
    for text in (field.description or "", *_descriptions(field.annotation)):
        found = re.search(rf"(?:^|, )({'|'.join(UNITS)})(?: |$)", text)
        if found:
            return found[1]
    return ""


def _model_within(annotation: Any) -> type[BaseModel] | None:
    """The kind of value that a type is or holds, if it is one."""
    if isinstance(annotation, type) and issubclass(annotation, BaseModel):
        return annotation
    return next(filter(None, map(_model_within, get_args(annotation))), None)


def _descriptions(annotation: Any) -> Iterator[str]:
    """What is said of a type, and of the types within it."""
    for part in get_args(annotation):
        if isinstance(part, FieldInfo):
            yield part.description or ""
        else:
            yield from _descriptions(part)


def rule_of(fault: Mapping[str, Any]) -> str:
    """What a refused value should be, as the end of a sentence: "it should be greater than 0"."""
    if fault["type"] == "too_long":
        held = _plain(str(fault["loc"][-1])) if fault["loc"] else "of them"
        most = f"{fault['ctx']['max_length']} {held}"
        return f"a shop holds {most}" if held in SHOP_HOLDS else f"at most {most} go here"
    if fault["type"] == "too_short":
        held = _plain(str(fault["loc"][-1])) if fault["loc"] else "of them"
        return f"at least {fault['ctx']['min_length']} {held} are wanted"
    if fault["type"] == "string_too_long":
        return f"it should have at most {fault['ctx']['max_length']} letters"
    if fault["type"] == "string_pattern_mismatch" and fault["ctx"]["pattern"] == CURRENCY:
        return "write a currency by its three letters, such as USD or EUR"
    # What the validating library says last, made to follow on.
    found = PLAIN_RULES.get(fault["type"])
    return found or re.sub(
        r"^(Input|String|Tuple|List|Value|Object) should",
        "it should",
        fault["msg"].removeprefix("Value error, "),
    )


# What is counted for the whole shop.
SHOP_HOLDS = {
    "machines", "collectors", "points", "runs", "gates", "rooms", "openings", "beams", "features",
    "circuits", "outlets", "kept designs",
}  # fmt: skip


def _plain(name: str) -> str:
    """A name of the code in words: "kept_designs" and "KeptDesign" as "kept designs" and "Kept
    design".
    """
    spaced = re.sub(r"(?<=[a-z])(?=[A-Z])", " ", name.replace("_", " "))
    return spaced[:1] + spaced[1:].lower()
