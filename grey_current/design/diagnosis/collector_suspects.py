"""What is out of the ordinary with a collector: its separator, filter, way back, kind and inlet."""

from __future__ import annotations

import math

from grey_current.air import pieces as kinds
from grey_current.design.collector.make_up_air import area_back, make_up_air
from grey_current.design.collector.plausible import VACUUM_INLET
from grey_current.design.collector.system_kinds import own_collector_change
from grey_current.design.diagnosis.cause import Suspect
from grey_current.design.diagnosis.scene import BESIDE, Found, Scene, with_fields
from grey_current.design.findings.collectors import FILTER_VELOCITY
from grey_current.design.flow.assessment import PickupAir
from grey_current.design.improve.collector_changes import (
    cleaned_filter,
    larger_filter,
    larger_models,
    models_above,
    other_separators,
    resistance,
)
from grey_current.design.improve.duct_changes import straighter_inlet
from grey_current.shop import edits
from grey_current.shop.catalogue import catalogue, usual_separator
from grey_current.shop.collector_edits import SEPARATORS, with_collector
from grey_current.shop.collectors import Collector
from grey_current.shop.edits import Change
from grey_current.spelling import localised

# A filter loaded by so much more than it is when it has settled is due. Allowance.
LOADED_BY = 0.2
# An opening below this share of what the air wants is too small. Allowance.
SMALL_OPENING = 0.8
# m; a port this wide asks for more air than any vacuum gives.
WIDE_PORT = 0.075
# Share of the fan's pressure that straight pipe takes from which on a collector stands far away.
# Allowance.
MOSTLY_PIPE = 0.4
# What a cause counts for that takes no air. Allowance.
LITTLE = 0.01
# A separator that takes so much more than the usual one of its kind is out of the ordinary.
LOSSY = 1.15


def separators(scene: Scene) -> Found:
    """Separators that take more pressure than is usual for the collector."""
    for item in scene.collectors:
        separator = item.separator
        # What a cure leaves out altogether is offered beside it, not as the cure.
        cures = tuple(other_separators(item))
        if separator is None or not cures:
            continue
        usual = usual_separator(item.model) or SEPARATORS[separator.kind]
        lossy = resistance(separator) > LOSSY * resistance(usual)
        # A bucket is made for a vacuum's air, a sixth of what a collector moves.
        small = separator.kind in ("bucket", "small cyclone")
        strangled = small and not _is_vacuum(item)
        if lossy or strangled:
            says = f"The {separator.kind} of the {item.name.lower()} takes much of the pressure"
            yield Suspect("separator-lossy", (item.id,), says, cures)


def _is_vacuum(item: Collector) -> bool:
    """Whether a collector is a vacuum: by its model, else by the size of its inlet."""
    known = {model.model: model.kind for model in catalogue().collectors}
    return known.get(item.model, "vacuum" if item.inlet < VACUUM_INLET else "") == "vacuum"


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
        if scene.most_air(item.id) / item.filter.area > FILTER_VELOCITY:
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
                (with_fields(item.id, words, opening=area),),
                ("opening",),
            )


def collector_kinds(scene: Scene) -> Found:
    """Collectors that are too small for what is asked of them, or of the wrong kind."""
    for item in scene.collectors:
        if item.model not in {model.model for model in catalogue().collectors}:
            continue
        short = {
            ref: p
            for ref, (_, p) in scene.pickups.items()
            if p.collector == item.id and not p.nearly_met
        }
        if not short:
            continue
        wide = {ref: p for ref, p in short.items() if scene.project.pickup[ref][1].port > WIDE_PORT}
        if _is_vacuum(item) and wide:
            yield _no_vacuum_s_port(scene, item, wide)
        if models_above(item.model):
            says = f"The {item.name.lower()} is too small"
            yield Suspect(
                "collector-small",
                (item.id,),
                says,
                tuple(larger_models(item, scene.display.system)),
                instead="A larger one wants its ducts laid anew: look at the Collector stage.",
            )


def _no_vacuum_s_port(scene: Scene, item: Collector, wide: dict[str, PickupAir]) -> Suspect:
    """Ports too wide for a vacuum: a collector of its own for the worst of them, or one with a
    large fan for all.
    """
    worst = min(wide, key=lambda ref: wide[ref].share)
    port = scene.project.pickup[worst][1].port
    cures = [own_collector_change(scene.project, worst, scene.machine_of(worst))]
    ducted = [model.model for model in catalogue().collectors if model.kind != "vacuum"]
    cures += [
        Change(
            f"A collector with a large fan: {localised(model, scene.display.system)}",
            item.id,
            _with_model(item.id, model),
        )
        for model in ducted[:2]
    ]
    return Suspect(
        "kind-wrong",
        (item.id,),
        f"A vacuum cannot fill a {scene.display.diameter(port)} port",
        tuple(cures),
        instead="A collector with a large fan beside it, for what has a wide port.",
        worth=math.fsum(1 - p.share for p in wide.values()),
    )


def _with_model(collector: str, model: str) -> edits.Edit:
    return lambda project: with_collector(project, collector, model)


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


def through_the_fan(scene: Scene) -> Found:
    """Wheels that shavings and offcuts pass, for nothing stands before them."""
    for item in scene.collectors:
        before = item.separator is not None and item.separator.placed == "before the fan"
        users = {
            ref.partition("/")[0] for ref, (_, p) in scene.pickups.items() if p.collector == item.id
        }
        coarse = [m for m in users if scene.project.machine[m].chips in ("shavings", "heavy")]
        if coarse and not before and not _is_vacuum(item):
            yield Suspect(
                "chips-through-fan",
                (item.id,),
                f"All chips pass the wheel of the {item.name.lower()}",
                (),
                ("through-the-fan",),
                instead="A drum with a lid before the fan spares it; it takes some of the air.",
                worth=LITTLE,
            )


def far_collectors(scene: Scene) -> Found:
    """Collectors so far away that straight pipe takes most of what their fan gives."""
    for item in scene.collectors:
        short = [
            (answer, p)
            for answer, p in scene.pickups.values()
            if p.collector == item.id and not p.nearly_met
        ]
        if not short:
            continue
        answer, worst = min(short, key=lambda pair: pair[1].share)
        system = answer.systems[item.id]
        path = system.network.path(worst.leaf or 0)
        pipe = math.fsum(
            system.losses[i] for i in path if isinstance(system.network.pieces[i], kinds.Duct)
        )
        if pipe > MOSTLY_PIPE * max(system.fan_static, 1.0):
            yield Suspect(
                "collector-far",
                (item.id,),
                f"The {item.name.lower()} stands far from what it serves",
                (),
                instead="Look for a better place for it at the Collector stage.",
                worth=LITTLE + BESIDE * max(1 - worst.share, 0.0),
            )
