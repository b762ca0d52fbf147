"""What is out of the ordinary in a shop: one rule a cause, each with the changes that cure it.

A rule looks at how the shop is made, not at what it costs in air: that is computed afterwards, for
every suspect alike (`diagnose.py`).
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import cached_property

from grey_current.air import pieces as kinds
from grey_current.design.collector.make_up_air import area_back, make_up_air
from grey_current.design.diagnosis.cause import Suspect
from grey_current.design.flow.assessment import Assessment, PickupAir, ScenarioAir
from grey_current.design.improve import changes as ideas
from grey_current.design.improve.collector_changes import (
    cleaned_filter,
    larger_filter,
    larger_models,
    models_above,
    other_separators,
    resistance,
)
from grey_current.design.improve.duct_changes import (
    capped_ends,
    main_runs,
    main_sizes,
    rigid,
    stepped_main,
    straighter_inlet,
)
from grey_current.design.improve.gate_changes import SEALED, missing_gates, open_branches
from grey_current.design.space.routing import connected
from grey_current.shop import edits
from grey_current.shop.catalogue import catalogue, machine_models, next_size, usual_separator
from grey_current.shop.collector_edits import SEPARATORS
from grey_current.shop.collectors import Collector
from grey_current.shop.edits import Change
from grey_current.shop.fans import CurvePoints, Fan
from grey_current.shop.hoses import cut_length
from grey_current.shop.machines import FreeArea, Machine, Pickup
from grey_current.shop.model import Project
from grey_current.shop.names import Names, capital
from grey_current.shop.places import distance
from grey_current.units import Display

# A hose this much longer than it is cut, and by so much (m), is too long. Allowance.
LONG_HOSE, LONG_BY = 1.1, 0.1
# A filter loaded by so much more than it is when it has settled is due. Allowance.
LOADED_BY = 0.2
# A gate that leaks more than this share of its bore is worth a seal; bought ones leak half of it.
LEAKY = 0.01
# A port or an intake narrower than this share of what it should be throttles. Allowance.
NARROW = 0.85
# An opening below this share of what the air wants is too small. Allowance.
SMALL_OPENING = 0.8
# m/s through the cloth of a filter above which it is too small: AIR.md, section 7.
FAST_CLOTH = 0.05
# m; a port this wide asks for more air than any vacuum gives, and one below it for less than a
# collector's pressure drives through.
WIDE_PORT = 0.075
# Degrees that a path turns through before it counts as winding: four square turns. Allowance.
WINDING = 380.0
# A separator that takes so much more than the usual one of its kind is out of the ordinary.
LOSSY = 1.15
# Pickups that are connected one by one by the nearest way; each takes some milliseconds.
MOST_CONNECTED = 4
# A fan that turns slower than this share of its speed is as good as off.
SLOW_FAN = 0.9


@dataclass(frozen=True)
class Scene:
    """What the rules look at: the shop's air, and the machine that is asked about, if it is one."""

    now: Assessment
    machine: str | None = None

    @property
    def project(self) -> Project:
        return self.now.project

    @cached_property
    def names(self) -> Names:
        return Names(self.project)

    @cached_property
    def display(self) -> Display:
        return Display(self.project.settings.units)

    @cached_property
    def answers(self) -> list[ScenarioAir]:
        """Machines running alone that are asked about and have an answer."""
        return [
            answer
            for machine, answer in self.now.of_machine.items()
            if self.machine in (None, machine) and answer.converged
        ]

    @cached_property
    def pickups(self) -> dict[str, tuple[ScenarioAir, PickupAir]]:
        """Connected pickups that are asked about, by reference, with the answer of their machine
        alone.
        """
        return {
            f"{p.machine}/{p.pickup}": (answer, p)
            for answer in self.answers
            for p in answer.pickups
            if p.leaf is not None
        }

    @cached_property
    def collectors(self) -> list[Collector]:
        """Collectors that serve what is asked about."""
        used = {p.collector for _, p in self.pickups.values()}
        return [item for item in self.project.collectors if item.id in used]

    def runs_of(self, ref: str) -> set[str]:
        """Everything that a pickup's air passes, by element."""
        answer, p = self.pickups[ref]
        network = answer.systems[p.collector or ""].network
        return {network.pieces[i].source_id for i in network.path(p.leaf or 0)}

    @cached_property
    def passed(self) -> set[str]:
        """Everything that the air of what is asked about passes."""
        return set().union(*(self.runs_of(ref) for ref in self.pickups))

    def machine_of(self, ref: str) -> str:
        """What a pickup's machine is called, with the pickup where it has several."""
        machine, pickup = self.project.pickup[ref]
        if len(machine.pickups) == 1:
            return f"the {machine.name.lower()}"
        return f"the {machine.name.lower()}'s {pickup.name.lower()}"

    def most_air(self, collector: str) -> float:
        """The most air (m³/s) that a collector moves in any scenario."""
        flows = [a.systems[collector].airflow for a in self.now.answers if collector in a.systems]
        return max(flows, default=0.0)


