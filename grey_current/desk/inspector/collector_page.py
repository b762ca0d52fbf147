"""The collector's page: what it must do, which would do it, whether it fits, what it draws, how loud it is."""

from __future__ import annotations

from grey_current.air.fittings import INLET_DIAMETERS
from grey_current.air.needs import TRANSPORT_VELOCITY
from grey_current.design.collector.candidates import (
    LOADED,
    Offer,
    Requirement,
    offer_troubles,
    put_in,
    required_fan_pressure,
)
from grey_current.design.collector.circuits import STARTS_AT, circuit_of, collector_draw, loads
from grey_current.design.collector.fit import days_to_empty, fit, litres_a_week, straight_before_inlet
from grey_current.design.collector.make_up_air import make_up_air
from grey_current.design.collector.noise import WALLS, at_machine
from grey_current.design.collector.system_kinds import SystemKind
from grey_current.design.findings.collectors import NARROW
from grey_current.design.findings.finding import of_element
from grey_current.desk.inspector.fields import (
    ActionField,
    ChoiceField,
    Fact,
    Item,
    Page,
    Section,
    TextField,
    choice,
    length_field,
    name_field,
    number_field,
    percent_field,
    yes_no,
)
from grey_current.desk.inspector.improvement_fields import SEARCHING
from grey_current.desk.inspector.machine_page import service_field
from grey_current.shop import edits, kept_designs
from grey_current.shop.catalogue import CollectorModel, catalogue
from grey_current.shop.collector_edits import (
    FILTERS,
    INLET_SIDES,
    SEPARATORS,
    curve_text,
    inlet_side,
    with_bin,
    with_bin_volume,
    with_claim,
    with_curve_text,
    with_fan,
    with_filter,
    with_inlet_side,
    with_motor,
    with_separator,
)
from grey_current.shop.model import Claim, Collector, CurvePoints, Project
from grey_current.shop.names import called, capital
from grey_current.units import Display, parse_airflow
from grey_current.workspace import asking
from grey_current.workspace.guide import stage_findings
from grey_current.workspace.workspace import Workspace

MOST_OFFERS = 4
MOST_SCENARIOS = 9
CAUTION = (
    "Unplug before reaching into it. Dust burns and can explode: no metal grinding through it, empty the bin in time. "
    "Mains wiring and flues: licensed people and the local code."
)


def stage_page(workspace: Workspace) -> Page | None:
    """The Collector stage's own page: of the collector that is looked at, or of the one to come."""
    chosen = workspace.selection
    if chosen is not None and chosen not in workspace.project.collector:
        return None
    project = workspace.project
    wanted = [*_must(workspace), *_together(workspace), *_offers(workspace)]
    item = project.collector.get(asking.sized_collector(workspace) or "")
    if item is None:
        subtitle = "No collector stands here yet; this is what one must do."
        sections = (*wanted, *_system_kinds(workspace))
        return Page("Collector", subtitle, sections, stage_findings(workspace), CAUTION)
    stands = _standing(workspace, item)
    sections = (_at_work(workspace, item), *wanted, *stands, *_system_kinds(workspace), *_made_of(project, item))
    return _page(workspace, item, sections)


def collector_page(workspace: Workspace, item: Collector) -> Page:
    """The page of a collector at any other stage."""
    sections = (_at_work(workspace, item), *_standing(workspace, item), *_made_of(workspace.project, item))
    return _page(workspace, item, sections)


def _page(workspace: Workspace, item: Collector, sections: tuple[Section, ...]) -> Page:
    found = tuple(of_element(workspace.known_findings, workspace.project, item.id))
    return Page(item.name, f"{item.model}. {item.curve_note}.", sections, found, CAUTION)


def _standing(workspace: Workspace, item: Collector) -> tuple[Section, ...]:
    return (_fit(workspace, item), _power(workspace, item), _noise(workspace, item), _make_up_air(workspace, item))


def _made_of(project: Project, item: Collector) -> tuple[Section, ...]:
    return (_fan(project, item), _cleaning(project, item), _body(project, item))


# -- what it must do, and which would


