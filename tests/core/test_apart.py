"""Separators and filters that stand by themselves: their air, their bodies, what goes along, what is
bought."""

from __future__ import annotations

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from grey_current.air import fittings, pieces
from grey_current.design.findings.all_findings import all_findings
from grey_current.design.flow.assess import assess
from grey_current.design.flow.scenarios import all_scenarios
from grey_current.design.improve.collector_changes import collector_changes
from grey_current.design.parts.parts_list import PartsList
from grey_current.design.space.apart_places import beside_its_fan
from grey_current.design.space.clashes import duct_space
from grey_current.design.space.solids import blocks, in_itself
from grey_current.errors import GreyCurrentError, RefusedEdit
from grey_current.files import project_file
from grey_current.shop import edits
from grey_current.shop.apart_edits import stood_by_itself, with_part, with_part_inlet
from grey_current.shop.catalogue import catalogue, materials
from grey_current.shop.collector_edits import INLET_SIDES, inlet_side, with_collector
from grey_current.shop.collectors import PARTS
from grey_current.shop.copying import clip_of, pasted
from grey_current.shop.names import called
from grey_current.shop.places import (
    LEAD_HOSE,
    footprint,
    inlet_of,
    lead_length,
    parts_apart,
    position,
    stood_apart,
)
from grey_current.work.separators import separator_rows
from tests.core.shops import demo, made_up


def loft(part="separator", **changes):
    made = beside_its_fan(demo(), "cyclone", part)
    return with_part(made, "cyclone", part, **changes) if changes else made


def saw_air(project):
    return assess(project, all_scenarios(project)).of_machine["saw"].pickups[0].airflow


def own_pieces(project):
    system = assess(project, all_scenarios(project)).of_machine["saw"].systems["cyclone"]
    own = [(i, p) for i, p in enumerate(system.network.pieces) if p.source_id == "cyclone"]
    return system, own


def test_what_the_hose_takes_by_hand():
    """Darcy's law over its length, its bends as any hose's, its ends as any reducer's."""
    made = loft(port=0.127, hose=0.102, length=2.0)
    system, own = own_pieces(made)
    kinds = [piece.kind for _, piece in own]
    assert kinds == [
        # From the duct into the separator's port, through it, and by a narrower hose to the fan.
        *("contraction", "spacing", "separator"),
        *("contraction", "collector_hose", "hose_bend", "expansion"),
        *("fan", "filter", "return_opening"),
    ]
    index = next(i for i, p in own if isinstance(p, pieces.CollectorHose))
    speed = system.airflow / (math.pi / 4 * 0.102**2)
    rough = materials()[LEAD_HOSE].roughness
    # Colebrook, by turns.
    factor, reynolds = 0.05, speed * 0.102 * system.network.air.density / 1.82e-5
    for _ in range(60):
        factor = (-2 * math.log10(rough / 0.102 / 3.7 + 2.51 / reynolds / math.sqrt(factor))) ** -2
    pressure = system.network.air.density / 2 * speed**2
    assert system.losses[index] == pytest.approx(factor * 2.0 / 0.102 * pressure, rel=2e-3)
    bends = next(i for i, p in own if p.kind == "hose_bend")
    turns = own[[i for i, _ in own].index(bends)][1].count
    each = fittings.hose_bend(0.102, rough)
    assert system.losses[bends] == pytest.approx(turns * each * pressure, rel=1e-6)


def test_more_hose_and_smaller_ports_take_air_and_side_of_the_fan_does_not():
    on_it = saw_air(demo())
    short = saw_air(loft(port=0.178, hose=0.178, length=0.01))
    # Only the bends of the hose are more; where ducts end has moved with the port, by a metre.
    assert short == pytest.approx(on_it, rel=0.03)
    airs = [saw_air(loft(hose=0.178, port=0.178, length=m)) for m in (0.5, 2.0, 6.0)]
    assert airs == sorted(airs, reverse=True) and airs[0] > airs[-1] * 1.01
    airs = [saw_air(loft(port=bore, length=1.0)) for bore in (0.178, 0.152, 0.127, 0.102)]
    assert airs == sorted(airs, reverse=True)
    # A filter by itself costs its hose.
    assert saw_air(loft("filter", length=6.0)) < saw_air(loft("filter", length=0.5)) < on_it * 1.001


