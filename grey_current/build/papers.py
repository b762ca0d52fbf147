"""The papers to take to the shop, as values: sections of headings, paragraphs, tables and drawings.

What lays them out on pages is elsewhere; everything that is said on them is said here.
"""

from __future__ import annotations

import datetime
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from grey_current.build.bill import Bill, bill
from grey_current.build.cuts import numbered, proof_words
from grey_current.build.drawing import Drawing, fitting_scale
from grey_current.build.elevations import drop_drawings, main_drawings
from grey_current.build.made.templates import notes, template
from grey_current.build.miscuts import miscut_words, one_more, one_more_words
from grey_current.build.phases import PhaseFacts
from grey_current.build.plan_drawing import overview_drawing, plan_drawing
from grey_current.build.plan_parts import in_parts, settled
from grey_current.build.selling import sold_by
from grey_current.build.setting_out import SettingOut, marks_drawing, walls_drawing
from grey_current.build.wall_elevations import wall_drawings
from grey_current.build.words import (
    bought_words,
    line_money,
    misfits,
    money_words,
    quantity_words,
    totals_words,
)
from grey_current.design.findings.all_findings import all_findings
from grey_current.design.findings.verdict import verdict
from grey_current.design.flow.assessment import Assessment
from grey_current.design.flow.levers import gate_sheet
from grey_current.design.flow.scenarios import all_scenarios
from grey_current.design.parts.straights import Straight
from grey_current.design.supply.circuits import all_loads, draw
from grey_current.errors import InputError
from grey_current.numerals import decimal
from grey_current.shop.catalogue import materials
from grey_current.shop.model import Project
from grey_current.shop.names import Names, capital
from grey_current.shop.places import bodies
from grey_current.units import Display

# mm that a drawing may take on a page that lies on its side (A4 and Letter).
PLAN_ROOM = (247.0, 130.0)
DROP_ROOM = (165.0, 96.0)
MOST_ON_COVER = 12
ALL_PROBLEMS = "All problems"
CAUTIONS = (
    "Estimates for planning, not a certificate. Measure the fittings that you bought before "
    "you cut: lay lengths here "
    "are generic. Measure the air before you rely on a figure.",
    "Ladder: two hands for the pipe want a second person. Sheet metal cuts: gloves. Eyes: "
    "glasses when you drill "
    "overhead.",
    "Cutting plastic pipe and glueing it: air, no flame near primer and cement.",
    "Fine wood dust harms lungs: a respirator for what the hood misses.",
    "Dust burns and can explode: no metal grinding through a wood collector, keep dust off "
    "heaters, flues and motors, "
    "empty the bin, watch for glowing bits.",
    "A collector that exhausts outdoors can pull flue gases into the room.",
    "Mains wiring, gas appliances and fire safety: local code and licensed people. Unplug "
    "before you reach into a "
    "machine or a separator. Protect your ears.",
)
EARTHING = (
    "Plastic pipe, earthed: some earth a bare wire along the pipe, for sparks startle people "
    "on ladders and insurers "
    "ask for it.",
    "Not earthed: others hold that a wire along an insulator drains little, and that no fire "
    "by static is known from "
    "pipes of this size. Ask the pipe's maker and the local code.",
)


@dataclass(frozen=True)
class Column:
    """A column: its title, its share of the width, and whether figures stand in it."""

    title: str
    share: float
    figures: bool = False


@dataclass(frozen=True)
class Table:
    """Rows under a heading line; a row of one cell is a heading inside the table."""

    columns: tuple[Column, ...]
    rows: tuple[tuple[str, ...], ...]


@dataclass(frozen=True)
class Note:
    """A paragraph; `strong` for what is read first."""

    text: str
    strong: bool = False


Block = Note | Table | Drawing


@dataclass(frozen=True)
class PaperSection:
    """A part of the papers that begins on a page of its own; `lying` for pages on their side."""

    title: str
    blocks: tuple[Block, ...]
    lying: bool = False


@dataclass(frozen=True)
class Papers:
    """All sections, with what stands at the foot of every page."""

    title: str
    date: datetime.date
    sections: tuple[PaperSection, ...]


