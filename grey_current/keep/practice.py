"""A shop to practise in: parameters off the table, hidden faults, instruments, looking, mending,
and the truth.

Everything that was done stands in the project, and so does what is hidden, veiled: a practice shop
can be saved.
"""

from __future__ import annotations

import base64
import datetime
import json
import math
import zlib
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from grey_current.design.flow.assess import assess
from grey_current.errors import InputError
from grey_current.keep.causes import (
    Tried,
    cause_at,
    fault_kinds,
    faulty_model,
    place_for,
    places_of,
    with_open,
)
from grey_current.keep.fit import ReadingSpec, candidates, usual_error
from grey_current.keep.forecast import litres_in_bin
from grey_current.keep.model import Model
from grey_current.shop.keep_edits import check_place, with_keep, with_readings
from grey_current.shop.keep_plan import Complaint, Look, Practice, PracticeAct, Reading, ReadingKind
from grey_current.shop.model import Project
from grey_current.standins.instruments import INSTRUMENTS, StandIn, World
from grey_current.work.room_readings import expected_dust

# Faults that are drawn until enough of them can be noticed.
MOST_TRIES = 400
# Bytes of what is hidden that are unpacked; more is damage.
LARGEST_VEIL = 200_000
# Share of some machine's air that a hidden fault takes at least.
NOTICEABLE = 0.15
# One machine is complained of while half of the others lose less than this, and less than half of
# what it loses.
WEAK_OTHERS = 0.06
# So long before were the readings taken that come with the shop.
WHEN_WELL = datetime.timedelta(days=30)
MEASURE_MINUTES: dict[ReadingKind, float] = {
    "static pressure": 4,
    "velocity": 6,
    "airflow": 3,
    "filter drop": 2,
    "motor current": 2,
    "sound": 1,
    "dust": 20,
}
# Minutes that looking and mending take, by kind of fault. Allowances; gauge and ladder are at hand.
LOOK_AND_MEND: dict[str, tuple[float, float]] = {
    "filter loaded": (4, 15),
    "separator plugged": (6, 10),
    "inlet wrapped": (3, 5),
    "hose collapsed": (5, 10),
    "gates leaking": (8, 15),
    "ducts leaking": (10, 30),
    "fan weak": (8, 30),
    "gate open": (1, 1),
    "run plugged": (8, 15),
    "joint apart": (3, 10),
}
LEVELS = {1: "one fault, all else by the table", 2: "one fault", 3: "two faults", 4: "three faults"}


@dataclass(frozen=True)
class Hidden:
    """What is hidden: the faults, and the factors of everything that is off the table."""

    healthy: Model
    base: dict[str, float]
    causes: tuple[Tried, ...]

    def value(self, asked: ReadingSpec, mended: frozenset[tuple[str, str]] = frozenset()) -> float:
        """What is truly there (SI), some faults mended; NaN where no air is."""
        model, factors = self.healthy, dict(self.base)
        for cause in self.causes:
            # What is mended is as it was before the fault: off the table as ever, and no more.
            if cause.cause in mended:
                continue
            factors = cause.over(factors)
            if cause.kind is not None and cause.kind.of == "gate":
                model = with_open(model, cause.place)
        return model.only(frozenset((asked[1],))).view(factors).value(*asked)


def hidden(shop: Project, seed: int, level: int) -> Hidden:
    """What a seed and a level hide in a shop. Raises `InputError` for a shop without air."""
    model = faulty_model(Model(assess(shop)))
    if not model.pickups:
        raise InputError("practice", shop.name, "choose a shop with ducts")
    chance = np.random.default_rng([seed, level])
    # At the first level nothing is off the table but the fault.
    theta = chance.standard_normal(len(model.sigma)) * model.sigma * (level > 1)
    base = model.factors(theta)
    kinds = [kind for kind in fault_kinds().kinds if places_of(model, kind)]
    found: list[Tried] = []
    for _ in range(MOST_TRIES):
        if len(found) == max(level - 1, 1):
            break
        kind = kinds[int(chance.integers(len(kinds)))]
        # Neither so small that nobody would notice it nor beyond anything.
        places = places_of(model, kind)
        quantile = round(float(chance.uniform(0.3, 0.9)), 3)
        cause = cause_at(model, kind, places[int(chance.integers(len(places)))], quantile)
        if cause.cause in [other.cause for other in found]:
            continue
        if max(losses(model, base, cause).values(), default=0.0) >= NOTICEABLE:
            found.append(cause)
    return Hidden(model, base, tuple(found))


