"""Practice: hidden faults by seed and level, instruments and their lines, looking and mending, the
truth, commands."""

from __future__ import annotations

import base64
import contextlib
import datetime
import io
import json
import os
import signal
import socket
import subprocess
import sys
import threading
import zlib
from pathlib import Path

import numpy as np
import pytest

from grey_current import cli
from grey_current.design.flow.assess import assess
from grey_current.errors import InputError
from grey_current.files.practice_report import act_words, begun_text, debrief_text, practice_report
from grey_current.files.project_file import dump, load, parse, save
from grey_current.keep.answers import how_sure
from grey_current.keep.causes import all_tried, fault_kinds, fault_words, faulty_model
from grey_current.keep.debrief import debrief
from grey_current.keep.fit import ReadingSpec
from grey_current.keep.practice import (
    LEVELS,
    LOOK_AND_MEND,
    NOTICEABLE,
    begun,
    done,
    hidden,
    looked,
    losses,
    measured,
    mended,
    secret_of,
    world_of,
)
from grey_current.shop.edits import changed, removed
from grey_current.shop.keep_edits import with_keep
from grey_current.standins.instruments import INSTRUMENTS, LONGEST_LINE, Session, StandIn
from grey_current.standins.line import Address, LineInstrument, LineServer, read_address
from tests.core.shops import demo

pytestmark = pytest.mark.usefixtures("compiled_kernel")
DAY = datetime.date(2026, 3, 14)
SUCTION: ReadingSpec = ("static pressure", "saw", "inlet-run")


@pytest.fixture
def listening():
    """A gauge that listens on a free port, with 1000 Pa wherever it is held, but none at the
    lathe."""
    gauge = StandIn(
        INSTRUMENTS["gauge"],
        lambda what, machine, place: 1000.0 if machine != "lathe" else np.nan,
        3,
    )
    with LineServer(gauge) as server:
        threading.Thread(target=server.serve_forever, daemon=True).start()
        yield server
        server.shutdown()


@pytest.mark.parametrize("level", LEVELS)
@pytest.mark.parametrize("name", ["loft", "allotment"])
def test_what_is_hidden_follows_seed_and_level_and_can_be_noticed(name, level):
    shop = demo(name)
    one, again, other = hidden(shop, 5, level), hidden(shop, 5, level), hidden(shop, 6, level)
    assert [c.cause for c in one.causes] == [
        c.cause for c in again.causes
    ] and one.base == again.base
    assert len(one.causes) == max(level - 1, 1) and len({c.cause for c in one.causes}) == len(
        one.causes
    )
    assert (one.base != other.base) == (level > 1)
    for cause in one.causes:
        assert max(losses(one.healthy, one.base, cause).values()) >= NOTICEABLE
    assert set(LOOK_AND_MEND) == {kind.name for kind in fault_kinds().kinds}


def test_a_practice_from_the_complaint_to_the_truth(tmp_path):
    """Measured, looked in vain, looked and found, mended, saved and read in between; then what it
    was."""
    project = begun(demo(), 74, 2, DAY)
    assert "planer is weaker than it was" in begun_text(project)
    (cause,) = secret_of(project).causes
    kind, place = cause.cause
    before = project
    project = measured(project, ("airflow", "planer", "planer/hood"))
    assert (
        project.keep.readings[-1].value
        == measured(before, ("airflow", "planer", "planer/hood")).keep.readings[-1].value
    )
    well = next(r for r in before.keep.readings if r.place == "planer/hood")
    assert project.keep.readings[-1].value < 0.9 * well.value
    save(project, tmp_path / "p.json")
    assert load(tmp_path / "p.json") == project and place not in project.keep.practice.veiled
    project = looked(project, "filter loaded", "cyclone")
    project = mended(project, "filter loaded", "cyclone")
    assert [act.found for act in project.keep.practice.acts] == [None, False, False]
    assert len(project.keep.readings) == len(before.keep.readings) + 1
    stub = "planer-stub"
    assert looked(project, kind, stub).keep.practice.acts[-1].found is True
    project = mended(looked(project, kind, place), kind, place)
    assert len(project.keep.readings) == len(before.keep.readings)
    again = measured(project, ("airflow", "planer", "planer/hood")).keep.readings[-1]
    assert again.value == pytest.approx(well.value, rel=0.35) and again.value > 0.9 * well.value
    assert sum(act.minutes for act in project.keep.practice.acts) == 3 + 4 + 15 + sum(
        LOOK_AND_MEND[kind]
    )
    over = done(project)
    found = debrief(over)
    ((true_kind, true_place, put_right, _),) = found.faults
    assert (true_kind.name, true_place, put_right, found.in_vain) == (kind, place, True, 1)
    assert found.own[-1].kind == "mended" and found.own[-1].found and 0 < found.score <= 100
    assert "mended what was whole" in debrief_text(over, found)
    json.dumps(practice_report(over, found), allow_nan=False)
    for act in (measured,):
        with pytest.raises(InputError, match="over"):
            act(over, SUCTION)
    assert all(act_words(over, act) for act in over.keep.practice.acts)


