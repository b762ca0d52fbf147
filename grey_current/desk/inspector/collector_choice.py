"""What a collector must do, which would do it, and other ways for the same machines."""

from __future__ import annotations

from grey_current.air.needs import MET_FROM
from grey_current.design.collector.candidates import Offer, offer_troubles, put_in
from grey_current.design.collector.requirement import Requirement, required_fan_pressure
from grey_current.design.collector.system_kinds import SystemKind
from grey_current.desk.inspector.fields import ActionField, Fact, Item, Section
from grey_current.desk.inspector.improvement_fields import FIRST, SEARCHING
from grey_current.numerals import decimal
from grey_current.shop import edits, kept_designs
from grey_current.shop.catalogue import CollectorModel
from grey_current.shop.collectors import Collector
from grey_current.shop.model import Project
from grey_current.shop.names import capital
from grey_current.spelling import localised
from grey_current.units import Display
from grey_current.work.separators import air_words, dust_words, title, with_kind, work_words
from grey_current.workspace import asking
from grey_current.workspace.jobs import CollectorSized
from grey_current.workspace.placing import put_in_well
from grey_current.workspace.workspace import Workspace

MOST_OFFERS = 4
MOST_SCENARIOS = 9


def must(workspace: Workspace) -> list[Section]:
    """What the collector must do at its inlet, and which scenario rules."""
    sizing = asking.known_sizing(workspace)
    title = "What it must do"
    sets = together(workspace)
    if sizing is None:
        words = SEARCHING if asking.job(workspace) else asking.nothing_to_size(workspace)
        return [Section(title, (Fact("", words), *sets))]
    if sizing.hardest is None:
        words = "No machine has a pickup that it could serve."
        return [Section(title, (Fact("", words), *sets))]
    project, display = workspace.project, Display(workspace.project.settings.units)
    hard = sizing.hardest
    items: list[Item] = [
        Fact("Hardest scenario", hard.scenario.name(project)),
        Fact("Air", display.airflow(hard.airflow)),
        Fact("Suction, total", display.pressure(hard.pressure)),
        Fact("A gauge shows", display.pressure(hard.static)),
    ]
    # For a collector that stands: what its own fan must hold, filter and separator included.
    now = project.collector.get(asking.sized_collector(workspace) or "")
    if now is not None:
        air = workspace.assessment.air
        items += [
            Fact(
                "Fan, filter in use",
                display.pressure(required_fan_pressure(now, hard, air, now.filter.seasoned)),
            ),
            Fact(
                "Fan, filter due",
                display.pressure(required_fan_pressure(now, hard, air, now.filter.due)),
            ),
        ]
    items.append(Fact("", _why(project, hard)))
    rest = sorted(sizing.requirements, key=lambda r: -r.air_power)
    items += [
        Fact(
            capital(r.scenario.name(project)),
            f"{display.airflow(r.airflow)}, {display.pressure(r.pressure)}",
        )
        for r in rest[:MOST_SCENARIOS]
        if r is not hard
    ]
    summary = f"{display.airflow(hard.airflow)}, {display.pressure(hard.pressure)}"
    return [Section(title, (*items, *sets), summary=summary)]


def together(workspace: Workspace) -> list[Item]:
    """The sets of machines that are counted as run together, and the one that runs now."""
    project, sets = workspace.project, workspace.project.settings.together
    items: list[Item] = [_apart_field(project, group) for group in sets]
    if len(workspace.running) > 1 and workspace.running not in sets:
        now = (*sets, workspace.running)
        items.append(
            ActionField(
                "together",
                "Count these as working together",
                step="Count machines as working together",
                edit=lambda p: edits.with_settings(p, together=now),
                detail=_names(project, workspace.running),
            )
        )
    elif not sets:
        items.append(Fact("", "Ctrl+click two rows in the rack to count them as working together."))
    return items


def _apart_field(project: Project, group: tuple[str, ...]) -> ActionField:
    rest = tuple(other for other in project.settings.together if other != group)
    return ActionField(
        f"apart/{'-'.join(group)}",
        "No longer together",
        step="Count machines apart",
        edit=lambda p: edits.with_settings(p, together=rest),
        detail=_names(project, group),
    )


def _names(project: Project, group: tuple[str, ...]) -> str:
    return " and ".join(project.machine[m].name if m in project.machine else m for m in group)


def _why(project: Project, hard: Requirement) -> str:
    machine, pickup = project.pickup[hard.ruling]
    words = f"Hardest case: its “{pickup.name.lower()}” pickup needs the biggest fan."
    if hard.scenario.running[1:]:
        words = f"Hardest case: both at once; the {machine.name.lower()} gets enough last."
    if any(gate.rule == "left open" for gate in project.gates):
        words += " Gates that are left open make every scenario ask for more."
    if hard.estimated:
        words += " An estimate, give or take a third: its duct is not drawn yet."
    if hard.reached:
        return words
    return words + " No workshop collector reaches it: its own port is too small."


