"""Pages of the Work stage: the day, the air of the rooms, cleaners and the house."""

from __future__ import annotations

import math
from functools import partial

from grey_current.desk.inspector.day_fields import (
    by_hand_section,
    job_section,
    kept_days_section,
    log_buttons,
)
from grey_current.desk.inspector.fields import (
    ActionField,
    ChoiceField,
    Fact,
    Item,
    Page,
    Section,
    Table,
    TextField,
    measured_field,
    number_field,
    percent_field,
)
from grey_current.desk.inspector.improvement_fields import FIRST
from grey_current.desk.inspector.price_fields import read_money
from grey_current.desk.inspector.reading_fields import reading_items
from grey_current.desk.inspector.work_machine_page import machine_page
from grey_current.files.work_report import day_rows
from grey_current.keep.reading_words import INSTRUMENT, dust_words
from grey_current.numerals import compact, decimal
from grey_current.shop.day_edits import with_unread_taken, without_unread
from grey_current.shop.edits import Edit
from grey_current.shop.model import Project
from grey_current.shop.names import Names
from grey_current.shop.work_edits import with_cleaner, with_work, without_cleaner
from grey_current.shop.work_plan import AirCleaner, DayJob, Unread
from grey_current.units import Display
from grey_current.work.chores import chores
from grey_current.work.day_plan import ALL_GONE
from grey_current.work.day_tasks import LEAST_GAIN
from grey_current.work.day_text import day_words, guess, job_name, read_day, why_unread
from grey_current.work.dust_budget import LEAST, DustShare, before_and_after
from grey_current.work.ears import BEHIND, WALL_TAKES, quieter
from grey_current.work.exposure import COUNTED, REFERENCES, Band, Verdict, exposure, figure
from grey_current.work.materials import clean_air
from grey_current.work.room_air import STEP
from grey_current.work.room_changes import CLEANER_MODELS
from grey_current.work.room_day import minutes_words
from grey_current.work.room_readings import MINUTES
from grey_current.work.varnish import may_run_on, roughly
from grey_current.workspace.jobs import Worked
from grey_current.workspace.workspace import Workspace

MOST_CHANGES = 5

# A day as it is read: its jobs, and the lines that are not understood.
Jotted = tuple[tuple[DayJob, ...], tuple[Unread, ...]]
RESPIRATORS = (("none", "none"), ("ffp2", "FFP2"), ("ffp3", "FFP3"), ("half-mask", "half mask, P3"))
LIMIT_WORDS = {
    "eu-hardwood": "EU, hardwood",
    "acgih-wood": "ACGIH, wood",
    "niosh-wood": "NIOSH, wood",
    "who-pm25": "WHO, fine dust",
}
VARNISH = (
    "Clean enough is no more floating dust than a quiet room in a house has, {figure} mg/m³. "
    "Vacuum first, wipe, then leave it alone: sweeping and blowing start the wait again."
)
CAUTION = (
    "Wide allowances: a measurement in your shop is worth more. Fine dust harms lungs: wear a "
    "respirator for what the hoods miss, and while the air is still dusty."
)


def stage_page(workspace: Workspace) -> Page | None:
    """The page of the Work stage; None for what has nothing of its own to say here."""
    chosen = workspace.selection
    if chosen is None:
        return _day_page(workspace)
    machine = workspace.project.machine.get(chosen.split("/", maxsplit=1)[0])
    return machine_page(workspace, machine) if machine is not None else None


# -- the day


def _day_page(workspace: Workspace) -> Page:
    project = workspace.project
    found = workspace.computed.worked if project.work.day else None
    sections, unread = [*job_section(workspace)], _unread_fields(project)
    buttons = log_buttons(workspace)
    if buttons:
        sections.append(Section("When you are done", tuple(buttons), open_first=True))
    sections += [
        Section(
            "The day",
            (_day_field(project), *unread, *_day_facts(found)),
            1 + len(unread),
            _day_summary(found),
        ),
        by_hand_section(),
        kept_days_section(workspace),
    ]
    if found is not None:
        sections += [*_change_section(found), _air_section(project, found)]
        sections += _dust_sections(workspace, found)
        sections += [*_meter_section(workspace, found), *_worth_section(found)]
    sections += [_cleaner_section(project), _house_section(project, found), _chore_section(project)]
    # What may catch fire or explode stands where the usual caution stands, and before it.
    danger = found.room.warnings if found is not None else ()
    warnings = " ".join(danger) or CAUTION
    return Page("Work", "", tuple(sections), (), warnings, _answer(project, found), problems=False)


