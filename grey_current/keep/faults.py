"""Which fault: causes ranked by how well each explains all readings and the complaint, with the doubt about the rest.

Source: Bayes' rule over single causes and pairs of them; Kay, Fundamentals of Statistical Signal Processing II:
Detection Theory, 1998, ch. 6. A cause's size is taken from a grid, each solved exactly; everything else that is not
known is linear in logarithms, and two causes' effects add up there.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from grey_current.keep.causes import FaultKind, Tried, all_tried, fault_kinds, faulty_model
from grey_current.keep.fit import Asked, Fit, asked_of, candidates, jacobian, shown, usual_error
from grey_current.keep.model import Model
from grey_current.shop.keep_plan import Complaint, Reading

Array = NDArray[np.float64]
LEAST = 1e-6
PAIRED = 0.15
"""Of all faulty shops so many have two faults at once. Allowance."""
TOLD_APART = 10
"""So many of the likeliest causes are to be told apart by the next reading."""
NOTICED, NOTICED_WITHIN = 0.12, 0.03
"""Share of a machine's air whose loss half of all people notice, and how sharply. Allowance."""


@dataclass(frozen=True)
class Cause:
    """One cause: its kind and the thing that has it (an unknown's owner, a gate, a run), None for a healthy shop.

    `chance` is how likely it is there, alone or beside another one; `factor` the likeliest size of those tried, `loses`
    the share of all machines' air that it takes.
    """

    kind: FaultKind | None
    place: str
    chance: float
    factor: float = 1.0
    loses: float = 0.0


@dataclass(frozen=True)
class Told:
    """The causes, the likeliest first, and the reading that tells the likeliest apart (None without one)."""

    causes: tuple[Cause, ...]
    apart: Asked | None


def which_fault(
    healthy: Fit,
    readings: Sequence[Reading],
    complaint: Complaint | None = None,
    wanted: Callable[[], bool] = lambda: True,
) -> Told:
    """All causes ranked by how well they explain readings and complaint; nothing is told without either.

    `healthy` is what is known of the shop as it was when it was well: fitted to the readings of then, or to none.
    Raises nothing.
    """
    model, theta, covariance = _as_it_was(healthy)
    base = model.factors(theta)
    asked = asked_of(readings)
    plain = shown(model.view(base), asked)
    kept = [n for n, value in enumerate(plain) if np.isfinite(value) and value > LEAST]
    if not (kept or complaint) or not model.pickups or not wanted():
        return Told((), None)
    asked = [asked[n] for n in kept]
    read, error, plain = (np.array(v)[kept] for v in ([r.value for r in readings], [r.error for r in readings], plain))
    whitened, tried, effects = np.zeros(0), all_tried(model), np.zeros((0, 0))
    if kept:
        towards = jacobian(model, asked, theta) / plain[:, None]
        doubt = towards @ covariance @ towards.T + np.diag((error / np.maximum(read, error)) ** 2)
        root = np.linalg.inv(np.linalg.cholesky(doubt))
        whitened = root @ np.log(read / plain)
    rows, likely = list[Array](), list[Tried]()
    flows = _Flows(model, base, complaint)
    said = list[float]()
    for item in tried:
        if not wanted():
            return Told((), None)
        at = shown(item.model.only(frozenset(m for _, m, _ in asked)).view(item.over(base)), asked)
        if np.isfinite(at).all():
            rows.append(root @ np.log(np.maximum(at, LEAST) / plain) if kept else np.zeros(0))
            likely.append(item)
            said.append(flows.said(item))
    effects = np.array(rows)
    single, shares = _chances(likely, effects, whitened, np.log(np.maximum(said, LEAST)))
    return _told(model, base, likely, single, shares, covariance, theta, asked)


def _as_it_was(healthy: Fit) -> tuple[Model, Array, Array]:
    """The model in which holes can be, with what is known of its unknowns."""
    model = faulty_model(healthy.model)
    theta, covariance = np.zeros(len(model.sigma)), np.diag(model.sigma**2)
    theirs = [n for n, u in enumerate(healthy.model.unknowns) if u.key in model.place]
    ours = [model.place[healthy.model.unknowns[n].key] for n in theirs]
    theta[ours] = healthy.theta[theirs]
    covariance[np.ix_(ours, ours)] = healthy.covariance[np.ix_(theirs, theirs)]
    return model, theta, covariance


class _Flows:
    """How likely a complaint is with a cause: by the air that it takes from whom, or by what its kind usually does."""

    def __init__(self, model: Model, base: dict[str, float], complaint: Complaint | None) -> None:
        self.model, self.base, self.complaint = model, base, complaint
        self.alone = [n for n, (scenario, _, _) in enumerate(model.pickups) if len(scenario.running) == 1]
        self.plain = model.airflows(base)[self.alone] if complaint is not None else np.zeros(0)
        self.owners = [model.pickups[n][1].partition("/")[0] for n in self.alone]

    def said(self, item: Tried) -> float:
        """The chance that one would complain so with this cause; 1 where nobody complains."""
        if self.complaint is None:
            return 1.0
        if self.complaint.kind == "whistles":
            return item.kind.whistles if item.kind else fault_kinds().healthy_whistles
        if self.complaint.kind == "dust behind the filter":
            return item.kind.dusty if item.kind else fault_kinds().healthy_dusty
        lost = 1 - item.model.airflows(item.over(self.base))[self.alone] / np.maximum(self.plain, LEAST)
        notice = 1 / (1 + np.exp(-(np.nan_to_num(lost) - NOTICED) / NOTICED_WITHIN))
        notice = np.clip(notice, 0.02, 0.98)
        by_machine = {m: max(p for p, own in zip(notice, self.owners, strict=True) if own == m) for m in self.owners}
        if self.complaint.kind == "weaker everywhere" or self.complaint.machine not in by_machine:
            return _all_of(list(by_machine.values()))
        others = [1 - p for m, p in by_machine.items() if m != self.complaint.machine] or [1.0]
        return float(by_machine[self.complaint.machine] * _all_of(others))


