"""Pages of the Keep stage: where to measure next, the readings, what they have moved; a machine's
or duct's own.
"""

from __future__ import annotations

import datetime
from collections.abc import Callable

from grey_current.dates import date_words
from grey_current.desk.inspector.fields import (
    ActionField,
    ChoiceField,
    Fact,
    Item,
    Page,
    Section,
    Table,
)
from grey_current.desk.inspector.finding_pages import finding_page, start_action
from grey_current.desk.inspector.lesson_pages import lesson_page
from grey_current.desk.inspector.log_pages import coming_section, logbook_section, place_items
from grey_current.desk.inspector.practice_pages import (
    complaint_section,
    look_items,
    practice_sections,
)
from grey_current.desk.inspector.reading_fields import reading_items
from grey_current.files.keep_report import pickup_band
from grey_current.keep.answers import (
    SHOWN,
    HowSure,
    about_cause,
    likely_causes,
    machines_through,
    place_and_fault,
)
from grey_current.keep.monthly import Monthly, due_again, last_of, limit_lines, place_of, spec_of
from grey_current.keep.reading_words import (
    INSTRUMENT,
    INSTRUMENT_NAMES,
    band_words,
    figure,
    place_words,
    traverse_points,
)
from grey_current.keep.robustness import HowOften
from grey_current.keep.uncertainty import LIKELY_ENOUGH, known_words, share_words
from grey_current.shop.catalogue import materials
from grey_current.shop.keep_edits import with_instrument, with_keep
from grey_current.shop.keep_plan import READS, Instrument, ReadingKind
from grey_current.shop.model import Project
from grey_current.shop.names import capital
from grey_current.units import Display
from grey_current.workspace import asking
from grey_current.workspace.reading_table import READ, SAYS, reading_rows
from grey_current.workspace.workspace import Workspace

MOST_MOVED = 6
# Readings on the page; all of them are in the strip.
MOST_READINGS = 5
NO_GAUGE = (
    "You need a pressure gauge. A clear hose bent into a U and half filled with water works: the "
    "difference in height is the suction."
)
CAUTION = "Off and still before you drill."
BANDS = "Bands hold what tables and allowances leave open, not what is broken or blocked."
# Words in sight on the stage's own page: one comes here for a minute a month.
WORDS = 60


def stage_page(workspace: Workspace) -> Page | None:
    """The page of the Keep stage; None for what has nothing of its own to say here."""
    chosen = workspace.selection
    if chosen is None:
        return _shop_page(workspace)
    project = workspace.project
    owner = chosen.partition("/")[0]
    if owner in project.machine:
        return _machine_page(workspace, owner)
    if chosen in project.run and materials()[project.run[chosen].material].hose:
        return _hose_page(workspace, chosen)
    if chosen in project.gate and project.keep.practising:
        look = Section("Look", tuple(look_items(project, "gate", chosen)))
        return Page(
            workspace.computed.names.start(chosen), "Is it as it should be?", (look,), (), CAUTION
        )
    if chosen in project.run:
        return _place_page(workspace, chosen, ("static pressure", "velocity"))
    if chosen in project.collector:
        return _place_page(workspace, chosen, ("filter drop", "motor current", "sound"))
    return None


def _current(workspace: Workspace) -> HowSure | None:
    """How sure everything is, where it is about the shop as it is."""
    found = workspace.computed.doubt
    return found if found is not None and found.project == workspace.project else None


# -- the shop


