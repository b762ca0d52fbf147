"""One hose that is plugged in at several ports: bought once, at one of them at a time."""

from __future__ import annotations

import pytest

from grey_current.design.findings.all_findings import all_findings
from grey_current.design.flow.assess import assess
from grey_current.design.parts.parts_list import PartsList
from grey_current.design.space.hose_reach import swaps
from grey_current.errors import RefusedEdit
from grey_current.files import project_file
from grey_current.shop import edits
from grey_current.shop.copying import clip_of, pasted
from grey_current.shop.duct_edits import plugged_as
from grey_current.work.day_plan import plan_day
from grey_current.work.day_text import parse_day
from tests.core.shops import demo

ONE, OTHER = "jointer-hose", "mitre-hose"


def plugged():
    return plugged_as(demo(), ONE, OTHER)


def said(project):
    found = all_findings(project, assess(project))
    return {(f.code, f.element) for f in found if f.code in ("one-hose", "open-port")}


def bought(project, start):
    return {p.key: p.quantity for p in PartsList(project).parts if p.key.startswith(start)}


def test_it_is_bought_once_in_its_longest_place():
    project, before = plugged(), demo()
    assert [run.id for run in project.shared_hoses[0]] == sorted(
        (ONE, OTHER), key=list(before.run).index
    )
    lengths = sorted(before.run[ident].length or 0.0 for ident in (ONE, OTHER))
    key = next(k for k in bought(before, "hose/") if k.endswith("/102"))
    less = bought(before, "hose/")[key] - bought(project, "hose/")[key]
    assert less == pytest.approx(lengths[0])
    assert sum(bought(before, "clamp/").values()) - sum(bought(project, "clamp/").values()) == 2
    quick = edits.changed_all(project, (ONE, OTHER), coupling="quick")
    assert sum(bought(quick, "collar/").values()) - sum(bought(before, "collar/").values()) == 4


def test_the_day_counts_what_plugging_takes():
    project = plugged()
    text = "jointer 10, miter saw 10, jointer 10"
    day = plan_day(assess(project), parse_day(text, project))
    moved = [step for step in day.steps if step.words.startswith("Plug ")]
    first = project.shared_hoses[0][0].id
    # Where the hose rests nothing is moved for the first job.
    assert day.hose_swaps == len(moved) == (2 if first == ONE else 3)
    assert all(step.seconds == swaps(project, project.run[ONE]).seconds for step in moved)
    apart = plan_day(assess(demo()), parse_day(text, demo()))
    assert apart.hose_swaps == 0
    assert day.move_seconds > apart.move_seconds
    # By hand a week: as any hose that goes between two machines.
    cost = swaps(project, project.run[ONE])
    uses = [project.machine[m].uses_per_week for m in ("jointer", "mitre-saw")]
    share = 1 - sum((u / sum(uses)) ** 2 for u in uses)
    assert cost.each_week == pytest.approx(sum(uses) * share)
    # With other connectors it is carried as often.
    quick = swaps(project, project.run[ONE].replaced(coupling="quick"))
    assert quick.each_week == cost.each_week and quick.seconds < cost.seconds


def test_two_at_once_and_ports_that_stand_open_are_said():
    project = plugged()
    assert said(project) == set() == said(demo())
    both = edits.with_settings(project, together=(("jointer", "mitre-saw"),))
    assert {code for code, _ in said(both)} == {"one-hose"}
    bare = edits.removed(project, [g.id for g in project.gates if "jointer" in g.id])
    assert said(bare) == {("open-port", ONE)}
    # On its own it is no such hose.
    assert said(plugged_as(both, ONE, "")) == set()


def test_it_is_kept_copied_and_refused():
    project = plugged()
    assert project_file.parse(project_file.dump(project), "loft") == project
    twin, new = pasted(project, clip_of(project, [ONE, OTHER, "jointer", "mitre-saw"]))
    names = [twin.run[i].one_hose for i in new if i in twin.run and twin.run[i].one_hose]
    assert len(names) == 2 and len(set(names)) == 1 and names[0] != project.run[ONE].one_hose
    assert len(twin.shared_hoses) == 2
    rigid = next(run.id for run in project.runs if run.length is None)
    with pytest.raises(RefusedEdit, match="two hoses"):
        plugged_as(project, ONE, rigid)
    # Taking one away leaves the other a hose like any.
    alone = edits.removed(project, [OTHER])
    assert alone.shared_hoses == () and not said(alone)