Found = Iterator[Suspect]
Rule = Callable[[Scene], Found]


def _count(number: int, one: str, many: str) -> str:
    """A small number in words with its noun: "One branch", "Seven branches"."""
    words = ("No", "One", "Two", "Three", "Four", "Five", "Six", "Seven", "Eight", "Nine", "Ten")
    return f"{words[number] if number < len(words) else number} {one if number == 1 else many}"


# -- what is not connected


def not_connected(scene: Scene) -> Found:
    """No collector, or pickups that nothing leads away from."""
    project = scene.project
    wanted = [
        f"{machine.id}/{pickup.id}"
        for machine in project.machines
        for pickup in machine.pickups
        if scene.machine in (None, machine.id)
    ]
    if wanted and not project.collectors:
        yield Suspect("no-collector", (), "There is no collector yet", ())
        return
    loose = [ref for ref in wanted if ref not in scene.pickups]
    if not loose:
        return
    says = f"{capital(scene.machine_of(loose[0]))} is not connected"
    if loose[1:]:
        says = f"{_count(len(loose), 'pickup is', 'pickups are')} not connected"
    cures: tuple[Change, ...] = ()
    # Where nothing is drawn yet, or much is missing, ducts are laid by the search over layouts.
    if project.runs and len(loose) <= MOST_CONNECTED:
        words = "Connect it" if len(loose) == 1 else "Connect them by the nearest way"
        cures = (Change(words, loose[0], _all_connected(loose)),)
    yield Suspect("not-connected", tuple(loose), says, cures, ("not-connected",))


def _all_connected(refs: list[str]) -> edits.Edit:
    def edit(project: Project) -> Project:
        for ref in refs:
            project = connected(project, ref)
        return project

    return edit


def open_ends(scene: Scene) -> Found:
    """Pipe that ends in the open air."""
    entries = [p.source_id for p in scene.now.pieces if isinstance(p, kinds.Entry)]
    ends = tuple(dict.fromkeys(e for e in entries if e in scene.project.point))
    if ends:
        verb = "stands open and draws from the room"
        many = "stand open and draw from the room"
        says = _count(len(ends), f"end of pipe {verb}", f"ends of pipe {many}")
        yield Suspect(
            "open-end", ends, says, tuple(capped_ends(scene.project, ends)), ("open-end",)
        )


# -- gates


def no_gates(scene: Scene) -> Found:
    """Branches that nothing shuts."""
    found = open_branches(scene.project)
    if not found:
        return
    runs = tuple(branch.run for branch in found)
    if len(runs) == 1:
        says = f"{capital(scene.names.of(runs[0]))} has no gate and always draws air"
    else:
        says = f"{_count(len(runs), '', 'branches have no gate and always draw air')}"
    yield Suspect("no-gates", runs, says, tuple(missing_gates(scene.project)))


