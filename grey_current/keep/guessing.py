"""The pressure game: guess what a change gives before it is computed, see the miss, and why."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator
from dataclasses import dataclass
from functools import partial
from statistics import fmean

import numpy as np

from grey_current.air import pieces as kinds
from grey_current.air.pieces import Piece
from grey_current.design.flow.assess import assess
from grey_current.design.flow.assessment import Assessment, PickupAir, ScenarioAir
from grey_current.design.flow.scenarios import scenario_of
from grey_current.design.improve.changes import sensible_changes
from grey_current.errors import GreyCurrentError, InputError
from grey_current.shop import edits
from grey_current.shop.catalogue import materials, next_size
from grey_current.shop.edits import Change, made
from grey_current.shop.model import Project
from grey_current.shop.names import Names
from grey_current.units import Display

# Questions of a run.
ROUNDS = 10
# Share of the air below which a change is no question.
LEAST_EFFECT = 0.01
# Misses (share of the answer) up to which a guess is close, and beyond which it is far.
CLOSE, FAR = 0.05, 0.25
LONGER = 2.0
GROUPS: tuple[tuple[type[Piece] | tuple[type[Piece], ...], str], ...] = (
    ((kinds.Hose, kinds.HoseBend), "the hose"),
    (kinds.Duct, "straight pipe"),
    ((kinds.Elbow, kinds.Mitre, kinds.SizeChange), "elbows and tapers"),
    ((kinds.WyeMain, kinds.WyeBranch, kinds.Splitter), "wyes"),
    ((kinds.Intake, kinds.Entry), "the machine itself"),
    (kinds.Separator, "the separator"),
    (kinds.Filter, "the filter"),
)


@dataclass(frozen=True)
class Question:
    """What would a machine get after a change? Its words, the machine, its pickup, and what it gets
    now (m³/s).
    """

    words: str
    machine: str
    pickup: str
    before: float
    change: Change


@dataclass(frozen=True)
class Answer:
    """What it gets (m³/s), by which share the guess missed, and why in sentences."""

    question: Question
    guess: float
    after: float
    why: tuple[str, ...]

    @property
    def miss(self) -> float:
        """The share of the answer by which the guess was off."""
        return abs(self.guess - self.after) / self.after

    @property
    def words(self) -> str:
        """How good the guess was."""
        if self.miss <= CLOSE:
            return "close"
        return "far off" if self.miss > FAR else "near"


def questions(now: Assessment, seed: int) -> Iterator[tuple[Question, ScenarioAir]]:
    """Questions about a shop without end, each with what comes of it; the same ones for the same
    seed.

    Raises `InputError` for a shop in which no change moves any air.
    """
    chance = np.random.default_rng(seed)
    known = [
        (m, a)
        for m, a in now.of_machine.items()
        if a.converged and a.worst is not None and a.worst.airflow > 0
    ]
    asked: set[tuple[str, str]] = set()
    for number in itertools.count():
        if not known or (number > 60 and not asked):
            raise InputError(
                "guessing", now.project.name, "draw ducts to a machine first, or take a demo shop"
            )
        machine, answer = known[int(chance.integers(len(known)))]
        worst = answer.worst
        assert worst is not None
        able = list(_changes(now.project, answer, worst))
        change = able[int(chance.integers(len(able)))]
        # No question twice, until there are no others.
        if (machine, change.words) in asked:
            if number > 400:
                asked.clear()
            continue
        after = _after(now.project, change, answer)
        got = _airflow(after, worst) if after is not None else math.nan
        # A change that one cannot feel is no question.
        if after is None or not got > 0 or abs(got / worst.airflow - 1) < LEAST_EFFECT:
            continue
        asked.add((machine, change.words))
        yield (
            Question(
                change.words, machine, f"{worst.machine}/{worst.pickup}", worst.airflow, change
            ),
            after,
        )


def _changes(project: Project, answer: ScenarioAir, worst: PickupAir) -> Iterator[Change]:
    """Yield what would help, and what would harm.

    That is a longer hose, a smaller drop, a gate that stands open, or a loaded filter.
    """
    yield from sensible_changes(project, answer, worst)
    display, names = Display(project.settings.units), Names(project)
    network = answer.systems[worst.collector or ""].network
    path = [network.pieces[i] for i in network.path(worst.leaf or 0)]
    for ident in dict.fromkeys(piece.source_id for piece in path if piece.source_id in project.run):
        run = project.run[ident]
        if materials()[run.material].hose and run.length:
            length, longer = run.length, run.length * LONGER
            words = f"Hose {display.length(length)} → {display.length(longer)}"
            yield Change(words, ident, partial(edits.with_hose_length, run=ident, length=longer))
        smaller = next_size(project, run.diameter, up=False)
        if smaller is not None:
            words = (
                f"{names.start(ident)} {display.diameter(run.diameter)} → "
                f"{display.diameter(smaller)}"
            )
            yield Change(words, ident, partial(edits.changed, element=ident, diameter=smaller))
    on_path = {piece.source_id for piece in path}
    for gate in project.gates:
        if gate.id not in on_path and gate.rule != "left open":
            words = f"{names.start(gate.id)} stands open too"
            stays_open = partial(edits.changed, element=gate.id, rule="left open")
            yield Change(words, gate.id, stays_open)
    for collector in answer.systems:
        medium = project.collector[collector].filter
        if medium.kind != "none" and medium.due > medium.loading:
            due = medium.replaced(loading=medium.due)
            words = f"The filter of {names.of(collector)} is due for cleaning"
            yield Change(words, collector, partial(edits.changed, element=collector, filter=due))


def _after(project: Project, change: Change, before: ScenarioAir) -> ScenarioAir | None:
    """The air of the same machine after a change; None where that cannot be."""
    try:
        changed = made(project, change.edit, change.words)
        wanted = scenario_of(changed, before.scenario.running, before.scenario.places)
        found = next((a for a in assess(changed).answers if a.scenario == wanted), None)
    except GreyCurrentError:
        return None
    return found if found is not None and found.converged else None


def _airflow(answer: ScenarioAir, worst: PickupAir) -> float:
    same = [
        p
        for p in answer.pickups
        if (p.machine, p.pickup) == (worst.machine, worst.pickup) and p.leaf is not None
    ]
    return same[0].airflow if same else math.nan


def answered(now: Assessment, question: Question, after: ScenarioAir, guess: float) -> Answer:
    """What comes of a guess (m³/s). Raises `InputError` for a guess that no airflow can be."""
    if not (math.isfinite(guess) and guess > 0):
        raise InputError("your guess", guess, "write an airflow above nothing")
    machine, _, pickup = question.pickup.partition("/")
    before = now.of_machine[question.machine]
    was, then = (_by_group(answer, machine, pickup) for answer in (before, after))
    got = next(p.airflow for p in after.pickups if (p.machine, p.pickup) == (machine, pickup))
    return Answer(question, guess, got, tuple(_why(now.project, was, then, question.before, got)))


def _by_group(answer: ScenarioAir, machine: str, pickup: str) -> dict[str, float]:
    """The pressure (Pa) that each sort of piece takes on a pickup's way."""
    mine = next(p for p in answer.pickups if (p.machine, p.pickup) == (machine, pickup))
    system = answer.systems[mine.collector or ""]
    found: dict[str, float] = {}
    for index in system.network.path(mine.leaf or 0):
        piece = system.network.pieces[index]
        name = next((words for kind, words in GROUPS if isinstance(piece, kind)), "")
        if name:
            found[name] = found.get(name, 0.0) + float(system.solved.loss[system.row, index])
    return found