def _shop_page(workspace: Workspace) -> Page:
    project, found = workspace.project, _current(workspace)
    step = finding_page(workspace, found)
    if step is not None:
        return step
    if (lesson := lesson_page(workspace)) is not None:
        return lesson
    sections = practice_sections(workspace, found)
    if project.keep.practising:
        sections.append(Section("Readings", tuple(_reading_items(workspace, found))))
        return Page(
            "Practise", "", tuple(sections), (), CAUTION, _answer(project, found), problems=False
        )
    count = len(project.keep.readings)
    if found is not None:
        sections += [_monthly_section(workspace, one) for one in found.monthly]
    sections += [
        _next_section(workspace, found),
        Section(
            "Readings", tuple(_reading_items(workspace, found)), 0, _readings_summary(count, found)
        ),
    ]
    if found is not None and found.told.causes:
        first = found.told.causes[0]
        likeliest = f"{place_and_fault(workspace.computed.names, first)}, {first.chance:.0%}"
        items = tuple(_fault_items(workspace, found))
        section = Section("Which fault", items, 1, summary=likeliest)
        # A fault stands above the readings; that all is well, below them.
        healthy = found.told.causes[0].kind is None and project.keep.complaint is None
        sections.insert(len(sections) if healthy else len(sections) - 2, section)
    if project.runs:
        sections.append(complaint_section(project, start_action(workspace, "finding/start")))
    if found is not None and found.fit.moved:
        rows = tuple((capital(m.words), f"{m.left:.0%}") for m in found.fit.moved[:MOST_MOVED])
        table = Table(("What", "still uncertain"), rows)
        sections.append(Section("What your readings changed", (table,)))
    if project.runs:
        sections.append(_instrument_section(project))
    sections += [coming_section(project, found), logbook_section(workspace)]
    return Page(
        "Keep",
        "",
        tuple(sections),
        (),
        CAUTION,
        _answer(project, found),
        problems=False,
        words=WORDS,
    )


def _answer(project: Project, found: HowSure | None) -> str:
    if not project.runs:
        return "How sure the airflows are, once there are ducts."
    if found is None:
        return "Working out how sure the airflows are…"
    alone = [item for item in found.sure.pickups if len(item.scenario.running) == 1]
    machines = dict.fromkeys(item.pickup.partition("/")[0] for item in alone)
    worst = [min(i.chance for i in alone if i.pickup.partition("/")[0] == m) for m in machines]
    if not worst:
        return "No machine has a duct to a collector."
    likely = sum(chance >= LIKELY_ENOUGH for chance in worst)
    if len(worst) == 1:
        return f"The one machine {'likely gets' if likely else 'may not get'} enough at every hood."
    return f"{likely} of {len(worst)} machines likely get enough at every hood."


def _monthly_section(workspace: Workspace, one: Monthly) -> Section:
    """The one reading a month: where, the figure, what it means, the limits."""
    project = workspace.project
    display, names = Display(project.settings.units), workspace.computed.names
    can_read = project.keep.can_read("static pressure")
    items: list[Item] = [
        Fact("", f"Suction in {place_of(names, one)}."),
        *(reading_items(workspace, *spec_of(one)) if can_read else (Fact("", NO_GAUGE),)),
    ]
    last = last_of(one)
    summary = "due"
    if last is not None:
        date, value = last
        told = f"{display.pressure(value)}. {one.words(value)}"
        items.append(Fact(f"Last, {date_words(date, display.system)}", told, one.state(value)))
        if one.state(value) != "good":
            key = f"finding/start/{one.collector}"
            items.append(start_action(workspace, key, primary=True))
        again = due_again(one, datetime.date.today())
        summary = "due" if again else date_words(date, display.system)
    items += [Fact("", line) for line in limit_lines(display, one)]
    items.append(
        ActionField(
            f"sticker/{one.collector}",
            "Save the sticker…",
            step="",
            act=lambda: workspace.save_sticker(one),
            detail="with these limits, for the duct beside the hole",
        )
    )
    title = "This month"
    if len(project.collectors) > 1:
        title = f"This month: {project.collector[one.collector].name.lower()}"
    return Section(title, tuple(items), 3 if last is not None else 2, summary)


def _instrument_section(project: Project) -> Section:
    """What there is to measure with: nothing else is asked for."""
    owned = project.keep.instruments
    items = [
        ChoiceField(
            f"instrument/{name}",
            INSTRUMENT_NAMES[name],
            "yes" if owned is None or name in owned else "no",
            (("yes", "have it"), ("no", "don't have it")),
            step="Change the instruments",
            edit=_has(name),
        )
        for name in READS
    ]
    said = Fact("", "You are only asked for readings that these can take.")
    return Section("Instruments", (*items, said), summary="not said" if owned is None else "")


def _has(instrument: Instrument) -> Callable[[Project, str], Project]:
    return lambda project, v: with_instrument(project, instrument, there=v == "yes")


