"""Why a value cannot be, told in the user's own units: "it should be at most 328' 1"", not in
metres.

Project values raise through here: `shop/values.py` imports this module, so it knows no value of its
own.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Mapping
from typing import Any, get_args

from pydantic import BaseModel, ValidationError
from pydantic.fields import FieldInfo

from grey_current.errors import InputError, ValueRefused
from grey_current.units import FOOT, INCH, Display

# Kinds of fault that are a limit: the name of its figure, and how it is said.
BOUNDS = {
    "greater_than": ("gt", "more than"),
    "greater_than_equal": ("ge", "at least"),
    "less_than": ("lt", "less than"),
    "less_than_equal": ("le", "at most"),
}
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
    """The same error about a place that has a name, in the user's units."""
    return InputError(*_told(where, problem.kind, problem.fault, display))


def _told(
    where: str, kind: type[BaseModel], fault: Mapping[str, Any], display: Display
) -> tuple[str, object, str]:
    """Place, value and rule of a fault, as `InputError` wants them."""
    names = [_plain(step) for step in fault["loc"] if isinstance(step, str)]
    place = ", ".join([where, *names[-1:]])
    given, unit = fault.get("input"), _unit(kind, str(fault["loc"][0]) if fault["loc"] else "")
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
            f"it should be {words} {write(limit) if limit else '0'}",
        )
    return place, shown(given, write), rule_of(fault)


def shown(given: object, write: Callable[[float], str] = "{:.6g}".format) -> object:
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
    }
    return writers.get(unit, lambda value: f"{value:.6g}")


def _unit(kind: type[BaseModel], name: str) -> str:
    """The unit of a field, as its description gives it; nothing where it has none."""
    field = kind.model_fields.get(name)
    texts = [field.description or ""] if field is not None else []
    inner: list[Any] = list(get_args(field.annotation)) if field is not None else []
    for part in inner:
        texts += [info.description or "" for info in get_args(part) if isinstance(info, FieldInfo)]
    for text in texts:
        found = re.search(r"(?:^|, )(m³/s|m/s|m²|m|Pa)(?: |$)", text)
        if found:
            return found[1]
    return ""


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
