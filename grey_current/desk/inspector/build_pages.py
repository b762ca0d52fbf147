"""Pages of the Build stage: what it costs and in which phases, a part of the bill, and what is done
of an element.
"""

from __future__ import annotations

from grey_current.build.cuts import finished, numbered, put_away
from grey_current.build.miscuts import again_words, one_more, price_words
from grey_current.build.words import money_words, part_of_bill, quantity_words, totals_words
from grey_current.dates import date_words
from grey_current.design.findings.finding import of_element
from grey_current.design.parts.keys import kind_of, part_words
from grey_current.design.parts.phase_order import phase_of
from grey_current.design.parts.takeoffs import is_hose
from grey_current.desk.inspector.fields import (
    ActionField,
    Changed,
    ChoiceField,
    Fact,
    Item,
    Page,
    Section,
    Table,
    TextField,
    number_field,
)
from grey_current.desk.inspector.made_fields import made_sections
from grey_current.desk.inspector.price_fields import price_field, read_money
from grey_current.desk.inspector.stock_fields import sealing_sections, stock_sections
from grey_current.errors import GreyCurrentError
from grey_current.files.next_report import main_words, next_lines, rows
from grey_current.files.reuse_report import left_over_lines
from grey_current.numerals import decimal
from grey_current.shop import build_edits
from grey_current.shop.build_plan import MOST_PHASES
from grey_current.shop.collectors import Collector
from grey_current.shop.duct_graph import AirPaths
from grey_current.shop.ducts import Run
from grey_current.shop.machines import Machine
from grey_current.shop.model import Project
from grey_current.shop.names import capital
from grey_current.units import Display, parse_length
from grey_current.workspace.guide import stage_findings
from grey_current.workspace.jobs import Refused
from grey_current.workspace.workspace import BuildFace, Workspace

MOST_PLACES = 10
ENDS = {
    1: ("Takes of the duct",),
    3: ("Takes to the collector", "Takes to the main", "Takes to the branch"),
}
CAUTION = (
    "Measure the fittings you bought before you cut. Gloves for sheet metal; two people "
    "on a ladder."
)


def stage_page(workspace: Workspace) -> Page | None:
    """The page of the Build stage."""
    try:
        if workspace.part is not None and workspace.part in workspace.computed.bill.line:
            return _part_page(workspace, workspace.part)
        if workspace.selection is not None:
            return _element_page(workspace, workspace.selection)
        return _overview(workspace)
    except GreyCurrentError as problem:
        stock = stock_sections(workspace.project)
        return Page("Build", str(problem), tuple(stock), stage_findings(workspace), CAUTION)


# -- the whole


def _overview(workspace: Workspace) -> Page:
    project, found = workspace.project, workspace.computed.bill
    answer = " ".join(totals_words(found)) if found.lines else "Nothing to buy yet."
    groups = tuple(
        Fact(group, part_of_bill(found, money))
        for group, money in found.by_group().items()
        if money
    )
    names = {
        machine: project.machine[machine].name
        for machine in found.by_machine
        if machine in project.machine
    }
    machines = sorted(found.by_machine.items(), key=lambda item: -item[1])
    whose = tuple(
        Fact(names.get(machine, "Shared by all"), part_of_bill(found, money))
        for machine, money in machines
        if money
    )
    sections: dict[BuildFace, list[Section]] = {
        "parts": [
            Section("Prices", (_currency(project), *_price_actions(workspace))),
            *([Section("By what it is", groups)] if groups else []),
            *([Section("By whose it is", whose)] if whose else []),
            *_next_machine(workspace),
            *_left_over(workspace),
            *made_sections(workspace, ""),
            *(_clean_outs(workspace) if workspace.face == "parts" else []),
        ],
        "cuts": [
            *_put_away(workspace),
            *stock_sections(project),
            *_one_more(workspace),
            *sealing_sections(project),
        ],
        "steps": sealing_sections(project),
        "phases": [_phase_section(workspace)],
    }
    return Page(
        "Build", "", tuple(sections[workspace.face]), stage_findings(workspace), CAUTION, answer
    )


def _clean_outs(workspace: Workspace) -> list[Section]:
    """Whether each main's end has a clean-out, and a button for one where there is room."""
    names = workspace.computed.names
    items: list[Item] = []
    for end in workspace.computed.main_ends:
        name = names.of(end.run)
        if end.edit is not None:
            items.append(
                ActionField(
                    f"main-end/{end.run}",
                    "One at the main's end",
                    step="Add a clean-out",
                    edit=end.edit,
                    detail=f"a wye and a cap by {name}, for what settles there",
                )
            )
        else:
            there = "it has one" if end.capped else "no room: make a run there longer"
            items.append(Fact(f"At the end, {name}", there))
    return [Section("Clean-outs", tuple(items))] if items else []