def papers(
    now: Assessment,
    phases: Sequence[PhaseFacts] = (),
    found: Bill | None = None,
    date: datetime.date | None = None,
) -> Papers:
    """The papers of a design. Raises `DuctworkError` where pipe has no stock length that will
    do.
    """
    project = now.project
    costs = found or bill(project)
    # In the order in which they are used: look, buy, cut, hang, wire.
    plan, elevations, drops, on_walls = drawings(costs)
    sections = [PaperSection(project.name, tuple(_cover(now, costs))), _plan(costs, plan)]
    sections += _setting_out(costs)
    sections += [PaperSection("The main", tuple(elevations), lying=True)] if elevations else []
    sections += [PaperSection("Drops", tuple(drops))] if drops else []
    sections += [PaperSection("Walls", tuple(on_walls), lying=True)] if on_walls else []
    sections.append(
        PaperSection("What to buy", (*(Note(line) for line in totals_words(costs)), _parts(costs)))
    )
    if costs.cuts:
        sections.append(PaperSection("What to cut", tuple(_cuts(costs))))
    sections += _gates(now)
    sections.append(PaperSection("Circuits, for the electrician", tuple(_circuits(project))))
    if len(phases) > 1:
        sections.append(PaperSection("In phases", (_phases(project, phases),)))
    sections += _made(project)
    found_amiss = [f.message for f in all_findings(project, now) if f.severity != "note"]
    if len(found_amiss) > MOST_ON_COVER:
        sections.append(PaperSection(ALL_PROBLEMS, tuple(map(Note, found_amiss))))
    sections.append(
        PaperSection("Before you climb the ladder", tuple(Note(text) for text in CAUTIONS))
    )
    return Papers(project.name, date or datetime.date.today(), tuple(sections))


def plan_alone(found: Bill, date: datetime.date | None = None) -> Papers:
    """The plan without the rest, for the wall or for somebody who asks what the shop looks like."""
    plan = _plan(found, drawings(found)[0])
    return Papers(found.parts.project.name, date or datetime.date.today(), (plan,))


def _plan(found: Bill, drawn: Sequence[Drawing]) -> PaperSection:
    rings = (Note("Numbers in rings are those of the cutting list."),) if found.cuts else ()
    return PaperSection("Plan", (*drawn, *rings), lying=True)


def drawings(found: Bill) -> tuple[list[Drawing], list[Drawing], list[Drawing], list[Drawing]]:
    """The plan, in parts where one sheet is too small, the mains unrolled, the drops and the walls
    that ducts hang on, each at the largest usual scale that a page takes.
    """
    project, pieces, numbers = found.parts.project, found.parts.straights, numbered(found.cuts)
    plan = in_parts(
        project,
        lambda scale, part: plan_drawing(project, pieces, numbers, scale, part),
        lambda scale: overview_drawing(project, scale),
        PLAN_ROOM,
    )

    def mains(s: float) -> list[Drawing]:
        return [
            drawing
            for collector in project.collector
            for drawing in main_drawings(project, collector, pieces, numbers, s)
        ]

    main_scale = settled(mains, (PLAN_ROOM[0], 100.0))
    drop_scale = settled(lambda s: drop_drawings(project, pieces, numbers, s), DROP_ROOM)
    wall_scale = settled(lambda s: wall_drawings(project, s), PLAN_ROOM)
    return (
        plan,
        mains(main_scale),
        drop_drawings(project, pieces, numbers, drop_scale),
        wall_drawings(project, wall_scale),
    )


# -- sections


def _cover(now: Assessment, costs: Bill) -> Iterable[Block]:
    project = now.project
    display = Display(project.settings.units)
    yield Note(verdict(now, None), strong=True)
    wish = (
        "clear the chips" if project.settings.criterion == "clear chips" else "catch the fine dust"
    )
    yield Note(
        f"Designed to {wish}, one machine running at a time unless they are counted together. "
        "Air of "
        f"{display.density(now.air.density)}. Losses are known to about 15 to 30 per cent."
    )
    rows = []
    for machine in project.machines:
        answer = now.counted.of_machine.get(machine.id)
        worst = answer.worst if answer is not None else None
        own = next((p for p in answer.pickups if p.by_itself), None) if answer else None
        if worst is None and own is not None:
            got, wanted = display.airflow(own.airflow), display.airflow(own.need.airflow)
            rows.append((machine.name, got, wanted, "into its own bag"))
        elif worst is None or answer is None or not answer.converged or worst.leaf is None:
            rows.append((machine.name, "–", "–", "not connected"))
        else:
            rows.append(
                (
                    machine.name,
                    display.airflow(worst.airflow),
                    display.airflow(worst.need.airflow),
                    "is enough" if worst.share >= 0.995 else f"{worst.share:.0%} of it",
                )
            )
    yield Table(
        (
            Column("Machine", 0.4),
            Column("gets", 0.2, True),
            Column("needs", 0.2, True),
            Column("", 0.2),
        ),
        tuple(rows),
    )
    for line in totals_words(costs):
        yield Note(line)
    # What is still wrong is said on the first page, for paper outlives the screen.
    found = [f for f in all_findings(project, now) if f.severity != "note"]
    if found:
        yield Note(f"Still to look at: {len(found)}", strong=True)
        for finding in found[:MOST_ON_COVER]:
            yield Note(finding.message)
        if len(found) > MOST_ON_COVER:
            left = len(found) - MOST_ON_COVER
            yield Note(f"and {left} more, on the page “{ALL_PROBLEMS}”.")