def _answer(project: Project, found: Worked | None) -> str:
    if not project.work.day:
        return "Click the machines that you used: ten minutes a click. Or type the day below."
    if found is None:
        return "Working it out…"
    if not found.day.steps:
        return ALL_GONE
    return exposure(found.room).words


def _day_summary(found: Worked | None) -> str:
    """What the day adds up to, in few words."""
    if found is None:
        return ""
    display = Display(found.day.project.settings.units)
    return f"{minutes_words(found.day.ends)}, {display.volume(found.day.litres)} of chips"


def _day_field(project: Project) -> TextField:
    def read(text: str) -> Jotted:
        return read_day(text, project) if text.strip() not in ("", "none yet") else ((), ())

    work = project.work
    return TextField(
        "day",
        "Jobs",
        day_words(project, work.day, work.unread) or "none yet",
        step="Plan a day",
        read=read,
        edit=lambda p, v: with_work(p, day=v[0], unread=v[1]),
        say=lambda v: day_words(project, *v) or "none yet",
    )


def _unread_fields(project: Project) -> list[Item]:
    """The lines of the day that are not understood, each with what it may mean."""
    items: list[Item] = []
    for number, line in enumerate(project.work.unread):
        # A line stays unread until somebody says so, even if its machine has come meanwhile: the
        # day must not change by itself.
        why = why_unread(line.text, project) or "it can be read now: take it"
        items.append(Fact("", f"Not counted: “{line.text}”; {why}.", "short"))
        meant = guess(line.text, project)
        if meant is not None:
            items.append(
                ActionField(
                    f"unread/{number}/take",
                    f"Take it as: {day_words(project, (meant,))}",
                    step="Take the guess",
                    edit=partial(with_unread_taken, number=number, job=meant),
                )
            )
        items.append(
            ActionField(
                f"unread/{number}/drop",
                "Leave it out",
                step="Leave a line out",
                edit=partial(without_unread, number=number),
            )
        )
    return items


def _day_facts(found: Worked | None) -> list[Item]:
    if found is None:
        return []
    items: list[Item] = [Fact(*row) for row in day_rows(found.day)]
    # A better order that saves seconds is no advice.
    if found.saved >= LEAST_GAIN:
        chosen = [found.day.jobs[n] for n in found.best.jobs]
        names = ", ".join(
            job_name(found.day.project, job.machine, job.place).lower() for job in chosen
        )
        proven = "" if found.best.proven else ", the best found"
        items.append(
            ActionField(
                "better-order",
                f"Take the better order: saves {minutes_words(found.saved)}",
                step="Take the better order",
                edit=lambda p: with_work(p, day=reordered(p.work.day, found.best.jobs)),
                detail=f"{names}{proven}",
            )
        )
    if found.neighbours is not None:
        a, b, saved = found.neighbours
        display = Display(found.day.project.settings.units)
        names = " and the ".join(job_name(found.day.project, m).lower() for m in (a, b))
        items.append(
            Fact(
                "",
                f"The {names} in one another's places would save {display.far(saved)} of walking; "
                "lanes and ducts have to follow.",
            )
        )
    said = [(pair.air.scenario.name(found.day.project).lower(), pair) for pair in found.pairs]
    good = [name for name, pair in said if pair.good]
    if good:
        items.append(Fact("", f"May run at the same time: {'; '.join(good[:3])}."))
    elif said:
        name, pair = said[0]
        items.append(
            Fact(
                "", f"No two may run at the same time; with the best pair, {name}, {pair.hinders}."
            )
        )
    return items


def reordered(day: tuple[DayJob, ...], order: tuple[int, ...]) -> tuple[DayJob, ...]:
    """The jobs in another order (numbers from 0), each still after those that it waits for."""
    # Jobs name one another by their numbers from 1, which change with the order.
    place = {old + 1: new for new, old in enumerate(order, 1)}
    return tuple(
        day[n].replaced(after=tuple(sorted(place[before] for before in day[n].after)))
        for n in order
    )