@pytest.mark.parametrize("part", PARTS)
def test_its_body_is_in_the_way_as_any_other(part):
    made = loft(part)
    item = made.collector["cyclone"]
    ((name, body),) = parts_apart(item)
    assert name == part and len(blocks(item)) == 2
    assert called(made, f"cyclone/{part}") == f"the cyclone's {part}"
    codes = {(f.code, f.element) for f in all_findings(demo(), assess(demo()))}
    new = {(f.code, f.element) for f in all_findings(made, assess(made))} - codes
    assert not {c for c, e in new if c in ("overlap", "in-the-wall", "too-tall", "in-the-air")}
    # Into its own fan; both parts beside it find room from each other.
    ownself = edits.moved(made, f"cyclone/{part}", item.x - body.x, item.y - body.y)
    found = [f for f in all_findings(ownself, assess(ownself)) if "rest of it" in f.message]
    assert [f.code for f in found] == ["overlap"]
    both = beside_its_fan(made, "cyclone", PARTS[1 - PARTS.index(part)])
    assert not in_itself(both.collector["cyclone"]) and len(blocks(both.collector["cyclone"])) == 3
    # With the fan behind the wall it is in the way as before, and so is what it stands in.
    behind = edits.moved(edits.changed(made, "cyclone", stands="outdoors"), "cyclone", -1.2, 0.0)
    place = stood_apart(behind.collector["cyclone"], part)
    inside = edits.moved(behind, f"cyclone/{part}", body.x - place.x, body.y - place.y)
    here = [b for b in duct_space(inside).ground.bodies() if b.ident == "cyclone"]
    assert len(here) == 1 and not duct_space(inside).ground.overlaps(inside.collector["cyclone"])
    saw = inside.machine["saw"]
    struck = edits.moved(inside, f"cyclone/{part}", saw.x - body.x, saw.y - body.y)
    assert duct_space(struck).ground.overlaps(struck.collector["cyclone"]) == ["saw"]
    # Into a machine, beyond a wall, under too low a ceiling, up in the air.
    jointer = made.machine["jointer"]
    hit = edits.moved(made, f"cyclone/{part}", jointer.x - body.x, jointer.y - body.y)
    assert "jointer" in duct_space(hit).ground.overlaps(hit.collector["cyclone"])
    out = edits.moved(made, f"cyclone/{part}", -20.0, 0.0)
    assert duct_space(out).ground.outside(out.collector["cyclone"])
    for changes, code in (({"height": 4.0}, "too-tall"), ({"bottom": 0.4}, "in-the-air")):
        high = edits.moved(with_part(made, "cyclone", part, **changes), f"cyclone/{part}", 1.5, -1)
        found = [
            f for f in all_findings(high, assess(high)) if f.code == code and f.element == "cyclone"
        ]
        assert any(body.name.lower() in f.message for f in found), code


@given(
    shop=st.integers(1, 40),
    part=st.sampled_from(PARTS),
    turn=st.sampled_from((0, 37, 90, 180, 270)),
    dx=st.floats(-2, 2),
    dy=st.floats(-2, 2),
)
@settings(max_examples=60, deadline=None)
def test_it_goes_along_and_comes_back(shop, part, turn, dx, dy):
    project = made_up(shop)
    ident = next(iter(project.collector))
    try:
        made = beside_its_fan(project, ident, part)
    except RefusedEdit:
        item = project.collector[ident]
        assert item.separator is None if part == "separator" else item.filter.kind == "none"
        return
    # Moved and turned with the fan: as far from it as before.
    was = stood_apart(made.collector[ident], part)
    there = edits.turned(edits.moved(made, ident, dx, dy), [ident], turn)
    fan, body = there.collector[ident], stood_apart(there.collector[ident], part)
    near = project.collector[ident]
    assert math.dist((fan.x, fan.y), (body.x, body.y)) == pytest.approx(
        math.dist((near.x, near.y), (was.x, was.y)), abs=1e-3
    )
    # By itself it goes where it is dragged, whichever way the fan is turned.
    by = edits.moved(there, f"{ident}/{part}", 0.3, -0.2)
    now = stood_apart(by.collector[ident], part)
    assert (now.x - body.x, now.y - body.y) == pytest.approx((0.3, -0.2), abs=1e-3)
    assert by.collector[ident].x == fan.x
    # Saved and read, copied with the collector.
    assert project_file.parse(project_file.dump(by), "shop") == by
    twin, (new, *_) = pasted(by, clip_of(by, [ident]))
    assert twin.collector[new].apart(part) == by.collector[ident].apart(part)
    # Ducts end where the port is.
    if part == "separator" and fan.separator.placed == "before the fan":
        assert position(by, ident) == inlet_of(by.collector[ident])
        assert shares_ground((*inlet_of(by.collector[ident])[:2],), now)
    back = stood_by_itself(by, ident, part, False)
    assert back.collector[ident].apart(part) is None and len(blocks(back.collector[ident])) == 1