def _must(workspace: Workspace) -> list[Section]:
    sizing = asking.known_sizing(workspace)
    title = "What it must do at its inlet"
    if sizing is None:
        return [Section(title, (Fact("", SEARCHING if asking.job(workspace) else "Place machines first."),))]
    if sizing.hardest is None:
        return [Section(title, (Fact("", "No machine has a pickup that it could serve."),))]
    project, display = workspace.project, Display(workspace.project.settings.units)
    hard = sizing.hardest
    items: list[Item] = [
        Fact("Hardest scenario", hard.scenario.name(project)),
        Fact("Air", display.airflow(hard.airflow)),
        Fact("Suction, total", display.pressure(hard.pressure)),
        Fact("A gauge shows", display.pressure(hard.static)),
    ]
    now = project.collector.get(asking.sized_collector(workspace) or "")
    if now is not None:
        air = workspace.assessment.air
        items += [
            Fact("Fan, clean filter", display.pressure(required_fan_pressure(now, hard, air, 0.0))),
            Fact("Fan, filter due", display.pressure(required_fan_pressure(now, hard, air, LOADED))),
        ]
    items.append(Fact("", _why(project, hard)))
    rest = sorted(sizing.requirements, key=lambda r: -r.air_power)
    items += [
        Fact(capital(r.scenario.name(project)), f"{display.airflow(r.airflow)}, {display.pressure(r.pressure)}")
        for r in rest[:MOST_SCENARIOS]
        if r is not hard
    ]
    return [Section(title, tuple(items))]


def _together(workspace: Workspace) -> list[Section]:
    """The sets of machines that are counted as run together, and the one that runs now."""
    project, sets = workspace.project, workspace.project.settings.together
    items: list[Item] = [_apart_field(project, group) for group in sets]
    if len(workspace.running) > 1 and workspace.running not in sets:
        now = (*sets, workspace.running)
        items.append(
            ActionField(
                "together",
                "Count these as run together",
                "Count machines as run together",
                lambda p: edits.with_settings(p, together=now),
                _names(project, workspace.running),
            )
        )
    elif not sets:
        items.append(Fact("", "Ctrl+click two rows in the rack to count them as run together."))
    return [Section("Run together", tuple(items))]


def _apart_field(project: Project, group: tuple[str, ...]) -> ActionField:
    rest = tuple(other for other in project.settings.together if other != group)
    return ActionField(
        f"apart/{'-'.join(group)}",
        "No longer together",
        "Count machines apart",
        lambda p: edits.with_settings(p, together=rest),
        _names(project, group),
    )


def _names(project: Project, group: tuple[str, ...]) -> str:
    return " and ".join(project.machine[m].name if m in project.machine else m for m in group)


def _why(project: Project, hard: Requirement) -> str:
    machine, pickup = project.pickup[hard.ruling]
    words = f"It rules: its pickup “{pickup.name.lower()}” asks for the biggest fan."
    if hard.scenario.running[1:]:
        words = f"Run together they rule; the {machine.name.lower()} is met last."
    if any(gate.rule == "left open" for gate in project.gates):
        words += " Gates that are left open make every scenario ask for more."
    if hard.estimated:
        words += " An estimate along the walls, give or take a third: no duct is drawn to it yet."
    return words if hard.reached else words + " No workshop collector reaches it: its own port chokes."


def _offers(workspace: Workspace) -> list[Section]:
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
    mine = next((o for o in sizing.offers if now is not None and o.model == now.model), None)
    items: list[Item] = [Fact("This one", _offer_words(project, mine))] if mine else []
    return [Section("Which would do", (*items, *fields[:MOST_OFFERS]))]


def _offer_field(project: Project, now: Collector | None, model: CollectorModel, offer: Offer) -> ActionField:
    place = now.id if now else None
    return ActionField(
        f"offer/{model.model}",
        f"Put in: {model.model}",
        f"Put in the {model.model}",
        lambda p: put_in(p, place, model),
        _offer_words(project, offer),
    )