def offered(workspace: Workspace) -> list[Section]:
    """Which collectors would do, ranked, each put in with one click."""
    sizing = asking.known_sizing(workspace)
    if sizing is None or not sizing.offers:
        return []
    project = workspace.project
    now = project.collector.get(asking.sized_collector(workspace) or "")
    models = asking.collector_models(workspace)
    fields = [
        _offer_field(project, now, models[offer.model], offer)
        for offer in sizing.offers
        if offer.model in models and (now is None or offer.model != now.model)
    ]
    own = {f"offer/{model.model}" for model in workspace.own_models}
    shown = [
        field for number, field in enumerate(fields) if number < MOST_OFFERS or field.key in own
    ]
    more = f"{len(shown) - FIRST} more" if len(shown) > FIRST else ""
    return [Section("Recommended collectors", tuple(shown), FIRST, more)]


def served_answer(workspace: Workspace) -> str:
    """How many of the machines the collector that stands there would serve, in a sentence."""
    sizing = asking.known_sizing(workspace)
    now = workspace.project.collector.get(asking.sized_collector(workspace) or "")
    offers = sizing.offers if sizing is not None else ()
    mine = next((o for o in offers if now is not None and o.model == now.model), None)
    if mine is None:
        return ""
    words, _, troubles = _offer_words(workspace.project, mine).partition("\n")
    served = capital(words.partition("; price")[0])
    return f"{served}. {capital(troubles)}." if troubles else f"{served}."


def _offer_field(
    project: Project, now: Collector | None, model: CollectorModel, offer: Offer
) -> ActionField:
    place = now.id if now else None
    called = localised(model.model, project.settings.units)
    return ActionField(
        f"offer/{model.model}",
        f"Use: {called}",
        step=f"Use the {called}",
        edit=lambda p: put_in(p, place, model) if place else put_in_well(p, model),
        detail=_offer_words(project, offer),
    )


def _offer_words(project: Project, offer: Offer) -> str:
    words = offer.served_words
    if offer.loaded != offer.served:
        words += f", {offer.loaded} with its filter due"
    elif offer.served < offer.asked and offer.worst_scenario is not None:
        words += f"; {offer.worst_scenario.name(project).lower()} {offer.worst:.0%}"
    if offer.price is not None:
        words += f"; price {decimal(offer.price)}"
    troubles = offer_troubles(project, offer)
    return f"{words}\n{', '.join(troubles)}" if troubles else words


def separators(workspace: Workspace, collector: str) -> list[Section]:
    """Which separator: what each kind costs in air and spares in work, each put in with a click."""
    sizing = asking.known_sizing(workspace)
    rows = sizing.separators if isinstance(sizing, CollectorSized) else ()
    now = next((row for row in rows if row.now), None)
    if now is None or asking.sized_collector(workspace) != collector:
        return []
    project = workspace.project
    items: list[Item] = []
    for row in rows:
        words = [air_words(project, row, now), dust_words(row), work_words(project, row)]
        detail = "\n".join(line for line in words if line)
        if row.now:
            items.append(Fact("", f"{title(row)}, as it is: {'; '.join(w for w in words if w)}."))
            continue
        items.append(
            ActionField(
                f"separator-kind/{row.kind}",
                title(row),
                step=f"Change the separator to {row.kind}",
                edit=lambda p, kind=row.kind: with_kind(p, collector, kind),  # type: ignore[misc]
                detail=detail,
            )
        )
    return [Section("Separators", tuple(items))]


def other_kinds(workspace: Workspace) -> list[Section]:
    """One ducted collector, one hose moved about, several small ones."""
    sizing = asking.known_sizing(workspace)
    if sizing is None or not sizing.system_kinds:
        return []
    items = tuple(i for s in sizing.system_kinds for i in _system_kind_items(s))
    return [Section("Other systems", items)]


def _system_kind_items(system_kind: SystemKind) -> list[Item]:
    words = [f"serves {system_kind.served} of {system_kind.asked}"]
    if system_kind.transport is not None and system_kind.transport < MET_FROM:
        words.append(f"slowest air {system_kind.transport:.0%} of what chips need")
    if system_kind.swap_minutes:
        words.append(f"{system_kind.swap_minutes:.0f} min/week")
    if system_kind.loudness is not None:
        words.append(f"{system_kind.loudness.level:.0f} dB(A) at the loudest")
    if system_kind.price is not None:
        words.append(f"price {decimal(system_kind.price)}")
    if system_kind.name == "As drawn":
        return [Fact("", f"As drawn: {', '.join(words)}.")]
    return [
        ActionField(
            f"way/{system_kind.name}",
            f"Keep as a design: {system_kind.name.lower()}",
            step="Keep a design",
            edit=lambda p: kept_designs.with_design(p, system_kind.name, system_kind.project),
            detail=", ".join(words),
        )
    ]