# -- the air

EXPOSED: dict[Verdict, str] = {"under": "good", "may be over": "short", "over": "starved"}


def _band_words(band: Band) -> str:
    return f"{figure(band.low)} to {figure(band.high)} mg/m³"


def _air_section(project: Project, found: Worked) -> Section:
    made = exposure(found.room)
    # The worst moment of any room, which is what one breathes in.
    most = float(found.room.mid.dust.max())
    low, high = float(found.room.low.max()), float(found.room.high.max())
    limit, counted = made.reference.value, COUNTED[made.reference.counts]
    items: list[Item] = [
        Fact("Fine dust, most", f"{figure(most)} mg/m³, likely {figure(low)} to {figure(high)}"),
        Fact(
            f"At the tool, {counted}", _band_words(made.person), EXPOSED[made.person.against(limit)]
        ),
        Fact(f"Room's mean, {counted}", _band_words(made.room), EXPOSED[made.room.against(limit)]),
        _limit_choice(project),
        Fact("", f"{made.reference.source}. Your country's limit decides."),
        ChoiceField(
            "respirator",
            "Respirator",
            project.work.respirator,
            RESPIRATORS,
            step="Change the respirator",
            edit=lambda p, v: with_work(p, respirator=v),
        ),
    ]
    if project.work.respirator != "none":
        items.append(
            Fact("Behind it", _band_words(made.breathed), EXPOSED[made.breathed.against(limit)])
        )
    cleaners = (
        "with the cleaner left on" if project.work.cleaners else "with nothing that cleans it"
    )
    items.append(
        Fact(
            "",
            f"After work it takes {minutes_words(found.room.decay)} until a tenth is left, "
            f"{cleaners}.",
        )
    )
    if project.work.cleaners and math.isfinite(found.room.decay):
        minutes = max(round(found.room.decay / 60), 1)
        # Not offered where the timer is set so already.
        if any(abs(cleaner.runs_on - minutes) > 1 for cleaner in project.work.cleaners):
            items.append(
                ActionField(
                    "run-on-cleaners",
                    f"Set the timer to {minutes_words(found.room.decay)}",
                    step="Set the cleaner's timer",
                    edit=lambda p: with_work(
                        p,
                        cleaners=tuple(
                            c.replaced(runs_on=min(minutes, 1440)) for c in p.work.cleaners
                        ),
                    ),
                )
            )
    return Section("The dust in the air", tuple(items), summary=f"to {figure(most)} mg/m³")


def _dust_sections(workspace: Workspace, found: Worked) -> list[Section]:
    """Whose dust one breathes, and when the air is clean enough to varnish."""
    shares = [share for share in found.dust.shares if share.whole >= LEAST]
    if not shares:
        return []
    whose = _whose_dust(workspace, found)
    # One has no choice of rooms where there is but one.
    rooms = {room.id: room.name for room in found.day.project.rooms}
    names = Names(found.day.project)
    when: list[Item] = [Fact("", line, "short") for line in found.dust.early]
    for room in found.dust.clean:
        label = rooms[room.room] if len(rooms) > 1 else "Clean enough"
        when.append(Fact(label, room.words))
        if room.band:
            when.append(Fact("It may be", room.band))
        if room.without > room.likely + STEP:
            when.append(Fact("With no cleaner", f"{roughly(room.without)} after work"))
        if room.running < room.likely - STEP:
            left_on = ", ".join(names.of(name).lower() for name in may_run_on(found.day))
            when.append(Fact(f"With {left_on} left on", roughly(room.running)))
    when.append(Fact("", VARNISH.format(figure=compact(clean_air())), prose=True))
    most, soonest = shares[0], min(found.dust.clean, key=lambda room: room.likely)
    return [
        Section("Whose dust", whose, summary=f"{most.whole:.0%} {most.name.lower()}"),
        Section(
            "When to varnish",
            tuple(when),
            len(found.dust.early),
            summary=soonest.words,
            open_first=bool(found.dust.early),
        ),
    ]