# Lines of what is left over that are shown at once.
MOST_LEFT = 14


def _next_machine(workspace: Workspace) -> list[Section]:
    """Which main stays good for what one is likeliest to buy next."""
    found = workspace.computed.next_machines
    if found is None:
        return []
    if isinstance(found, Refused):
        return [Section("The next machine", (Fact("", found.sentence),))]
    head = ("main", "now", "next", "price", "at worst")
    items: list[Item] = [Fact("", line) for line in next_lines(workspace.project, found)]
    about = (
        "At worst: what it costs more than the best choice would have, whichever machine comes; a "
        "main that is too small is bought twice."
    )
    items += [Table(head, tuple(rows(workspace.project, found))), Fact("", about)]
    size = main_words(workspace.project, found.best)
    return [Section("The next machine", tuple(items), summary=size)]


def _left_over(workspace: Workspace) -> list[Section]:
    """What is there already and is not used in this shop."""
    lines = left_over_lines(workspace.computed.bill)
    if not lines:
        return []
    items: list[Item] = [Fact("", line) for line in lines[:MOST_LEFT]]
    if len(lines) > MOST_LEFT:
        items.append(Fact("", f"and {len(lines) - MOST_LEFT} more: grey-current reuse lists all."))
    summary = f"{len(lines)} to sell or keep"
    return [Section("Left over", tuple(items), summary=summary)]


def _put_away(workspace: Workspace) -> list[Section]:
    """A button that puts away the bars that are cut, where there are any."""
    cuts = workspace.computed.bill.cuts
    bars = finished(workspace.project, cuts)
    if not bars:
        return []
    kept = sum(bar.rest >= workspace.project.build.keep_offcuts for _, bar in bars)
    offcuts = "1 offcut" if kept == 1 else f"{kept} offcuts"
    words = "1 bar is cut" if len(bars) == 1 else f"{len(bars)} bars are cut"
    action = ActionField(
        "put-away",
        f"Put away: {words}",
        step="Put away what is cut",
        edit=lambda p: put_away(p, cuts),
        detail=f"their pieces leave the list; {offcuts} long enough to keep",
    )
    return [Section("Cut", (action,))]


def _one_more(workspace: Workspace) -> list[Section]:
    """What one more length of each pipe would change, where a cut may go wrong."""
    project, cuts = workspace.project, workspace.computed.bill.cuts
    display, currency = Display(project.settings.units), project.build.currency
    items: list[Item] = []
    for pipe in cuts:
        found = one_more(project, pipe)
        if found.pieces:
            one = f"{display.diameter(pipe.diameter)}, {display.length(found.length)} more"
            items.append(Fact(one, price_words(found, currency)))
            items.append(Fact("", again_words(found)))
    return [Section("If you buy one more length", tuple(items))] if items else []


def _currency(project: Project) -> TextField:
    def read(text: str) -> str:
        return text.strip().upper()

    return TextField(
        "currency",
        "Currency",
        project.build.currency,
        step="Change the currency",
        read=read,
        edit=lambda p, v: build_edits.with_build(p, currency=v),
    )


def _price_actions(workspace: Workspace) -> list[Item]:
    own = workspace.own_prices
    other = [
        p for p in workspace.project.build.prices if p.currency != workspace.project.build.currency
    ]
    items: list[Item] = []
    if other:
        items.append(
            Fact("", f"{len(other)} prices are in {other[0].currency} and are not counted.")
        )
    if own:
        items.append(
            ActionField(
                "own-prices",
                f"Take {len(own)} from my price book",
                step="Take prices from my book",
                edit=lambda p: build_edits.with_prices(p, own),
                detail="prices that you entered in other shops",
            )
        )
    return items


def _phase_section(workspace: Workspace) -> Section:
    project = workspace.project
    plan, currency = project.build.phases, project.build.currency
    # The search is on its way; its answer replaces this page.
    if workspace.phase_budget is not None:
        return Section("Phases", (Fact("", "Trying which machine comes first…"),))
    items: list[Item] = [
        TextField(
            "phase-budget",
            "Budget per phase",
            "not set"
            if not plan or plan[0].budget is None
            else f"{decimal(plan[0].budget)} {currency}",
            step="Propose phases",
            read=lambda text: read_money(text, "Budget for a phase") or 0.0,
            act=workspace.propose_phases,
        )
    ]
    for number, phase in enumerate(plan, 1):
        items += _phase_fields(project, number, phase.name, phase.budget, phase.design)
    if plan:
        items.append(
            ActionField(
                "no-phases",
                "Build in one go",
                step="Build in one go",
                edit=build_edits.without_phases,
            )
        )
    return Section("Phases", tuple(items))


