"""Readings make the model true: its unknowns fitted with their spreads as priors, and what to
measure next.

Source: maximum a posteriori by Gauss and Newton with Levenberg's damping, the posterior by
Laplace's approximation; Gelman et al., Bayesian Data Analysis, 2013, ch. 4 and 13.
"""

from __future__ import annotations

import itertools
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from grey_current.air.pieces import Duct
from grey_current.design.flow.assessment import Assessment
from grey_current.errors import InputError
from grey_current.keep.believable import most_believed
from grey_current.keep.model import Model, Unknown, View
from grey_current.numerals import decimal
from grey_current.shop.keep_plan import Reading, ReadingKind

Array = NDArray[np.float64]
STEP = 1e-4
ROUNDS = 30
STILL = 1e-7
STIFFEST = 1e8
# Deviations from what the others and the spreads expect, beyond which a reading is set aside and
# named.
CONTRADICTS = 3.0
MOST_SUSPECTS = 4
# So many readings are chosen for what they tell together: nobody takes more on one day.
TOGETHER = 3
# The search for them begins with each of so many: from one alone it may miss a better three.
STARTS = 6
# Deviations to each side that hold eight in ten.
INSIDE = 1.2816
# Deviations of its spread by which an unknown must have moved to be spoken of.
MOVED = 0.5
# A reading's own doubt: a share of it and so much besides (SI). Cheap instruments, held with care.
# Allowance.
USUAL_ERROR: dict[ReadingKind, tuple[float, float]] = {
    "static pressure": (0.05, 10.0),
    "airflow": (0.10, 0.0),
    "velocity": (0.08, 0.0),
    "filter drop": (0.05, 10.0),
    "motor current": (0.1, 0.2),
    "sound": (0.0, 2.0),
    "dust": (0.5, 0.0),
}


def usual_error(kind: ReadingKind, value: float) -> float:
    """A reading's own doubt (SI, one deviation) where none is said."""
    share, besides = USUAL_ERROR[kind]
    return share * value + besides


@dataclass(frozen=True)
class Moved:
    """An unknown that readings have moved: which, the factor it has now, and what is left of its
    spread (0 to 1).
    """

    unknown: Unknown
    factor: float
    left: float

    @property
    def words(self) -> str:
        """Such as: the hose's loss, the planer's hose: 1.60 times the table's value."""
        return f"{self.unknown.words}: {decimal(self.factor, 2)} times the table's value"


@dataclass(frozen=True)
class Calibration:
    """The fitted model: logarithms of the factors and what doubt is left of them.

    `readings` are those that it follows, `aside` are the numbers (from 0) of
    those, of all that were given, that contradict them.
    """

    model: Model
    readings: tuple[Reading, ...]
    theta: Array
    covariance: Array
    aside: tuple[int, ...] = ()

    @cached_property
    def root(self) -> Array:
        """A matrix whose product with its own transpose is the covariance."""
        values, vectors = np.linalg.eigh(self.covariance)
        made: Array = vectors * np.sqrt(np.maximum(values, 0.0))
        return made

    @property
    def factors(self) -> dict[str, float]:
        """The fitted factors by unknown."""
        return self.model.factors(self.theta)

    @property
    def moved(self) -> list[Moved]:
        """What the readings have moved, the farthest first."""
        left = np.sqrt(np.maximum(np.diag(self.covariance), 0.0)) / self.model.sigma
        far = np.abs(self.theta) / self.model.sigma
        order = [int(i) for i in np.argsort(-far) if far[i] >= MOVED]
        return [
            Moved(self.model.unknowns[i], float(np.exp(self.theta[i])), float(left[i]))
            for i in order
        ]


def predicted(model: Model, readings: Sequence[Reading], theta: Array) -> Array:
    """What the model says for every reading (SI); NaN where it cannot say."""
    return _values(model, asked_of(readings), theta)


# A kind of reading, the machine that runs, the place.
ReadingSpec = tuple[ReadingKind, str, str]


def asked_of(readings: Sequence[Reading]) -> list[ReadingSpec]:
    """What was read where, while which machine ran."""
    return [(reading.kind, reading.machine, reading.place) for reading in readings]


def _values(model: Model, asked: Sequence[ReadingSpec], theta: Array) -> Array:
    return shown(_asked_about(model, asked).view(model.factors(theta)), asked)


def _asked_about(model: Model, asked: Sequence[ReadingSpec]) -> Model:
    """The model with the scenarios that are asked about alone."""
    return model.only(frozenset(machine for _, machine, _ in asked))


