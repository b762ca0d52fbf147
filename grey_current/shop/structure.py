"""What keeps the parts of a design from being one: ids used twice, unknown ends, loops."""

from __future__ import annotations

import threading
from collections import Counter
from collections.abc import Iterable, Iterator
from functools import lru_cache
from typing import Any, NamedTuple

from grey_current.errors import DuctworkError
from grey_current.shop.design_parts import LISTS, Parts
from grey_current.shop.ducts import Gate, Run
from grey_current.shop.machines import Machine

# What of a design is wrong, what is wrong with it, and how to mend it.
Problem = tuple[str, str, str]
# Skeletons whose problems are remembered: most edits leave it as it is, and a search tries hundreds
# of them.
KEPT = 64
# The lists of a design, in the order of `LISTS`.
_Lists = tuple[tuple[Any, ...], ...]
# The lists that were looked at last, and their problems: an edit changes few of their values.
_LAST = threading.local()


class _Run(NamedTuple):
    id: str
    start: str
    end: str
    also_serves: tuple[str, ...]


class _Skeleton(NamedTuple):
    """The ids of a design's elements and what they name of one another: all that its structure is
    judged by.
    """

    ids: tuple[str, ...]
    pickups: tuple[tuple[str, tuple[str, ...]], ...]
    collectors: tuple[str, ...]
    points: tuple[str, ...]
    runs: tuple[_Run, ...]
    gates: tuple[tuple[str, str], ...]


def structure_problems(design: Parts) -> Iterator[DuctworkError]:
    """What keeps the elements of a design from being one: ids used twice, unknown ends, loops."""
    fields = type(design).model_fields
    lists = tuple([getattr(design, name) for name in LISTS if name in fields])
    last: tuple[_Lists, tuple[Problem, ...]] | None = getattr(_LAST, "checked", None)
    # Most edits leave every id and every end as they were: then nothing can have come apart.
    if last is not None and _as_one(last[0], lists):
        # The next edit shares more of its values with this one than with those before.
        _LAST.checked = lists, last[1]
        return (DuctworkError(*problem) for problem in last[1])
    skeleton = _Skeleton(
        tuple([item.id for group in lists for item in group]),
        tuple(
            [
                (machine.id, tuple([pickup.id for pickup in machine.pickups]))
                for machine in design.machines
            ]
        ),
        tuple([item.id for item in design.collectors]),
        tuple([item.id for item in design.points]),
        tuple([_Run(run.id, run.start, run.end, run.also_serves) for run in design.runs]),
        tuple([(gate.id, gate.run) for gate in design.gates]),
    )
    problems = _problems(skeleton)
    _LAST.checked = lists, problems
    return (DuctworkError(*problem) for problem in problems)


def _as_one(was: _Lists, now: _Lists) -> bool:
    """Whether two designs have the same skeleton; most of what they hold are the very same
    values.
    """
    return len(was) == len(now) and all(
        one is other
        or (
            len(one) == len(other)
            and all(a is b or _bones(a) == _bones(b) for a, b in zip(one, other, strict=True))
        )
        for one, other in zip(was, now, strict=True)
    )


def _bones(item: Any) -> object:
    """What of one thing is part of a skeleton."""
    if isinstance(item, Run):
        return item.id, item.start, item.end, item.also_serves
    if isinstance(item, Machine):
        return item.id, [pickup.id for pickup in item.pickups]
    return item.id, type(item), item.run if isinstance(item, Gate) else None


@lru_cache(maxsize=KEPT)
def _problems(skeleton: _Skeleton) -> tuple[Problem, ...]:
    return (
        *_repeated(skeleton.ids),
        *_repeated_pickups(skeleton),
        *_unknown_ends(skeleton),
        *_crowded_ports(skeleton),
        *_loops(skeleton),
    )


def repeated_ids(design: Parts, lists: Iterable[str]) -> Iterator[DuctworkError]:
    """Ids that two things of some lists share."""
    ids = [item.id for group in lists for item in getattr(design, group)]
    return (DuctworkError(*problem) for problem in _repeated(ids))


def _repeated(ids: Iterable[str]) -> Iterator[Problem]:
    for ident in (ident for ident, count in Counter(ids).items() if count > 1):
        yield f"'{ident}'", "is the id of two things", "give one of them another id"


def _repeated_pickups(skeleton: _Skeleton) -> Iterator[Problem]:
    for machine, names in skeleton.pickups:
        for name in [name for name, count in Counter(names).items() if count > 1][:1]:
            yield f"machine '{machine}'", f"has two pickups '{name}'", "give one of them another id"


def _unknown_ends(skeleton: _Skeleton) -> Iterator[Problem]:
    points, collectors = set(skeleton.points), set(skeleton.collectors)
    pickups = {f"{machine}/{pickup}" for machine, names in skeleton.pickups for pickup in names}
    known = points | collectors | pickups
    for run in skeleton.runs:
        what = f"run '{run.id}'"
        for ref in (run.start, run.end, *run.also_serves):
            if ref not in known:
                yield (
                    what,
                    f"goes to '{ref}', which does not exist",
                    "name a point, a collector or a machine/pickup of this shop",
                )
        if run.start == run.end:
            yield what, f"begins and ends at '{run.start}'", "give it two different ends"
        for ref in run.also_serves:
            if ref in collectors or ref in points:
                yield (
                    what,
                    f"is said to be moved to '{ref}', which is no pickup",
                    "name only machine/pickup references in also_serves",
                )
        if run.also_serves and run.start not in pickups:
            yield (
                what,
                "is moved between machines but starts at no pickup",
                "let it start at the pickup where it rests",
            )
    runs = {run.id for run in skeleton.runs}
    for gate, run_id in skeleton.gates:
        if run_id not in runs:
            yield (
                f"gate '{gate}'",
                f"sits on run '{run_id}', which does not exist",
                "name a run of this shop",
            )


def _crowded_ports(skeleton: _Skeleton) -> Iterator[Problem]:
    points = set(skeleton.points)
    ends = Counter(
        ref for run in skeleton.runs for ref in (run.start, run.end) if ref not in points
    )
    for ref in sorted(ref for ref, count in ends.items() if count > 1):
        what = "collector inlet" if ref in skeleton.collectors else "pickup"
        yield (
            f"{what} '{ref}'",
            "has more than one run on it",
            "join them in a wye at a point and lead one run on",
        )


def _loops(skeleton: _Skeleton) -> Iterator[Problem]:
    group: dict[str, str] = {}

    def root(ref: str) -> str:
        last = ref
        while (onward := group.get(last, last)) != last:
            last = onward
        while ref != last:  # so that the next one need not walk so far
            group[ref], ref = last, group[ref]
        return last

    for run in skeleton.runs:
        start, end = root(run.start), root(run.end)
        if start == end:
            yield (
                f"run '{run.id}'",
                f"closes a loop of ducts between '{run.start}' and '{run.end}'",
                "delete one run of the loop: air must have only one way to the collector",
            )
        # Joined now: one more run between the two would close a loop.
        group[start] = end
    for a in skeleton.collectors:
        for b in skeleton.collectors:
            if a < b and root(a) == root(b) and a in group:
                yield (
                    f"collectors '{a}' and '{b}'",
                    "are joined by ducts",
                    "separate them: each system has one collector",
                )