def _phase_fields(
    project: Project, number: int, name: str, budget: float | None, design: str | None
) -> list[Item]:
    currency = project.build.currency
    fields: list[Item] = [
        TextField(
            f"phase-{number}/name",
            f"Phase {number}",
            name,
            step="Rename a phase",
            read=str.strip,
            edit=lambda p, v: build_edits.with_phase(p, number, name=v),
        ),
        TextField(
            f"phase-{number}/budget",
            "may cost",
            "not said" if budget is None else f"{decimal(budget)} {currency}",
            step="Change a budget",
            read=lambda text: None if text.strip() == "not said" else read_money(text, "Budget"),
            edit=lambda p, v: build_edits.with_phase(p, number, budget=v),
        ),
    ]
    if project.kept_designs:
        options = (
            ("", "what is built by then"),
            *((kept.id, f"“{kept.name}”") for kept in project.kept_designs),
        )
        fields.append(
            ChoiceField(
                f"phase-{number}/design",
                "then stands",
                design or "",
                options,
                step="Change what stands in a phase",
                edit=lambda p, v: build_edits.with_phase(p, number, design=v or None),
            )
        )
    return fields


# -- a part of the bill


def _part_page(workspace: Workspace, key: str) -> Page:
    project, line = workspace.project, workspace.computed.bill.line[key]
    display, currency = Display(project.settings.units), project.build.currency
    names = workspace.computed.names
    when = (
        [Fact("Price of", date_words(line.entry.date, project.settings.units))]
        if line.entry is not None
        else []
    )
    if line.entry is not None and line.entry.made_up:
        made_up = [Fact("", "A made-up price of the demo.")]
    else:
        made_up = []
    buying = Section(
        "Buying",
        (
            price_field(project, key, "Price"),
            *when,
            *made_up,
            Fact("Wanted", quantity_words(line.part, display)),
            Fact("In all", money_words(line.sum, currency)),
            number_field(
                f"had/{key}",
                "Had already",
                line.had,
                edit=lambda p, v: build_edits.with_owned(p, key, had=v),
            ),
            number_field(
                f"bought/{key}",
                "Bought",
                line.bought,
                edit=lambda p, v: build_edits.with_owned(p, key, bought=v),
            ),
            *_bought_action(key, line.left, line.bought),
        ),
    )
    places = [
        names.start(element) for element in line.part.elements if project.find(element) is not None
    ]
    more = [Fact("", f"and {len(places) - MOST_PLACES} more")] if len(places) > MOST_PLACES else []
    where = Section("Where it goes", (*(Fact("", place) for place in places[:MOST_PLACES]), *more))
    sections = [buying, *_size_section(workspace, key), *([where] if places else [])]
    return Page(part_words(key, display), f"{kind_of(key).group}.", tuple(sections), ())


def _bought_action(key: str, left: float, bought: float) -> list[ActionField]:
    if left > 0:
        return [
            ActionField(
                f"all/{key}",
                "All of it is bought",
                step="Buy a part",
                edit=lambda p: build_edits.with_owned(p, key, bought=bought + left),
            )
        ]
    return []


def _size_section(workspace: Workspace, key: str) -> list[Section]:
    """What a fitting takes of the duct, to be typed as it was measured."""
    project = workspace.project
    now = workspace.computed.parts.joints.known_sizes.get(key)
    if now is None or len(now) not in ENDS:
        return []
    own = any(item.key == key for item in project.build.sizes)
    units = project.settings.units
    say = Display(units).length

    def field(place: int, label: str) -> TextField:
        def edit(p: Project, value: float) -> Project:
            return build_edits.with_own_size(p, key, (*now[:place], value, *now[place + 1 :]))

        return TextField(
            f"takes-{place}/{key}",
            label,
            say(now[place]),
            step="Measure a fitting",
            read=lambda text: parse_length(text, units, label),
            edit=edit,
            say=say,
            quantity="length",
            amount=now[place],
        )

    fields: list[Item] = [field(place, label) for place, label in enumerate(ENDS[len(now)])]
    if own:
        fields.append(
            ActionField(
                f"usual/{key}",
                "As usual again",
                step="Restore the usual size",
                edit=lambda p: build_edits.with_own_size(p, key, None),
            )
        )
    else:
        fields.append(
            Fact("", "From geometry and a usual collar, an allowance: type what you measure.")
        )
    return [Section("Its lay length", tuple(fields))]