def _whose_dust(workspace: Workspace, found: Worked) -> tuple[Item, ...]:
    """What each operation adds to the dose, as it is and after the change that is chosen."""
    looked_into = [c for c in found.changes if c.dust]
    shares = found.dust.shares
    if not looked_into:
        rows = tuple(
            (_dust_words(share), f"{share.whole:.0%}") for share in shares if share.whole >= LEAST
        )
        return (Table(("Operation", "share"), rows),)
    words = [c.change.words for c in looked_into]
    # The change that was looked at may be gone after an edit: then the best one is shown.
    chosen = words.index(workspace.dust_after) if workspace.dust_after in words else 0
    both = before_and_after(shares, looked_into[chosen].dust)
    lines = [
        (_dust_words(row.share), f"{row.now:.0%}", f"{row.then:.0%}")
        for row in both
        if max(row.now, row.then) >= LEAST
    ]
    left = sum(row.then for row in both)
    return (
        ChoiceField(
            "dust-after",
            "With",
            words[chosen],
            tuple((each, each) for each in words),
            step="",
            act=workspace.show_dust_after,
        ),
        Table(("Operation", "now", "with it"), (*lines, ("All together", "100%", f"{left:.0%}"))),
    )


def _dust_words(share: DustShare) -> str:
    return f"{share.words}: {share.way}"


def _meter_section(workspace: Workspace, found: Worked) -> list[Section]:
    """What a particle counter should show, and how much a reading narrows what is left open."""
    meter = found.dust.meter
    if meter is None:
        return []
    one, names = meter.expected, workspace.computed.names
    items: list[Item] = [
        Fact(
            "",
            f"Work at {names.of(one.machine)} for {MINUTES:.0f} min, its collector on.",
            prose=True,
        ),
        Fact("", INSTRUMENT["dust"], prose=True),
        Fact("Likely", f"{dust_words(one.low)} to {dust_words(one.high)}"),
        *reading_items(workspace, "dust", one.machine, one.room),
    ]
    summary = ""
    if meter.readings:
        summary = f"within {one.wide:.0f} times"
        items.append(
            Fact("", f"By the tables alone {meter.tables.wide:.0f} times, now {one.wide:.0f}.")
        )
    return [Section("Particle counter", tuple(items), summary=summary)]


def _limit_choice(project: Project) -> ChoiceField:
    options = tuple(
        (name, f"{LIMIT_WORDS[name]}: {compact(found.value)}") for name, found in REFERENCES.items()
    )
    return ChoiceField(
        "limit",
        "Reference",
        project.work.limit,
        options,
        step="Change the reference",
        edit=lambda p, v: with_work(p, limit=v),
    )


def _change_section(found: Worked) -> list[Section]:
    if not found.complete:
        return [Section("What would clear it most", (Fact("", "Working it out…"),))]
    items = tuple(
        ActionField(
            f"room-change-{n}",
            c.change.words,
            step=c.change.words,
            edit=c.change.edit,
            detail=f"{c.less:.0%} less dust; {c.costs}",
        )
        for n, c in enumerate(found.changes[:MOST_CHANGES], 1)
    )
    more = f"{len(items) - FIRST} more" if len(items) > FIRST else ""
    return [Section("What would clear it most", items, FIRST, more)] if items else []


def _making(hours: float) -> str:
    return f"{hours:.0f} h to make" if hours >= 1 else "nothing to make"


def _worth_section(found: Worked) -> list[Section]:
    """What making something would save in minutes a year, against the hours that it takes."""
    items = tuple(
        Fact("", f"{item.words}: {item.minutes:.0f} min a year, {_making(item.hours)}.")
        for item in found.worth
    )
    return [Section("Worth making", items)] if items else []


def _cleaner_section(project: Project) -> Section:
    display = Display(project.settings.units)
    items: list[Item] = []
    for number, cleaner in enumerate(project.work.cleaners, 1):
        items += _cleaner_fields(project, display, number, cleaner)
    room = project.rooms[0].id
    for name, airflow, caught in CLEANER_MODELS:
        cleaner = AirCleaner(name=name, room=room, airflow=airflow, caught=caught)
        items.append(
            ActionField(
                f"add-cleaner/{name}",
                f"Hang one up: {name.lower()}",
                step="Hang up an air cleaner",
                edit=_adds(cleaner),
                detail=f"{display.airflow(airflow)}, catches {caught:.0%} in one pass",
            )
        )
    hung = len(project.work.cleaners)
    return Section("Air cleaners", tuple(items), summary=f"{hung} hung up" if hung else "none")


