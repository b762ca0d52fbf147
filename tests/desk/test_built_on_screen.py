"""Twelve small shops built in the window from an empty floor, by cards, typed sizes and places and
how each thing stands: what comes of it is blamed for as little as the same shop written down."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from grey_current.shop.collectors import Collector
from grey_current.shop.machines import Machine
from grey_current.shop.places import middle_of, own_bodies
from grey_current.shop.room import FLAT
from grey_current.shop.stacking import bottom_of, host_of, relation, table_of, things, top_of
from grey_current.shop.stacking_edits import HEIGHT, stand_choices, stands
from grey_current.shop.typed_places import measured
from grey_current.spelling import localised
from tests.core.test_stacking import VACUUM, said
from tests.core.test_twelve_shops import SHOPS
from tests.desk.conftest import Hands, do

FEATURES = {"car": "Parked car", "cupboard": "Wall cupboard"}


def length(metres):
    return f"{metres * 1000:.1f} mm"


def card_of(item):
    """The stage and the card that a thing begins with."""
    if isinstance(item, Machine):
        return "machines", "Spindle sander" if item.feed is None else "Table saw"
    if isinstance(item, Collector):
        return "machines", VACUUM
    return "shop", FEATURES.get(item.kind, item.kind.capitalize())


def sizes_of(item):
    """What is typed of a thing before it is put in its place."""
    if isinstance(item, Machine | Collector):
        return [("width", length(item.width)), ("depth", length(item.depth)), ("service", "none")]
    x0, y0, x1, y1 = (f(p[i] for p in item.outline) for f in (min, max) for i in (0, 1))
    return [("across", length(x1 - x0)), ("deep", length(y1 - y0))]


def heights_of(item):
    """What is typed of it when it stands where it stands."""
    if isinstance(item, Machine):
        own = item.table_height if item.height is None else item.height
        found = [("foot", item.bottom)] if item.bottom else []
        # Its table is never over its top.
        found += [("table", 0.05), ("height", own), ("table", table_of(item) - item.bottom)]
        found += [("under", item.under)]
        found += [(f"{side}_wing", getattr(item, f"{side}_wing")) for side in ("left", "right")]
        return [(key, length(value)) for key, value in found]
    if isinstance(item, Collector):
        found = [("height", item.height), ("inlet-height", item.inlet_height)]
        found += [("foot", item.bottom)] * (item.bottom > 0)
        return [(key, length(value)) for key, value in found]
    if item.kind in FLAT:
        return []
    top = "up to the ceiling" if item.top is None else length(item.top)
    low = (
        [("bottom", length(0.0))]
        if item.kind in ("bench", "rack", "cupboard", "air cleaner")
        else []
    )
    return [*low, ("top", top), *([("bottom", length(item.bottom))] if low else [])]


class Builder:
    """Hands that build what a model shows in an empty window."""

    def __init__(self, window, model):
        self.window, self.hands, self.model = window, Hands(window), model
        self.ids = {}

    @property
    def project(self):
        return self.window.workspace.project

    def build(self):
        room = self.model.rooms[0]
        for key, axis in (("length", 0), ("width", 1)):
            self.hands.type_into(f"room/{key}", length(max(p[axis] for p in room.outline)))
        self.hands.type_into("room/ceiling", length(room.ceiling))
        for item in sorted(things_and_areas(self.model), key=self.depth):
            self.put(item)

    def depth(self, item):
        """How many things carry it: what carries others is put down first."""
        host = host_of(self.model, item)
        return 0 if host is None else 1 + self.depth(host)

    def put(self, item):
        stage, card = card_of(item)
        self.window.workspace.go(stage)
        strip = self.window.strips.currentWidget()
        strip.search.clear()
        card = localised(card, self.project.settings.units)
        QTest.keyClicks(strip.search, card.partition(",")[0])
        before = set(self.project.element)
        QTest.mouseClick(strip.card(card), Qt.MouseButton.LeftButton)
        outline = getattr(item, "outline", None)
        self.hands.click(*(middle_of(outline) if outline else (item.x, item.y)))
        (ident,) = set(self.project.element) - before
        self.ids[item.id] = ident
        if isinstance(item, Collector):
            self.window.workspace.go("collector")
        self.window.workspace.select(ident)
        self.type(ident, [("name", item.name), *sizes_of(item)])
        if isinstance(item, Machine):
            feeds = {None: "no feed", 90.0: "front to back"}
            self.hands.choose(f"{ident}/feed", feeds[item.feed])
        self.type(ident, heights_of(item))
        self.place(ident, item)
        if stands(self.model, item) not in ("floor", HEIGHT):
            words = dict(stand_choices(self.model, item))[stands(self.model, item)]
            self.hands.choose(f"{ident}/stands-on", words)
        if not getattr(item, "turns", False):
            self.type(ident, heights_of(item))
            self.place(ident, item)
        if isinstance(item, Machine) and item.wheels:
            self.hands.choose(f"{ident}/wheels", "yes")

    def place(self, ident, item):
        for key, place in zip(("left", "low"), measured(self.model, item.id), strict=True):
            self.hands.type_into(f"{ident}/{key}", length(place))

    def type(self, ident, values):
        for key, value in values:
            self.hands.type_into(f"{ident}/{key}", value)


def things_and_areas(project):
    return [*things(project), *(f for f in project.features if f.kind in FLAT)]


@pytest.mark.parametrize("name", SHOPS)
def test_it_is_built_by_cards_and_typed_figures(window, name):
    model = SHOPS[name]()
    do(window, "open-empty")
    builder = Builder(window, model)
    builder.build()
    made = window.workspace.project
    for item in things_and_areas(model):
        there = made.element[builder.ids[item.id]]
        assert there.name == item.name
        assert measured(made, there.id) == pytest.approx(measured(model, item.id), abs=2e-3)
        if item.id in {i.id for i in things(model)}:
            assert bottom_of(there) == pytest.approx(bottom_of(item), abs=2e-3), item.name
            assert min(top_of(there), 9) == pytest.approx(min(top_of(item), 9), abs=2e-3), item.name
        host = host_of(model, item) if item.id in {i.id for i in things(model)} else None
        if host is not None:
            assert there.host == builder.ids[host.id]
            assert relation(made.element[there.host], there) == relation(host, item)
    # Parked places and separators apart are another matter; nothing else may be said of it.
    special = any(m.parked for m in model.machines) or any(
        len(own_bodies(c)) > 1 for c in model.collectors
    )
    found = {code for code, _ in said(made)} - {code for code, _ in said(model)}
    assert not found or special, said(made)
