"""Small rooms full of machines: a collector in boards' ways loses them least, never stands before a
door; a main that cannot begin overhead lies at the inlet."""

from __future__ import annotations

import pytest

from grey_current.design.collector.candidates import with_candidate
from grey_current.design.findings.all_findings import all_findings
from grey_current.design.flow.assess import assess
from grey_current.design.laying.in_lanes import shortened
from grey_current.design.laying.places import _Placing, where_to_stand
from grey_current.design.laying.proposals import propose
from grey_current.design.space.ground import FloorSpace
from grey_current.design.space.outlines import plan
from grey_current.files.laying_report import places_text
from grey_current.shop import edits
from grey_current.shop.places import footprint, middle_of, position
from grey_current.shop.templates import TEMPLATES, template_shop
from grey_current.workers.pool import ALONE
from grey_current.workspace.first_shop import body_of
from grey_current.workspace.placing import Placeable, place_well, sized
from tests.core.shops import demo

CYCLONE, SMALL = "3 hp cyclone, 15 in impeller", "1.5 hp single-stage, 5 in inlet"


def put(project, thing):
    middle = middle_of(project.rooms[0].outline)
    return place_well(project, sized(thing, project.settings.units), *middle)[0]


def furnished(name, units, collector=CYCLONE):
    """A template's room with three machines and a collector, each put in by its button."""
    project = template_shop(name, units)
    for machine in ("Table saw", "12 in planer", "Bandsaw"):
        project = put(project, Placeable("machine", machine, machine, body=body_of(machine)))
    return put(project, Placeable("collector", collector, collector))


@pytest.mark.parametrize("units", ["us", "metric"])
@pytest.mark.parametrize("name", [template.name for template in TEMPLATES])
def test_what_is_put_in_leaves_doors_and_their_tracks_free(name, units):
    for collector in (CYCLONE, SMALL):
        project = furnished(name, units, collector)
        codes = {found.code for found in all_findings(project, assess(project))}
        assert not codes & {"door-tracks", "door-blocked", "overlap", "in-the-wall"}
        # Where boards are cut short, no place by a wall would have left them all as they were.
        if "lane-blocked" in codes:
            (item,) = project.collectors
            placing = _Placing(project, item.id, 0, lambda: True, lambda found: None, ALONE)
            assert all(shortened(placing.space, one) for one in placing._free_places())


@pytest.mark.parametrize("name", ["single-garage", "shed", "barn", "loft"])
def test_boards_get_as_much_shorter_as_is_said(name):
    """Against the lanes as they are found with the collector in place."""
    project = demo("loft") if name == "loft" else furnished(name, "metric")
    (item,) = project.collectors
    placing = _Placing(project, item.id, 0, lambda: True, lambda found: None, ALONE)
    seen = 0
    for there in list(placing._along_walls())[::11]:
        if not placing.space.free_ground.contains(plan(footprint(there))):
            continue
        told = {one.machine: one for one in shortened(placing.space, there)}
        floor = FloorSpace(with_candidate(placing.bare, there.id, there))
        for machine in placing.others.machines:
            was, now = placing.space.lane(machine), floor.lane(machine)
            if was is not None and now is not None:
                said = told[machine.id].after if machine.id in told else was.longest
                assert said == pytest.approx(now.longest, abs=0.06)
                seen += 1
    assert seen > 20


def test_a_main_that_cannot_begin_overhead_lies_at_the_inlet():
    project = furnished("single-garage", "metric")
    (item,) = project.collectors
    # Under the garage door's tracks, before the bandsaw.
    project = edits.changed(project, item.id, x=0.475, y=0.575, turn=0.0)
    found = propose(project)
    best = found.proposals[0]
    assert best.served == (3, 3) and not best.stranded
    inlet = position(project, item.id)[2]
    mains = [point for point in best.project.points if point.height == pytest.approx(inlet)]
    assert len(mains) >= 3 and max(p.height for p in best.project.points) < inlet + 0.3
    (said,) = [note for note in found.notes if "not all is reached" in note]
    assert said.startswith("Under the beams") and "1.65 m" in said
    # Asked for overhead and reached from there, nothing is said.
    project = furnished("single-garage", "metric")
    found = propose(project, most=1)
    assert found.proposals[0].served[0] >= 2
    assert not [note for note in found.notes if "not all is reached" in note]
    low = max(point.height for point in found.proposals[0].project.points)
    assert low > position(project, project.collectors[0].id)[2] + 0.3


def test_a_place_in_boards_ways_says_whose():
    project = furnished("single-garage", "metric")
    found = where_to_stand(project)
    assert found.places and all(place.proposal.served[0] for place in found.places)
    assert any(place.shortens for place in found.places)
    text = places_text(project, found)
    for place in found.places:
        for one in place.shortens[:2]:
            assert one.after < one.before and one.words(project) in text