def _offer_words(project: Project, offer: Offer) -> str:
    words = f"serves {offer.served} of {offer.asked}"
    if offer.loaded != offer.served:
        words += f", {offer.loaded} with its filter due"
    elif offer.served < offer.asked and offer.worst_scenario is not None:
        words += f"; {offer.worst_scenario.name(project).lower()} {offer.worst:.0%}"
    if offer.price is not None:
        words += f"; price {offer.price:,.0f}"
    troubles = offer_troubles(project, offer)
    return f"{words}\n{', '.join(troubles)}" if troubles else words


def _system_kinds(workspace: Workspace) -> list[Section]:
    """One ducted collector, one hose moved about, several small ones."""
    sizing = asking.known_sizing(workspace)
    if sizing is None or not sizing.system_kinds:
        return []
    return [
        Section(
            "Other ways for the same machines", tuple(i for s in sizing.system_kinds for i in _system_kind_items(s))
        )
    ]


def _system_kind_items(system_kind: SystemKind) -> list[Item]:
    words = [f"serves {system_kind.served} of {system_kind.asked}"]
    if system_kind.swap_minutes:
        words.append(f"{system_kind.swap_minutes:.0f} min/week")
    if system_kind.loudness is not None:
        words.append(f"{system_kind.loudness.level:.0f} dB(A)")
    if system_kind.price is not None:
        words.append(f"price {system_kind.price:,.0f}")
    if system_kind.name == "As drawn":
        return [Fact("", f"As drawn: {', '.join(words)} at the loudest.")]
    return [
        ActionField(
            f"way/{system_kind.name}",
            f"Keep as a design: {system_kind.name.lower()}",
            "Keep a design",
            lambda p: kept_designs.with_design(p, system_kind.name, system_kind.project),
            ", ".join(words),
        )
    ]


# -- where it stands


def _at_work(workspace: Workspace, item: Collector) -> Section:
    display = Display(workspace.project.settings.units)
    system = workspace.scenario.systems.get(item.id) if workspace.scenario else None
    if system is None or not system.converged:
        return Section("At work", (Fact("", "It is not running now. Switch a machine on to see it at work."),))
    return Section(
        "At work",
        (
            Fact("Air", display.airflow(system.airflow)),
            Fact("Fan static pressure", display.pressure(system.fan_static)),
            Fact("Static pressure at inlet", display.pressure(system.inlet_static)),
        ),
    )


def _fit(workspace: Workspace, item: Collector) -> Section:
    project, display = workspace.project, Display(workspace.project.settings.units)
    found = fit(project, item)
    over = "the ceiling" if found.by == "ceiling" else called(project, found.by)
    items: list[Item] = [
        Fact("Height", display.length(item.height)),
        Fact(f"Under {over}", display.length(found.above)),
        Fact("Room over it", display.length(found.spare), "good" if found.spare >= 0 else "starved"),
    ]
    if found.bin is not None:
        litres = found.bin.volume * 1000
        items.append(
            ActionField(
                f"{item.id}/smaller-bin",
                f"Put a {litres:.0f} l bin under it",
                "Change the bin",
                lambda p: with_bin(p, item.id, found.bin, lower=True),
                f"{display.length(found.bin.height)} high",
            )
        )
    if found.cut:
        items.append(Fact("", f"Or cut {display.length(found.cut)} off its stand."))
    straight = straight_before_inlet(project, item)
    if straight is not None:
        wanted = INLET_DIAMETERS * item.inlet
        state = "good" if straight >= wanted - 5e-3 else "short"
        items.append(Fact("Straight before inlet", f"{display.length(straight)} of {display.length(wanted)}", state))
    days = days_to_empty(project, item)
    if days is not None:
        items.append(Fact("Chips", f"about {litres_a_week(project, item.id):.0f} l a week"))
        items.append(Fact("Empty the bin", f"every {days:.0f} days" if days >= 2 else f"every {days * 24:.0f} hours"))
    blocked = workspace.space.service_blocked(item)
    reached = " and ".join(f"{side} by {called(project, other)}" for side, other in blocked)
    items.append(
        Fact(
            "Bin and filter",
            f"blocked at the {reached}" if blocked else "can be reached",
            "short" if blocked else "good",
        )
    )
    items.append(service_field(item))
    return Section("Does it fit?", tuple(items))


