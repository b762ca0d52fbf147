"""Pages of reasons, filled with figures of the open shop."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache, partial
from importlib.resources import files
from typing import Literal, get_args

from pydantic import Field

from grey_current.design.flow.assessment import Assessment
from grey_current.design.improve.ranking import made_with
from grey_current.design.reasons.figures import FIGURES, ShopFigures
from grey_current.design.reasons.show_me import SHOWS
from grey_current.errors import InputError
from grey_current.numerals import compact, in_marks
from grey_current.shop.edits import Change
from grey_current.shop.names import capital
from grey_current.shop.values import Value
from grey_current.spelling import spelled
from grey_current.units import FOOT, System

Group = Literal["Causes", "What people disagree about", "What people believe", "What people ask"]
GROUPS: tuple[Group, ...] = get_args(Group)
_FIGURE = re.compile(r"\{(\w+)\}")
# A round length (m) in a text: "[2 m] of hose".
_LENGTH = re.compile(r"\[([\d.]+) m\]")


class Reason(Value):
    """One page as it is written.

    Attributes:
        about: Codes of findings and causes that it is opened from.
        show: What "show me" changes; a key of `SHOWS`.
        text: Its paragraphs; one with figures that a shop has not is left out.
    """

    id: str
    title: str
    group: Group
    about: tuple[str, ...]
    show: str | None
    source: str
    text: tuple[str, ...] = Field(min_length=1)


@dataclass(frozen=True)
class ReasonPage:
    """A page for one shop: its paragraphs with the shop's own figures, and what "show me" does."""

    reason: Reason
    paragraphs: tuple[str, ...]
    show: Change | None


@cache
def reasons() -> dict[str, Reason]:
    """Return all pages by their ids."""
    text = (files("grey_current.design.reasons") / "pages.json").read_text(encoding="utf-8")
    return {item["id"]: Reason.model_validate(item) for item in json.loads(text)["pages"]}


@cache
def reason_about(code: str) -> str | None:
    """Return the id of the page about a finding or a cause; None where there is none."""
    if code in reasons():
        return code
    return next((each.id for each in reasons().values() if code in each.about), None)


def reason_page(now: Assessment, ident: str) -> ReasonPage:
    """Return a page with the figures of a shop. Raises `InputError` for an unknown one."""
    reason = reasons().get(ident)
    if reason is None:
        raise InputError("page", ident, f"use one of: {', '.join(reasons())}")
    shop = ShopFigures(now)
    worst = shop.worst
    ref = f"{worst[1].machine}/{worst[1].pickup}" if worst is not None else None
    show = SHOWS[reason.show](now.project, ref) if reason.show is not None else None
    # What is so already, or cannot be, is not shown.
    if show is not None and made_with(now.project, show) is None:
        show = None
    return ReasonPage(reason, tuple(_filled(reason, shop)), show)


def _filled(reason: Reason, shop: ShopFigures) -> Iterator[str]:
    for paragraph in reason.text:
        figures = {name: FIGURES[name](shop) for name in _FIGURE.findall(paragraph)}
        if None not in figures.values():
            units = shop.project.settings.units
            filled = capital(paragraph.format_map(figures))
            yield in_marks(spelled(_LENGTH.sub(partial(_roughly, units), filled), units))


def _roughly(units: System, found: re.Match[str]) -> str:
    """A round length of the text in metres or feet."""
    metres = float(found[1])
    return f"{metres / FOOT:.0f} ft" if units == "us" else f"{compact(metres)} m"