def _next_section(workspace: Workspace, found: HowSure | None) -> Section:
    """Where else to measure; one click deeper where there is one reading a month."""
    items = tuple(_next_items(workspace, found))
    if found is None or not found.monthly:
        return Section("Measure next", items, 2)
    items = (*items, Fact("", known_words(found.sure)), Fact("", BANDS))
    settles = max((w.settles for w in found.wanted[:SHOWN]), default=0.0)
    return Section("Measure next", items, 0, f"{settles:.0%} less uncertain")


def _next_items(workspace: Workspace, found: HowSure | None) -> list[Item]:
    if found is None:
        return [Fact("", "Working it out…" if workspace.project.runs else "Nothing yet.")]
    display, names = Display(workspace.project.settings.units), workspace.computed.names
    items: list[Item] = []
    each_month = [spec_of(one) for one in found.monthly]
    for number, w in enumerate(found.wanted[:SHOWN], 1):
        words = place_words(names, w.kind, w.machine, w.place)
        band = band_words(display, w.kind, w.expected, w.half)
        items.append(
            Fact("", f"{number}. {words}: {band}. Removes {w.settles:.0%} of the uncertainty.")
        )
        # Its field stands above already.
        if (w.kind, w.machine, w.place) not in each_month:
            items += reading_items(workspace, w.kind, w.machine, w.place)
    kinds = dict.fromkeys(w.kind for w in found.wanted[:SHOWN])
    items += [Fact("", INSTRUMENT[kind]) for kind in kinds]
    if not items and not workspace.project.keep.reads_ducts:
        return [Fact("", f"Nothing to measure with. {NO_GAUGE}")]
    return items or [Fact("", "No air is computed anywhere yet.")]


def _fault_items(workspace: Workspace, found: HowSure) -> list[Item]:
    names, told = workspace.computed.names, found.told
    causes = likely_causes(told)
    rows = tuple((place_and_fault(names, cause), f"{cause.chance:.0%}") for cause in causes)
    items: list[Item] = [Table(("Cause", "chance"), rows)]
    items += [Fact("", said) for cause in causes[:1] if (said := about_cause(names, cause))]
    if told.apart is not None and len(causes) > 1:
        items.append(Fact("", f"Best next check: {place_words(names, *told.apart)}."))
        if all(told.apart != (w.kind, w.machine, w.place) for w in found.wanted[:SHOWN]):
            items += reading_items(workspace, *told.apart)
    return items


def _reading_items(workspace: Workspace, found: HowSure | None) -> list[Item]:
    project = workspace.project
    if not project.keep.readings:
        return [
            Fact(
                "",
                "None yet. One figure typed above is one; or click a duct, machine or collector.",
            )
        ]
    items: list[Item] = [
        ChoiceField(
            "applied",
            "Bands",
            "yes" if project.keep.applied else "no",
            (("yes", "follow the readings"), ("no", "as the tables say")),
            step="Follow the readings or not",
            edit=lambda p, v: with_keep(p, applied=v == "yes"),
        )
    ]
    # The newest first: all of them are in the strip's table, to sort, change and delete.
    rows = reading_rows(project, found.logged if found is not None else ())[::-1]
    shown = rows[:MOST_READINGS]
    items.append(
        Table(
            ("Where, and what it says", "You read"),
            tuple((f"{row.words}: {row.cells[SAYS]}", row.cells[READ]) for row in shown),
            tuple(row.state or "good" for row in shown),
        )
    )
    if not project.keep.practising:
        items.append(
            ActionField(
                "readings/all",
                "All in a table",
                step="",
                act=workspace.show_readings,
                detail="to sort, change or delete",
            )
        )
    return items


def _readings_summary(count: int, found: HowSure | None) -> str:
    """How many readings there are, and how many contradict the others."""
    aside = sum(item.standing == "aside" for item in found.logged) if found is not None else 0
    return f"{count}, {aside} set aside" if aside else str(count or "none yet")


# -- one machine, duct or collector