def _power(workspace: Workspace, item: Collector) -> Section:
    project = workspace.project
    draw = collector_draw(project, item)
    circuits = (("", "the nearest outlet's"), *((c.id, c.name) for c in project.circuits))
    items: list[Item] = [
        number_field(
            f"{item.id}/motor",
            "Motor",
            item.motor.power if item.motor else 0.0,
            lambda p, v: with_motor(p, item.id, v),
            "W",
        )
    ]
    if draw is not None:
        about = "about " if draw.estimated else ""
        items.append(Fact("Draws", f"{about}{draw.amps:.1f} A at {draw.volts:g} V"))
        items.append(Fact("For a moment, starting", f"about {draw.amps * STARTS_AT:.0f} A"))
    if project.circuits:
        items.append(
            ChoiceField(
                f"{item.id}/circuit",
                "Circuit",
                item.circuit or "",
                circuits,
                "Change the circuit",
                lambda p, v: edits.changed(p, item.id, circuit=v or None),
            )
        )
        circuit = circuit_of(project, item)
        if len(project.circuits) == 1:
            items.append(Fact("", "All outlets are on one circuit: it bears the collector and the machine together."))
        if circuit is None:
            items.append(Fact("", "No outlet of its voltage is in the shop."))
        worst = max(loads(project, item), key=lambda load: load.amps, default=None)
        if worst is not None:
            name = f"with the {project.machine[worst.machine].name.lower()}" if worst.machine else "alone"
            items.append(
                Fact(capital(name), f"{worst.amps:.0f} A of {worst.allowed:.0f} A", "good" if worst.fits else "starved")
            )
    else:
        items.append(Fact("", "Put outlets in at stage 1 to check its circuit."))
    items.append(yes_no(item.id, "auto_start", "Starts", item.auto_start, ("with the tool's current", "by hand")))
    items.append(
        number_field(
            f"{item.id}/run-on", "Runs on for", item.run_on, lambda p, v: edits.changed(p, item.id, run_on=v), "s"
        )
    )
    return Section("Power", tuple(items))


def _noise(workspace: Workspace, item: Collector) -> Section:
    project = workspace.project
    stands = (
        ("in the room", "in the room"),
        ("boxed in", "boxed in"),
        ("next room", "in the next room"),
        ("outdoors", "outdoors"),
    )
    items: list[Item] = [
        choice(item.id, "stands", "It stands", item.stands, stands),
        number_field(
            f"{item.id}/noise",
            "At 1 m, in the open",
            item.noise or 0.0,
            lambda p, v: edits.changed(p, item.id, noise=v or None),
            "dB(A)",
        ),
    ]
    heard = [(loud, m.name) for m in project.machines if (loud := at_machine(project, item, m)) is not None]
    if heard:
        loud, name = max(heard, key=lambda pair: pair[0].level)
        state = "short" if loud.needs_protection else "good"
        items.append(Fact(f"At the {name.lower()}", f"{loud.level:.0f} ± {loud.band:.0f} dB(A)", state))
        behind = max(loud.level - (WALLS["next room"] - WALLS[item.stands]), 0.0)
        if item.stands in ("in the room", "boxed in"):
            items.append(Fact("Behind a wall", f"{behind:.0f} ± {loud.band:.0f} dB(A)"))
        items.append(Fact("", "The machine itself is often louder: wear hearing protection."))
    return Section("Noise", tuple(items))


