"""Nothing is lost: journals and kills, files changed meanwhile, links, two programs on one file."""

from __future__ import annotations

import errno
import json
import os
import random
import shutil
import signal
import time
import zlib
from pathlib import Path

import pytest

from grey_current.errors import FileChanged, FileError
from grey_current.files import journal, project_file, safe_write
from grey_current.files.journal import Journal, JournalBusy
from grey_current.shop import edits
from grey_current.shop.differences import differences
from grey_current.shop.model import FORMAT_VERSION
from grey_current.workspace.autosave import UNSAVED, Autosave, bring_back, left_in
from grey_current.workspace.keeping import Keeper
from grey_current.workspace.workspace import Workspace
from tests.core.power_cuts import Disk, State
from tests.core.shops import demo


def at(number: int):
    """An edit that can be told from every other."""
    return lambda p: edits.with_settings(p, altitude=float(number))


def edit_until_killed(path, folder, told: int) -> None:
    """A program of its own that edits and edits, and says which edits it knows to be on the
    disk."""
    workspace = Workspace(project_file.load(path), path)
    autosave = Autosave(workspace, folder)
    for number in range(1, 2000):
        workspace.edit(f"Edit {number}", at(number))
        if number % 3 == 0:
            autosave.wait()
            os.write(told, b"%d\n" % number)
        if number % 40 == 0:
            workspace.save()
            os.write(told, b"%d\n" % number)


def killed(path, folder, after: float) -> int:
    """Run it and kill it; the last edit that it knew to be safe."""
    reading, writing = os.pipe()
    child = os.fork()
    if child == 0:
        try:
            edit_until_killed(path, folder, writing)
        finally:
            os._exit(0)
    os.close(writing)
    time.sleep(after)
    os.kill(child, signal.SIGKILL)
    os.waitpid(child, 0)
    with os.fdopen(reading, "rb") as pipe:
        numbers = pipe.read().split()
    return int(numbers[-1]) if numbers else 0


def journal_of(path, folder) -> Path:
    """Where a window keeps the journal of a file."""
    return journal.place_for(path, folder / UNSAVED)


def kept_after(path, folder) -> int:
    """The edit that the file or what is offered for it holds."""
    saved = int(project_file.load(path).settings.altitude)
    left = left_in(journal_of(path, folder))
    return max(saved, int(left.project.settings.altitude) if left else 0)


def kills(count: int, folder, seed: int) -> None:
    chosen = random.Random(seed)
    for number in range(count):
        path = folder / f"shop-{number}.greycurrent.json"
        project_file.save(demo("allotment"), path)
        safe = killed(path, folder, chosen.uniform(0.0, 0.25))
        assert kept_after(path, folder) >= safe, number
        journal_of(path, folder).unlink(missing_ok=True)


def test_a_kill_at_any_moment_loses_no_edit_that_was_on_the_disk(tmp_path):
    kills(12, tmp_path, 7)


@pytest.mark.parametrize(
    ("largest", "free"), [(journal.LARGEST, 1e9), (1, 1e9), (journal.LARGEST, 0)]
)
def test_no_cut_of_power_between_two_steps_loses_what_was_promised(
    tmp_path, monkeypatch, largest, free
):
    """Edits and saves; after each sync, renaming or cut, whatever the disk may have kept gives back
    the last edit.

    So while the journal grows, while it begins anew each time, and on a full disk, where it writes
    over older states.
    """
    monkeypatch.setattr(journal, "LARGEST", largest)
    monkeypatch.setattr(journal, "_free", lambda handle: free)
    folder, path = tmp_path / "shop", tmp_path / "shop" / "loft.greycurrent.json"
    folder.mkdir()
    project_file.save(edits.with_settings(demo(), altitude=0.0), path)
    promised, under_way, looks, lost = 0, 0, list[str](), list[object]()

    def looked(what: str, state: State) -> None:
        back = tmp_path / "back"
        shutil.rmtree(back, ignore_errors=True)
        back.mkdir()
        for name, held in state.items():
            (back / name).write_bytes(held)
        left = [one for one in back.glob("*.journal") if one.is_file()]
        record = journal.last_record(left[0]) if left else None
        try:
            kept = (
                record.project["settings"]
                if record
                else project_file.load(back / path.name).settings.model_dump()
            )
            found = kept["altitude"]
        except FileError as problem:
            found = str(problem)
        looks.append(what)
        if found not in (
            promised,
            under_way,
        ):  # told at the end, for this is the thread that writes
            lost.append((what, promised, found))

    disk = Disk(folder, tmp_path / "shadow", looked)
    workspace = Workspace(project_file.load(path), path)
    disk.watch(monkeypatch)
    monkeypatch.setattr("grey_current.workspace.autosave.UNSAVED", ".")  # where the disk is watched
    autosave = Autosave(workspace, folder)
    for number in range(1, 7):
        under_way = number
        workspace.edit(f"Edit {number}", at(number))
        autosave.wait()
        promised = number
        if number % 3 == 0:
            workspace.save()
            autosave.wait()
        disk.look("at rest")
    monkeypatch.undo()
    autosave.close()
    assert not lost and len(looks) > 60
    assert project_file.load(folder / f"{path.name}~").settings.altitude == 3.0


