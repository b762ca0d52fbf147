"""What a collector is made of: fan, separator, filter, bin, body."""

from __future__ import annotations

from grey_current.air.needs import TRANSPORT_VELOCITY
from grey_current.desk.inspector.apart_fields import place_choice
from grey_current.desk.inspector.fields import (
    ChoiceField,
    Fact,
    Item,
    TextField,
    length_field,
    measured_field,
    name_field,
    number_field,
    percent_field,
    yes_no,
)
from grey_current.desk.inspector.pickup_fields import PORT_ENDS
from grey_current.desk.inspector.price_fields import price_field
from grey_current.shop import edits
from grey_current.shop.catalogue import catalogue, collector_key
from grey_current.shop.collector_edits import (
    FILTERS,
    INLET_SIDES,
    SEPARATORS,
    curve_text,
    inlet_side,
    with_bin_volume,
    with_claim,
    with_collector,
    with_curve_text,
    with_fan,
    with_filter,
    with_inlet_side,
    with_separator,
    with_stand,
)
from grey_current.shop.collectors import Collector
from grey_current.shop.fans import Claim, CurvePoints
from grey_current.shop.model import Project
from grey_current.shop.names import capital
from grey_current.spelling import localised
from grey_current.units import Display


def fan(project: Project, item: Collector) -> tuple[Item, ...]:
    """Its model, how its fan is known, its inlet."""
    display = Display(project.settings.units)
    ident = item.id
    models = tuple((m.model, localised(m.model, display.system)) for m in catalogue().collectors)
    if item.model not in dict(models):
        # One of the user's own, or of another catalogue: it stays to be chosen.
        models = ((item.model, item.model), *models)
    items: list[Item] = [
        name_field(ident, item.name),
        ChoiceField(
            f"{ident}/model",
            "Model",
            item.model,
            models,
            step="Change the collector",
            edit=lambda p, v: with_collector(p, ident, v),
        ),
        ChoiceField(
            f"{ident}/known-by",
            "Fan known by",
            item.fan.by,
            (("points", "its curve"), ("claim", "its maker's claim")),
            step="Change the fan",
            edit=lambda p, v: with_claim(p, ident, v == "claim"),
        ),
    ]
    if isinstance(item.fan, CurvePoints):
        items += _curve_fields(item, item.fan, display)
    else:
        items += _claim_fields(project, item, item.fan)
    items.append(
        length_field(
            project,
            f"{ident}/inlet",
            "Inlet across",
            item.inlet,
            edit=lambda p, v: edits.changed(p, ident, inlet=v),
        )
    )
    items.append(
        ChoiceField(
            f"{ident}/inlet-end",
            "It ends in",
            item.inlet_end,
            PORT_ENDS,
            step="Change the inlet's end",
            edit=lambda p, v: edits.changed(p, ident, inlet_end=v),
        )
    )
    items.append(price_field(project, collector_key(item.model), "Price"))
    return tuple(items)


def _curve_fields(item: Collector, fan: CurvePoints, display: Display) -> list[Item]:
    ident = item.id
    speeds = [
        ("1", "as measured"),
        ("0.826", "on 50 Hz, measured on 60"),
        ("1.21", "on 60 Hz, measured on 50"),
    ]
    now = f"{fan.speed:g}"
    # A speed that a file brought along stays, shown as a share.
    if now not in dict(speeds):
        speeds.append((now, f"at {fan.speed:.0%}"))
    unit = f"{display.airflow_unit} and {'inH2O' if display.us else 'Pa'}"
    return [
        TextField(
            f"{ident}/curve",
            "Curve",
            curve_text(fan, display),
            step="Change the fan's curve",
            read=str,
            edit=lambda p, v: with_curve_text(p, ident, v),
        ),
        Fact("", f"Points as airflow at pressure, in {unit}, with ; between."),
        ChoiceField(
            f"{ident}/speed",
            "Turns",
            now,
            tuple(speeds),
            step="Change the speed",
            edit=lambda p, v: with_fan(p, ident, speed=float(v)),
        ),
        percent_field(
            f"{ident}/impeller-ratio",
            "Impeller, of that one",
            fan.impeller_ratio,
            edit=lambda p, v: with_fan(p, ident, impeller_ratio=v),
            step="Change the impeller",
        ),
    ]


def _claim_fields(project: Project, item: Collector, fan: Claim) -> list[Item]:
    ident = item.id
    return [
        Fact("", "An estimated curve: shut-off from the impeller, free air less a third."),
        measured_field(
            "airflow",
            project,
            f"{ident}/free-air",
            "Free air claimed",
            fan.free_air,
            lambda p, v: with_fan(p, ident, free_air=v),
            "Change the claim",
            "Free air",
        ),
        length_field(
            project,
            f"{ident}/impeller",
            "Impeller",
            fan.impeller,
            edit=lambda p, v: with_fan(p, ident, impeller=v),
        ),
        measured_field(
            "power",
            project,
            f"{ident}/power",
            "Motor claimed",
            fan.motor_power,
            edit=lambda p, v: with_fan(p, ident, motor_power=v),
        ),
        ChoiceField(
            f"{ident}/hertz",
            "Mains",
            str(fan.hertz),
            (("60", "60 Hz"), ("50", "50 Hz")),
            step="Change the mains",
            edit=lambda p, v: with_fan(p, ident, hertz=int(v)),
        ),
    ]