def _why(
    project: Project, was: dict[str, float], now: dict[str, float], before: float, after: float
) -> Iterator[str]:
    """Which part's share changed most at the same air, and the rule behind it."""
    display = Display(project.settings.units)
    whole = math.fsum(was.values())
    # what each would take now at the old airflow: losses go with its square
    same_air = {name: value * (before / after) ** 2 for name, value in now.items()}
    most = max({*was, *now}, key=lambda name: abs(same_air.get(name, 0.0) - was.get(name, 0.0)))
    old, new = was.get(most, 0.0), same_air.get(most, 0.0)
    verb = "more" if new > old else "less"
    yield (
        f"{most[:1].upper()}{most[1:]} took {display.pressure(old)} of "
        f"{display.pressure(whole)} on the way; "
        f"with the same air it would now take {display.pressure(new)}, {verb}."
    )
    largest = max(was, key=lambda name: was[name])
    if largest != most and after > before:
        yield (
            f"Most went to {largest} all the time, {display.pressure(was[largest])}: that is "
            "why it is not more."
        )
    yield (
        "Losses go with the square of the air, and the fan gives less pressure the more air "
        "it moves."
    )


def misses_words(answers: list[Answer]) -> str:
    """How the misses go over a run, in a sentence."""
    if not answers:
        return "Guess first, then see."
    half = len(answers) // 2
    each = fmean(answer.miss for answer in answers)
    if half < 2:
        return f"Off by {each:.0%} on average."
    early, late = fmean(a.miss for a in answers[:half]), fmean(a.miss for a in answers[half:])
    trend = "take your time"
    if late < early * 0.9:
        trend = "getting better"
    elif late < early * 1.1:
        trend = "about as before"
    return f"Off by {early:.0%} at first, by {late:.0%} lately: {trend}."