def _make_up_air(workspace: Workspace, item: Collector) -> Section:
    project, display = workspace.project, Display(workspace.project.settings.units)
    airflow = workspace.assessment.most_airflow(item.id)
    outlets = (("into the shop", "back into the shop"), ("outdoors", "outdoors"))
    items: list[Item] = [choice(item.id, "exhausts", "It blows", item.exhausts, outlets)]
    outdoors = item.exhausts == "outdoors"
    if outdoors or item.stands != "in the room":
        wanted = make_up_air(project, item, airflow, workspace.assessment.air)
        items.append(
            number_field(
                f"{item.id}/opening",
                "Opening has",
                round((item.opening or 0.0) * 1e4),
                lambda p, v: edits.changed(p, item.id, opening=v / 1e4 or None),
                "cm²",
            )
        )
        enough = (item.opening or 0.0) >= NARROW * wanted.opening
        items.append(Fact("It wants", f"{wanted.opening * 1e4:.0f} cm²", "good" if enough else "short"))
        if item.stands == "boxed in" and airflow:
            items.append(Fact("Air leaves the box", f"{wanted.warmth:.0f} °C warmer"))
        if outdoors:
            items.append(
                number_field(
                    "outside",
                    "Winter outdoors",
                    project.settings.outside,
                    lambda p, v: edits.with_settings(p, outside=v),
                    "°C",
                )
            )
            items.append(Fact("Heat blown out", f"{wanted.heat / 1000:.1f} kW while it runs"))
            items.append(Fact("In a heating season", f"about {wanted.season:.0f} kWh"))
            if wanted.flue:
                items.append(Fact("", "Something burns in this shop: its flue gases can be pulled in and kill."))
    if airflow:
        items.append(Fact("Most air through it", display.airflow(airflow)))
    return Section("Where its air goes", tuple(items))


# -- what it is


def _fan(project: Project, item: Collector) -> Section:
    display = Display(project.settings.units)
    ident = item.id
    models = tuple((m.model, m.model) for m in catalogue().collectors)
    if item.model not in dict(models):
        models = ((item.model, item.model), *models)
    items: list[Item] = [
        name_field(ident, item.name),
        ChoiceField(
            f"{ident}/model",
            "Model",
            item.model,
            models,
            "Change the collector",
            lambda p, v: edits.with_collector(p, ident, v),
        ),
        ChoiceField(
            f"{ident}/known-by",
            "Fan known by",
            item.fan.by,
            (("points", "its curve"), ("claim", "its maker's claim")),
            "Change the fan",
            lambda p, v: with_claim(p, ident, v == "claim"),
        ),
    ]
    if isinstance(item.fan, CurvePoints):
        items += _curve_fields(item, item.fan, display)
    else:
        items += _claim_fields(project, item, item.fan)
    items.append(
        length_field(
            project, f"{ident}/inlet", "Inlet across", item.inlet, lambda p, v: edits.changed(p, ident, inlet=v)
        )
    )
    items.append(
        number_field(
            f"{ident}/price", "Price", item.price or 0.0, lambda p, v: edits.changed(p, ident, price=v or None)
        )
    )
    return Section("Its fan", tuple(items))


def _curve_fields(item: Collector, fan: CurvePoints, display: Display) -> list[Item]:
    ident = item.id
    speeds = [("1", "as measured"), ("0.826", "on 50 Hz, measured on 60"), ("1.21", "on 60 Hz, measured on 50")]
    now = f"{fan.speed:g}"
    if now not in dict(speeds):
        speeds.append((now, f"at {fan.speed:.0%}"))
    unit = f"{display.airflow_unit} and {'inH2O' if display.us else 'Pa'}"
    return [
        TextField(
            f"{ident}/curve",
            "Curve",
            curve_text(fan, display),
            "Change the fan's curve",
            str,
            lambda p, v: with_curve_text(p, ident, v),
        ),
        Fact("", f"Points as airflow at pressure, in {unit}, with ; between."),
        ChoiceField(
            f"{ident}/speed",
            "Turns",
            now,
            tuple(speeds),
            "Change the speed",
            lambda p, v: with_fan(p, ident, speed=float(v)),
        ),
        percent_field(
            f"{ident}/impeller-ratio",
            "Impeller, of that one",
            fan.impeller_ratio,
            lambda p, v: with_fan(p, ident, impeller_ratio=v),
            "Change the impeller",
        ),
    ]


