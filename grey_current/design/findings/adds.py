"""What `check` would say anew, or of something worse, once an offer is taken."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from functools import lru_cache

from grey_current.design.findings.all_findings import all_findings
from grey_current.design.findings.finding import ORDER, Finding, Severity, in_order
from grey_current.design.flow.assessment import Assessment

# By how much further from its limit a figure must be to be called worse: as a share of how far it
# was, and of the limit. Allowances.
WORSE_BY, AT_LEAST = 0.1, 0.01
# Codes that are degrees of one trouble: a starved pickup that is only short then has less of it.
DEGREES = {"starved": "air", "short": "air", "settles": "chips", "may-settle": "chips"}
# Troubles of a scenario, whichever run they are named after.
OF_SCENARIO = ("chips", "too-fast")
# What a finding is about: its trouble, and the element or the machines that run.
Trouble = tuple[str, object]


@dataclass(frozen=True)
class Added:
    """A finding that `check` would raise anew or of something worse.

    Attributes:
        less: Whether the same trouble was there before and is no worse now, under another name.
    """

    finding: Finding
    less: bool


def added_findings(before: Assessment, after: Assessment) -> tuple[Added, ...]:
    """Return what is found in a shop that was not in the one before, or not as bad, worst first.

    Raises nothing.
    """
    known: dict[tuple[str, str], Finding] = {}
    troubles: dict[Trouble, Finding] = {}
    for finding in _findings(before):
        known.setdefault((finding.code, finding.element), finding)
        troubles.setdefault(_trouble(finding), finding)
    found: dict[tuple[str, str], Added] = {}
    for finding in in_order(all_findings(after.project, after, in_full=False)):
        key = finding.code, finding.element
        if key not in found and _is_worse(known.get(key), finding):
            less = not _is_worse(troubles.get(_trouble(finding)), finding)
            found[key] = Added(finding, less)
    return tuple(found.values())


@lru_cache(maxsize=2)
def _findings(before: Assessment) -> tuple[Finding, ...]:
    """The findings before, kept while one offer after the other is held against them."""
    return tuple(all_findings(before.project, before, in_full=False))


def _trouble(finding: Finding) -> Trouble:
    name = DEGREES.get(finding.code, finding.code)
    return name, finding.scenario if name in OF_SCENARIO else finding.element


def _is_worse(was: Finding | None, now: Finding) -> bool:
    """Whether a finding is new, more severe, or further from its limit."""
    if was is None or ORDER.index(now.severity) < ORDER.index(was.severity):
        return True
    return _beyond(now) > (1 + WORSE_BY) * _beyond(was) + AT_LEAST


def _beyond(finding: Finding) -> float:
    """How far a figure is from its limit, as a share of it; 0 where there is none."""
    if finding.value is None or not finding.limit:
        return 0.0
    return abs(finding.value - finding.limit) / abs(finding.limit)


def added_words(added: Iterable[Added]) -> str:
    """How many faults and warnings an offer adds: "adds 1 fault, 2 warnings"; empty for none.

    Notes are left out: they are for whoever reads the list.
    """
    words = ", ".join(_counts([each.finding.severity for each in added if not each.less]))
    return f"adds {words}" if words else ""


def _counts(severities: list[Severity]) -> Iterator[str]:
    for each in ORDER[:-1]:
        count = severities.count(each)
        if count:
            yield f"{count} {each}{'' if count == 1 else 's'}"