def veiled(secret: Hidden) -> str:
    """What is hidden, so that nobody reads it in the file by chance."""
    raw = {
        "base": {key: round(factor, 6) for key, factor in secret.base.items()},
        "causes": [
            [cause.kind.name, cause.place, cause.quantile]
            for cause in secret.causes
            if cause.kind is not None
        ],
    }
    return base64.b64encode(zlib.compress(json.dumps(raw).encode())).decode()


def secret_of(project: Project) -> Hidden:
    """What is hidden in a practice shop as it is now: what is taken down takes its fault along.

    Raises `InputError` for a project that is none, or whose hidden part is damaged.
    """
    practice = project.keep.practice
    if practice is None:
        raise InputError(
            "practice",
            project.name,
            "this is no practice shop; begin one with Fault-finding practice",
        )
    try:
        raw = json.loads(
            zlib.decompressobj().decompress(base64.b64decode(practice.veiled), LARGEST_VEIL)
        )
        base = {str(key): float(factor) for key, factor in raw["base"].items()}
        causes = [
            (str(kind), str(place), float(quantile)) for kind, place, quantile in raw["causes"]
        ]
        if not all(0 < quantile < 1 for _, _, quantile in causes) or not all(
            0 < f < 1e3 for f in base.values()
        ):
            raise ValueError("out of range")
    except (ValueError, KeyError, TypeError, AttributeError, RecursionError, zlib.error):
        rule = "what is hidden in it is damaged; begin another practice"
        raise InputError("practice", project.name, rule) from None
    model = faulty_model(Model(assess(project)))
    kinds = fault_kinds().by_name
    found = [
        cause_at(model, kinds[kind], place, quantile)
        for kind, place, quantile in causes
        if kind in kinds and place in places_of(model, kinds[kind])
    ]
    return Hidden(model, base, tuple(found))


def losses(model: Model, base: dict[str, float], cause: Tried) -> dict[str, float]:
    """The share of its air that each machine that runs alone loses by a cause, at its worst
    pickup.
    """
    before, after = model.airflows(base), cause.model.airflows(cause.over(base))
    found: dict[str, float] = {}
    for number, (scenario, ref, _) in enumerate(model.pickups):
        if len(scenario.running) == 1 and np.isfinite(after[number]) and before[number] > 0:
            owner = ref.partition("/")[0]
            found[owner] = max(found.get(owner, -np.inf), float(1 - after[number] / before[number]))
    return found


def begun(shop: Project, seed: int, level: int, today: datetime.date) -> Project:
    """A practice shop as the learner finds it: a complaint, and readings from when it was well.

    Raises `InputError` for a level or seed that is none.
    """
    if level not in LEVELS:
        raise InputError(
            "level",
            level,
            f"levels are {', '.join(f'{n}: {words}' for n, words in LEVELS.items())}",
        )
    if not 0 <= seed <= 999_999:
        raise InputError("seed", seed, "choose a whole number from 0 to 999999")
    clean = with_keep(shop, readings=(), entries=(), complaint=None, practice=None, applied=True)
    secret = hidden(clean, seed, level)
    chance = np.random.default_rng([seed, level, 7])
    well = tuple(cause.cause for cause in secret.causes)
    asked = [wanted for wanted in candidates(secret.healthy) if wanted[0] == "airflow"]
    asked += [wanted for wanted in candidates(secret.healthy) if wanted[0] == "filter drop"][:1]
    asked += [wanted for wanted in candidates(secret.healthy) if wanted[0] == "static pressure"][
        -1:
    ]
    known = []
    for wanted in asked:
        value = secret.value(wanted, frozenset(well))
        if np.isfinite(value) and value > 0:
            value = max(
                value + usual_error(wanted[0], value) * float(chance.standard_normal()), 0.1 * value
            )
            known.append(as_read(wanted, value, today - WHEN_WELL, "when it was well"))
    plan = Practice(seed=seed, level=level, veiled=veiled(secret))
    made = with_readings(clean, known)
    return with_keep(made, practice=plan, complaint=complaint_of_all(secret, today))


