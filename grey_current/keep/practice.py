"""A shop to practise in: parameters off the table, hidden faults, instruments, looking, mending, and the truth.

Everything that was done stands in the project, and so does what is hidden, veiled: a practice shop can be saved.
"""

from __future__ import annotations

import base64
import datetime
import json
import math
import zlib
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from grey_current.design.flow.assessment import assess
from grey_current.errors import InputError
from grey_current.keep.causes import (
    FaultKind,
    Tried,
    cause_at,
    fault_kinds,
    faulty_model,
    place_for,
    places_of,
    with_open,
)
from grey_current.keep.evidence import Suspects
from grey_current.keep.faults import which_fault
from grey_current.keep.fit import Asked, Fit, candidates, fit, usual_error, when_well
from grey_current.keep.forecast import litres_in_bin
from grey_current.keep.model import Model
from grey_current.shop.keep_edits import check_place, with_keep, with_readings
from grey_current.shop.keep_plan import Complaint, Practice, PracticeAct, Reading, ReadingKind
from grey_current.shop.model import Project
from grey_current.standins.instruments import INSTRUMENTS, StandIn, World

MOST_TRIES = 400
"""Faults that are drawn until enough of them can be noticed."""
LARGEST_VEIL = 200_000
"""Bytes of what is hidden that are unpacked; more is damage."""
MOST_READINGS, SURE_ENOUGH = 6, 0.7
"""The program's own search reads so often at most, or until a cause has this chance."""
NOTICEABLE = 0.15
"""Share of some machine's air that a hidden fault takes at least."""
WEAK_OTHERS = 0.06
"""One machine is complained of while half of the others lose less than this, and less than half of what it loses."""
WHEN_WELL = datetime.timedelta(days=30)
"""So long before were the readings taken that come with the shop."""
MEASURE_MINUTES: dict[ReadingKind, float] = {
    "static pressure": 4,
    "velocity": 6,
    "airflow": 3,
    "filter drop": 2,
    "motor current": 2,
    "sound": 1,
}
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
"""Minutes that looking and mending take, by kind of fault. Allowances; gauge and ladder are at hand."""
LEVELS = {1: "one fault, all else by the table", 2: "one fault", 3: "two faults", 4: "three faults"}


@dataclass(frozen=True)
class Hidden:
    """What is hidden: the faults, and the factors of everything that is off the table."""

    healthy: Model
    base: dict[str, float]
    causes: tuple[Tried, ...]

    def value(self, asked: Asked, mended: frozenset[tuple[str, str]] = frozenset()) -> float:
        """What is truly there (SI), some faults mended; NaN where no air is."""
        model, factors = self.healthy, dict(self.base)
        for cause in self.causes:
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
    theta = chance.standard_normal(len(model.sigma)) * model.sigma * (level > 1)
    base = model.factors(theta)
    kinds = [kind for kind in fault_kinds().kinds if places_of(model, kind)]
    found: list[Tried] = []
    for _ in range(MOST_TRIES):
        if len(found) == max(level - 1, 1):
            break
        kind = kinds[int(chance.integers(len(kinds)))]
        places = places_of(model, kind)
        quantile = round(float(chance.uniform(0.3, 0.9)), 3)
        cause = cause_at(model, kind, places[int(chance.integers(len(places)))], quantile)
        if cause.cause in [other.cause for other in found]:
            continue
        if max(losses(model, base, cause).values(), default=0.0) >= NOTICEABLE:
            found.append(cause)
    return Hidden(model, base, tuple(found))


def _veiled(secret: Hidden) -> str:
    """What is hidden, so that nobody reads it in the file by chance."""
    raw = {
        "base": {key: round(factor, 6) for key, factor in secret.base.items()},
        "causes": [[cause.kind.name, cause.place, cause.quantile] for cause in secret.causes if cause.kind is not None],
    }
    return base64.b64encode(zlib.compress(json.dumps(raw).encode())).decode()


