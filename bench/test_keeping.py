"""How far bands and readings can be believed: simulated shops and faults, drawn from the spreads
that the model has."""

from __future__ import annotations

import datetime
import itertools
import os
import time
from collections.abc import Iterator, Sequence

import numpy as np
import pytest

from bench.conftest import report
from grey_current.air import compiled
from grey_current.design.flow.assess import assess
from grey_current.design.flow.assessment import Assessment
from grey_current.keep.answers import how_sure
from grey_current.keep.causes import (
    Tried,
    cause_at,
    fault_kinds,
    faulty_model,
    places_of,
    with_open,
)
from grey_current.keep.evidence import Suspects
from grey_current.keep.faults import Cause, Told, which_fault
from grey_current.keep.fit import (
    Calibration,
    ReadingSpec,
    candidates,
    fit,
    next_readings,
    usual_error,
)
from grey_current.keep.model import Model, View
from grey_current.keep.practice import complaint_of, losses, lost_together
from grey_current.keep.uncertainty import sure
from grey_current.shop.keep_plan import Complaint, Reading
from tests.core.shops import demo, made_up

SHOPS = int(os.environ.get("KEEP_SHOPS", "100"))
FAULTS = (1, 1, 1, 2, 0)
"""How many faults one shop after the other has."""
LEAST_MACHINES = 3
LEAST_LOSS = float(os.environ.get("KEEP_LOSS", "0.08"))
"""Share of some machine's air that a fault takes at least."""
SEEN = 0.05
"""Share of a machine's air by which people misjudge what it has lost."""
DAY = datetime.date(2026, 3, 14)


def _read(view: View, asked: ReadingSpec, chance: np.random.Generator) -> Reading:
    value = view.value(*asked)
    error = usual_error(asked[0], value)
    value = max(value + error * chance.standard_normal(), 0.05 * value, 1e-6)
    return Reading(
        kind=asked[0], machine=asked[1], place=asked[2], value=value, error=error, date=DAY
    )


def _doubt(fitted: Calibration) -> float:
    """The summed variance of all airflows' logarithms, by draws."""
    chance = np.random.default_rng(1)
    draws = fitted.theta + chance.standard_normal((40, len(fitted.theta))) @ fitted.root.T
    flows = [
        np.log(np.maximum(fitted.model.airflows(fitted.model.factors(theta)), 1e-9))
        for theta in draws
    ]
    return float(np.var(flows, axis=0).sum())


@pytest.mark.parametrize("name", ["loft", "allotment"])
def test_readings_make_it_true(name: str) -> None:
    compiled.load()
    now, chance = assess(demo(name)), np.random.default_rng(11)
    model = Model(now)
    plain, flows = fit(now, (), model), np.log(model.airflows({}))
    own = np.array(
        [unknown.key.partition("/")[0] in ("intake", "hose") for unknown in model.unknowns]
    )
    before, after, alone = list[float](), list[float](), list[float]()
    held, held_before, better, first = (
        list[bool](),
        list[bool](),
        list[bool](),
        sure(now, plain).pickups,
    )
    for _ in range(SHOPS):
        theta = chance.standard_normal(len(model.sigma)) * model.sigma * own
        alone += list(np.abs(np.log(model.airflows(model.factors(theta))) - flows))
        truth = model.view(model.factors(chance.standard_normal(len(model.sigma)) * model.sigma))
        readings, taught = list[Reading](), plain
        for _ in range(3):
            wanted = next_readings(taught)[0]
            readings.append(_read(truth, (wanted.kind, wanted.machine, wanted.place), chance))
            taught = fit(now, readings, model)
        able = [asked for asked in candidates(model) if truth.value(*asked) > 1e-6]
        anywhere = [_read(truth, able[int(n)], chance) for n in chance.integers(len(able), size=3)]
        better.append(_doubt(taught) < _doubt(fit(now, anywhere, model)))
        real = np.log(truth.airflows())
        before += list(np.abs(real - flows))
        after += list(np.abs(real - np.log(model.airflows(taught.factors))))
        flown = np.exp(real)
        held += [
            p.low <= flow <= p.high
            for p, flow in zip(sure(now, taught).pickups, flown, strict=True)
        ]
        held_before += [p.low <= flow <= p.high for p, flow in zip(first, flown, strict=True)]
    report(
        f"{name}, three readings in {SHOPS} shops: median error {np.median(before):.1%} "
        f"before, {np.median(after):.1%} "
        f"after, {np.median(alone):.1%} if all were known but what each machine takes for "
        "itself; bands held "
        f"{np.mean(held_before):.0%} before, {np.mean(held):.0%} after; less doubt than "
        "readings anywhere in "
        f"{np.mean(better):.0%}"
    )
    assert np.median(after) < np.median(before)


def _complaint(lost: dict[str, float], chance: np.random.Generator) -> Complaint:
    seen = {machine: share + SEEN * chance.standard_normal() for machine, share in lost.items()}
    return complaint_of(seen, DAY)