def gates_set_wrong(scene: Scene) -> Found:
    """Gates that are left open, kept shut or half open."""
    for gate in scene.project.gates:
        name = capital(scene.names.of(gate.id))
        if gate.rule == "left open":
            yield Suspect(
                "gate-open",
                (gate.id,),
                f"{name} is left open",
                (_set(gate.id, "Shut it when its machine is off", rule="with its machine"),),
                ("gate-open",),
            )
        if gate.rule == "kept shut" and gate.id in scene.passed:
            yield Suspect(
                "gate-shut",
                (gate.id,),
                f"{name} is kept shut",
                (_set(gate.id, "Open it with its machine", rule="with its machine"),),
                ("gate-shut",),
            )
        if gate.opening < 1 and gate.id in scene.passed:
            yield Suspect(
                "gate-part-open",
                (gate.id,),
                f"{name} opens only {gate.opening:.0%} of the way",
                (_set(gate.id, "Open it all the way", opening=1.0),),
            )


def _set(element: str, words: str, **fields: object) -> Change:
    return Change(words, element, lambda p: edits.changed(p, element, **fields))


def leaky_gates(scene: Scene) -> Found:
    """Shut gates that let air through."""
    leaky = tuple(gate.id for gate in scene.project.gates if gate.leak > LEAKY)
    if leaky:
        says = _count(len(leaky), "shut gate leaks", "shut gates leak")
        words = "A gate with a seal" if len(leaky) == 1 else f"Seals on {len(leaky)} gates"
        cure = Change(words, leaky[0], lambda p: edits.changed_all(p, leaky, leak=SEALED))
        yield Suspect("gate-leaky", leaky, says, (cure,))


# -- collector


def separators(scene: Scene) -> Found:
    """Separators that take more pressure than is usual for the collector."""
    for item in scene.collectors:
        separator = item.separator
        # What a cure leaves out altogether is offered beside it, not as the cure.
        cures = tuple(c for c in other_separators(item) if not c.words.startswith("Without"))
        if separator is None or not cures:
            continue
        usual = usual_separator(item.model) or SEPARATORS[separator.kind]
        lossy = resistance(separator) > LOSSY * resistance(usual)
        # A bucket is made for a vacuum's air, a sixth of what a collector moves.
        strangled = separator.kind == "bucket" and not _is_vacuum(item)
        if lossy or strangled:
            says = f"The {separator.kind} of the {item.name.lower()} takes much of the pressure"
            yield Suspect("separator-lossy", (item.id,), says, cures)


def _is_vacuum(item: Collector) -> bool:
    """Whether a collector is a vacuum: by its model, else by the size of its inlet."""
    known = {model.model: model.kind for model in catalogue().collectors}
    return known.get(item.model, "vacuum" if item.inlet < WIDE_PORT else "") == "vacuum"


def filters(scene: Scene) -> Found:
    """Filters that are loaded, or too small for the air."""
    for item in scene.collectors:
        name = item.name.lower()
        if item.filter.loading > item.filter.seasoned + LOADED_BY:
            yield Suspect(
                "filter-loaded",
                (item.id,),
                f"The filter of the {name} is loaded with dust",
                tuple(cleaned_filter(item)),
            )
        if item.filter.kind == "none":
            continue
        if scene.most_air(item.id) / item.filter.area > FAST_CLOTH:
            yield Suspect(
                "filter-small",
                (item.id,),
                f"The filter of the {name} is small for its air",
                tuple(larger_filter(item)),
                ("small-filter",),
            )


def way_back(scene: Scene) -> Found:
    """Openings that are too small for the air to come back through."""
    for item in scene.collectors:
        if not item.takes_air_away:
            continue
        wanted = make_up_air(scene.project, item, scene.most_air(item.id), scene.now.air).opening
        if area_back(item) < SMALL_OPENING * wanted:
            area = round(wanted, 4)
            words = f"An opening of {scene.display.area(area)} for its air"
            yield Suspect(
                "return-opening-small",
                (item.id,),
                f"The air of the {item.name.lower()} comes back through too small an opening",
                (_set(item.id, words, opening=area),),
                ("opening",),
            )