def _all_of(chances: list[float]) -> float:
    """The chance that all of it is noticed: people do not look at each of their machines. Allowance."""
    return float(np.exp(np.mean(np.log(chances)) * len(chances) ** 0.75))


def _chances(tried: list[Tried], effects: Array, read: Array, said: Array) -> tuple[Array, Array]:
    """The chance of every item alone, and with another besides, shapes (item,) and (item, item)."""
    prior = np.array([item.prior for item in tried])
    faulty = np.array([item.kind is not None for item in tried])
    names: dict[tuple[str, str], int] = {}
    cause = np.array([names.setdefault(item.cause, len(names)) for item in tried])
    size = len(tried)
    effects = effects.reshape(size, -1)
    pull, gram = effects @ read, effects @ effects.T
    alone = np.log(prior) + np.where(faulty, np.log(1 - PAIRED), 0.0) + said + pull - np.diag(gram) / 2
    both = np.log(prior)[:, None] + np.log(prior)[None, :] + np.log(PAIRED / max(prior[faulty].sum(), LEAST))
    both = both + np.maximum(said[:, None], said[None, :])
    both = both + pull[:, None] + pull[None, :] - (np.diag(gram)[:, None] + np.diag(gram)[None, :] + 2 * gram) / 2
    both[~(faulty[:, None] & faulty[None, :] & (cause[:, None] < cause[None, :]))] = -np.inf
    most = max(alone.max(), both.max())
    single, pairs = np.exp(alone - most), np.exp(both - most)
    whole = single.sum() + pairs.sum()
    return single / whole, (pairs + pairs.T) / whole


def _told(
    model: Model,
    base: dict[str, float],
    tried: list[Tried],
    single: Array,
    pairs: Array,
    covariance: Array,
    theta: Array,
    taken: Sequence[Asked],
) -> Told:
    """The sizes of each cause added up, the likeliest first, and what tells them apart."""
    each = single + pairs.sum(axis=1)
    total: dict[tuple[str, str], float] = {}
    best: dict[tuple[str, str], int] = {}
    for number, item in enumerate(tried):
        total[item.cause] = total.get(item.cause, 0.0) + float(each[number])
        if item.cause not in best or each[number] > each[best[item.cause]]:
            best[item.cause] = number
    order = sorted(total, key=lambda cause: -total[cause])
    whole = float(model.airflows(base).sum()) or 1.0
    causes = []
    for name in order[:6]:
        item = tried[best[name]]
        left = float(item.model.airflows(item.over(base)).sum())
        causes.append(Cause(item.kind, item.place, total[name], item.factor, 1 - left / whole))
    likeliest = [(tried[best[name]], total[name]) for name in order[:TOLD_APART]]
    return Told(tuple(causes), _apart(model, base, likeliest, covariance, theta, taken))


def _apart(
    model: Model,
    base: dict[str, float],
    likeliest: Sequence[tuple[Tried, float]],
    covariance: Array,
    theta: Array,
    taken: Sequence[Asked],
) -> Asked | None:
    """The reading not taken yet whose expected values differ most between the likeliest causes, for its own doubt."""
    asked = [wanted for wanted in candidates(model, every_run=True) if wanted not in taken]
    if not asked or len(likeliest) < 2:
        return None
    plain = shown(model.view(base), asked)
    at = np.array([shown(item.model.view(item.over(base)), asked) for item, _ in likeliest])
    usable = np.isfinite(at).all(axis=0) & np.isfinite(plain) & (plain > LEAST) & (at > LEAST).all(axis=0)
    if not usable.any():
        return None
    weight = np.array([chance for _, chance in likeliest])
    weight = weight / weight.sum()
    logs = np.log(np.where(usable, at, 1.0))
    spread = weight @ (logs - weight @ logs) ** 2
    own = np.array([usual_error(wanted[0], max(value, LEAST)) for wanted, value in zip(asked, plain, strict=True)])
    # what is not known besides blurs each reading too; of the best by their own error alone the least blurred is taken
    error = (own / np.maximum(plain, LEAST)) ** 2
    first = [int(n) for n in np.argsort(-np.where(usable, spread / error, -1.0))[:TOLD_APART]]
    towards = jacobian(model, [asked[n] for n in first], theta) / plain[first][:, None]
    blur = np.einsum("ij,jk,ik->i", towards, covariance, towards)
    return asked[first[int(np.argmax(spread[first] / (error[first] + blur)))]]