def shown(view: View, asked: Sequence[ReadingSpec]) -> Array:
    """What a view says for each (SI); NaN where it has no air."""
    return np.array([view.value(*wanted) for wanted in asked])


def fit(
    now: Assessment,
    readings: Sequence[Reading],
    model: Model | None = None,
    should_continue: Callable[[], bool] = lambda: True,
) -> Calibration:
    """The model fitted to readings; those that contradict the others and the spreads, or are beyond
    belief, are set aside, not averaged.

    Worthless once `should_continue` returns False. Raises `InputError` for a reading of a place
    that the model has no air for.
    """
    known = model or Model(now)
    _must_have_air(known, readings)
    most = {kind: most_believed(known.project, kind) for kind in {r.kind for r in readings}}
    aside = [n for n, reading in enumerate(readings) if reading.value > most[reading.kind]]
    chosen = [n for n in range(len(readings)) if n not in aside]
    found, misses = _fitted(known, [readings[n] for n in chosen])
    while (
        chosen
        and should_continue()
        and (len(chosen) == 1 or np.max(np.abs(misses)) > CONTRADICTS / 2)
    ):
        # Each suspect is judged by the fit to all others: a wrong reading bends the fit towards
        # itself.
        order = [chosen[n] for n in np.argsort(-np.abs(misses))[:MOST_SUSPECTS]]
        suspects = [
            n for n in order if len(chosen) == 1 or abs(misses[chosen.index(n)]) > CONTRADICTS / 2
        ]
        far = {
            n: _far(_fitted(known, [readings[i] for i in chosen if i != n])[0], readings[n])
            for n in suspects
        }
        worst = max(far, key=lambda n: far[n])
        # What contradicts the others and the spreads goes, one at a time: the next may then be
        # right.
        if far[worst] <= CONTRADICTS:
            break
        aside.append(worst)
        chosen.remove(worst)
        found, misses = _fitted(known, [readings[n] for n in chosen])
    # What is wrong was found as if no fan were far off: a slip of the hand explains nothing.
    found, _ = _fitted(known, found.readings, known.freedom)
    return replace(found, aside=tuple(sorted(aside)))


def usable(model: Model) -> list[int]:
    """The numbers (from 1) of the project's readings whose place is there and has air."""
    readings = model.project.keep.readings
    values = predicted(model, readings, np.zeros(len(model.sigma)))
    return [n for n, value in enumerate(values, 1) if np.isfinite(value)]


def when_well(model: Model) -> list[int]:
    """Those of them that tell what the shop is like when it is well: not taken since something is
    complained of.
    """
    plan = model.project.keep
    return [n for n in usable(model) if not plan.of_the_fault(plan.readings[n - 1])]


def expected(
    fitted: Calibration, kind: ReadingKind, machine: str, place: str
) -> tuple[float, float]:
    """What the fitted model expects of a reading, and how far eight in ten lie from it (SI); NaN
    without air.
    """
    wanted = [(kind, machine, place)]
    at = _values(fitted.model, wanted, fitted.theta)
    row = jacobian(fitted.model, wanted, fitted.theta)[0]
    return float(at[0]), INSIDE * float(np.sqrt(max(row @ fitted.covariance @ row, 0.0)))


def _far(fitted: Calibration, reading: Reading) -> float:
    """Deviations by which a reading misses what the fitted model expects, with the doubt of
    both.
    """
    at, half = expected(fitted, reading.kind, reading.machine, reading.place)
    return abs(at - reading.value) / float(np.hypot(half / INSIDE, reading.error))


def _must_have_air(model: Model, readings: Sequence[Reading]) -> None:
    values = predicted(model, readings, np.zeros(len(model.sigma)))
    for number, value in enumerate(values, 1):
        if not np.isfinite(value):
            place = readings[number - 1].place
            raise InputError(
                f"reading {number}",
                place,
                "no air is computed there; delete it or repair the ducts",
            )