def collector_kinds(scene: Scene) -> Found:
    """Collectors that are too small for what is asked of them, or of the wrong kind."""
    for item in scene.collectors:
        if item.model not in {model.model for model in catalogue().collectors}:
            continue
        ports = [
            scene.project.pickup[ref][1].port
            for ref, (_, p) in scene.pickups.items()
            if p.collector == item.id and not p.met
        ]
        if not ports:
            continue
        if _is_vacuum(item) and max(ports) > WIDE_PORT:
            ducted = [m.model for m in catalogue().collectors if m.kind != "vacuum"]
            cures = tuple(
                Change(
                    f"A collector with a large fan: {model}", item.id, _with_model(item.id, model)
                )
                for model in ducted[:2]
            )
            says = f"A vacuum cannot fill a {scene.display.diameter(max(ports))} port"
            yield Suspect("kind-wrong", (item.id,), says, cures)
        if models_above(item.model):
            says = f"The {item.name.lower()} is too small"
            yield Suspect("collector-small", (item.id,), says, tuple(larger_models(item)))


def _with_model(collector: str, model: str) -> edits.Edit:
    return lambda project: edits.with_collector(project, collector, model)


def inlets(scene: Scene) -> Found:
    """Turns close before a collector's inlet."""
    for item in scene.collectors:
        near = tuple(
            p.source_id
            for p in scene.now.pieces
            if isinstance(p, kinds.InletDisturbance) and p.source_id in scene.passed
        )
        cures = tuple(straighter_inlet(scene.project, item.id))
        if near and cures:
            says = f"A turn stands close before the inlet of the {item.name.lower()}"
            yield Suspect("elbow-at-inlet", near[:1], says, cures, ("near-inlet",))


# -- ducts


def mains(scene: Scene) -> Found:
    """A main narrower than the collector's inlet, or wider than its air can keep clear."""
    for collector, runs in main_runs(scene.project).items():
        item = scene.project.collector[collector]
        if item not in scene.collectors:
            continue
        bores = [scene.project.run[run].diameter for run in runs]
        if min(bores, default=1.0) < item.inlet - 1e-3:
            narrow = tuple(run for run in runs if scene.project.run[run].diameter == min(bores))
            says = f"The main is only {scene.display.diameter(min(bores))} wide"
            cures = (
                *stepped_main(scene.project, runs, _asked_for(scene)),
                *main_sizes(scene.project, runs, up=True),
            )
            yield Suspect("main-small", narrow, says, cures, ("too-fast",))
        if bores:
            wide = tuple(run for run in runs if scene.project.run[run].diameter == max(bores))
            says = f"The main of {scene.display.diameter(max(bores))} is too wide for its air"
            cures = tuple(main_sizes(scene.project, runs, up=False))
            if cures:
                yield Suspect("main-large", wide, says, cures)


def _asked_for(scene: Scene) -> dict[str, float]:
    """The most air (m³/s) that any machine, all its pickups open, asks for through each run."""
    most: dict[str, float] = {}
    for answer in scene.answers:
        through: dict[str, float] = {}
        for p in answer.pickups:
            ref = f"{p.machine}/{p.pickup}"
            for run in scene.runs_of(ref) if ref in scene.pickups else ():
                through[run] = through.get(run, 0.0) + p.need.airflow
        for run, airflow in through.items():
            most[run] = max(most.get(run, 0.0), airflow)
    return most


def branches(scene: Scene) -> Found:
    """A machine's own pipe narrower than its port."""
    shared = {run for runs in main_runs(scene.project).values() for run in runs}
    for ref in scene.pickups:
        port = scene.project.pickup[ref][1].port
        own = [
            run
            for run in ideas.runs_from(scene.project, ref)
            if run.diameter < NARROW * port and run.id not in shared
        ]
        size = next_size(scene.project, port - 2e-3)
        if own and size is not None:
            ids = tuple(run.id for run in own)
            bore = scene.display.diameter(min(run.diameter for run in own))
            what = "pipe and hose" if not all(rigid(scene.project, r) for r in own) else "pipe"
            words = f"Its {what} {bore} → {scene.display.diameter(size)}"
            yield Suspect(
                "branch-small",
                ids,
                f"{capital(scene.machine_of(ref))} hangs on {what} of {bore}, less than its port",
                (Change(words, ids[0], _all_sized(ids, size)),),
            )