def _setting_out(costs: Bill) -> list[PaperSection]:
    """Where every joint comes, every pipe from letter to letter, and what goes on what."""
    found = SettingOut(costs.parts, numbered(costs.cuts))
    if not found.marks:
        return []
    plan = in_parts(
        found.project,
        lambda scale, part: marks_drawing(found, scale, part),
        lambda scale: walls_drawing(found, scale),
        PLAN_ROOM,
    )
    joints = Table(
        (
            Column("", 0.06),
            Column("from", 0.21),
            Column("and from", 0.21),
            Column("middle up", 0.14, True),
            Column("stands there", 0.38),
        ),
        tuple(found.joint_rows()),
    )
    runs = Table(
        (
            Column("", 0.14),
            Column("Pipe", 0.36),
            Column("size", 0.1, True),
            Column("centres", 0.13, True),
            Column("how it runs", 0.27),
        ),
        tuple(found.run_rows()),
    )
    orders = Table((Column("From", 0.22), Column("what goes on what", 0.78)), tuple(found.orders()))
    measured = Note(
        "Measure square from the walls to the middle of the pipe; the plan has their numbers."
    )
    return [
        PaperSection("Setting out", (*plan, measured), lying=True),
        PaperSection("Where every joint comes", (measured, joints)),
        PaperSection("Every pipe", (runs,)),
        PaperSection("What goes on what", (orders,)),
    ]


def _parts(costs: Bill) -> Table:
    project = costs.parts.project
    display, currency = Display(project.settings.units), project.build.currency
    rows: list[tuple[str, ...]] = []
    group = ""
    for line in costs.lines:
        # A line of its own above each group of parts.
        if line.part.group != group:
            group = line.part.group
            rows.append((group,))
        unit = sold_by(line.part.key, display)
        price = "–" if line.price is None else decimal(line.price * unit.size, 2)
        rows.append(
            (
                "☐",
                quantity_words(line.part, display),
                bought_words(line, display),
                price,
                line_money(line, currency),
            )
        )
    columns = (
        Column("", 0.05),
        Column("How many", 0.13, True),
        Column("Part", 0.52),
        Column("each", 0.12, True),
        Column("sum", 0.18, True),
    )
    return Table(columns, tuple(rows))


def _cuts(costs: Bill) -> Iterable[Block]:
    project = costs.parts.project
    display, names, numbers = Display(project.settings.units), Names(project), numbered(costs.cuts)
    yield Note(
        f"The saw takes {display.length(project.build.kerf)} with every cut; that is counted."
    )
    columns = (
        Column("", 0.06),
        Column("No.", 0.09, True),
        Column("Length", 0.25, True),
        Column("Where", 0.6),
    )
    letters = SettingOut(costs.parts, numbers)
    for pipe in costs.cuts:
        yield Note(
            f"{materials()[pipe.material].label}, {display.diameter(pipe.diameter)}: "
            f"{proof_words(pipe)}",
            strong=True,
        )
        yield Note(miscut_words(pipe, display))
        more = one_more(project, pipe)
        yield Note(one_more_words(more, project.build.currency, display))
        rows: list[tuple[str, ...]] = []
        for count, bar in enumerate(pipe.bars, 1):
            kind = "Offcut" if bar.owned else "Length"
            rows.append(
                (
                    f"{kind} {count}: {display.length(bar.length)}, {display.length(bar.rest)} "
                    "left over",
                )
            )
            rows += [
                ("☐", f"{numbers[p.id]}", display.length(p.length), _place(p, names, letters))
                for p in bar.pieces
            ]
        yield Table(columns, tuple(rows))
    for line in misfits(costs):
        yield Note(line)