def _claim_fields(project: Project, item: Collector, fan: Claim) -> list[Item]:
    ident, units = item.id, project.settings.units

    shown = Display(units).airflow(fan.free_air)
    return [
        Fact("", "An estimated curve: shut-off from the impeller, free air less a third."),
        TextField(
            f"{ident}/free-air",
            "Free air claimed",
            shown,
            "Change the claim",
            lambda t: parse_airflow(t, units, "Free air"),
            lambda p, v: with_fan(p, ident, free_air=v),
        ),
        length_field(
            project, f"{ident}/impeller", "Impeller", fan.impeller, lambda p, v: with_fan(p, ident, impeller=v)
        ),
        number_field(
            f"{ident}/power", "Motor claimed", fan.motor_power, lambda p, v: with_fan(p, ident, motor_power=v), "W"
        ),
        ChoiceField(
            f"{ident}/hertz",
            "Mains",
            str(fan.hertz),
            (("60", "60 Hz"), ("50", "50 Hz")),
            "Change the mains",
            lambda p, v: with_fan(p, ident, hertz=int(v)),
        ),
    ]


def _cleaning(project: Project, item: Collector) -> Section:
    ident = item.id
    kinds = (("none", "none"), *((kind, kind) for kind in SEPARATORS))
    items: list[Item] = [
        ChoiceField(
            f"{ident}/separator",
            "Separator",
            item.separator.kind if item.separator else "none",
            kinds,
            "Change the separator",
            lambda p, v: with_separator(p, ident, v),
        )
    ]
    if item.separator is not None:
        sides = (("before the fan", "before the fan"), ("after the fan", "after the fan"))
        separator = item.separator
        items.append(
            ChoiceField(
                f"{ident}/placed",
                "It stands",
                separator.placed,
                sides,
                "Move the separator",
                lambda p, v: edits.changed(p, ident, separator=separator.replaced(placed=v)),
            )
        )
    items += [
        ChoiceField(
            f"{ident}/filter",
            "Filter",
            item.filter.kind,
            tuple((k, k) for k in FILTERS),
            "Change the filter",
            lambda p, v: with_filter(p, ident, kind=v),
        ),
        number_field(
            f"{ident}/filter-area",
            "Its area",
            round(item.filter.area, 2),
            lambda p, v: with_filter(p, ident, area=v),
            "m²",
        ),
        percent_field(
            f"{ident}/loading",
            "Loaded by",
            item.filter.loading,
            lambda p, v: with_filter(p, ident, loading=v),
            "Change the filter's loading",
        ),
        Fact("", "100 % is due for cleaning: twice its clean resistance."),
    ]
    if item.bin is not None:
        items.append(
            number_field(
                f"{ident}/bin",
                "Bin",
                round(item.bin.volume * 1000),
                lambda p, v: with_bin_volume(p, ident, v / 1000),
                "l",
            )
        )
    return Section("Separator, filter and bin", tuple(items))


def _body(project: Project, item: Collector) -> Section:
    ident = item.id
    items: list[Item] = [_side(project, item, name) for name in ("width", "depth", "height")]
    items.append(
        length_field(
            project,
            f"{ident}/inlet-height",
            "Inlet height",
            item.inlet_height,
            lambda p, v: edits.changed(p, ident, inlet_height=v),
        )
    )
    items.append(
        ChoiceField(
            f"{ident}/inlet-side",
            "Inlet on its",
            inlet_side(item),
            tuple((side, side) for side in INLET_SIDES),
            "Change the inlet's side",
            lambda p, v: with_inlet_side(p, ident, v),
        )
    )
    items.append(number_field(f"{ident}/turn", "Turned", item.turn, lambda p, v: edits.changed(p, ident, turn=v), "°"))
    slow = min(TRANSPORT_VELOCITY.values())
    items.append(Fact("", f"Chips want at least {Display(project.settings.units).velocity(slow)} in every duct to it."))
    return Section("Its body", tuple(items))


def _side(project: Project, item: Collector, name: str) -> TextField:
    return length_field(
        project,
        f"{item.id}/{name}",
        capital(name),
        getattr(item, name),
        lambda p, v: edits.changed(p, item.id, **{name: v}),
    )