def _fitted(
    model: Model, readings: Sequence[Reading], freedom: Array | None = None
) -> tuple[Calibration, Array]:
    """The model fitted to all of some readings, and by how many deviations it misses each; its
    unknowns normal, or Student's t of a freedom each.
    """
    if freedom is None:
        freedom = np.full(len(model.sigma), np.inf)
    theta = np.zeros(len(model.sigma))
    if not readings:
        return Calibration(model, (), theta, np.diag(model.sigma**2)), np.zeros(0)
    read = np.array([r.value for r in readings])
    error = np.array([r.error for r in readings])
    at = predicted(model, readings, theta)
    # Levenberg and Marquardt: damped where a step did not help, freer where it did.
    cost, damping = _cost((at - read) / error, model, theta, freedom), 1e-3
    scaled = jacobian(model, asked_of(readings), theta) / error[:, None]
    for _ in range(ROUNDS):
        prior = _prior(model, theta, freedom)
        gradient = scaled.T @ ((at - read) / error) + prior * theta
        curvature = scaled.T @ scaled + np.diag(prior)
        step = -np.linalg.solve(curvature + damping * np.diag(np.diag(curvature)), gradient)
        tried = theta + np.clip(step, -1.0, 1.0)
        there = predicted(model, readings, tried)
        better = _cost((there - read) / error, model, tried, freedom)
        if not np.isfinite(better) or better >= cost:
            damping *= 10
            if damping > STIFFEST:
                break
            continue
        small = cost - better < STILL * (1 + cost)
        theta, at, cost, damping = tried, there, better, damping / 5
        scaled = jacobian(model, asked_of(readings), theta) / error[:, None]
        if small:
            break
    # At the answer the curvature is the inverse of the uncertainty that is left.
    covariance = np.linalg.inv(scaled.T @ scaled + np.diag(_prior(model, theta, freedom)))
    return Calibration(model, tuple(readings), theta, covariance), (at - read) / error


def _prior(model: Model, theta: Array, freedom: Array) -> Array:
    """What holds each unknown to the tables: the inverse of its variance, less where one in many is
    far off and this one seems to be.

    Source: Student's t by weights anew in each round; Lange, Little and Taylor, Robust statistical
    modeling using the t distribution, 1989, sec. 3; scaled so that near the tables it is the normal
    one.
    """
    weight: Array = 1 / (model.sigma**2 + theta**2 / freedom)
    return weight


def _cost(misses: Array, model: Model, theta: Array, freedom: Array) -> float:
    """What the fit makes least: squares of the readings' misses, and what the unknowns cost."""
    far = (theta / model.sigma) ** 2
    # With no end of freedom the logarithm is the square itself.
    heavy = np.isfinite(freedom)
    cost = far.copy()
    cost[heavy] = freedom[heavy] * np.log1p(far[heavy] / freedom[heavy])
    return float((misses**2).sum() + cost.sum())


def jacobian(model: Model, asked: Sequence[ReadingSpec], theta: Array) -> Array:
    """Derivatives of what the model says by every unknown, by small steps."""
    made = np.zeros((len(asked), len(theta)))
    part = _asked_about(model, asked)
    here = part.view(model.factors(theta))
    at = shown(here, asked)
    for place in range(len(theta)):
        moved = theta.copy()
        moved[place] += STEP
        made[:, place] = (shown(part.view(model.factors(moved), here), asked) - at) / STEP
    return np.nan_to_num(made)


# -- the next reading


@dataclass(frozen=True)
class NextReading:
    """A reading that is not taken yet, and what the model expects of it.

    Attributes:
        kind, machine, place: What is read, while which machine runs, and where.
        expected: What the model expects, in the reading's own unit.
        half: How far eight readings in ten lie from that.
        settles: Share of the uncertainty of all pickups' airflows that it would take away.
    """

    kind: ReadingKind
    machine: str
    place: str
    expected: float
    half: float
    settles: float


def next_readings(fitted: Calibration, most: int = 5) -> list[NextReading]:
    """Return the readings that would settle most of the uncertainty of all airflows, of those for
    which there is an instrument: first the `TOGETHER` that settle most together, then the others.
    """
    model = fitted.model
    plan = model.project.keep
    asked = [item for item in candidates(model) if plan.can_measure(item[0], item[2])]
    if not model.pickups or not asked:
        return []
    here = model.view(fitted.factors)
    values = shown(here, asked)
    kept = [n for n, value in enumerate(values) if np.isfinite(value) and value > 1e-6]
    flows = np.log(np.maximum(here.airflows(), 1e-9))
    # How the airflows and the readings change with each unknown, by one step of each.
    towards_flows = np.zeros((len(flows), len(fitted.theta)))
    towards = np.zeros((len(asked), len(fitted.theta)))
    for place in range(len(fitted.theta)):
        theta = fitted.theta.copy()
        theta[place] += STEP
        view = model.view(model.factors(theta), here)
        towards_flows[:, place] = (np.log(np.maximum(view.airflows(), 1e-9)) - flows) / STEP
        towards[:, place] = (shown(view, asked) - values) / STEP
    towards = np.nan_to_num(towards)[kept]
    doubt = float(np.trace(towards_flows @ fitted.covariance @ towards_flows.T)) or 1.0
    errors = np.array([usual_error(asked[n][0], float(values[n])) for n in kept])
    rows = towards / errors[:, None]
    worth = Worth(rows @ fitted.covariance @ rows.T, rows @ fitted.covariance @ towards_flows.T)
    found: dict[NextReading, int] = {}
    for place, n in enumerate(kept):
        row = towards[place]
        half = INSIDE * float(np.sqrt(max(row @ fitted.covariance @ row, 0.0)))
        settles = worth.of([place]) / doubt
        found[NextReading(*asked[n], float(values[n]), half, settles)] = place
    ranked = _one_of_each_place(sorted(found, key=lambda w: -w.settles))
    together = worth.best([found[wanted] for wanted in ranked], TOGETHER)
    return sorted(ranked, key=lambda wanted: found[wanted] not in together)[:most]