def _place(piece: Straight, names: Names, letters: SettingOut) -> str:
    """Which pipe a piece belongs to, and between which letters."""
    ends = [letters.letter[element] for element in piece.between if element in letters.letter]
    where = names.start(piece.run)
    return f"{where}, {' to '.join(dict.fromkeys(ends))}" if ends else where


def _gates(now: Assessment) -> list[PaperSection]:
    sheet = gate_sheet(now)
    if not sheet.gates:
        return []
    share = 0.68 / len(sheet.gates)
    columns = (
        Column("Running", 0.32),
        *(Column(f"{n}", share) for n in range(1, len(sheet.gates) + 1)),
    )
    marks = {"own": "open", "too": "open", "left open": "open", "kept shut": "–", "shut": "–"}
    table = Table(
        columns, tuple((row.name, *(marks[state] for state in row.states)) for row in sheet.rows)
    )
    plates = ", ".join(f"{number} {plate}" for number, (_, plate) in enumerate(sheet.gates, 1))
    words = Note(f"Gates in the order of the main, nearest to the collector first: {plates}.")
    return [PaperSection("Gates and levers", (words, table), lying=len(sheet.gates) > 10)]


def _circuits(project: Project) -> Iterable[Block]:
    yield Note(
        "What runs together, and what it draws: for a licensed electrician to judge. No wiring "
        "is proposed here."
    )
    display = [
        Column("Circuit", 0.25),
        Column("runs together", 0.45),
        Column("draws", 0.15, True),
        Column("may for long", 0.15, True),
    ]
    # By names, for an electrician does not know ids.
    circuits = {circuit.id: circuit.name for circuit in project.circuits}
    known = {item.id: item.name for item in bodies(project)}
    loads = tuple(
        (
            circuits.get(load.circuit, load.circuit),
            ", ".join(known.get(item, item) for item in load.items),
            f"{load.amps:.0f} A",
            f"{load.allowed:.0f} A" + ("" if load.fits else ", too little"),
        )
        for load in all_loads(project)
    )
    if loads:
        yield Table(tuple(display), loads)
    else:
        yield Note("No circuits are entered for this shop.")
    rows = []
    for item in bodies(project):
        drawn = draw(project, item)
        if drawn is not None:
            source = "worked from its power" if drawn.estimated else "from its plate"
            rows.append((item.name, f"{drawn.volts:.0f} V", f"{decimal(drawn.amps, 1)} A", source))
    yield Table(
        (Column("Draws", 0.4), Column("", 0.15, True), Column("", 0.15, True), Column("", 0.3)),
        tuple(rows),
    )
    together = [s for s in all_scenarios(project) if len(s.running) > 1]
    if together:
        yield Note(
            "Counted as running together: " + "; ".join(s.name(project) for s in together) + "."
        )


def _phases(project: Project, phases: Sequence[PhaseFacts]) -> Table:
    currency, names = project.build.currency, Names(project)
    rows = tuple(
        (
            f"{facts.number}  {facts.phase.name}",
            ", ".join(capital(names.of(i).removeprefix("the ")) for i in facts.new) or "ducts only",
            f"{facts.met} of {facts.served[1]}",
            money_words(facts.money.money, currency),
            money_words(facts.so_far, currency),
        )
        for facts in phases
    )
    columns = (
        Column("Phase", 0.18),
        Column("comes", 0.4),
        Column("air for", 0.1, True),
        Column("costs", 0.16, True),
        Column("so far", 0.16, True),
    )
    return Table(columns, rows)


def _made(project: Project) -> list[PaperSection]:
    display = Display(project.settings.units)
    found = []
    for item in project.build.made:
        if item.element and project.find(item.element) is None:
            continue
        chosen = template(item.template)
        where = f" for {Names(project).of(item.element)}" if item.element else ""
        try:
            made = chosen.made(item.figures, display)
        # Figures that no longer go together are told in the drawing's place.
        except InputError as problem:
            found.append(PaperSection(f"{chosen.title}{where}", (Note(str(problem)),)))
            continue
        scale = fitting_scale([Drawing(chosen.title, made.items)], 170.0, 110.0)
        blocks: tuple[Block, ...] = (
            Drawing(chosen.title, made.items, scale),
            *(Note(line) for line in notes(made, display)),
        )
        found.append(PaperSection(f"{chosen.title}{where}", blocks))
    return found


def earthing_words(project: Project) -> tuple[str, ...]:
    """Both sides' argument about earthing plastic pipe, where there is any; else nothing."""
    plastic = any(run.material == "pvc" for run in project.runs)
    return EARTHING if plastic else ()
