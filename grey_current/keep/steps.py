"""Finding a fault one step at a time: what to measure, look at or mend next.

As long as no fault stands out, the step is the one that tells most about which it is for each
minute that it takes. Once one does, one looks there. Source: Lindley, On a measure of the
information provided by an experiment, 1956, as in `keep/discrimination.py`; the minutes are
allowances (keep/practice.py).
"""

from __future__ import annotations

import math
from collections.abc import Sequence, Set
from dataclasses import dataclass, replace
from typing import Literal

from grey_current.keep.causes import FaultKind, fault_kinds, fault_words
from grey_current.keep.evidence import Suspects
from grey_current.keep.faults import Cause, Told
from grey_current.keep.fit import Calibration, ReadingSpec, expected
from grey_current.keep.practice import LOOK_AND_MEND, MEASURE_MINUTES
from grey_current.keep.reading_words import INSTRUMENT, band_words, figure, place_words
from grey_current.shop.keep_plan import KeepPlan, Look, ReadingKind
from grey_current.shop.names import Names, lower_first
from grey_current.units import Display

# So many of the likeliest faults are told with what a reading would show.
MOST_MEANINGS = 2
# A fault that is as likely as this is looked at before anything else is measured, and one that is
# less likely than the other is not worth walking to.
STANDS_OUT, LEAST_CHANCE = 0.7, 0.02
GATES = next(kind for kind in fault_kinds().kinds if kind.of == "gate")


@dataclass(frozen=True)
class Step:
    """What to do next.

    Attributes:
        todo: What it is; "end" where nothing that is left would tell more.
        minutes: How long it takes.
        asked: The reading to take, with `healthy`, what it is where all is well and how far eight
            in ten lie from it, and `meanings`, what it would be with the likeliest faults (SI).
        fault: What to look for or to mend.
        places: Where; none of them means everywhere.
        chance: How likely it is there, from all that is known.
    """

    todo: Literal["measure", "look", "mend", "end"]
    minutes: float = 0.0
    asked: ReadingSpec | None = None
    healthy: tuple[float, float] = (math.nan, math.nan)
    meanings: tuple[tuple[Cause, float], ...] = ()
    fault: FaultKind | None = None
    places: tuple[str, ...] = ()
    chance: float = 0.0


def next_step(
    told: Told, plan: KeepPlan, looks: Sequence[Look], well: Calibration, suspects: Suspects
) -> Step | None:
    """The next step of finding a fault; None where nothing is complained of. Raises nothing.

    `looks` are all that count, `well` and `suspects` are of the shop when it was well.
    """
    if plan.complaint is None:
        return None
    kinds = fault_kinds().by_name
    if looks and looks[-1].found and looks[-1].fault in kinds:
        last = looks[-1]
        minutes = LOOK_AND_MEND[last.fault][1]
        return Step("mend", minutes, fault=kinds[last.fault], places=last.places)
    # Before anything is measured one walks along the gates: that takes a minute and opens nothing.
    if _has_gates(suspects) and not any(look.fault == GATES.name for look in looks):
        return _look(GATES, (), _chance_of_gates(told.causes))
    able = [item for item in _to_look_at(told.causes, looks) if item.chance > LEAST_CHANCE]
    likeliest = max(able, key=lambda item: item.chance, default=None)
    if likeliest is not None and likeliest.chance >= STANDS_OUT:
        return likeliest
    # What is learned for each minute: a look of one minute comes before a reading of six that tells
    # twice as much.
    best = max(able, key=lambda item: look_tells(item.chance) / item.minutes, default=Step("end"))
    most = look_tells(best.chance) / best.minutes if best.minutes else 0.0
    if told.apart is not None and told.learned / MEASURE_MINUTES[told.apart[0]] > most:
        return _measure(told, told.apart, well, suspects)
    return best


def _has_gates(suspects: Suspects) -> bool:
    return any(gate.rule != "left open" for gate in suspects.model.project.gates)


def _chance_of_gates(causes: Sequence[Cause]) -> float:
    return math.fsum(c.chance for c in causes if c.kind is not None and c.kind.of == "gate")


def look_tells(chance: float) -> float:
    """How much a look tells on average of whether a fault is there (nats), by its chance so far.

    The information between the fault and what is seen, with the chances that a look finds it and
    that it errs.
    """
    known = fault_kinds()
    seen = chance * known.look_finds + (1 - chance) * known.look_errs
    left = chance * _entropy(known.look_finds) + (1 - chance) * _entropy(known.look_errs)
    return _entropy(seen) - left


def _entropy(chance: float) -> float:
    """The entropy of yes or no (nats)."""
    if not 0 < chance < 1:
        return 0.0
    return -chance * math.log(chance) - (1 - chance) * math.log(1 - chance)