def _all_sized(runs: tuple[str, ...], size: float) -> edits.Edit:
    return lambda project: edits.changed_all(project, runs, diameter=size)


def hoses(scene: Scene) -> Found:
    """Hoses that are longer than they need to be, and ribbed ones."""
    project, display = scene.project, scene.display
    for run in project.runs:
        if rigid(project, run) or run.id not in scene.passed:
            continue
        straight = max(distance(project, run, ref) for ref in run.serves)
        short = cut_length(project, straight)
        if run.length and run.length > max(LONG_HOSE * short, short + LONG_BY):
            says = (
                f"{capital(scene.names.of(run.id))} is {display.about(run.length)} long for a "
                f"distance of {display.about(straight)}"
            )
            words = f"Cut it to {display.about(short)}"
            yield Suspect(
                "hose-long",
                (run.id,),
                says,
                (Change(words, run.id, _hose_cut(run.id, short)),),
                ("hose-long",),
            )
        if run.material != "smooth-hose":
            says = f"{capital(scene.names.of(run.id))} is ribbed inside"
            words = "Smooth-bore hose in its place"
            yield Suspect("hose-rough", (run.id,), says, (Change(words, run.id, _smooth(run.id)),))


def _hose_cut(run: str, length: float) -> edits.Edit:
    return lambda project: edits.with_hose_length(project, run, length)


def _smooth(run: str) -> edits.Edit:
    return lambda project: edits.with_material(project, run, "smooth-hose")


def leaking_ducts(scene: Scene) -> Found:
    """Joints that leak."""
    if scene.project.settings.duct_leakage > 0 and scene.project.runs:
        cure = Change(
            "Seal every joint with mastic or foil tape",
            scene.project.runs[0].id,
            lambda p: edits.with_settings(p, duct_leakage=0.0),
        )
        yield Suspect("duct-leak", (), "The joints of the ducts leak", (cure,))


def winding_ways(scene: Scene) -> Found:
    """Paths with more turns than a shop needs."""
    for ref, (answer, p) in scene.pickups.items():
        network = answer.systems[p.collector or ""].network
        path = [network.pieces[i] for i in network.path(p.leaf or 0)]
        turns = [piece for piece in path if isinstance(piece, kinds.Elbow | kinds.Mitre)]
        if sum(piece.angle for piece in turns) > WINDING:
            says = f"The air of {scene.machine_of(ref)} passes {len(turns)} turns"
            cures = tuple(
                change
                for change in ideas.own_changes(scene.project, answer, p)
                if change.words.startswith(("Long-radius", "Two 45s"))
            )
            elements = tuple(dict.fromkeys(piece.source_id for piece in turns))
            yield Suspect("bends-many", elements, says, cures)


# -- machines


def ports(scene: Scene) -> Found:
    """Ports narrower than such a machine usually has; of a machine unlike any, narrower than the
    pipe behind them.
    """
    for ref in scene.pickups:
        machine, item = scene.project.pickup[ref]
        usual = _usual(machine, item)
        behind = [r for r in ideas.runs_from(scene.project, ref) if rigid(scene.project, r)]
        wide = usual.port if usual is not None else behind[0].diameter if behind else 0.0
        if item.port < NARROW * wide:
            says = (
                f"{capital(scene.machine_of(ref))} has a port of only "
                f"{scene.display.diameter(item.port)}"
            )
            yield Suspect(
                "port-narrow",
                (ref,),
                says,
                tuple(ideas.wider_ports(scene.project, ref, wide)),
                ("throttles", "whistles", "chip-jam"),
                restores=usual is not None,
            )