# -- an element


def _element_page(workspace: Workspace, element: str) -> Page | None:
    project = workspace.project
    item = project.find(element)
    known = workspace.computed.parts.of_element(element)
    display = Display(project.settings.units)
    sections: list[Section] = []
    if isinstance(item, Run):
        sections += _run_sections(workspace, item)
    if isinstance(item, Run | Machine | Collector):
        sections.append(_phase_choice(workspace, element.split("/", maxsplit=1)[0], item))
    if known:
        facts = tuple(
            Fact(quantity_words(part, display), part_words(part.key, display)) for part in known
        )
        sections.append(Section("Its parts", facts))
    sections += made_sections(workspace, element)
    if not sections:
        return None
    owned = workspace.computed.bill.by_machine.get(element)
    subtitle = f"Its own parts cost {money_words(owned, project.build.currency)}." if owned else ""
    found = of_element(workspace.known_findings, project, element)
    return Page(
        capital(workspace.computed.names.of(element)),
        subtitle,
        tuple(sections),
        tuple(f for f in found if f.stage == "build"),
    )


def _run_sections(workspace: Workspace, run: Run) -> list[Section]:
    project = workspace.project
    display, plan = Display(project.settings.units), project.build
    numbers = numbered(workspace.computed.bill.cuts)
    cut = {item.piece for item in plan.cut}
    pieces: list[Item] = []
    for piece in workspace.computed.parts.straights:
        if piece.run == run.id and piece.id in numbers:
            done, length = piece.id in cut, piece.length
            label = f"No. {numbers[piece.id]}"
            pieces.append(
                ChoiceField(
                    f"cut/{piece.id}",
                    label,
                    "yes" if done else "no",
                    (
                        ("no", f"{display.length(length)}, to cut"),
                        ("yes", f"{display.length(length)}, is cut"),
                    ),
                    step="Cut a piece",
                    edit=_ticks(piece.id, length),
                )
            )
    sections = [Section("Its pieces", tuple(pieces))] if pieces else []
    done_fields = [_done(run, "mounted", run.id in plan.mounted)]
    if not is_hose(run):
        done_fields.append(_done(run, "sealed", run.id in plan.sealed))
    return [*sections, Section("On the job", tuple(done_fields))]


def _ticks(piece: str, length: float) -> Changed:
    return lambda p, v: build_edits.with_cut(p, piece, length if v == "yes" else None)


def _done(run: Run, what: str, now: bool) -> ChoiceField:
    return ChoiceField(
        f"{what}/{run.id}",
        capital(what),
        "yes" if now else "no",
        (("no", "not yet"), ("yes", "done")),
        step=f"Mark as {what}",
        edit=lambda p, v: build_edits.with_done(p, (run.id,), what, v == "yes"),
    )


def _phase_choice(workspace: Workspace, element: str, item: Run | Machine | Collector) -> Section:
    project = workspace.project
    last = max((*phase_of(project).values(), len(project.build.phases)), default=1)
    numbers = [(f"{n}", f"in phase {n}") for n in range(1, min(last + 1, MOST_PHASES) + 1)]
    now = phase_of(project)[element]
    if isinstance(item, Run):
        # In which phase it would be built without a word of the user's.
        of_itself = phase_of(build_edits.with_run_phase(project, item.id, None))[item.id]
        options = (("", f"with its machine: {of_itself}"), *numbers)
        value = f"{item.phase or ''}"
    else:
        options, value = tuple(numbers), f"{now}"
    fields: list[Item] = [
        ChoiceField(
            f"{element}/phase",
            "Comes",
            value,
            options,
            step="Put into a phase",
            edit=lambda p, v: (
                build_edits.with_phase_of(p, (element,), int(v))
                if v
                else build_edits.with_run_phase(p, element, None)
            ),
        )
    ]
    if isinstance(item, Run) and now > 1 and item.id in AirPaths(project).down:
        fields.append(
            ActionField(
                f"{element}/up-to-here",
                "Build up to here first",
                step="Build up to here",
                edit=lambda p: built_up_to(p, element),
                detail="this duct and all that its air passes, in phase 1",
            )
        )
    return Section("Its phase", tuple(fields))


def built_up_to(project: Project, run: str, number: int = 1) -> Project:
    """The project with a run, all that its air passes and their collector built by a phase."""
    phases, paths = phase_of(project), AirPaths(project)
    onward = list(paths.onward(run))
    ends = [end for r in onward if (end := paths.down.get(r)) in project.collector]
    late = [ident for ident in (*onward, *ends) if phases[ident] > number]
    return build_edits.with_phase_of(project, late, number) if late else project