def _to_look_at(causes: Sequence[Cause], looks: Sequence[Look]) -> list[Step]:
    """The looks that were not taken yet, but for gates: those are looked at first, all at once."""
    found: list[Step] = []
    for cause in causes:
        if cause.kind is not None and cause.kind.of != "gate":
            # A shop-wide fault has no place of its own.
            places = tuple(place for place in (cause.place, *cause.also) if place)
            found.append(_look(cause.kind, places, cause.chance))
    seen = {(look.fault, place) for look in looks for place in look.places or ("",)}
    return [left for step in found if (left := _not_seen(step, seen)) is not None]


def _not_seen(step: Step, seen: Set[tuple[str, str]]) -> Step | None:
    """A look without the places where that was looked for already; None where none is left."""
    fault = step.fault.name if step.fault is not None else ""
    if (fault, "") in seen:
        return None
    places = tuple(place for place in step.places if (fault, place) not in seen)
    return replace(step, places=places) if places or not step.places else None


def _look(fault: FaultKind, places: tuple[str, ...], chance: float) -> Step:
    minutes = LOOK_AND_MEND[fault.name][0]
    return Step("look", minutes, fault=fault, places=places, chance=min(chance, 1.0))


def _measure(told: Told, asked: ReadingSpec, well: Calibration, suspects: Suspects) -> Step:
    """The step that takes a reading, with what it would mean."""
    likely = [cause for cause in told.causes if cause.kind is not None][:MOST_MEANINGS]
    meanings: list[tuple[Cause, float]] = []
    for cause in likely:
        number = _usual_size(suspects, cause)
        value = float(suspects.shows(number, [asked])[0]) if number is not None else math.nan
        if math.isfinite(value):
            meanings.append((cause, value))
    return Step(
        "measure",
        MEASURE_MINUTES[asked[0]],
        asked=asked,
        healthy=expected(well, *asked),
        meanings=tuple(meanings),
    )


def _usual_size(suspects: Suspects, cause: Cause) -> int | None:
    """The number of a cause in the solved size nearest to its usual one; None without any."""
    named = (cause.kind.name if cause.kind is not None else "", cause.place)
    mine = [n for n, item in enumerate(suspects.tried) if item.cause == named]
    return min(mine, key=lambda n: abs(suspects.tried[n].quantile - 0.5), default=None)


# -- in words

SAFE_FIRST: dict[ReadingKind, str] = {
    "static pressure": "Switch off and let it run down before you drill.",
    "velocity": "Switch off and let it run down before you drill.",
    "airflow": "The machine stays unplugged while you hold anything into its hood.",
    "filter drop": "Switch off before you open anything; dust mask on.",
    "motor current": "Leave plugs and covers shut: only a split lead shows one wire.",
    "sound": "Ears covered, machines off.",
}


def question(names: Names, step: Step) -> str:
    """What is asked or to be done, in a sentence."""
    if step.asked is not None:
        return f"Measure: {lower_first(place_words(names, *step.asked))}."
    if step.fault is None:
        return "Nothing that is left to measure or look at would tell more."
    where = one_of([names.of(place) for place in step.places])
    if step.todo == "mend":
        return f"Put it right at {where}." if where else "Put it right."
    words = fault_words(names.project, step.fault, step.places[0] if step.places else "")
    if step.fault.of == "gate":
        return "Does a gate stand open that should be shut?"
    return f"Look at {where}: is it that {words}?" if where else f"Is it that {words}?"


def one_of(words: Sequence[str]) -> str:
    """Words as a choice: "a, b or c"."""
    return " or ".join(filter(None, (", ".join(words[:-1]), *words[-1:])))


def instructions(names: Names, display: Display, step: Step) -> list[str]:
    """How it is done, safe first, and what to expect."""
    if step.asked is not None:
        kind = step.asked[0]
        return [SAFE_FIRST[kind], INSTRUMENT[kind], *_expectations(names, display, step)]
    if step.fault is None:
        return []
    return [step.fault.mend if step.todo == "mend" else step.fault.look]


def _expectations(names: Names, display: Display, step: Step) -> list[str]:
    """What a reading would mean: all is well, or one of the likeliest faults."""
    assert step.asked is not None
    kind, (at, half) = step.asked[0], step.healthy
    lines = []
    if math.isfinite(at):
        lines.append(f"If all is well: {band_words(display, kind, at, half)}.")
    for cause, value in step.meanings:
        if cause.kind is None:
            continue
        words = fault_words(names.project, cause.kind, cause.place)
        # "It stands open" of a gate, "the filter is loaded" of a filter.
        if words.startswith("it "):
            words = f"{names.of(cause.place)}{words.removeprefix('it')}"
        elif cause.place and cause.kind.of not in ("filter", "separator", "fan"):
            words = f"{words} ({names.of(cause.place)})"
        lines.append(f"If {words}: about {figure(display, kind, value)}.")
    return lines
