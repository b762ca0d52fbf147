"""A day by clicks: jobs made longer, moved and taken out, days kept; over any sequence of clicks."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from grey_current.errors import GreyCurrentError, InputError, RefusedEdit
from grey_current.files import project_file
from grey_current.shop.day_edits import (
    with_day_kept,
    with_day_of,
    with_job_changed,
    with_job_moved,
    with_jobs_in,
    with_more_at,
    without_job,
    without_kept_day,
)
from grey_current.shop.edits import removed
from grey_current.shop.work_edits import with_work
from grey_current.work.day_text import parse_day
from grey_current.work.materials import recent_woods
from tests.core.shops import demo


def empty():
    return with_work(demo(), day=())


def test_two_clicks_are_twenty_minutes_and_another_machine_is_another_job():
    project = with_more_at(with_more_at(empty(), "saw"), "saw")
    project = with_more_at(with_job_changed(project, 0, wood="oak"), "planer")
    assert [(j.machine, j.minutes, j.wood) for j in project.work.day] == [
        ("saw", 20, "oak"),
        ("planer", 10, "oak"),
    ]
    assert recent_woods(project)[0] == "oak" and "unknown" not in recent_woods(project)
    assert recent_woods(with_job_changed(project, 1, wood="ash"), but=1)[0] == "oak"
    with pytest.raises(InputError, match="choose a machine"):
        with_more_at(project, "boat")


def test_what_waits_for_a_job_still_does_when_it_is_moved():
    project = with_work(empty(), day=parse_day("saw 20, planer 10, sand 5 after saw", empty()))
    assert project.work.day[2].after == (1,)
    assert with_job_moved(project, 1, 0).work.day[2].after == (2,)
    assert without_job(project, 1).work.day[1].after == (1,)
    assert without_job(project, 0).work.day[1].after == ()
    assert with_jobs_in(project, [1, 0, 2]) == with_job_moved(project, 0, 1)
    for order in ([0, 1], [0, 0, 1], [1, 2, 3]):
        with pytest.raises(InputError, match="each job once"):
            with_jobs_in(project, order)


@settings(max_examples=60, deadline=None)
@given(
    st.lists(
        st.tuples(
            st.sampled_from(("more", "longer", "move", "out")),
            st.integers(-1, 8),
            st.integers(-2, 9),
        ),
        max_size=14,
    )
)
def test_no_click_loses_a_minute(clicks):
    """What stands in the day is what was clicked: the sum of minutes, the set of jobs, the file."""
    project, wanted = empty(), 0.0
    machines = list(project.machine)
    for what, number, other in clicks:
        before = project.work.day
        try:
            if what == "more":
                project = with_more_at(project, machines[number % len(machines)])
                wanted += 10
            elif what == "longer":
                project = with_job_changed(project, number, minutes=before[number].minutes + 5.0)
                wanted += 5
            elif what == "move":
                project = with_job_moved(project, number, other)
                assert sorted(map(repr, project.work.day)) == sorted(map(repr, before))
            else:
                project = without_job(project, number)
                wanted -= before[number].minutes
        except (InputError, IndexError):
            assert project.work.day == before
    assert sum(job.minutes for job in project.work.day) == pytest.approx(wanted)
    assert project_file.parse(project_file.dump(project), "it") == project


def test_days_are_kept_taken_again_and_deleted():
    project = with_more_at(empty(), "saw")
    kept = with_day_kept(with_more_at(with_day_kept(project, "Saturday"), "planer"), "Sunday")
    assert [day.name for day in kept.work.days] == ["Saturday", "Sunday"]
    again = with_day_kept(kept, " Saturday ")
    assert [len(day.jobs) for day in again.work.days] == [2, 2]
    assert with_day_of(kept, kept.work.days[0].jobs).work.day == project.work.day
    gone = with_day_of(removed(kept, ("saw",)), kept.work.days[1].jobs)
    assert [job.machine for job in gone.work.day] == ["planer"]
    assert without_kept_day(kept, "Saturday").work.days == kept.work.days[1:]
    for name in ("", "  ", "x" * 300):
        with pytest.raises(InputError):
            with_day_kept(project, name)
    with pytest.raises(RefusedEdit):
        with_day_kept(empty(), "Nothing")
    full = project
    for number in range(12):
        full = with_day_kept(full, f"Day {number}")
    with pytest.raises(GreyCurrentError, match="a file holds 12"):
        with_day_kept(full, "One more")
