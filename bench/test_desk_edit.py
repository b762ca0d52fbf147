"""Dragging a point of the ductwork with the whole window listening: trace, solve all scenarios,
tell, repaint."""

from __future__ import annotations

import os
import time

import numpy as np
import pytest

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PyQt6.QtWidgets import QApplication

from bench.conftest import report
from bench.test_solver import large_shop
from grey_current.desk.shell.idle_garbage_collector import freeze
from grey_current.desk.shell.window import MainWindow
from grey_current.desk.theme import font, load_fonts
from grey_current.shop.duct_edits import with_point_moved
from grey_current.workspace.settings import UserSettings
from grey_current.workspace.workspace import Workspace
from tests.core.shops import demo

FRAMES = 60


@pytest.fixture(scope="module")
def application():
    made = QApplication.instance() or QApplication(["bench"])
    made.setStyle("Fusion")
    load_fonts()
    made.setFont(font())
    return made


@pytest.mark.parametrize(
    ("name", "project", "point", "machine"),
    [
        ("the loft", demo(), "wye-bandsaw", "planer"),
        ("30 machines", large_shop(), "machine-9-port-foot", "machine-1"),
    ],
)
def test_dragging_a_point(application, tmp_path, name, project, point, machine):
    window = MainWindow(Workspace(project), UserSettings(tmp_path), tmp_path)
    window.resize(1280, 800)
    window.floor.set_moving(False)
    window.show()
    workspace = window.workspace
    workspace.switch_on((machine,))
    workspace.select(point)
    window.background.stop()
    application.processEvents()
    freeze()  # as the program does when it is up
    told, shown = [], []
    workspace.begin("Move")
    for frame in range(FRAMES):
        start = time.perf_counter()
        workspace.preview(lambda p, f=frame: with_point_moved(p, point, 0.003 * (f + 1), 0.0))
        middle = time.perf_counter()
        application.processEvents()
        told.append(middle - start)
        shown.append(time.perf_counter() - start)
    workspace.abort()
    window.background.stop()
    window.hide()
    half, high = (np.percentile(shown, q) * 1e3 for q in (50, 95))
    report(
        f"dragging a point in {name}: {half:.0f} ms, 95th percentile {high:.0f} ms, of which "
        f"{np.median(told) * 1e3:.0f} ms before painting"
    )
