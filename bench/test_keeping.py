"""How far bands and readings can be believed: simulated shops and faults, drawn from the spreads that the model has."""

from __future__ import annotations

import datetime
import os
import time

import numpy as np
import pytest

from bench.conftest import report
from grey_current.air import compiled
from grey_current.design.flow.assessment import assess
from grey_current.keep.answers import how_sure, machines_through
from grey_current.keep.faults import _all_tried, which_fault
from grey_current.keep.fit import Asked, Fit, candidates, fit, next_readings, usual_error
from grey_current.keep.model import Model, View
from grey_current.keep.sure import sure
from grey_current.shop.keep_plan import Reading
from tests.core.shops import demo

SHOPS = int(os.environ.get("KEEP_SHOPS", "100"))
DAY = datetime.date(2026, 3, 14)


def _read(view: View, asked: Asked, chance: np.random.Generator) -> Reading:
    value = view.value(*asked)
    error = usual_error(asked[0], value)
    value = max(value + error * chance.standard_normal(), 0.05 * value, 1e-6)
    return Reading(kind=asked[0], machine=asked[1], place=asked[2], value=value, error=error, date=DAY)


def _doubt(fitted: Fit) -> float:
    """The summed variance of all airflows' logarithms, by draws."""
    chance = np.random.default_rng(1)
    draws = fitted.theta + chance.standard_normal((40, len(fitted.theta))) @ fitted.root.T
    flows = [np.log(np.maximum(fitted.model.airflows(fitted.model.factors(theta)), 1e-9)) for theta in draws]
    return float(np.var(flows, axis=0).sum())


@pytest.mark.parametrize("name", ["loft", "allotment"])
def test_readings_make_it_true(name: str) -> None:
    compiled.load()
    now, chance = assess(demo(name)), np.random.default_rng(11)
    model = Model(now)
    plain, flows = fit(now, (), model), np.log(model.airflows({}))
    before, after = list[float](), list[float]()
    held, better = list[bool](), list[bool]()
    for _ in range(SHOPS):
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
        pickups = sure(now, taught, 60).pickups
        held += [p.low <= np.exp(flow) <= p.high for p, flow in zip(pickups, real, strict=True)]
    report(
        f"{name}, three readings in {SHOPS} shops: median error {np.median(before):.1%} before, {np.median(after):.1%} "
        f"after; bands held {np.mean(held):.0%}; less doubt than readings anywhere in {np.mean(better):.0%}"
    )
    assert np.median(after) < np.median(before)


@pytest.mark.parametrize("name", ["loft", "allotment"])
def test_faults_are_named(name: str) -> None:
    compiled.load()
    now, chance = assess(demo(name)), np.random.default_rng(5)
    model = Model(now)
    tried = [item for item in _all_tried(model) if item.kind is not None]
    kinds = sorted({item.kind.name for item in tried if item.kind is not None})
    machines = sorted({s.running[0] for s, _, _ in model.pickups if len(s.running) == 1})
    first, three, healthy = list[bool](), list[bool](), list[bool]()
    for number in range(SHOPS):
        drawn = model.factors(chance.standard_normal(len(model.sigma)) * model.sigma)
        kind = kinds[int(chance.integers(len(kinds)))]
        mine = [item for item in tried if item.kind is not None and item.kind.name == kind]
        item = mine[int(chance.integers(len(mine)))] if number % 5 < 4 else None
        factors = {key: f * (item.factors.get(key, 1.0) if item else 1.0) for key, f in drawn.items()}
        owner = item.place.partition("/")[0] if item else ""
        through = machines_through(now, item.place) if item and kind == "hose collapsed" else []
        anyone = machines[int(chance.integers(len(machines)))]
        machine = owner if owner in machines else through[0] if through else anyone
        view = (item.model if item else model).view(factors)
        asked = [a for a in candidates(model) if a[1] == machine][:4]
        readings = [_read(view, a, chance) for a in asked]
        apart = which_fault(model, readings).apart
        readings += [_read(view, apart, chance)] if apart is not None else []
        causes = [(c.kind, c.place) for c in which_fault(model, readings).causes]
        if item is None:
            healthy.append(causes[0][0] is None)
        else:
            first.append(causes[0] == (item.kind, item.place))
            three.append((item.kind, item.place) in causes[:3])
    report(
        f"{name}, one fault in {len(first)} shops, up to five readings: first {np.mean(first):.0%}, among three "
        f"{np.mean(three):.0%}; {len(healthy)} healthy ones called so in {np.mean(healthy):.0%}"
    )
    assert np.mean(three) > 0.5


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
    report(f"400 draws of the loft {drawn:.2f} s, a fit to three readings {fitted:.2f} s, all of Keep {whole:.2f} s")
