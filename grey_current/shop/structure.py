"""What keeps the parts of a design from being one: ids used twice, unknown ends, loops."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator

from grey_current.errors import DuctworkError
from grey_current.shop.design_parts import LISTS, Parts


def structure_problems(design: Parts) -> Iterator[DuctworkError]:
    """What keeps the elements of a design from being one: ids used twice, unknown ends, loops."""
    yield from repeated_ids(design, [name for name in LISTS if name in type(design).model_fields])
    yield from _repeated_pickups(design)
    yield from _unknown_ends(design)
    yield from _crowded_ports(design)
    yield from _loops(design)


def repeated_ids(design: Parts, lists: Iterable[str]) -> Iterator[DuctworkError]:
    """Ids that two things of some lists share."""
    ids = [item.id for group in lists for item in getattr(design, group)]
    if len(set(ids)) < len(ids):
        for ident in (ident for ident, count in Counter(ids).items() if count > 1):
            yield DuctworkError(f"'{ident}'", "is the id of two things", "give one of them another id")


def _repeated_pickups(design: Parts) -> Iterator[DuctworkError]:
    for machine in design.machines:
        names = [pickup.id for pickup in machine.pickups]
        if len(set(names)) < len(names):
            name = next(name for name in names if names.count(name) > 1)
            yield DuctworkError(f"machine '{machine.id}'", f"has two pickups '{name}'", "give one of them another id")


def _unknown_ends(design: Parts) -> Iterator[DuctworkError]:
    known = {*design.point, *design.collector, *design.pickup}
    for run in design.runs:
        for ref in (run.start, run.end, *run.also_serves):
            if ref not in known:
                yield DuctworkError(
                    f"run '{run.id}'",
                    f"goes to '{ref}', which does not exist",
                    "name a point, a collector or a machine/pickup of this shop",
                )
        if run.start == run.end:
            yield DuctworkError(f"run '{run.id}'", f"begins and ends at '{run.start}'", "give it two different ends")
        for ref in run.also_serves:
            if ref in design.collector or ref in design.point:
                yield DuctworkError(
                    f"run '{run.id}'",
                    f"is said to be moved to '{ref}', which is no pickup",
                    "name only machine/pickup references in also_serves",
                )
        if run.also_serves and run.start not in design.pickup:
            yield DuctworkError(
                f"run '{run.id}'",
                "is moved between machines but starts at no pickup",
                "let it start at the pickup where it rests",
            )
    for gate in design.gates:
        if gate.run not in design.run:
            yield DuctworkError(
                f"gate '{gate.id}'", f"sits on run '{gate.run}', which does not exist", "name a run of this shop"
            )


def _crowded_ports(design: Parts) -> Iterator[DuctworkError]:
    ends = [ref for run in design.runs for ref in (run.start, run.end) if ref not in design.point]
    for ref in sorted(ref for ref, count in Counter(ends).items() if count > 1) if len(set(ends)) < len(ends) else ():
        what = "collector inlet" if ref in design.collector else "pickup"
        yield DuctworkError(
            f"{what} '{ref}'", "has more than one run on it", "join them in a wye at a point and lead one run on"
        )


def _loops(design: Parts) -> Iterator[DuctworkError]:
    group: dict[str, str] = {}

    def root(ref: str) -> str:
        last = ref
        while (onward := group.get(last, last)) != last:
            last = onward
        while ref != last:  # so that the next one need not walk so far
            group[ref], ref = last, group[ref]
        return last

    for run in design.runs:
        start, end = root(run.start), root(run.end)
        if start == end:
            yield DuctworkError(
                f"run '{run.id}'",
                f"closes a loop of ducts between '{run.start}' and '{run.end}'",
                "take one run of the loop away: air must have one way only to the collector",
            )
        group[start] = end
    for a in design.collectors:
        for b in design.collectors:
            if a.id < b.id and root(a.id) == root(b.id) and a.id in group:
                yield DuctworkError(
                    f"collectors '{a.id}' and '{b.id}'",
                    "are joined by ducts",
                    "separate them: each system has one collector",
                )