def as_read(asked: ReadingSpec, value: float, date: datetime.date, note: str = "") -> Reading:
    """A reading as it is taken in a practice, with its usual doubt."""
    kind, machine, place = asked
    return Reading(
        kind=kind,
        machine=machine,
        place=place,
        value=value,
        error=usual_error(kind, value),
        date=date,
        note=note,
    )


def complaint_of_all(secret: Hidden, today: datetime.date) -> Complaint:
    """What people would say of all the hidden faults together."""
    return complaint_of(
        lost_together([losses(secret.healthy, secret.base, cause) for cause in secret.causes]),
        today,
    )


def lost_together(each: Sequence[dict[str, float]]) -> dict[str, float]:
    """The share of its air that each machine loses by several causes, of what each leaves."""
    machines = dict.fromkeys(machine for lost in each for machine in lost)
    return {
        machine: 1 - math.prod(1 - lost.get(machine, 0.0) for lost in each) for machine in machines
    }


def complaint_of(lost: dict[str, float], today: datetime.date) -> Complaint:
    """What people say who see that machines have lost shares of their air: which one or two, or all
    and which most.
    """
    # People notice what got worst, and whether the others are as they were.
    order = sorted(lost, key=lambda machine: -lost[machine])
    if not order:
        return Complaint(kind="weaker everywhere", since=today)
    worst, rest = order[0], order[1:]
    middle = lost[rest[len(rest) // 2]] if rest else 0.0
    if not (middle < WEAK_OTHERS and middle < lost[worst] / 2):
        return Complaint(kind="weaker everywhere", machine=worst, since=today)
    second = rest[0] if len(rest) > 1 and lost[rest[0]] > max(2 * WEAK_OTHERS, 2 * middle) else None
    return Complaint(kind="only one machine", machine=worst, besides=second, since=today)


# -- what the learner does


def practice_of(project: Project) -> Practice:
    """The practice of a project. Raises `InputError` for one that is none, or is over."""
    practice = project.keep.practice
    if practice is None:
        raise InputError(
            "practice",
            project.name,
            "this is no practice shop; begin one with Fault-finding practice",
        )
    if practice.over:
        raise InputError("practice", project.name, "this practice is over; begin another one")
    return practice


def measured(project: Project, asked: ReadingSpec) -> Project:
    """The shop with one more reading by a stand-in instrument. Raises `InputError` where there is
    nothing to read.
    """
    practice = practice_of(project)
    kind, machine, place = asked
    instrument = instrument_of(project, kind)
    value = instrument.read(kind, machine, place)
    reading = as_read(asked, value, since_of(project))
    check_place(project, reading)
    # The hole is drilled and the ladder stands there: a second reading costs a minute.
    again = any(
        act.kind == "measured" and (act.what, act.place) == (kind, place) for act in practice.acts
    )
    minutes = 1.0 if again else MEASURE_MINUTES[kind]
    act = PracticeAct(
        kind="measured", what=kind, machine=machine, place=place, minutes=minutes, value=value
    )
    return _with_act(with_readings(project, (reading,)), act)


def instrument_of(project: Project, kind: str) -> StandIn:
    """The stand-in that reads such a thing, held in this practice shop; each has its own noise, the
    same each time.
    """
    practice = practice_of(project)
    item = next(item for item in INSTRUMENTS.values() if kind in item.reads)
    return StandIn(
        item,
        world_of(project, practice.seed, practice.level),
        hash_of(practice.seed, len(practice.acts)),
    )


def world_of(shop: Project, seed: int, level: int) -> World:
    """What is truly there in a shop: its own secret where it is a practice shop, else one by seed
    and level.

    The bin is filled by the logbook. Raises `InputError` for a shop without air or a level that is
    none.
    """
    if level not in LEVELS:
        raise InputError(
            "level",
            level,
            f"levels are {', '.join(f'{n}: {words}' for n, words in LEVELS.items())}",
        )
    practice = shop.keep.practice
    secret = secret_of(shop) if practice is not None else hidden(shop, seed, level)
    put_right = mended_of(practice) if practice is not None else frozenset()

    def world(what: str, machine: str, place: str) -> float:
        if what == "litres":
            return litres_in_bin(shop, place)
        if what == "dust":
            return _dust_there(shop, machine, place, seed)
        known = next((known for known in MEASURE_MINUTES if known == what), None)
        return (
            secret.value((known, machine, place), put_right) if known is not None else float("nan")
        )

    return world


def _dust_there(shop: Project, machine: str, room: str, seed: int) -> float:
    """What dust a particle counter truly finds (mg/m³): as the allowances say times a factor of
    this practice's own; NaN where there is none.
    """
    usual = expected_dust(assess(shop), machine, room, {})
    if usual is None:
        return math.nan
    return usual.mid * math.exp(usual.spread * float(np.random.default_rng(seed).standard_normal()))


def hash_of(seed: int, number: int) -> int:
    """A seed for the noise of an act."""
    return seed * 1009 + number


def since_of(project: Project) -> datetime.date:
    """The day of the practice."""
    complaint = project.keep.complaint
    return complaint.since if complaint is not None else datetime.date.today()


def mended_of(practice: Practice) -> frozenset[tuple[str, str]]:
    """The faults that were mended and were there."""
    return frozenset(
        (act.what, act.place) for act in practice.acts if act.kind == "mended" and act.found
    )


def looks_of(project: Project) -> tuple[Look, ...]:
    """Every look that still counts: in a practice shop those since something was mended."""
    practice = project.keep.practice
    if practice is None:
        return project.keep.looks
    looks: list[Look] = []
    for act in practice.acts:
        if act.kind == "mended" and act.found:
            looks.clear()
        elif act.kind == "looked":
            places = (act.place,) if act.place else ()
            found = bool(act.found)
            looks.append(Look(fault=act.what, places=places, found=found, date=since_of(project)))
    return tuple(looks)


def looked(project: Project, kind: str, place: str) -> Project:
    """The shop after a look: whether such a fault is there. Raises `InputError` for a kind or place
    that is none.
    """
    if kind == "gate open" and not place:
        place, there = _open_gate(project)
    else:
        place, there = _is_there(project, kind, place)
    act = PracticeAct(
        kind="looked", what=kind, place=place, minutes=LOOK_AND_MEND[kind][0], found=there
    )
    return _with_act(project, act)


def mended(project: Project, kind: str, place: str) -> Project:
    """The shop with a fault mended; one that is not there takes its time all the same. Raises as
    `looked` does.

    Readings of the fault are of a shop that is no more, and go; they stand among what was done.
    """
    place, there = _is_there(project, kind, place)
    act = PracticeAct(
        kind="mended", what=kind, place=place, minutes=LOOK_AND_MEND[kind][1], found=there
    )
    if there:
        since = since_of(project)
        project = with_keep(
            project, readings=tuple(r for r in project.keep.readings if r.date < since)
        )
    return _with_act(project, act)


def done(project: Project) -> Project:
    """The practice is over, and the truth may be told. Raises `InputError` for one that is over."""
    practice_of(project)
    return _with_act(project, PracticeAct(kind="done"))


def _open_gate(project: Project) -> tuple[str, bool]:
    """The gate that stands open, and whether there is one: who walks along sees them all."""
    left = {c.cause for c in secret_of(project).causes} - mended_of(practice_of(project))
    gate = next((place for kind, place in left if kind == "gate open"), "")
    return gate, bool(gate)


def _is_there(project: Project, kind: str, place: str) -> tuple[str, bool]:
    """The place that stands for one, and whether it has such a fault."""
    practice, secret = practice_of(project), secret_of(project)
    known = fault_kinds().by_name
    if kind not in known:
        raise InputError("practice, fault", kind, f"faults are: {', '.join(known)}")
    left = {cause.cause for cause in secret.causes} - mended_of(practice)
    places, place = (
        places_of(secret.healthy, known[kind]),
        place_for(secret.healthy, known[kind], place),
    )
    if place not in places:
        known_places = ", ".join(places) or "no place here"
        raise InputError(f"practice, {kind}", place or "nowhere", f"it can be at: {known_places}")
    return place, (kind, place) in left


def _with_act(project: Project, act: PracticeAct) -> Project:
    practice = project.keep.practice
    assert practice is not None
    return with_keep(project, practice=practice.replaced(acts=(*practice.acts, act)))


def minutes_of(practice: Practice) -> float:
    """Minutes that everything took."""
    return float(sum(act.minutes for act in practice.acts))
