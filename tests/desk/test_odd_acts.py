"""Odd acts of every kind: none is a fault of the program, and nothing of the code is ever read on
the screen."""

import base64
import re
from functools import partial

import ezdxf
import pytest
from PyQt6.QtGui import QImage
from PyQt6.QtWidgets import QFileDialog, QInputDialog, QLabel, QLineEdit, QMessageBox

from grey_current.desk.shell.exception_hook import Guard
from grey_current.errors import GreyCurrentError
from grey_current.files import project_file
from grey_current.shop.machines import Machine
from grey_current.shop.work_edits import with_work
from grey_current.work.day_text import parse_day
from grey_current.workspace.keeping import Keeper
from tests.core.bad_files import BAD_TEXTS
from tests.core.shops import demo
from tests.desk.conftest import do

CODE = re.compile(
    r"\b\w*(?:Error|Exception|Traceback)\b|[{}]|\b[A-Za-z_]+\([a-z_]+=|<class|object at 0x|[(=,] ?None\b|\bis None\b|\[type=|\w+_\w+'|'\w+':"
)
"""What only somebody who knows Python would read."""
TYPED = (
    *(
        "",
        " ",
        "0",
        "-5",
        "NaN",
        "inf",
        "1e400",
        "9" * 60,
        "1/0",
        "{}",
        "{x}",
        "<b>bold</b>",
        "None",
        "a" * 300,
        "木" * 90,
    ),
    *(
        "2 440 mm",
        "1.200.000 mm",
        '7\' 6" 5"',
        "\u202e7",
        "\0",
        "=1+1",
        "½½",
        "1,200",
        "12 parsecs",
        "🪚",
        "7''",
        "--",
        "1e9 km",
    ),
)
CHOSEN = (
    "saw",
    "planer-hose",
    "cyclone",
    "main-1",
    "stove",
    "loft/wall-1",
    "planer/hood",
    "ring-b",
    "beam-1",
    "gate-2",
    None,
)
STAGES = ("shop", "machines", "collector", "air", "gates", "build", "work", "keep")


@pytest.fixture
def told(window, tmp_path, monkeypatch):
    """The window under its guard; called, it looks at all that is said, and at the faults' log."""
    monkeypatch.setattr(QMessageBox, "exec", lambda box: QMessageBox.StandardButton.Discard)
    guard = Guard(window, Keeper(window.workspace, tmp_path / "state"))

    def look(act):
        shown = [window.banner.text.text(), window.stage_bar.next.text()]
        shown += [
            label.text() for label in window.inspector.findChildren(QLabel) if label.isVisible()
        ]
        for text in shown:
            plain = re.sub(
                r"“[^”]*”|'[^']*' cannot be used", "", text
            )  # what was typed may be anything
            assert not CODE.search(plain), (act, text)
        assert not (tmp_path / "state" / "faults.log").exists(), (
            act,
            (tmp_path / "state" / "faults.log").read_text(),
        )

    yield look
    guard.release()


@pytest.mark.parametrize("stage", STAGES)
def test_whatever_is_typed_into_whichever_field(stage, window, told):
    workspace = window.workspace
    for chosen in CHOSEN:
        workspace.go(stage)
        workspace.select(chosen)
        keys = [
            key for key, field in window.inspector.fields.items() if isinstance(field, QLineEdit)
        ]
        for number, key in enumerate(keys[:10]):
            for text in TYPED[number % 4 :: 4]:
                editor = window.inspector.fields.get(key)
                if not isinstance(editor, QLineEdit):
                    break
                editor.setText(text)
                editor.returnPressed.emit()
                told((stage, chosen, key, text[:40]))
        workspace.show_project(demo(), None)
        assert workspace.project == demo()


def dxf(tmp_path, draw, **header):
    path = tmp_path / "plan.dxf"
    document = ezdxf.new("R2010")
    draw(document.modelspace())
    document.saveas(path)
    return path


def broken_dxf(tmp_path, word):
    path = dxf(tmp_path, lambda space: space.add_line((0, 0), (4321, 3)))
    path.write_text(path.read_text().replace("4321.0", word))
    return path


def picture(tmp_path, wide, high):
    path = tmp_path / "plan.png"
    made = QImage(wide, high, QImage.Format.Format_RGB32)
    made.fill(0xFF336699)
    made.save(str(path))
    return path


def many(space):
    for n in range(300):
        space.add_circle((n, n), 1e7)


PLANS = {
    "NaN": lambda d: broken_dxf(d, "nan"),
    "an infinity": lambda d: broken_dxf(d, "1e400"),
    "a word": lambda d: broken_dxf(d, "four"),
    "circles as large as a country": lambda d: dxf(d, many),
    "a circle of nothing": lambda d: dxf(d, lambda s: s.add_circle((0, 0), 0)),
    "a line of nothing": lambda d: dxf(d, lambda s: s.add_line((1, 1), (1, 1))),
    "far away": lambda d: dxf(d, lambda s: s.add_line((1e12, 0), (1e12 + 5, 3))),
    "an ellipse like a needle": lambda d: dxf(d, lambda s: s.add_ellipse((0, 0), (1e6, 0), 1e-6)),
    "no lines": lambda d: dxf(d, lambda s: s.add_text("wall")),
    "five pixels wide": lambda d: picture(d, 5, 4000),
    "five pixels high": lambda d: picture(d, 4000, 5),
    "one pixel": lambda d: picture(d, 1, 1),
    "wider than a plan": lambda d: picture(d, 1600, 1),
}