def cleaning(project: Project, item: Collector) -> tuple[Item, ...]:
    """Separator, filter and bin."""
    ident = item.id
    kinds = (("none", "none"), *((kind, kind) for kind in SEPARATORS))
    items: list[Item] = [
        ChoiceField(
            f"{ident}/separator",
            "Separator",
            item.separator.kind if item.separator else "none",
            kinds,
            step="Change the separator",
            edit=lambda p, v: with_separator(p, ident, v),
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
                step="Move the separator",
                edit=lambda p, v: edits.changed(p, ident, separator=separator.replaced(placed=v)),
            )
        )
        items.append(place_choice(item, "separator"))
    items += [
        ChoiceField(
            f"{ident}/filter",
            "Filter",
            item.filter.kind,
            tuple((k, k) for k in FILTERS),
            step="Change the filter",
            edit=lambda p, v: with_filter(p, ident, kind=v),
        ),
        *(() if item.filter.kind == "none" else (place_choice(item, "filter"),)),
        *(() if item.filter.kind == "none" else _filter_fields(project, item)),
    ]
    if item.bin is not None:
        items.append(
            measured_field(
                "volume",
                project,
                f"{ident}/bin",
                "Bin",
                item.bin.volume * 1000,
                edit=lambda p, v: with_bin_volume(p, ident, v / 1000),
            )
        )
    return tuple(items)


def _filter_fields(project: Project, item: Collector) -> tuple[Item, ...]:
    """A filter's area, and how loaded it is: one of three states, or a figure of one's own."""
    ident, known = item.id, item.filter
    states = {"new": 0.0, "seasoned": known.seasoned, "due": known.due}
    # A loading that was measured is none of the three states.
    now = next(
        (word for word, loading in states.items() if abs(loading - known.loading) < 1e-6), "own"
    )
    words = (("new", "new"), ("seasoned", "in use, seasoned"), ("due", "due for cleaning"))
    return (
        measured_field(
            "surface",
            project,
            f"{ident}/filter-area",
            "Its area",
            item.filter.area,
            edit=lambda p, v: with_filter(p, ident, area=v),
        ),
        ChoiceField(
            f"{ident}/filter-state",
            "It is",
            now,
            words if now != "own" else (*words, ("own", "as loaded as below")),
            step="Change the filter's state",
            edit=lambda p, v: with_filter(p, ident, loading=states.get(v, known.loading)),
        ),
        percent_field(
            f"{ident}/loading",
            "Loaded by",
            known.loading,
            edit=lambda p, v: with_filter(p, ident, loading=v),
            step="Change the filter's loading",
        ),
        percent_field(
            f"{ident}/due",
            "Due from",
            known.due,
            edit=lambda p, v: with_filter(p, ident, due=v),
            step="Change when the filter is due",
        ),
        Fact(
            "",
            "Of its resistance when new, on top. A filter in use never gets as easy as a new "
            "one again.",
        ),
    )


def body(project: Project, item: Collector) -> tuple[Item, ...]:
    """Its size and inlet's place."""
    ident = item.id
    items: list[Item] = [_side(project, item, name) for name in ("width", "depth", "height")]
    items.append(
        length_field(
            project,
            f"{ident}/stand",
            "Of it, a stand",
            item.stand,
            edit=lambda p, v: with_stand(p, ident, v),
        )
    )
    items.append(
        length_field(
            project,
            f"{ident}/inlet-height",
            "Inlet height",
            item.inlet_height,
            edit=lambda p, v: edits.changed(p, ident, inlet_height=v),
        )
    )
    items.append(
        ChoiceField(
            f"{ident}/inlet-side",
            "Inlet on its",
            inlet_side(item),
            tuple((side, side) for side in INLET_SIDES),
            step="Change the inlet's side",
            edit=lambda p, v: with_inlet_side(p, ident, v),
        )
    )
    items.append(
        number_field(
            f"{ident}/turn",
            "Turned",
            item.turn,
            edit=lambda p, v: edits.changed(p, ident, turn=v),
            unit="°",
        )
    )
    items.append(yes_no(ident, "wheels", "On wheels", item.wheels))
    slow = TRANSPORT_VELOCITY["dry dust"]
    items.append(
        Fact(
            "",
            f"Chips want at least {Display(project.settings.units).velocity(slow)} in every "
            "duct to it.",
        )
    )
    return tuple(items)


def _side(project: Project, item: Collector, name: str) -> TextField:
    return length_field(
        project,
        f"{item.id}/{name}",
        capital(name),
        getattr(item, name),
        edit=lambda p, v: edits.changed(p, item.id, **{name: v}),
    )