def test_what_was_left_behind_is_offered_with_what_differs_and_brought_back(tmp_path):
    path = tmp_path / "shop.greycurrent.json"
    project_file.save(demo(), path)
    first = Workspace(project_file.load(path), path)
    autosave = Autosave(first, tmp_path)
    first.edit("Move the saw", lambda p: edits.moved(p, "saw", 0.5, 0.0))
    first.edit("Take away", lambda p: edits.removed(p, ["lathe"]))
    first.undo()
    first.redo()
    autosave.close(keep=True)
    second = Workspace(project_file.load(path), path)
    watch = Autosave(second, tmp_path)
    (left,) = watch.left()
    watch.close()
    assert left.record.step == "Take away"
    assert set(left.differs) >= {"The lathe taken away", "The saw changed"}
    back = Workspace(demo("empty"))
    bring_back(back, left)
    assert back.project == first.project and back.path == path and back.dirty
    back.undo()
    assert back.project == demo()


def test_a_shop_without_a_file_is_kept_too_and_a_saved_one_leaves_nothing(tmp_path):
    workspace = Workspace(demo("empty"))
    autosave = Autosave(workspace, tmp_path)
    workspace.edit("Warm", at(7))
    autosave.close(keep=True)
    again = Workspace(demo("empty"))
    watch = Autosave(again, tmp_path)
    (left,) = watch.left()
    assert left.differs == ("“Empty shop” was never saved",) or "never saved" in left.differs[0]
    bring_back(again, left)
    assert again.project.settings.altitude == 7 and again.dirty and again.path is None
    again.save(tmp_path / "kept.greycurrent.json")
    watch.close()
    assert not again.dirty and not list((tmp_path / UNSAVED).glob("kept*"))


def test_torn_and_forged_records_do_not_count(tmp_path):
    place = tmp_path / "torn.journal"
    made = Journal(place, None)
    made.note("First", demo("empty").model_dump_json())
    made.note("Second", demo("empty").model_dump_json())
    made.close(keep=True)
    whole = place.read_bytes()
    second = whole.index(b"\n\n") + 2
    for cut in (second + 1, second + 40, len(whole) - 2):
        place.write_bytes(whole[:cut])
        assert journal.last_record(place).step == "First"
    other = b"1" if whole[second : second + 1] == b"0" else b"0"
    place.write_bytes(whole[:second] + other + whole[second + 1 :])
    assert journal.last_record(place).step == "First"
    for rubbish in (b"", b"\xff\xfe\x00", b"00000000 {}\n", b"[" * 5000):
        place.write_bytes(rubbish)
        assert journal.last_record(place) is None and left_in(place) is None


def test_two_programs_on_one_file_know_of_one_another(tmp_path):
    path = tmp_path / "shop.greycurrent.json"
    project_file.save(demo("empty"), path)
    first = Autosave(Workspace(project_file.load(path), path), tmp_path)
    second_space = Workspace(project_file.load(path), path)
    second = Autosave(second_space, tmp_path)
    assert second.busy and not first.busy
    with pytest.raises(JournalBusy):
        Journal(journal_of(path, tmp_path), path)
    second_space.edit("Warm", at(3))
    second_space.save()
    first.workspace.edit("Cool", at(4))
    with pytest.raises(FileChanged, match="another program"):
        first.workspace.save()
    first.workspace.save(over=True)
    assert project_file.load(path).settings.altitude == 4
    first.close()
    second.close()


def test_links_stay_links_and_the_last_version_is_not_written_through_one(tmp_path):
    real, link = tmp_path / "real.json", tmp_path / "link.json"
    precious = tmp_path / "precious.txt"
    project_file.save(demo("empty"), real)
    link.symlink_to(real)
    precious.write_text("mine")
    (tmp_path / "real.json~").symlink_to(precious)
    project_file.save(edits.with_settings(demo("empty"), altitude=5.0), link)
    assert link.is_symlink() and project_file.load(real).settings.altitude == 5
    assert precious.read_text() == "mine" and not (tmp_path / "real.json~").is_symlink()
    left = tmp_path / f".real.json.abc{safe_write.TEMPORARY}"
    left.write_text("half")
    os.utime(left, (0, 0))
    project_file.save(demo("empty"), link)
    assert not left.exists()
    with pytest.raises(FileError, match="ordinary"):
        project_file.save(demo("empty"), Path("/dev/null"))