@pytest.mark.sweep
@pytest.mark.parametrize(("seed", "level"), [(1, 1), (8, 3), (2, 4)])
def test_the_program_finds_every_fault_of_its_own_shops(seed, level):
    for name in ("loft", "allotment"):
        project = done(begun(demo(name), seed, level, DAY))
        found = debrief(project)
        assert (
            sum(act.kind == "mended" for act in found.own) == len(found.faults) == max(level - 1, 1)
        )
        assert found.own_minutes == sum(act.minutes for act in found.own) > 0 and found.score == 0


def test_what_cannot_be_is_one_sentence_and_changes_nothing():
    project = begun(demo(), 3, 1, DAY)
    for act, says in (
        (lambda: begun(demo(), 3, 9, DAY), "levels are"),
        (lambda: begun(demo(), -1, 1, DAY), "whole number"),
        (lambda: begun(demo("empty"), 3, 1, DAY), "shop with ducts"),
        (lambda: measured(demo(), SUCTION), "no practice shop"),
        (lambda: measured(project, ("static pressure", "saw", "nowhere")), "no air"),
        (lambda: measured(project, ("airflow", "lathe", "lathe/x")), "no air"),
        (lambda: looked(project, "gremlins", ""), "faults are"),
        (lambda: looked(project, "filter loaded", "saw"), "it can be at"),
        (lambda: mended(project, "gate open", ""), "it can be at"),
    ):
        with pytest.raises(InputError, match=says):
            act()
    bomb = base64.b64encode(zlib.compress(b"[" * 20_000_000)).decode()
    for veiled in (bomb, "", "rubbish", "eJw=", project.keep.practice.veiled[:40]):
        torn = with_keep(project, practice=project.keep.practice.replaced(veiled=veiled))
        with pytest.raises(InputError, match="damaged"):
            measured(parse(dump(torn), "x"), SUCTION)


@pytest.mark.sweep
def test_what_is_taken_down_takes_its_fault_along():
    project = begun(demo(), 74, 2, DAY)
    gone = removed(project, ["planer"])
    assert secret_of(gone).causes == () or secret_of(gone).causes[0].place in gone.run
    assert done(gone) and debrief(done(gone)).score == 0
    bare = done(project.replaced(points=(), runs=(), gates=()))
    found = debrief(bare)
    assert (found.faults, found.own, found.score) == ((), (), 0) and debrief_text(bare, found)
    assert how_sure(assess(bare), 20).debrief == found


def test_every_cause_can_be_tried_and_none_is_nothing():
    """Each fault at its usual size takes air from somebody or opens a gate that was shut, in both
    demo shops."""
    for name in ("loft", "allotment"):
        model = faulty_model(hidden(demo(name), 1, 1).healthy)
        for item in all_tried(model):
            if item.kind is not None and item.quantile == 0.5:
                lost = losses(model, {}, item)
                assert max(lost.values()) > 0.005, item.cause


def test_what_no_reading_tells_apart_is_said_together():
    kinds = {kind.name: kind for kind in fault_kinds().kinds}
    hole, filter_ = kinds["joint apart"], kinds["filter loaded"]
    assert fault_words(demo(), hole, "main-1").endswith("or the lid of the bin leaks")
    assert fault_words(demo(), hole, "planer-drop") == hole.words
    assert fault_words(demo(), filter_, "cyclone") == filter_.words
    assert "exhaust is blocked" in fault_words(
        changed(demo(), "cyclone", exhausts="outdoors"), filter_, "cyclone"
    )