def _adds(cleaner: AirCleaner) -> Edit:
    return lambda project: with_work(project, cleaners=(*project.work.cleaners, cleaner))


def _cleaner_fields(
    project: Project, display: Display, number: int, cleaner: AirCleaner
) -> list[Item]:
    key = f"cleaner-{number}"
    rooms = tuple((room.id, room.name) for room in project.rooms)
    return [
        TextField(
            f"{key}/name",
            "Cleaner",
            cleaner.name,
            step="Rename a cleaner",
            read=str.strip,
            edit=lambda p, v: with_cleaner(p, number, name=v),
        ),
        measured_field(
            "airflow",
            project,
            f"{key}/airflow",
            "moves",
            cleaner.airflow,
            lambda p, v: with_cleaner(p, number, airflow=v),
            "Change a cleaner",
            "Cleaner's airflow",
        ),
        percent_field(
            f"{key}/caught",
            "catches",
            cleaner.caught,
            edit=lambda p, v: with_cleaner(p, number, caught=v),
        ),
        number_field(
            f"{key}/hours",
            "has run",
            cleaner.hours,
            edit=lambda p, v: with_cleaner(p, number, hours=v),
            unit="h",
        ),
        number_field(
            f"{key}/runs-on",
            "runs on",
            cleaner.runs_on,
            edit=lambda p, v: with_cleaner(p, number, runs_on=v),
            unit="min",
        ),
        ChoiceField(
            f"{key}/room",
            "hangs in",
            cleaner.room,
            rooms,
            step="Hang a cleaner elsewhere",
            edit=lambda p, v: with_cleaner(p, number, room=v),
        ),
        ActionField(
            f"{key}/away",
            "Take it down",
            step="Take a cleaner down",
            edit=lambda p: without_cleaner(p, number),
        ),
    ]


def _doors(project: Project, value: str) -> Project:
    return with_work(project, open_doors=value == "open", sealed_doors=value == "sealed")


def _house_section(project: Project, found: Worked | None) -> Section:
    plan, currency = project.work, project.build.currency
    items: list[Item] = [
        number_field(
            "windows",
            "Air changes, windows",
            plan.windows,
            edit=lambda p, v: with_work(p, windows=v),
            unit="an hour",
        ),
        percent_field(
            "seal", "Filter's seal lets by", plan.seal, edit=lambda p, v: with_work(p, seal=v)
        ),
        number_field(
            "hearing",
            "Hearing protection: rating on the label",
            plan.hearing,
            edit=lambda p, v: with_work(p, hearing=v),
            unit="dB",
        ),
        TextField(
            "kwh-price",
            "A kilowatt hour",
            "no price" if plan.kwh_price is None else f"{decimal(plan.kwh_price, 2)} {currency}",
            step="Change the price of energy",
            read=lambda text: read_money(text, "A kilowatt hour"),
            edit=lambda p, v: with_work(p, kwh_price=v),
        ),
    ]
    walls = (("none", "nobody there"), *((wall, f"behind {BEHIND[wall]}") for wall in WALL_TAKES))
    items.append(
        ChoiceField(
            "wall",
            "Next room",
            plan.wall,
            walls,
            step="Change the wall",
            edit=lambda p, v: with_work(p, wall=v),
        )
    )
    if len(project.rooms) > 1:
        items.append(
            ChoiceField(
                "open-doors",
                "Doors between rooms",
                "open" if plan.open_doors else "sealed" if plan.sealed_doors else "shut",
                (
                    ("shut", "shut while working"),
                    ("sealed", "shut, with gaskets"),
                    ("open", "open"),
                ),
                step="Change the doors",
                edit=_doors,
            )
        )
    level = found.day.next_door if found is not None else None
    if level is not None:
        items += [Fact("", line) for line in quieter(plan.wall, level)]
    return Section("The house", tuple(items))


def _chore_section(project: Project) -> Section:
    items = [Fact(f"every {chore.days} days", chore.words) for chore in chores(project)]
    return Section("Chores", tuple(items) or (Fact("", "Nothing yet."),), summary=str(len(items)))
