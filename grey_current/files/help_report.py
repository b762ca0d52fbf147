"""What would help most, as plain values for other programs."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from grey_current.design.flow.assess import assess
from grey_current.design.flow.assessment import Assessment
from grey_current.design.flow.scenarios import all_scenarios
from grey_current.design.improve.ranking import Improvement
from grey_current.files.laying_report import adds_report

FORMAT = "grey-current/help-most/1"


def help_report(
    now: Assessment, machine: str | None, found: Sequence[Improvement]
) -> dict[str, Any]:
    """Every change, the best first, in SI units: what it wins, costs and makes worse, and what
    `check` would say anew or of something worse. Raises nothing.
    """
    return {
        "format": FORMAT,
        "machine": machine,
        "changes": [_change(now, improvement) for improvement in found],
    }


def _change(now: Assessment, improvement: Improvement) -> dict[str, Any]:
    money = improvement.money
    after = improvement.edit(now.project)
    served, asked = improvement.judged.served()
    return {
        "words": improvement.words,
        "element": improvement.element,
        "gain_m3s": improvement.gain,
        "airflow_m3s": improvement.airflow,
        "need_m3s": improvement.need,
        "met": improvement.met,
        "served": served,
        "of": asked,
        "slowest_share": improvement.transport,
        "money": None if money is None else money.money,
        "unpriced": [] if money is None else list(money.unpriced),
        "costs": list(improvement.costs),
        "adds": adds_report(now, assess(after, all_scenarios(after), now)),
    }