def shares_ground(place, body):
    return math.dist(place, (body.x, body.y)) <= math.hypot(body.width, body.depth) / 2 + 1e-6


def test_no_change_drops_it_unsaid():
    """Over all that is offered for a collector, its models and its separators."""
    for part in PARTS:
        made = loft(part, port=0.102)
        for change in collector_changes(made, "cyclone"):
            after = change.edit(made).collector["cyclone"]
            assert after.apart(part) is not None or "Without" in change.words
        for model in catalogue().collectors:
            after = with_collector(made, "cyclone", model.model).collector["cyclone"]
            gone = after.separator is None if part == "separator" else after.filter.kind == "none"
            assert gone or after.apart(part) == made.collector["cyclone"].apart(part), model.model
    wide = next(c for c in collector_changes(made, "cyclone") if c.words.startswith("Ports and"))
    assert saw_air(wide.edit(made)) > saw_air(made)
    # The separators' table judges each where this one stands.
    rows = {row.kind: row for row in separator_rows(loft(length=8.0), "cyclone")}
    near = {row.kind: row for row in separator_rows(loft(length=0.5), "cyclone")}
    for kind, row in rows.items():
        assert sum(row.air.values()) < sum(near[kind].air.values()) or kind == "none"


def test_its_hose_clamps_and_adaptors_are_bought():
    before = {part.key: part.quantity for part in PartsList(demo()).parts}
    made = loft(port=0.127, hose=0.102)
    after = {part.key: part.quantity for part in PartsList(made).parts}
    more = {k: q - before.get(k, 0) for k, q in after.items() if q - before.get(k, 0) > 1e-9}
    item = made.collector["cyclone"]
    assert more["hose/ribbed-hose/102"] == pytest.approx(lead_length(item, "separator"))
    assert more["clamp/102"] == 2
    assert {"adaptor/127-102", "adaptor/178-102"} <= set(more)


def test_what_cannot_be_is_refused_in_a_sentence():
    bare = edits.changed(demo(), "cyclone", separator=None)
    with pytest.raises(RefusedEdit, match="give it one first"):
        beside_its_fan(bare, "cyclone", "separator")
    made = loft()
    for changes in ({"width": 0.0}, {"port": 3.0}, {"length": -1.0}, {"bottom": 99.0}):
        with pytest.raises(GreyCurrentError) as told:
            with_part(made, "cyclone", "separator", **changes)
        said = str(told.value)
        assert "separator" in said and "{" not in said and len(said) < 220, said
    with pytest.raises(GreyCurrentError):
        with_part(made, "cyclone", "filter", width=1.0)
    for side in INLET_SIDES:
        turned = with_part_inlet(made, "cyclone", "separator", side)
        part = turned.collector["cyclone"].apart("separator")
        assert part is not None and inlet_side(part) == side
        x, y, _ = inlet_of(turned.collector["cyclone"])
        corners = footprint(stood_apart(turned.collector["cyclone"], "separator"))
        assert min(c[0] for c in corners) - 1e-6 <= x <= max(c[0] for c in corners) + 1e-6
        assert min(c[1] for c in corners) - 1e-6 <= y <= max(c[1] for c in corners) + 1e-6