def test_a_stand_in_has_noise_an_offset_and_a_last_digit():
    for kind in INSTRUMENTS.values():
        true = 1000 * kind.step
        stand_in = StandIn(kind, lambda what, machine, place, true=true: true, 7)
        shown = np.array([stand_in.read(kind.reads[0], "saw", "x") for _ in range(300)])
        assert (
            np.allclose(shown / kind.step, np.round(shown / kind.step))
            and 0 < shown.std() / true < 0.3
        )
        assert abs(shown.mean() - true) < 4 * (kind.offset + shown.std() / 17) + kind.step
        late = StandIn(kind, lambda what, machine, place, true=true: true, 7, hours=lambda: 50.0)
        assert (kind.drift > 0) == (
            abs(late.read(kind.reads[0], "saw", "x") - shown[0]) > 2 * kind.step
        )
        assert StandIn(kind, lambda *a: 1e-12, 1).read(kind.reads[0], "a", "b") >= kind.step
    with pytest.raises(InputError, match="it reads"):
        StandIn(INSTRUMENTS["amps"], lambda *a: 1.0, 1).read("airflow", "saw", "x")


def test_lines_are_answered_whatever_comes(listening):
    """A real instrument speaks the same lines; rubbish gets a sentence and the next line is
    answered."""
    with (
        socket.create_connection(("127.0.0.1", listening.address.port), 3) as link,
        link.makefile("rwb") as line,
    ):
        for said, answer in (
            (b"WHO", b"I gauge Pa"),
            (b"READ", b"E it is held nowhere"),
            (b"AT 'static pressure' saw inlet-run", b"OK"),
            (b"read", b"V "),
            (b"AT airflow saw saw/port", b"OK"),
            (b"READ", b"E Gauge: 'airflow'"),
            (b'AT "static', b"E a quotation mark"),
            (b"", b"E say WHO"),
            (b"\xff\xfe\x00", b"E say WHO"),
            (b"AT " + b"x" * LONGEST_LINE, b"E a line has at most"),
            (b"WHO", b"I gauge Pa"),
        ):
            line.write(said + b"\n")
            line.flush()
            assert line.readline().startswith(answer), said
    gauge = LineInstrument(listening.address)
    assert gauge.read("static pressure", "saw", "inlet run's") == pytest.approx(1000, rel=0.3)
    with pytest.raises(InputError, match="no air is computed there"):
        gauge.read("static pressure", "lathe", "x")
    with pytest.raises(InputError, match="listens there"):
        LineServer(gauge, listening.address.port)


@pytest.mark.parametrize(
    "answers",
    [b"hello\n", b"I scales kg\n", b"", b"I gauge Pa\nOK\nV nan\n", b"I gauge Pa\nOK\nV -3\n"],
)
def test_what_is_no_instrument_is_said_so(answers):
    """Something else that listens there, says nothing, or reads what cannot be."""
    lines = answers.split(b"\n")
    with socket.create_server(("127.0.0.1", 0)) as server:
        server.settimeout(5)

        def talk():
            with contextlib.suppress(OSError):
                for said in (lines[:1], lines[1:]):
                    link, _ = server.accept()
                    with link, link.makefile("rwb") as line:
                        for text in said:
                            line.readline()
                            line.write(text + b"\n")
                            line.flush()

        threading.Thread(target=talk, daemon=True).start()
        with pytest.raises(InputError, match="Instrument"):
            LineInstrument(Address("127.0.0.1", server.getsockname()[1])).read(
                "static pressure", "saw", "x"
            )


@pytest.mark.parametrize("text", ["", "0", "65536", "x", "host:", "localhost:x", "-3", "²"])
def test_an_address_that_is_none_is_refused(text):
    with pytest.raises(InputError, match="write its port"):
        read_address(text)
    assert (
        read_address("7431") == Address("127.0.0.1", 7431)
        and str(read_address("gauge:1")) == "gauge:1"
    )


def test_a_session_of_a_practice_shop_reads_what_is_hidden():
    project = begun(demo(), 3, 1, DAY)
    session = Session(StandIn(INSTRUMENTS["anemometer"], world_of(project, 0, 1), 1))
    assert session.answered("AT airflow planer planer/hood") == "OK"
    shown = float(session.answered("READ").removeprefix("V "))
    assert shown == pytest.approx(
        secret_of(project).value(("airflow", "planer", "planer/hood")), rel=0.4
    )
    bin_sensor = StandIn(INSTRUMENTS["bin"], world_of(project, 0, 1), 1)
    assert bin_sensor.read("litres", "", "cyclone") >= 1.0