def _usual(machine: Machine, item: Pickup) -> Pickup | None:
    """The pickup that such a machine has in the catalogue; None for a machine unlike any."""
    for model in machine_models():
        if model.body.kind != machine.kind:
            continue
        for pickup in model.body.pickups:
            if pickup.name == item.name:
                return pickup
    return None


def intakes(scene: Scene) -> Found:
    """Cabinets that let too little air in."""
    for ref in scene.pickups:
        machine, item = scene.project.pickup[ref]
        usual = _usual(machine, item)
        if not isinstance(item.intake, FreeArea) or usual is None:
            continue
        if isinstance(usual.intake, FreeArea) and item.intake.area < NARROW * usual.intake.area:
            area = usual.intake.area
            words = f"Open its intake to {scene.display.area(area)}"
            says = f"{capital(scene.machine_of(ref))} lets too little air in"
            yield Suspect("intake-small", (ref,), says, (Change(words, ref, _intake(ref, area)),))


def _intake(ref: str, area: float) -> edits.Edit:
    return lambda project: edits.with_pickup(project, ref, intake=FreeArea(area=area))


def own_fans(scene: Scene) -> Found:
    """Machines whose own chip fan stands still, or blows against what the collector draws."""
    for ref in scene.pickups:
        machine, item = scene.project.pickup[ref]
        usual = _usual(machine, item)
        fan = item.own_fan
        if fan is None and usual is not None and usual.own_fan is not None:
            says = f"The {machine.name.lower()}'s own chip fan does not run"
            cure = Change("Let its own chip fan run", ref, _fan(ref, usual.own_fan))
            yield Suspect("own-fan-off", (ref,), says, (cure,))
        if isinstance(fan, CurvePoints) and fan.speed < SLOW_FAN:
            says = (
                f"The {machine.name.lower()}'s own chip fan turns at {fan.speed:.0%} of its speed"
            )
            cure = Change(
                "Let its own chip fan run at full speed", ref, _fan(ref, fan.replaced(speed=1.0))
            )
            yield Suspect("own-fan-off", (ref,), says, (cure,))
        elif fan is not None:
            says = f"The {machine.name.lower()}'s own chip fan holds the collector's air back"
            cure = Change("Take its own chip fan out", ref, _fan(ref, None))
            yield Suspect("own-fan-against", (ref,), says, (cure,))


def _fan(ref: str, fan: Fan | None) -> edits.Edit:
    return lambda project: edits.with_pickup(project, ref, own_fan=fan)


def sets_together(scene: Scene) -> Found:
    """Machines that are run together though the collector bears only one of them."""
    for together in scene.project.settings.together:
        alone = [scene.now.of_machine.get(machine) for machine in together]
        answer = next(
            (a for a in scene.now.answers if set(a.scenario.running) == set(together)), None
        )
        asked = scene.machine is None or scene.machine in together
        if not asked or answer is None or answer.met or len(together) < 2:
            continue
        if not all(each is not None and each.met for each in alone):
            continue
        names = " and ".join(f"the {scene.project.machine[m].name.lower()}" for m in together)
        rest = tuple(each for each in scene.project.settings.together if each != together)
        cure = Change("Run them one after the other", together[0], _run_apart(rest))
        yield Suspect(
            "two-at-once", tuple(together), f"{capital(names)} run at the same time", (cure,)
        )


def _run_apart(rest: tuple[tuple[str, ...], ...]) -> edits.Edit:
    return lambda project: edits.with_settings(project, together=rest)


RULES: tuple[Rule, ...] = (
    not_connected,
    open_ends,
    no_gates,
    gates_set_wrong,
    leaky_gates,
    separators,
    filters,
    way_back,
    collector_kinds,
    inlets,
    mains,
    branches,
    hoses,
    leaking_ducts,
    winding_ways,
    ports,
    intakes,
    own_fans,
    sets_together,
)