def secret_of(project: Project) -> Hidden:
    """What is hidden in a practice shop as it is now: what is taken down takes its fault along.

    Raises `InputError` for a project that is none, or whose hidden part is damaged.
    """
    practice = project.keep.practice
    if practice is None:
        raise InputError("practice", project.name, "this is no practice shop; begin one with Practise finding faults")
    try:
        raw = json.loads(zlib.decompressobj().decompress(base64.b64decode(practice.veiled), LARGEST_VEIL))
        base = {str(key): float(factor) for key, factor in raw["base"].items()}
        causes = [(str(kind), str(place), float(quantile)) for kind, place, quantile in raw["causes"]]
        if not all(0 < quantile < 1 for _, _, quantile in causes) or not all(0 < f < 1e3 for f in base.values()):
            raise ValueError("out of range")
    except (ValueError, KeyError, TypeError, AttributeError, RecursionError, zlib.error):
        rule = "what is hidden in it is damaged; begin another practice"
        raise InputError("practice", project.name, rule) from None
    model = faulty_model(Model(assess(project)))
    kinds = {kind.name: kind for kind in fault_kinds().kinds}
    found = [
        cause_at(model, kinds[kind], place, quantile)
        for kind, place, quantile in causes
        if kind in kinds and place in places_of(model, kinds[kind])
    ]
    return Hidden(model, base, tuple(found))


def losses(model: Model, base: dict[str, float], cause: Tried) -> dict[str, float]:
    """The share of its air that each machine that runs alone loses by a cause, at its worst pickup."""
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
        raise InputError("level", level, f"levels are {', '.join(f'{n}: {words}' for n, words in LEVELS.items())}")
    if not 0 <= seed <= 999_999:
        raise InputError("seed", seed, "choose a whole number from 0 to 999999")
    clean = with_keep(shop, readings=(), entries=(), complaint=None, practice=None, applied=True)
    secret = hidden(clean, seed, level)
    chance = np.random.default_rng([seed, level, 7])
    well = tuple(cause.cause for cause in secret.causes)
    asked = [wanted for wanted in candidates(secret.healthy) if wanted[0] == "airflow"]
    asked += [wanted for wanted in candidates(secret.healthy) if wanted[0] == "filter drop"][:1]
    asked += [wanted for wanted in candidates(secret.healthy) if wanted[0] == "static pressure"][-1:]
    known = []
    for wanted in asked:
        value = secret.value(wanted, frozenset(well))
        if np.isfinite(value) and value > 0:
            value = max(value + usual_error(wanted[0], value) * float(chance.standard_normal()), 0.1 * value)
            known.append(_reading(wanted, value, today - WHEN_WELL, "when it was well"))
    plan = Practice(seed=seed, level=level, veiled=_veiled(secret))
    made = with_readings(clean, known)
    return with_keep(made, practice=plan, complaint=_complaint(secret, today))


def _reading(asked: Asked, value: float, date: datetime.date, note: str = "") -> Reading:
    kind, machine, place = asked
    return Reading(
        kind=kind, machine=machine, place=place, value=value, error=usual_error(kind, value), date=date, note=note
    )


def _complaint(secret: Hidden, today: datetime.date) -> Complaint:
    """What people would say of all the hidden faults together."""
    return complaint_of(lost_together([losses(secret.healthy, secret.base, cause) for cause in secret.causes]), today)


def lost_together(each: Sequence[dict[str, float]]) -> dict[str, float]:
    """The share of its air that each machine loses by several causes, of what each leaves."""
    machines = dict.fromkeys(machine for lost in each for machine in lost)
    return {machine: 1 - math.prod(1 - lost.get(machine, 0.0) for lost in each) for machine in machines}


def complaint_of(lost: dict[str, float], today: datetime.date) -> Complaint:
    """What people say who see that machines have lost shares of their air: which one or two, or all and which most."""
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
        raise InputError("practice", project.name, "this is no practice shop; begin one with Practise finding faults")
    if practice.over:
        raise InputError("practice", project.name, "this practice is over; begin another one")
    return practice


def measured(project: Project, asked: Asked) -> Project:
    """The shop with one more reading by a stand-in instrument. Raises `InputError` where there is nothing to read."""
    practice = practice_of(project)
    kind, machine, place = asked
    instrument = instrument_of(project, kind)
    value = instrument.read(kind, machine, place)
    reading = _reading(asked, value, since_of(project))
    check_place(project, reading)
    again = any(act.kind == "measured" and (act.what, act.place) == (kind, place) for act in practice.acts)
    minutes = 1.0 if again else MEASURE_MINUTES[kind]
    act = PracticeAct(kind="measured", what=kind, machine=machine, place=place, minutes=minutes, value=value)
    return _with_act(with_readings(project, (reading,)), act)


def instrument_of(project: Project, kind: str) -> StandIn:
    """The stand-in that reads such a thing, held in this practice shop; each has its own noise, the same each time."""
    practice = practice_of(project)
    item = next(item for item in INSTRUMENTS.values() if kind in item.reads)
    return StandIn(item, world_of(project, practice.seed, practice.level), hash_of(practice.seed, len(practice.acts)))