@pytest.mark.parametrize("text", ["[ 1,  2 ]", "[\n 1,\n 2\n]", 'a "[  1 ]" b', "\\[ 3,   4 ]"])
def test_a_note_comes_back_as_it_was_written(text):
    project = edits.changed(demo(), "saw", note=text)
    assert project_file.parse(project_file.dump(project), "x").machine["saw"].note == text
    json.loads(project_file.dump(project))


def test_differences_are_named_or_counted():
    project = demo()
    assert list(differences(project, project)) == []
    moved = edits.moved_all(project, ("saw", "planer", "jointer"), 0.1, 0.0)
    assert list(differences(project, moved)) == ["3 machines changed"]
    assert list(differences(project, edits.with_settings(project, altitude=9.0))) == [
        "Settings of the shop changed"
    ]


def test_the_next_start_offers_what_a_kill_left_and_opening_the_file_does_too(tmp_path):
    """From end to end: a program edits and is killed; the next one takes the same file and finds
    the work."""
    for opened_later in (False, True):
        safe, after = 0, 0.3
        while (
            safe == 0
        ):  # a shop of its own, and longer, each time: a slow machine must come to its first edit
            home = tmp_path / f"{opened_later}-{after:.1f}"
            home.mkdir()
            path, folder = home / "shop.greycurrent.json", home / "state"
            project_file.save(demo("allotment"), path)
            safe, after = killed(path, folder, after), 1.5 * after
        saved = int(project_file.load(path).settings.altitude)
        workspace = (
            Workspace(demo("empty")) if opened_later else Workspace(project_file.load(path), path)
        )
        autosave = Autosave(workspace, folder)
        if opened_later:
            workspace.open(path)
        workspace.select(
            workspace.project.machines[0].id
        )  # what is heard before the question must not lose anything
        lefts = list(autosave.left())
        assert max([saved, *(int(left.project.settings.altitude) for left in lefts)]) >= safe
        for left in lefts:
            autosave.bring_back(left)
        assert int(workspace.project.settings.altitude) >= safe
        autosave.close()


def test_a_long_journal_begins_anew_without_a_moment_in_which_nothing_is_there(
    tmp_path, monkeypatch
):
    monkeypatch.setattr(journal, "LARGEST", 2000)
    place = tmp_path / "long.journal"
    made = Journal(place, None)
    for number in range(12):
        made.note(f"Edit {number}", demo("empty").model_dump_json())
        assert journal.last_record(place).step == f"Edit {number}"
        with pytest.raises(JournalBusy):
            Journal(place, None)
    assert place.stat().st_size < 10_000
    place.write_bytes(place.read_bytes()[:-30])  # cut short, as on a full disk
    made.note("After", demo("empty").model_dump_json())
    assert journal.last_record(place).step == "After"
    made.close()
    assert not place.exists()


