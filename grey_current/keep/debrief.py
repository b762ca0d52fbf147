"""A practice shop when it is over: what it was, how sure one could have been, what the program
would have done.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from grey_current.design.flow.assess import assess
from grey_current.keep.causes import FaultKind, fault_kinds, places_of
from grey_current.keep.evidence import Suspects
from grey_current.keep.faults import which_fault
from grey_current.keep.fit import Calibration, ReadingSpec, candidates, fit, when_well
from grey_current.keep.model import Model
from grey_current.keep.practice import (
    LOOK_AND_MEND,
    MEASURE_MINUTES,
    Hidden,
    as_read,
    looked,
    measured,
    mended,
    mended_of,
    minutes_of,
    secret_of,
    since_of,
)
from grey_current.shop.keep_edits import with_keep
from grey_current.shop.keep_plan import Complaint, PracticeAct, Reading
from grey_current.shop.model import Project

# The program's own search reads so often at most, or until a cause has this chance.
MOST_READINGS, SURE_ENOUGH = 6, 0.7


@dataclass(frozen=True)
class Debrief:
    """What it was: the faults with whether they were mended and how sure one could have been by the
    readings taken.

    `minutes` the learner took, `own` the program's steps on the same shop and `own_minutes` what
    they take.
    """

    faults: tuple[tuple[FaultKind, str, bool, float], ...]
    minutes: float
    in_vain: int
    own: tuple[PracticeAct, ...]
    own_minutes: float

    @property
    def score(self) -> int:
        """From 100 for what the program itself takes or less, down with the minutes; half for
        faults left.
        """
        if not self.faults:
            return 0
        share = sum(mended for _, _, mended, _ in self.faults) / len(self.faults)
        quick = min(self.own_minutes / max(self.minutes, 1.0), 1.0)
        return round(100 * share * (0.5 + 0.5 * quick)) if share else 0


def debrief(project: Project, should_continue: Callable[[], bool] = lambda: True) -> Debrief:
    """The truth about a practice shop. Raises `InputError` for a project that is none."""
    secret = secret_of(project)
    practice = project.keep.practice
    assert practice is not None
    put_right = mended_of(practice)
    # The chances that the program would have given by the same readings.
    suspects = Suspects(_as_when_well(project))
    told = which_fault(suspects, _all_readings(project), project.keep.complaint, should_continue)
    chances = {named: cause.chance for cause in told.causes for named in cause.named}
    faults = tuple(
        (cause.kind, cause.place, cause.cause in put_right, chances.get(cause.cause, 0.0))
        for cause in secret.causes
        if cause.kind is not None
    )
    vain = sum(act.kind == "mended" and not act.found for act in practice.acts)
    own = _own_search(project, suspects, should_continue)
    return Debrief(faults, minutes_of(practice), vain, own, float(sum(act.minutes for act in own)))


def _as_when_well(project: Project) -> Calibration:
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
        # From the first repair on the shop is another one.
        if act.kind == "mended" and act.found:
            break
        kind = next((known for known in MEASURE_MINUTES if known == act.what), None)
        if (
            act.kind == "measured"
            and kind is not None
            and act.machine is not None
            and act.value is not None
        ):
            found.append(as_read((kind, act.machine, act.place), act.value, since_of(project)))
    return found


def _own_search(
    project: Project, suspects: Suspects, should_continue: Callable[[], bool]
) -> tuple[PracticeAct, ...]:
    """The program's own way: it reads what tells most until one cause is likely, looks, mends, and
    begins again.
    """
    practice = project.keep.practice
    assert practice is not None
    secret = secret_of(project)
    shop = with_keep(
        project,
        readings=tuple(r for r in project.keep.readings if r.date < since_of(project)),
        practice=practice.replaced(acts=()),
    )
    # One search for each fault: a repair changes what the next readings show.
    left = {cause.cause for cause in secret.causes}
    complaint = project.keep.complaint
    asked = _first_asked(secret, complaint)
    for _ in range(len(left)):
        shop = _search_once(shop, suspects, complaint, asked, left, should_continue)
    return shop.keep.practice.acts if shop.keep.practice is not None else ()


def _first_asked(secret: Hidden, complaint: Complaint | None) -> ReadingSpec | None:
    able = [
        asked
        for asked in candidates(secret.healthy)
        if asked[0] == "airflow" and secret.value(asked) > 0
    ]
    machine = complaint.machine if complaint is not None else None
    return next((asked for asked in able if asked[1] == machine), able[0] if able else None)


def _search_once(
    shop: Project,
    suspects: Suspects,
    complaint: Complaint | None,
    asked: ReadingSpec | None,
    left: set[tuple[str, str]],
    should_continue: Callable[[], bool],
) -> Project:
    """Readings until a cause stands out, then looks in the order of chance for minutes until one
    fault is mended.
    """
    since = since_of(shop)
    told = which_fault(suspects, [], complaint, should_continue)
    wanted_next = told.apart or asked
    for _ in range(MOST_READINGS):
        if wanted_next is None or not should_continue():
            break
        shop = measured(shop, wanted_next)
        told = which_fault(
            suspects, [r for r in shop.keep.readings if r.date >= since], complaint, should_continue
        )
        if told.causes and told.causes[0].kind is not None and told.causes[0].chance >= SURE_ENOUGH:
            break
        wanted_next = told.apart
    order = [cause for cause in told.causes if cause.kind is not None]
    # By chance per minute: a look that takes two minutes comes before a likelier one that takes
    # forty.
    order.sort(
        key=lambda cause: -cause.chance / LOOK_AND_MEND[cause.kind.name if cause.kind else ""][0]
    )
    names = [named for cause in order for named in cause.named]
    names += [name for name in _everything(suspects.model) if name not in names]
    for kind, place in names:
        if not should_continue():
            break
        shop = looked(shop, kind, place)
        if (kind, place) in left:
            left.discard((kind, place))
            return mended(shop, kind, place)
    return shop


def _everything(model: Model) -> list[tuple[str, str]]:
    return [(kind.name, place) for kind in fault_kinds().kinds for place in places_of(model, kind)]