def test_plans_that_are_none(window, told, tmp_path, monkeypatch):
    for plan, drawn in PLANS.items():
        path = drawn(tmp_path)
        monkeypatch.setattr(
            QFileDialog, "getOpenFileName", lambda *a, path=path, **k: (str(path), "")
        )
        window.workspace.show_project(demo(), None)
        do(window, "underlay")
        told(plan)
        under = window.workspace.project.underlay
        assert (under is not None) != window.banner.isVisible(), plan
        assert under is None or (
            len(under.lines) <= 20_000 and 0 < under.width <= 1000 and 0 < under.height <= 1000
        ), plan


def test_a_plan_is_scaled_by_nonsense(window, told, tmp_path, monkeypatch):
    path = picture(tmp_path, 600, 300)
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a, **k: (str(path), ""))
    do(window, "underlay")
    before = window.workspace.project
    for first, second, typed in [
        ((1, 1), (3, 1), "0"),
        ((1, 1), (3, 1), "-1 m"),
        ((1, 1), (1, 1), "4 m"),
        ((1, 1), (3, 1), "abc"),
        ((1, 1), (3, 1), "1e9 km"),
        ((1, 1), (3, 1), "9999999 m"),
    ]:
        monkeypatch.setattr(QInputDialog, "getText", lambda *a, typed=typed, **k: (typed, True))
        window.banner.hide()
        window.attempt(partial(window.underlays.scale, first, second))
        told((first, second, typed))
        assert window.workspace.project == before and window.banner.isVisible(), typed


def test_a_shop_holds_what_it_holds(window, told):
    """Three hundred pasted, a thousand letters of a name, a day of sixty thousand."""
    workspace = window.workspace
    refused = 0
    for _ in range(30):
        window.attempt(
            lambda: workspace.edit(
                "Paste",
                lambda p: p.replaced(machines=(*p.machines, *(_twin(p, n) for n in range(10)))),
            )
        )
        refused += window.banner.isVisible()
        told("paste")
    assert (
        refused
        and len(workspace.project.machines) <= 200
        and "200 machines" in window.banner.text.text()
    )
    for text in (
        "saw 20, " * 8000,
        "saw" * 20_000,
        "(" * 60_000,
        "saw 20 min " * 5000,
        "1" * 60_000,
    ):
        window.attempt(
            lambda text=text: workspace.edit("Plan", lambda p: with_work(p, day=parse_day(text, p)))
        )
        told(text[:20])
        assert window.banner.isVisible() and len(window.banner.text.text()) < 450


def _twin(project, number):
    item = project.machine["saw"]
    ident = f"tool-{len(project.machines)}-{number}"
    return Machine(
        **{
            **{f: getattr(item, f) for f in Machine.model_fields},
            "id": ident,
            "name": f"Tool {ident}",
        }
    )


def test_files_that_are_none(window, told, tmp_path):
    path = tmp_path / "bad.greycurrent.json"
    for what, (text, *_) in BAD_TEXTS.items():
        path.write_text(text)
        window.banner.hide()
        window.attempt(lambda: window.files.open(path))
        told(what)
        assert window.banner.isVisible() and window.workspace.project == demo(), what


def test_every_command_with_dialogs_that_are_waved_away_and_lists_that_are_rubbish(
    window, told, tmp_path, monkeypatch, qtbot
):
    rubbish = tmp_path / "rubbish.csv"
    rubbish.write_bytes(base64.b64decode("AAECAwQFBgcICQoLDA0ODw==") * 40)
    empty = tmp_path / "empty.csv"
    empty.write_text("")
    odd = tmp_path / "odd.csv"
    odd.write_text(
        "part,price,currency,date\n=cmd,1e400,XXXX,tomorrow\npipe/pvc-102,nan,EUR,2026-13-40\n"
    )
    foreign = tmp_path / "foreign.json"
    project_file.save(demo("allotment"), foreign)
    workspace = window.workspace
    ends = {"close", "quit", "demo-loft", "demo-shed", "demo-empty"}
    for chosen in ("", str(rubbish), str(empty), str(odd), str(foreign), str(tmp_path)):
        monkeypatch.setattr(
            QFileDialog, "getOpenFileName", lambda *a, chosen=chosen, **k: (chosen, "")
        )
        monkeypatch.setattr(
            QFileDialog,
            "getSaveFileName",
            lambda *a, chosen=chosen, **k: (chosen and str(tmp_path), ""),
        )
        monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *a, **k: "")
        monkeypatch.setattr(QInputDialog, "getText", lambda *a, **k: ("rubbish", True))
        monkeypatch.setattr(QInputDialog, "getItem", lambda *a, **k: ("", False))
        for name in (
            "underlay",
            "read-curve",
            "read-prices",
            "read-readings",
            "merge-logbook",
            "save-prices",
            "save-readings",
            "save-logbook",
            "chores",
            "cards",
            "save-chart",
        ):
            action = window.menus.actions.get(name)
            if action is None or name in ends or not action.isEnabled():
                continue
            action.trigger()
            told((name, chosen))
    assert workspace.project.name == demo().name
    with pytest.raises(GreyCurrentError):
        window.files.open(tmp_path)
