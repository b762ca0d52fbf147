"""Changes of a collector: its filter, its separator, the way back of its air, a larger one."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

from grey_current.shop import edits
from grey_current.shop.apart_edits import with_part
from grey_current.shop.catalogue import FITS_OVER, catalogue, collector_model, usual_separator
from grey_current.shop.collector_edits import (
    SEPARATORS,
    with_collector,
    with_filter,
    with_separator,
    with_separator_in_place,
)
from grey_current.shop.collectors import PARTS, Collector, Separator
from grey_current.shop.edits import Change
from grey_current.shop.model import Project
from grey_current.spelling import localised
from grey_current.units import System

# A filter is made so much larger in one step.
LARGER_FILTER = 2.0
# Catalogue models that are tried after one another when a collector is too small.
LARGER_MODELS = 2


def collector_changes(project: Project, collector: str) -> Iterator[Change]:
    """Every sensible change of one collector."""
    item = project.collector[collector]
    yield from cleaned_filter(item)
    yield from larger_filter(item)
    yield from other_separators(item)
    yield from without_separator(item)
    yield from wider_parts(item)
    yield from larger_models(item, project.settings.units)


def cleaned_filter(item: Collector) -> Iterator[Change]:
    """The filter as clean as cleaning gets it."""
    if item.filter.loading > item.filter.seasoned:
        clean = item.filter.replaced(loading=item.filter.seasoned)
        yield Change("Clean the filter", item.id, lambda p: edits.changed(p, item.id, filter=clean))


def larger_filter(item: Collector) -> Iterator[Change]:
    """A filter of twice the area, where there is one."""
    if item.filter.kind != "none" and item.filter.area * LARGER_FILTER <= 200:
        area = item.filter.area * LARGER_FILTER
        yield Change(
            "A filter of twice the area", item.id, lambda p: with_filter(p, item.id, area=area)
        )


def other_separators(item: Collector) -> Iterator[Change]:
    """Another separator in place of one that takes much pressure."""
    separator = item.separator
    if separator is None:
        return
    own = usual_separator(item.model)
    usual = own or SEPARATORS[separator.kind]
    if resistance(separator) > 1.02 * resistance(usual):
        words = f"A {usual.kind} of the usual size for it"
        yield Change(words, item.id, lambda p: with_separator_in_place(p, item.id, usual))
    if own is not None:
        return
    lighter = {kind: each for kind, each in SEPARATORS.items() if kind != separator.kind}
    if resistance(lighter.get("drum lid", separator)) < resistance(separator):
        words = f"A drum lid in place of the {separator.kind}"
        yield Change(words, item.id, lambda p: with_separator(p, item.id, "drum lid"))


def without_separator(item: Collector) -> Iterator[Change]:
    """None at all in place of one that was added; then all chips go into the bag."""
    if item.separator is not None and usual_separator(item.model) is None:
        yield Change(
            f"Without the {item.separator.kind}: all chips then go through the fan into the bag",
            item.id,
            lambda p: with_separator(p, item.id, "none"),
        )


def wider_parts(item: Collector) -> Iterator[Change]:
    """Ports and hose as wide as the fan's inlet at what stands by itself; small kinds are sold with
    theirs.
    """
    for part in PARTS:
        body = item.apart(part)
        kind = item.separator.kind if part == "separator" and item.separator else part
        if body is None or kind in ("bucket", "small cyclone"):
            continue
        if min(body.port, body.hose or body.port) < item.inlet - FITS_OVER:
            yield Change(
                f"Ports and hose at the {kind} as wide as the fan's inlet",
                item.id,
                partial(with_part, collector=item.id, part=part, port=item.inlet, hose=None),
            )


def resistance(separator: Separator) -> float:
    """Pressure (Pa) that a separator takes over the square of the airflow (m³/s)."""
    return separator.loss / separator.at_airflow**2


def larger_models(item: Collector, system: System) -> Iterator[Change]:
    """The next larger catalogue models of the same sort: vacuums stay vacuums."""
    for model in models_above(item.model)[:LARGER_MODELS]:
        called = localised(model, system)
        yield Change(f"Collector: {called}", item.id, _exchanged(item.id, model))


def _exchanged(collector: str, model: str) -> edits.Edit:
    return lambda project: with_collector(project, collector, model)


def models_above(model: str) -> list[str]:
    """Catalogue models after one, of the same sort; empty for a model that is not in it."""
    models = catalogue().collectors
    names = [m.model for m in models]
    if model not in names:
        return []
    vacuum = collector_model(model).kind == "vacuum"
    return [m.model for m in models[names.index(model) + 1 :] if (m.kind == "vacuum") == vacuum]