def test_on_a_full_disk_the_last_state_takes_the_place_of_older_ones(tmp_path, monkeypatch):
    """Nearly full, so that the file can still be saved; full in the middle of a record; full before
    there is one."""
    text, place = demo("empty").model_dump_json(), tmp_path / "full.journal"
    free, room = [10**9], [10**9]
    written = os.write

    def write(handle, line):
        if (
            os.fstat(handle).st_size + len(line) > room[0]
            and os.lseek(handle, 0, os.SEEK_CUR) + len(line) > room[0]
        ):
            written(handle, line[: len(line) // 2])
            raise OSError(errno.ENOSPC, "No space left on device")
        return written(handle, line)

    monkeypatch.setattr(journal, "_free", lambda handle: free[0])
    monkeypatch.setattr(os, "write", write)
    made = Journal(place, None)
    for number in range(4):
        made.note(f"Edit {number}", text)
    whole = place.stat().st_size
    free[0] = 10
    made.note("Nearly full", text)
    assert journal.last_record(place).step == "Nearly full" and place.stat().st_size < whole / 3
    made.note("Again", text)  # only one record is there: nothing older to write over
    made.note("And again", text)
    assert journal.last_record(place).step == "And again" and place.stat().st_size < whole
    free[0] = 10**9
    made.note("There was room", text)
    made.note("There was more", text)
    room[0] = place.stat().st_size + 10
    made.note("Full", text)
    assert journal.last_record(place).step == "Full"
    room[0] = 10
    with pytest.raises(OSError, match="No space"):
        made.note("Never", text)
    assert journal.last_record(place).step == "Full"
    room[0] = 10**9
    made.note("Freed", text)
    assert journal.last_record(place).step == "Freed"
    made.close()


@pytest.mark.parametrize(
    "happened",
    ["nothing", "deleted", "broken", "moved", "newer", "folder read-only", "journal newer"],
)
@pytest.mark.parametrize("started", ["with it", "without it"])
def test_work_is_offered_whatever_became_of_its_file_and_never_taken_away_unread(
    happened, started, tmp_path
):
    state, shops = tmp_path / "state", tmp_path / "shops"
    shops.mkdir()
    path = shops / "shop.greycurrent.json"
    project_file.save(demo("empty"), path)
    autosave = Autosave(Workspace(project_file.load(path), path), state)
    autosave.workspace.edit("Warm", at(7))
    autosave.close(keep=True)
    place = journal_of(path, state)
    before = place.read_bytes()
    if happened in ("deleted", "moved"):
        path.rename(tmp_path / "elsewhere.json") if happened == "moved" else path.unlink()
    elif happened in ("broken", "newer"):
        path.write_text(
            "{"
            if happened == "broken"
            else path.read_text().replace(
                f'"format_version": {FORMAT_VERSION}', '"format_version": 99'
            )
        )
    elif happened == "folder read-only":
        path.chmod(0o444)
        shops.chmod(0o555)
    elif happened == "journal newer":
        body = (
            before.split(b" ", 1)[1]
            .strip()
            .replace(b'"format_version": %d' % FORMAT_VERSION, b'"format_version": 99')
            .replace(b'"format_version":%d' % FORMAT_VERSION, b'"format_version":99')
        )
        place.write_bytes(b"\n%08x %b\n" % (zlib.crc32(body), body))
        before = place.read_bytes()
    there = happened in ("nothing", "folder read-only", "journal newer") and started == "with it"
    again = Autosave(
        Workspace(project_file.load(path), path) if there else Workspace(demo("empty")), state
    )
    lefts = list(again.left())
    if happened == "journal newer":
        assert not lefts  # of no use here, and still somebody's work
        again.workspace.edit("Cool", at(3))
        again.close()
        assert any(kept.read_bytes() == before for kept in (state / UNSAVED).iterdir())
        return
    (left,) = lefts
    assert left.project.settings.altitude == 7
    assert left.file_is == {
        "deleted": "gone",
        "moved": "gone",
        "broken": "unreadable",
        "newer": "unreadable",
    }.get(happened, "there")
    held = left.place.read_bytes()
    assert held == before
    again.bring_back(left)
    assert again.workspace.project.settings.altitude == 7 and again.workspace.dirty
    kept = [journal.last_record(one) for one in (state / UNSAVED).iterdir() if one.stat().st_size]
    assert [record.project["settings"]["altitude"] for record in kept] == [
        7
    ]  # in this window's journal, and once
    shops.chmod(0o755)
    again.close()


def test_what_was_left_goes_only_when_it_is_in_the_next_journal(tmp_path, monkeypatch):
    workspace = Workspace(demo("empty"))
    autosave = Autosave(workspace, tmp_path)
    workspace.edit("Warm", at(7))
    autosave.close(keep=True)
    again = Autosave(Workspace(demo("empty")), tmp_path)
    (left,) = again.left()
    with monkeypatch.context() as full:
        full.setattr(
            os,
            "fsync",
            lambda handle: (_ for _ in ()).throw(OSError(errno.ENOSPC, "No space left on device")),
        )
        again.bring_back(left)
        assert not again.keeps
    assert [one.project.settings.altitude for one in again.left()] == [
        7
    ]  # the old one is still there
    again.close()


def test_a_journal_that_is_taken_away_under_the_window_is_begun_anew(tmp_path):
    path = tmp_path / "shop.greycurrent.json"
    project_file.save(demo("empty"), path)
    autosave = Autosave(Workspace(project_file.load(path), path), tmp_path)
    place = journal_of(path, tmp_path)
    for number, gone in enumerate((place.unlink, lambda: shutil.rmtree(place.parent)), 1):
        autosave.workspace.edit("Warm", at(number))
        autosave.wait()
        gone()
        for _ in range(200):  # noticed without another edit
            if place.exists() and journal.last_record(place) is not None:
                break
            time.sleep(0.02)
        assert journal.last_record(place).project["settings"]["altitude"] == number
    place.unlink()
    autosave.workspace.edit("Cool", at(9))  # or with the next one
    autosave.wait()
    assert journal.last_record(place).project["settings"]["altitude"] == 9
    with pytest.raises(JournalBusy):
        Journal(place, path)
    autosave.close()
    assert not place.exists()


def test_the_same_fault_is_kept_once(tmp_path):
    keeper = Keeper(Workspace(demo("empty")), tmp_path)
    keeper.workspace.edit("Warm", at(7))
    said = []
    for number in (1, 1, 2):
        try:
            raise ValueError(f"fault {number}") if number == 1 else KeyError("other")
        except (ValueError, KeyError) as problem:
            said.append(keeper.caught(problem))
    assert (
        len(list(keeper.copies())) <= 2
        and (tmp_path / "faults.log").read_text().count("last steps: ") == 2
    )
    assert all("went wrong" in sentence for sentence in said)