def world_of(shop: Project, seed: int, level: int) -> World:
    """What is truly there in a shop: its own secret where it is a practice shop, else one by seed and level.

    The bin is filled by the logbook. Raises `InputError` for a shop without air or a level that is none.
    """
    if level not in LEVELS:
        raise InputError("level", level, f"levels are {', '.join(f'{n}: {words}' for n, words in LEVELS.items())}")
    practice = shop.keep.practice
    secret = secret_of(shop) if practice is not None else hidden(shop, seed, level)
    put_right = mended_of(practice) if practice is not None else frozenset()

    def world(what: str, machine: str, place: str) -> float:
        if what == "litres":
            return litres_in_bin(shop, place)
        known = next((known for known in MEASURE_MINUTES if known == what), None)
        return secret.value((known, machine, place), put_right) if known is not None else float("nan")

    return world


def hash_of(seed: int, number: int) -> int:
    """A seed for the noise of an act."""
    return seed * 1009 + number


def since_of(project: Project) -> datetime.date:
    """The day of the practice."""
    complaint = project.keep.complaint
    return complaint.since if complaint is not None else datetime.date.today()


def mended_of(practice: Practice) -> frozenset[tuple[str, str]]:
    """The faults that were mended and were there."""
    return frozenset((act.what, act.place) for act in practice.acts if act.kind == "mended" and act.found)


def looked(project: Project, kind: str, place: str) -> Project:
    """The shop after a look: whether such a fault is there. Raises `InputError` for a kind or place that is none."""
    place, there = _is_there(project, kind, place)
    act = PracticeAct(kind="looked", what=kind, place=place, minutes=LOOK_AND_MEND[kind][0], found=there)
    return _with_act(project, act)


def mended(project: Project, kind: str, place: str) -> Project:
    """The shop with a fault mended; one that is not there takes its time all the same. Raises as `looked` does.

    Readings of the fault are of a shop that is no more, and go; they stand among what was done.
    """
    place, there = _is_there(project, kind, place)
    act = PracticeAct(kind="mended", what=kind, place=place, minutes=LOOK_AND_MEND[kind][1], found=there)
    if there:
        since = since_of(project)
        project = with_keep(project, readings=tuple(r for r in project.keep.readings if r.date < since))
    return _with_act(project, act)


def done(project: Project) -> Project:
    """The practice is over, and the truth may be told. Raises `InputError` for one that is over."""
    practice_of(project)
    return _with_act(project, PracticeAct(kind="done"))


def _is_there(project: Project, kind: str, place: str) -> tuple[str, bool]:
    """The place that stands for one, and whether it has such a fault."""
    practice, secret = practice_of(project), secret_of(project)
    known = {item.name: item for item in fault_kinds().kinds}
    if kind not in known:
        raise InputError("practice, fault", kind, f"faults are: {', '.join(known)}")
    places, place = places_of(secret.healthy, known[kind]), place_for(secret.healthy, known[kind], place)
    if place not in places:
        known_places = ", ".join(places) or "no place here"
        raise InputError(f"practice, {kind}", place or "nowhere", f"it can be at: {known_places}")
    left = {cause.cause for cause in secret.causes} - mended_of(practice)
    return place, (kind, place) in left


def _with_act(project: Project, act: PracticeAct) -> Project:
    practice = project.keep.practice
    assert practice is not None
    return with_keep(project, practice=practice.replaced(acts=(*practice.acts, act)))


def minutes_of(practice: Practice) -> float:
    """Minutes that everything took."""
    return float(sum(act.minutes for act in practice.acts))


# -- afterwards


@dataclass(frozen=True)
class Debrief:
    """What it was: the faults with whether they were mended and how sure one could have been by the readings taken.

    `minutes` the learner took, `own` the program's steps on the same shop and `own_minutes` what they take.
    """

    faults: tuple[tuple[FaultKind, str, bool, float], ...]
    minutes: float
    in_vain: int
    own: tuple[PracticeAct, ...]
    own_minutes: float

    @property
    def score(self) -> int:
        """From 100 for what the program itself takes or less, down with the minutes; half for faults left."""
        if not self.faults:
            return 0
        share = sum(mended for _, _, mended, _ in self.faults) / len(self.faults)
        quick = min(self.own_minutes / max(self.minutes, 1.0), 1.0)
        return round(100 * share * (0.5 + 0.5 * quick)) if share else 0