@dataclass(frozen=True)
class Worth:
    """What readings take from the uncertainty of all airflows.

    Attributes:
        between: The covariance of the readings' expected values, over their own errors
            (reading, reading).
        with_flows: That of readings and airflows' logarithms (reading, airflow).
    """

    between: Array
    with_flows: Array

    def of(self, chosen: Sequence[int]) -> float:
        """The variance, summed over airflows, that some readings take away together.

        Source: Gaussian conditioning, as Rasmussen and Williams, 2006, eq. A.6.
        """
        mine = self.with_flows[list(chosen)]
        noise = self.between[np.ix_(chosen, chosen)] + np.eye(len(chosen))
        return float(np.sum(mine * np.linalg.solve(noise, mine)))

    def best(self, able: Sequence[int], count: int) -> list[int]:
        """So many readings that take most together: one after the other from each of the best as
        the first, then each changed for a better one until none is.
        """
        first = sorted(able, key=lambda n: -self.of([n]))[:STARTS]
        found = (self._exchanged(self._greedy([n], able, count), able) for n in first)
        return max(found, key=self.of, default=[])

    def _greedy(self, chosen: list[int], able: Sequence[int], count: int) -> list[int]:
        """Readings added one after the other, each the one that takes most with those before."""
        while len(chosen) < min(count, len(able)):
            left = [n for n in able if n not in chosen]
            chosen = [*chosen, max(left, key=lambda n: self.of([*chosen, n]))]
        return chosen

    def _exchanged(self, chosen: list[int], able: Sequence[int]) -> list[int]:
        """The same set, with each reading changed for a better one until none is."""
        better = True
        while better:
            better = False
            for place, other in itertools.product(range(len(chosen)), able):
                if other in chosen:
                    continue
                tried = [*chosen[:place], other, *chosen[place + 1 :]]
                if self.of(tried) > self.of(chosen) * (1 + 1e-9):
                    chosen, better = tried, True
        return chosen


def _one_of_each_place(found: Sequence[NextReading]) -> list[NextReading]:
    """The best of each kind and place: the same hole with another machine on would tell nearly the
    same.
    """
    kept: dict[tuple[str, str], NextReading] = {}
    for wanted in found:
        kept.setdefault((wanted.kind, wanted.place), wanted)
    return list(kept.values())


def candidates(model: Model, *, every_run: bool = False) -> list[ReadingSpec]:
    """What could be measured: a machine's airflow, the filter's drop, the suction in its first
    rigid pipe and the last, or in every one on its way.

    Nobody drills a test hole into a hose: where there is nothing else, in the collector's inlet.
    """
    found: list[ReadingSpec] = []
    for part in model.parts:
        for scenario in part.scenarios:
            if len(scenario.running) != 1:
                continue
            machine = scenario.running[0]
            of_collector: tuple[ReadingKind, ...] = ("filter drop", "motor current", "sound")
            found += [(kind, machine, part.collector) for kind in of_collector]
            for (owner, pickup), leaf in part.network.leaf_of_pickup.items():
                if owner != machine or not scenario.uses(owner, pickup):
                    continue
                found.append(("airflow", machine, f"{machine}/{pickup}"))
                straights = [
                    s
                    for b in part.network.branch_path(leaf)
                    for s in part.network.branches[b].straights
                ]
                runs = [piece.source_id for piece in straights if isinstance(piece, Duct)]
                # Each branch once at its first run and once at its last: others tell about the
                # same.
                holes = tuple(runs) if every_run else (*runs[:1], *runs[-1:])
                if not holes and part.inlet is not None:
                    holes = (part.collector,)
                found += [("static pressure", machine, run) for run in dict.fromkeys(holes)]
    return list(dict.fromkeys(found))