class Ill:
    """A drawn shop, calibrated when it was well (airflows, filter, one suction), that then gets
    faults."""

    def __init__(self, now: Assessment, seed: int = 5) -> None:
        self.now = now
        self.base = Model(self.now)
        self.model = faulty_model(self.base)
        self.chance = np.random.default_rng(seed)
        self.kinds = [kind for kind in fault_kinds().kinds if places_of(self.model, kind)]
        known = candidates(self.base)
        self.first = [a for a in known if a[0] == "airflow"]
        self.well = self.first + [a for a in known if a[0] == "filter drop"][:1]
        self.well += [a for a in known if a[0] == "static pressure"][:1]

    def cause(self) -> Tried:
        kind = self.kinds[int(self.chance.integers(len(self.kinds)))]
        places = places_of(self.model, kind)
        place = places[int(self.chance.integers(len(places)))]
        return cause_at(self.model, kind, place, float(self.chance.uniform(0.05, 0.95)))

    def told(self, count: int) -> tuple[list[Tried], Told] | None:
        """So many faults that can be noticed (that take some machine's air), and what five readings
        say of them."""
        drawn = self.model.factors(
            self.chance.standard_normal(len(self.model.sigma)) * self.model.sigma
        )
        healthy, causes = self.model.view(drawn), [self.cause() for _ in range(count)]
        each = [losses(self.model, drawn, cause) for cause in causes]
        if len({cause.cause for cause in causes}) < count or any(
            max(lost.values()) < LEAST_LOSS for lost in each
        ):
            return None
        ill, factors = self.model, dict(drawn)
        for cause in causes:
            factors = cause.over(factors)
            ill = (
                with_open(ill, cause.place)
                if cause.kind is not None and cause.kind.of == "gate"
                else ill
            )
        view = ill.view(factors)
        able = [a for a in self.well if healthy.value(*a) > 1e-6]
        fitted = fit(self.now, [_read(healthy, a, self.chance) for a in able], self.base)
        lost = lost_together(each)
        complaint = _complaint(lost, self.chance) if lost else None
        machine = complaint.machine if complaint is not None else None
        suspects, readings = Suspects(fitted), list[Reading]()
        told = which_fault(suspects, (), complaint)
        asked: ReadingSpec | None = told.apart or next(
            (a for a in self.first if a[1] == machine), self.first[0]
        )
        for _ in range(5):
            if asked is None or not view.value(*asked) > 1e-6:
                break
            readings.append(_read(view, asked, self.chance))
            told = which_fault(suspects, readings, complaint)
            asked = told.apart
        return (causes, told) if told.causes else None


def _among(cause: Tried, told: Sequence[Cause]) -> bool:
    return any(cause.cause in item.named for item in told)


def _shops(name: str) -> Iterator[Ill]:
    """A demo shop again and again, or shops made up by seed in which at least three machines have
    air."""
    if name != "made up":
        yield from itertools.repeat(Ill(assess(demo(name))))
    for seed in itertools.count():
        now = assess(made_up(seed))
        if (
            sum(answer.converged for answer in now.of_machine.values() if answer.pickups)
            >= LEAST_MACHINES
        ):
            yield from itertools.repeat(Ill(now, seed), len(FAULTS))


@pytest.mark.parametrize("name", ["loft", "allotment", "made up"])
def test_faults_are_named(name: str) -> None:
    compiled.load()
    shops = _shops(name)
    first, exact, three, both, healthy = (list[bool]() for _ in range(5))
    while (number := len(first) + len(both) + len(healthy)) < SHOPS:
        found = next(shops).told(FAULTS[number % len(FAULTS)])
        if found is None:
            continue
        causes, told = found
        faults = [cause for cause in told.causes if cause.kind is not None]
        if not causes:
            healthy.append(told.causes[0].kind is None)
        elif len(causes) == 2:
            both.append(all(_among(cause, faults[:4]) for cause in causes))
        else:
            first.append(_among(causes[0], told.causes[:1]))
            exact.append(told.causes[0].named[0] == causes[0].cause)
            three.append(_among(causes[0], told.causes[:3]))
    report(
        f"{name}, one fault in {len(first)} shops, five readings: first {np.mean(first):.0%} "
        "(to the very piece "
        f"{np.mean(exact):.0%}), among three {np.mean(three):.0%}; two in {len(both)}: both "
        f"among four {np.mean(both):.0%}; {len(healthy)} healthy ones called so in "
        f"{np.mean(healthy):.0%}"
    )
    assert np.mean(three) > 0.7
    assert np.mean(healthy) > 0.8


def test_the_time_that_it_takes() -> None:
    compiled.load()
    now = assess(demo())
    model = Model(now)
    plain = fit(now, (), model)
    begun = time.perf_counter()
    sure(now, plain)
    drawn = time.perf_counter() - begun
    view = model.view({})
    chance = np.random.default_rng(2)
    readings = [_read(view, (w.kind, w.machine, w.place), chance) for w in next_readings(plain, 3)]
    begun = time.perf_counter()
    fit(now, readings, model)
    fitted = time.perf_counter() - begun
    begun = time.perf_counter()
    how_sure(now)
    whole = time.perf_counter() - begun
    report(
        f"400 draws of the loft {drawn:.2f} s, a fit to three readings {fitted:.2f} s, all of "
        f"Keep {whole:.2f} s"
    )