def debrief(project: Project, wanted: Callable[[], bool] = lambda: True) -> Debrief:
    """The truth about a practice shop. Raises `InputError` for a project that is none."""
    secret = secret_of(project)
    practice = project.keep.practice
    assert practice is not None
    put_right = mended_of(practice)
    healthy = _as_when_well(project)
    readings = _all_readings(project)
    told = which_fault(Suspects(healthy), readings, project.keep.complaint, wanted)
    chances = {named: cause.chance for cause in told.causes for named in cause.named}
    faults = tuple(
        (cause.kind, cause.place, cause.cause in put_right, chances.get(cause.cause, 0.0))
        for cause in secret.causes
        if cause.kind is not None
    )
    vain = sum(act.kind == "mended" and not act.found for act in practice.acts)
    own = _own_search(project, wanted)
    return Debrief(faults, minutes_of(practice), vain, own, float(sum(act.minutes for act in own)))


def _as_when_well(project: Project) -> Fit:
    now, since = assess(project), since_of(project)
    model = Model(now)
    well = (project.keep.readings[n - 1] for n in when_well(model))
    return fit(now, [reading for reading in well if reading.date < since], model)


def _all_readings(project: Project) -> list[Reading]:
    """Readings of the fault before anything was mended."""
    practice = project.keep.practice
    assert practice is not None
    found = []
    for act in practice.acts:
        if act.kind == "mended" and act.found:
            break
        kind = next((known for known in MEASURE_MINUTES if known == act.what), None)
        if act.kind == "measured" and kind is not None and act.machine is not None and act.value is not None:
            found.append(_reading((kind, act.machine, act.place), act.value, since_of(project)))
    return found


def _own_search(project: Project, wanted: Callable[[], bool]) -> tuple[PracticeAct, ...]:
    """The program's own way: it reads what tells most until one cause is likely, looks, mends, and begins again."""
    practice = project.keep.practice
    assert practice is not None
    secret = secret_of(project)
    shop = with_keep(
        project,
        readings=tuple(r for r in project.keep.readings if r.date < since_of(project)),
        practice=practice.replaced(acts=()),
    )
    healthy = _as_when_well(shop)
    left = {cause.cause for cause in secret.causes}
    complaint = project.keep.complaint
    asked = _first_asked(secret, complaint)
    suspects = Suspects(healthy)
    for _ in range(len(left)):
        shop = _search_once(shop, suspects, complaint, asked, left, wanted)
    return shop.keep.practice.acts if shop.keep.practice is not None else ()


def _first_asked(secret: Hidden, complaint: Complaint | None) -> Asked | None:
    able = [asked for asked in candidates(secret.healthy) if asked[0] == "airflow" and secret.value(asked) > 0]
    machine = complaint.machine if complaint is not None else None
    return next((asked for asked in able if asked[1] == machine), able[0] if able else None)


def _search_once(
    shop: Project,
    suspects: Suspects,
    complaint: Complaint | None,
    asked: Asked | None,
    left: set[tuple[str, str]],
    wanted: Callable[[], bool],
) -> Project:
    """Readings until a cause stands out, then looks in the order of chance for minutes until one fault is mended."""
    since = since_of(shop)
    told = which_fault(suspects, [], complaint, wanted)
    wanted_next: Asked | None = asked
    for _ in range(MOST_READINGS):
        if wanted_next is None or not wanted():
            break
        shop = measured(shop, wanted_next)
        told = which_fault(suspects, [r for r in shop.keep.readings if r.date >= since], complaint, wanted)
        if told.causes and told.causes[0].kind is not None and told.causes[0].chance >= SURE_ENOUGH:
            break
        wanted_next = told.apart
    order = [cause for cause in told.causes if cause.kind is not None]
    order.sort(key=lambda cause: -cause.chance / LOOK_AND_MEND[cause.kind.name if cause.kind else ""][0])
    names = [named for cause in order for named in cause.named]
    names += [name for name in _everything(suspects.model) if name not in names]
    for kind, place in names:
        if not wanted():
            break
        shop = looked(shop, kind, place)
        if (kind, place) in left:
            left.discard((kind, place))
            return mended(shop, kind, place)
    return shop


def _everything(model: Model) -> list[tuple[str, str]]:
    return [(kind.name, place) for kind in fault_kinds().kinds for place in places_of(model, kind)]
