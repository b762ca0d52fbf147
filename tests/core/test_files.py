import errno
import json
import os
from pathlib import Path

import jsonschema
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from grey_current.build.bill import bill
from grey_current.design.findings.all_findings import all_findings
from grey_current.design.flow.assess import assess
from grey_current.design.improve.comparison import compared, kept_assessment
from grey_current.errors import FileError
from grey_current.files import project_file
from grey_current.shop import edits
from grey_current.shop.build_plan import BuildPlan
from grey_current.shop.model import FORMAT_VERSION
from tests.core.bad_files import write_bad_files
from tests.core.shops import demo

SAVED = sorted(
    (Path(__file__).parent / "saved").glob("*.greycurrent.json"),
    key=lambda path: int(path.name[1:].split(".")[0]),
)


@pytest.mark.parametrize("name", ["loft", "allotment", "empty"])
def test_round_trip_is_lossless_and_stable(name, tmp_path):
    project = demo(name)
    text = project_file.dump(project)
    assert project_file.parse(text, "again") == project
    assert project_file.dump(project_file.parse(text, "again")) == text
    path = tmp_path / "shop.json"
    project_file.save(project, path)
    assert project_file.load(path) == project
    jsonschema.validate(json.loads(text), project_file.schema())


def _readable(text: str) -> bool:
    """Whether anything of a name is left without what only works a terminal."""
    return any(letter.isprintable() and not letter.isspace() for letter in text)


@settings(max_examples=60, deadline=None)
@given(
    st.floats(-150, 150), st.floats(0.02, 0.99), st.text(min_size=1, max_size=40).filter(_readable)
)
def test_any_edit_survives_the_file(x, bore, name):
    project = edits.changed(demo("allotment"), "saw", x=x, name=name)
    project = edits.changed(project, "hose", diameter=bore)
    try:
        text = project_file.dump(project)
        text.encode()
    except UnicodeEncodeError:
        return
    assert project_file.parse(text, "again") == project


@pytest.mark.parametrize("path", SAVED[:2], ids=lambda path: path.name[:2])
def test_files_saved_by_every_version_still_load_and_compute(path):
    project = project_file.load(path)
    assert (
        project.format_version == FORMAT_VERSION
        and len(project.rooms) == 1
        and len(project.beams) == 4
    )
    assert {o.kind for o in project.openings} == {"hoist door", "window"}
    scenario = assess(project).of_machine["planer"]
    assert scenario.converged and scenario.worst is not None and scenario.worst.leaf is not None


def test_a_reserve_is_what_new_shops_have_and_what_older_ones_did_not_count_on():
    before, now = (project_file.load(path) for path in SAVED[8:10])
    assert (before.build.reserve, now.build.reserve) == ("none", "one cut")
    assert demo("empty").build.reserve == BuildPlan().reserve == "one cut"
    assert bill(now).total >= bill(before).total


def test_a_file_of_version_11_holds_what_stands_on_what_and_arrangements():
    project = project_file.load(SAVED[10])
    assert project.collector["vac"].host == "bench" and project.machine["sander"].turns
    assert [each.name for each in project.arrangements] == ["Usual", "Car in"]
    assert project.work.days[0].name == "Saturday" and not project.element["car"].away
    assert not {f.code for f in all_findings(project, assess(project))} & {"overlap", "in-the-air"}


def test_what_began_over_the_floor_by_mistake_begins_at_it_in_an_older_file():
    """Version 10 let a bench have an underside over its top, which nobody could see."""
    raw = json.loads(project_file.dump(project_file.load(SAVED[10])))
    for feature in raw["features"]:
        feature.pop("host"), feature.pop("away")
        feature["bottom"] = 3.0
    raw |= {"format_version": 10, "collectors": [], "machines": []}
    raw |= {"arrangements": [], "arranged": None}
    found = project_file.from_raw(raw, "it")
    assert all(feature.bottom == 0 for feature in found.features)


def test_a_file_of_version_3_holds_designs_connectors_and_what_runs_together():
    project = project_file.load(SAVED[2])
    assert project.format_version == FORMAT_VERSION and project.kept_designs[0].name == "As found"
    assert project.run["hose"].coupling == "quick" and project.settings.together == (
        ("saw", "router-table"),
    )
    assert project.collectors[0].motor and project.collectors[0].bin
    rows = compared(assess(project), kept_assessment(project, "as-found"))
    assert all(
        row.change < 0 for row in rows if row.machine in ("saw", "bandsaw", "planer-thicknesser")
    )


def test_every_bad_file_gets_one_sentence_and_stays_as_it_was(tmp_path):
    for path, says in write_bad_files(tmp_path).items():
        before = path.read_bytes() if path.is_file() and path.stat().st_size < 1e6 else None
        with pytest.raises(FileError) as caught:
            project_file.load(path)
        sentence = str(caught.value)
        assert says in sentence, sentence
        assert str(path) in sentence and "\n" not in sentence and sentence.endswith(".")
        if before is not None:
            assert path.read_bytes() == before


def test_saving_keeps_one_backup_and_the_permissions(tmp_path):
    path = tmp_path / "shop.json"
    project_file.save(demo("empty"), path)
    path.chmod(0o640)
    project_file.save(demo("allotment"), path)
    assert project_file.load(path) == demo("allotment")
    assert project_file.load(tmp_path / "shop.json~") == demo("empty")
    assert path.stat().st_mode & 0o777 == 0o640
    assert sorted(p.name for p in tmp_path.iterdir()) == ["shop.json", "shop.json~"]


@pytest.mark.parametrize(
    ("code", "says"), [(errno.ENOSPC, "no space left"), (errno.EACCES, "permission denied")]
)
def test_a_save_that_fails_leaves_the_old_file_and_no_litter(code, says, tmp_path, monkeypatch):
    path = tmp_path / "shop.json"
    project_file.save(demo("empty"), path)
    before = path.read_bytes()

    def full(handle: int) -> None:
        raise OSError(code, os.strerror(code))

    monkeypatch.setattr(os, "fsync", full)
    with pytest.raises(FileError, match=says):
        project_file.save(demo("allotment"), path)
    assert path.read_bytes() == before
    assert [p.name for p in tmp_path.iterdir()] == ["shop.json"]
    with pytest.raises(FileError, match="is a folder"):
        project_file.save(demo("empty"), tmp_path)
    with pytest.raises(FileError, match="no such file or directory"):
        project_file.save(demo("empty"), tmp_path / "nowhere" / "shop.json")


def test_a_file_that_may_not_be_read(tmp_path, monkeypatch):
    path = tmp_path / "shop.json"
    project_file.save(demo("empty"), path)

    def refuse(*args: object, **kwargs: object) -> str:
        raise PermissionError(errno.EACCES, os.strerror(errno.EACCES))

    monkeypatch.setattr(Path, "read_text", refuse)
    with pytest.raises(FileError, match="check its permissions"):
        project_file.load(path)