def test_a_conversation_answers_before_the_next_line_is_typed():
    """On a real terminal each answer is there before one goes on; an instrument says where it
    listens, and ends."""
    reached = "import signal; signal.signal(signal.SIGINT, signal.default_int_handler)"
    main = f"{reached}; from grey_current.cli import main; raise SystemExit(main())"

    @contextlib.contextmanager
    def started(*words: str):
        """A program of its own that Ctrl-C reaches, also where these tests run in the background;
        ended in any case."""
        pipe = subprocess.PIPE
        talk = subprocess.Popen(
            [sys.executable, "-c", main, *words], stdin=pipe, stdout=pipe, stderr=pipe, text=True
        )
        try:
            yield talk
        finally:
            talk.kill()
            talk.communicate()

    with started("practise", "--seed", "3", "--level", "1") as talk:
        while (line := talk.stdout.readline()) and not line.startswith("Say: measure"):
            pass
        for typed, answer in (
            ("look 'inlet wrapped' planer/hood", "planer's chip hood"),
            ("x" * 900, "Practice: 'xxx"),
        ):
            talk.stdin.write(f"{typed}\n")
            talk.stdin.flush()
            assert answer in talk.stdout.readline()
        told, _ = talk.communicate("done\n", timeout=60)
        assert "Score: " in told and talk.returncode == 0
    with started("standin", "bin") as standin:
        where = standin.stdout.readline().split(" at ")[1].split(";")[0]
        assert LineInstrument(read_address(where)).kind.name == "bin"
        standin.send_signal(signal.SIGINT)
        _, said = standin.communicate(timeout=20)
        assert standin.returncode == 130 and "stopped by Ctrl-C" in said and "Traceback" not in said


@pytest.mark.sweep
def test_a_conversation_that_nobody_can_hear_ends_quietly_or_says_why():
    """A full disk is a sentence and status 2; a reader that has gone away is no fault."""
    main = "from grey_current.cli import main; raise SystemExit(main())"
    words = [sys.executable, "-c", main, "practise", "--seed", "3"]
    with Path("/dev/full").open("w", encoding="utf-8") as full:
        said = subprocess.run(
            words,
            input="done\n",
            stdout=full,
            stderr=subprocess.PIPE,
            text=True,
            check=False,
            timeout=90,
        )
    assert (
        said.returncode == 2
        and "could not be written" in said.stderr
        and "Traceback" not in said.stderr
    )
    reading, writing = os.pipe()
    os.close(reading)
    with os.fdopen(writing, "w") as gone:
        said = subprocess.run(
            words,
            input="done\n",
            stdout=gone,
            stderr=subprocess.PIPE,
            text=True,
            check=False,
            timeout=90,
        )
    assert said.returncode == 0 and not said.stderr


@pytest.mark.sweep
def test_the_commands_to_practise(tmp_path, capsys, monkeypatch, listening):
    path = tmp_path / "p.json"
    assert cli.main(["practise", "--seed", "3", "--level", "2", "-o", str(path)]) == 0
    assert load(path).keep.practice.seed == 3
    typed = 'measure airflow planer planer/hood\nmeasure rubbish a b\n\nlook "joint apart" planer-drop\n"\nsing\n'
    typed += 'mend "joint apart" planer-drop\ndone\n'
    monkeypatch.setattr("sys.stdin", io.StringIO(typed))
    assert cli.main(["practise", "--seed", "3", "--level", "2"]) == 0
    told = capsys.readouterr().out
    assert "It is so" in told and "Score: " in told and "say measure, look or mend" in told
    assert cli.main(["practise", "--seed", "3", "--level", "1", "--json"]) == 0
    report = json.loads(capsys.readouterr().out)
    assert (
        report["format"] == "grey-current/practice/1"
        and report["faults"]
        and not report["off_the_table"]
    )
    assert cli.main(["practise", "--level", "7"]) == 2
    save(demo(), path)
    address = str(listening.address)
    assert (
        cli.main(
            ["log", str(path), "add", "static pressure", "saw", "inlet-run", "--from", address]
        )
        == 0
    )
    assert load(path).keep.readings[0].value == pytest.approx(1000, rel=0.3)
    before = path.read_bytes()
    for bad in (["--from", "1"], ["--from", "x"], ["3", "--from", address], []):
        assert cli.main(["log", str(path), "add", "static pressure", "saw", "inlet-run", *bad]) == 2
    assert path.read_bytes() == before
    assert cli.main(["standin", "gauge", "--port", str(listening.address.port)]) == 2