def _machine_page(workspace: Workspace, machine: str) -> Page:
    project, found = workspace.project, _current(workspace)
    display, names = Display(project.settings.units), workspace.computed.names
    sections = []
    for pickup in project.machine[machine].pickups:
        ref = f"{machine}/{pickup.id}"
        item = found.sure.of(ref) if found is not None else None
        if item is None and (found is not None or not project.runs):
            sections.append(Section(pickup.name, (Fact("", "No air is computed for it."),)))
            continue
        items: list[Item] = [
            Fact("", f"{pickup_band(display, item)}." if item is not None else "Working it out…")
        ]
        if item is not None and item.matters:
            open_still = tuple((capital(words), f"{share:.0%}") for words, share in item.matters)
            items.append(Table(("", "share of the uncertainty"), open_still))
        items += [
            Fact("", INSTRUMENT["airflow"]),
            *reading_items(workspace, "airflow", machine, ref),
        ]
        items += look_items(project, "pickup", ref)
        sections.append(Section(capital(names.of(ref)), tuple(items)))
    if not project.keep.practising and found is not None:
        sections.append(_holds_section(workspace, machine))
    sections.append(Section("Logbook", place_items(project, machine)))
    return Page(project.machine[machine].name, "How sure its air is.", tuple(sections), (), CAUTION)


def _holds_section(workspace: Workspace, machine: str) -> Section:
    """What would help, with how often it holds; each is one click."""
    known = workspace.computed.known(asking.job(workspace))
    if not isinstance(known, HowOften) or known.machine != machine:
        return Section(
            "What would help, and how often", (Fact("", "Trying it in some hundred shops…"),)
        )
    display = Display(workspace.project.settings.units)
    items = tuple(
        ActionField(
            f"holds-{number}",
            item.improvement.words,
            step=item.improvement.words,
            edit=item.improvement.edit,
            detail=f"+{display.airflow(item.improvement.gain)}; half of it or more in "
            f"{share_words(item.kept)} of such shops. "
            f"Enough air: {share_words(item.before)} before, {share_words(item.met)} then"
            + "".join(f"; {cost}" for cost in item.improvement.costs[:2]),
        )
        for number, item in enumerate(known.changes, 1)
    )
    return Section(
        "What would help, and how often", items or (Fact("", "Nothing would help it much."),)
    )


def _hose_page(workspace: Workspace, hose: str) -> Page:
    project = workspace.project
    sections = [Section("Logbook", place_items(project, hose))]
    look = look_items(project, "hose", hose)
    if look:
        sections.insert(0, Section("Look", tuple(look)))
    words = "A hose has no test hole: choose the pipe beside it."
    return Page(
        workspace.computed.names.start(hose), words, tuple(sections), (), CAUTION if look else ""
    )


def _place_page(workspace: Workspace, place: str, kinds: tuple[ReadingKind, ...]) -> Page:
    project, found = workspace.project, _current(workspace)
    display, names = Display(project.settings.units), workspace.computed.names
    machines = machines_through(workspace.assessment, place)
    if len(workspace.running) == 1 and workspace.running[0] in machines:
        running = workspace.running[0]
    else:
        running = None
    title = names.start(place)
    if not machines:
        logbook = Section("Logbook", place_items(project, place))
        return Page(
            title, "No machine that runs alone draws air through it.", (logbook,), (), CAUTION
        )
    machine = running or machines[0]
    sections = []
    view = found.fit.model.view(found.fit.factors) if found is not None else None
    for kind in kinds:
        at = view.value(kind, machine, place) if view is not None else float("nan")
        items: list[Item] = [Fact("Expect", figure(display, kind, at)), Fact("", INSTRUMENT[kind])]
        if kind == "velocity":
            points = ", ".join(
                display.length(point) for point in traverse_points(project.run[place].diameter)
            )
            items.append(
                Fact(
                    "",
                    f"Across and then up and down, from the wall: {points}. Type all, with ; "
                    "between.",
                )
            )
        sections.append(
            Section(capital(kind), (*items, *reading_items(workspace, kind, machine, place)))
        )
    look = look_items(project, "collector" if place in project.collector else "run", place)
    if look:
        sections.append(Section("Look", tuple(look)))
    sections.append(Section("Logbook", place_items(project, place)))
    others = (
        " Start another in the rack to measure while that one runs." if len(machines) > 1 else ""
    )
    return Page(
        title, f"Measured with only {names.of(machine)} on.{others}", tuple(sections), (), CAUTION
    )
