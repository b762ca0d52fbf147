"""Why a value cannot be, told in the user's own units: "it should be at most 328' 1"", not in metres."""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from typing import Any, get_args

from pydantic.fields import FieldInfo
from pydantic_core import ErrorDetails

from grey_current.shop.values import Value
from grey_current.units import FOOT, INCH, Display

BOUNDS = {
    "greater_than": ("gt", "more than"),
    "greater_than_equal": ("ge", "at least"),
    "less_than": ("lt", "less than"),
    "less_than_equal": ("le", "at most"),
}
"""Kinds of fault that are a limit: the name of its figure, and how it is said."""


def said(item: Value, fault: ErrorDetails, display: Display) -> tuple[object, str]:
    """A refused value and the rule that it breaks, as `InputError` wants them, each in its unit."""
    given, unit = fault.get("input"), _unit(item, str(fault["loc"][0]) if fault["loc"] else "")
    write = _writer(unit, display)
    number = isinstance(given, int | float) and not isinstance(given, bool)
    shown: object = _Bare(write(float(given))) if number and given is not None else given
    if fault["type"] in BOUNDS:
        figure, words = BOUNDS[fault["type"]]
        limit = float(fault.get("ctx", {})[figure])
        if unit == "m":
            limit = _inwards(limit, figure in ("gt", "ge"), display)
        return shown, f"it should be {words} {write(limit) if limit else '0'}"
    return shown, plain_rule(fault["msg"])


def _inwards(limit: float, least: bool, display: Display) -> float:
    """A length (m) that is allowed, next to a limit, and can be told without a long fraction."""
    fine = abs(limit) < FOOT
    step = (INCH / 16 if fine else INCH) if display.us else (0.001 if fine else 0.01)
    return (math.ceil(limit / step - 1e-9) if least else math.floor(limit / step + 1e-9)) * step


class _Bare(str):
    """A figure with its unit, which is shown without quotation marks."""

    __slots__ = ()

    def __repr__(self) -> str:
        return str(self)


def _writer(unit: str, display: Display) -> Callable[[float], str]:
    writers: dict[str, Callable[[float], str]] = {
        "m": display.length,
        "m³/s": display.airflow,
        "Pa": display.pressure,
        "m/s": display.velocity,
    }
    return writers.get(unit, lambda value: f"{value:.6g}")


def _unit(item: Value, name: str) -> str:
    """The unit of a field, as its description gives it; nothing where it has none."""
    field = type(item).model_fields.get(name)
    texts = [field.description or ""] if field is not None else []
    inner: list[Any] = list(get_args(field.annotation)) if field is not None else []
    for part in inner:
        texts += [info.description or "" for info in get_args(part) if isinstance(info, FieldInfo)]
    for text in texts:
        found = re.search(r"(?:^|, )(m³/s|m/s|m|Pa)(?: |$)", text)
        if found:
            return found[1]
    return ""


def plain_rule(message: str) -> str:
    """A validation message as the end of a sentence: "it should be greater than 0"."""
    return re.sub(r"^(Input|String|Tuple|List|Value|Object) should", "it should", message.removeprefix("Value error, "))
