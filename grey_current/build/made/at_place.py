"""What a thing made in the shop is to be like at a place: figures read off the design and its
air.
"""

from __future__ import annotations

import math

from grey_current.air.gas import air_at
from grey_current.air.needs import clear_chips
from grey_current.build.made.joints import gate_leak_share
from grey_current.build.made.template import Template
from grey_current.build.made.templates import template
from grey_current.design.flow.assessment import Assessment
from grey_current.design.flow.fittings import fan_curve
from grey_current.design.parts.parts_list import PartsList
from grey_current.design.parts.takeoffs import is_hose
from grey_current.design.space.clashes import hanger_gap
from grey_current.shop.build_edits import with_shop_made, without_shop_made
from grey_current.shop.build_plan import ShopMade
from grey_current.shop.collector_edits import with_separator
from grey_current.shop.collectors import Collector
from grey_current.shop.ducts import Gate, Point, Run
from grey_current.shop.edits import changed
from grey_current.shop.hoses import hose_mass
from grey_current.shop.machines import FreeArea, Machine, Pickup
from grey_current.shop.model import Project
from grey_current.shop.roofs import volume

# m that a hose's wall and its wire are thick. Allowance.
WALL = 0.004
# m³/s through a collector that nothing is connected to yet. Allowance.
USUAL_THROUGH = 0.08
# Share through which a bought gate leaks: what a gate goes back to when it is bought after all.
BOUGHT_LEAK = 0.005


def templates_at(project: Project, element: str) -> tuple[str, ...]:
    """The names of the templates that make something for an element, by what it is."""
    item = project.find(element)
    # What each kind of place knows: a gate its bore, a hose its mass, a joint two bores.
    if isinstance(item, Gate):
        return ("gate",)
    if isinstance(item, Run):
        return ("coupler", "hose-arm") if is_hose(item) else ("bracket",)
    if isinstance(item, Point):
        return ("splitter",) if item.splitter else ()
    if isinstance(item, Collector):
        return ("drum-lid", "sound-box")
    if isinstance(item, Machine | Pickup):
        return ("adaptor", "hood", "slot-hood", "over-blade", "box", "closing-plate")
    return ("room-filter", "downdraft-top", "saw-cradle")


def figures_at(now: Assessment, name: str, element: str) -> dict[str, float]:
    """The figures of a template at a place: bores, suction, airflow, sizes; without what the place
    does not tell.
    """
    chosen, item = template(name), now.project.find(element)
    found: dict[str, float] = {}
    suction = suction_at(now, element)
    if suction:
        found["suction"] = suction
    if isinstance(item, Gate):
        found["bore"] = now.project.run[item.run].diameter
    elif isinstance(item, Run):
        found |= {"bore": item.diameter, "outer": item.diameter + 2 * WALL}
        found["mass"] = hose_mass(item.diameter, item.length or 1.0) / 2
        found["span"] = hanger_gap(item.material)
    elif isinstance(item, Point):
        bores = [run.diameter for run in now.project.runs if element in run.ends]
        found |= {"large": max(bores), "small": min(bores)} if bores else {}
    elif isinstance(item, Collector):
        found |= {"width": item.width, "depth": item.depth, "height": item.height}
        found |= {"power": item.motor.power} if item.motor else {}
        found["airflow"] = now.counted.most_airflow(item.id) or USUAL_THROUGH
        found |= {"bore": item.inlet, "suction": fan_curve(item.fan, air_at()).shut_off}
        found |= {"volume": item.bin.volume} if item.bin else {}
    elif isinstance(item, Machine | Pickup):
        found |= _at_machine(now, name, element)
    else:
        found["volume"] = math.fsum(volume(room) for room in now.project.rooms)
    return {
        asked.name: _bounded(chosen, asked.name, found[asked.name])
        for asked in chosen.asks
        if asked.name in found
    }


def _bounded(chosen: Template, name: str, value: float) -> float:
    asked = next(a for a in chosen.asks if a.name == name)
    return min(max(value, asked.least), asked.most)


def _at_machine(now: Assessment, name: str, element: str) -> dict[str, float]:
    project = now.project
    machine = project.machine[element.split("/", maxsplit=1)[0]]
    pickup = next(iter(machine.pickups), None)
    if element in project.pickup:
        pickup = project.pickup[element][1]
    found: dict[str, float] = {}
    if name == "box":
        found |= {
            "width": machine.width * 0.8,
            "depth": machine.depth * 0.8,
            "room": machine.table_height * 0.7,
        }
    if pickup is None:
        return found
    # Where the user gave no need it is what clears the chips from such a port.
    found |= {"bore": pickup.port, "airflow": pickup.need or clear_chips(pickup.port)}
    if isinstance(pickup.intake, FreeArea):
        found |= {"area": pickup.intake.area, "gap": pickup.intake.area}
    if pickup.capture is not None:
        found |= {"distance": pickup.capture.distance, "velocity": pickup.capture.velocity}
    return found


def suction_at(now: Assessment, element: str) -> float:
    """How far the pressure at an element falls below the room's at most (Pa), over all scenarios; 0
    if unknown.
    """
    most = 0.0
    for answer in now.counted.answers:
        for system in answer.systems.values():
            if system.converged:
                for index, piece in enumerate(system.network.pieces):
                    if piece.source_id == element:
                        most = max(most, -float(system.solved.before[system.row, index]))
    return most


def made_for(
    now: Assessment, name: str, element: str, figures: dict[str, float] | None = None
) -> Project:
    """The project with a thing made in the shop for an element, in place of the bought part where
    there is one.

    A gate then leaks as one of wood does. Raises `InputError` for figures that do not go together.
    """
    project = now.project
    if name == "drum-lid" and project.collector[element].separator is None:
        project = with_separator(project, element, "lid with baffle")
    known = template(name).figures(figures_at(now, name, element) if figures is None else figures)
    item = ShopMade(
        template=name, element=element, figures=known, replaces=_replaced(project, name, element)
    )
    made = with_shop_made(project, item)
    if element not in project.gate:
        return made
    return changed(made, element, leak=min(gate_leak_share(known["bore"], known["gap"]), 0.2))


# What a template's thing is made in place of: how the part's key begins.
INSTEAD_OF: dict[str, tuple[str, ...]] = {
    "drum-lid": ("separator/lid-with-baffle", "separator/drum-lid"),
    "gate": ("gate/",),
    "coupler": ("quick/",),
    "adaptor": ("adaptor/",),
    "splitter": ("splitter/",),
}


def _replaced(project: Project, name: str, element: str) -> str | None:
    """The bought part of an element that a thing made in the shop takes the place of; None for
    none.
    """
    start = INSTEAD_OF.get(name)
    before = next(
        (m.replaces for m in project.build.made if (m.template, m.element) == (name, element)), None
    )
    found = (
        part.key
        for part in PartsList(project).of_element(element)
        if start and part.key.startswith(start)
    )
    return before or next(found, None)


def bought_instead(project: Project, name: str, element: str) -> Project:
    """The project with a shop-made thing taken off the list; a gate leaks as a bought one again."""
    made = without_shop_made(project, name, element)
    return changed(made, element, leak=BOUGHT_LEAK) if element in project.gate else made
