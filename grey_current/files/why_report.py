"""Why a shop or a machine is short of air, as plain values and in lines."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from grey_current.design.diagnosis.cause import Cause
from grey_current.design.diagnosis.diagnose import Diagnosis
from grey_current.design.diagnosis.words import (
    cause_sentence,
    cure_words,
    explains_words,
    sure_words,
)
from grey_current.shop.model import Project

FORMAT = "grey-current/why/1"


def why_report(project: Project, diagnosis: Diagnosis) -> dict[str, Any]:
    """Every cause, the root cause first, in SI units. Raises nothing."""
    return {
        "format": FORMAT,
        "machine": diagnosis.machine,
        "causes": [_cause(project, diagnosis, cause) for cause in diagnosis.causes],
    }


def _cause(project: Project, diagnosis: Diagnosis, cause: Cause) -> dict[str, Any]:
    cure = cause.cure
    cured = None
    if cure is not None:
        money = cure.money
        cured = {
            "says": cure_words(project, diagnosis, cause),
            "gain_m3s": cure.gain,
            "met_before": cure.met_before,
            "met_after": cure.met_after,
            "money": None if money is None else money.money,
            "currency": None if money is None else project.build.currency,
            "costs": list(cure.costs),
        }
    return {
        "code": cause.code,
        "elements": list(cause.suspect.elements),
        "says": cause_sentence(cause),
        "takes_m3s": cause.takes,
        "sure": round(cause.sure, 3),
        "explains": [{"code": each.code, "element": each.element} for each in cause.explains],
        "cure": cured,
    }


def why_lines(project: Project, diagnosis: Diagnosis) -> Iterator[str]:
    """The same to be read: each cause, its cure, how many problems it is behind."""
    if not diagnosis.causes:
        asked = [m for m in project.machines if diagnosis.machine in (None, m.id)]
        # Where nothing has a port there is no air to be taken.
        if any(machine.pickups for machine in asked):
            yield "Nothing out of the ordinary takes air here."
        return
    for number, cause in enumerate(diagnosis.causes, 1):
        yield f"{number:>2}  {cause_sentence(cause)}"
        yield f"    {cure_words(project, diagnosis, cause)}"
        facts = (sure_words(cause) if number == 1 else "", explains_words(cause))
        yield from (f"    {fact}." for fact in facts if fact)
