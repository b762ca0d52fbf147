"""How long the window takes to be up, against a bare window with PyQt6, NumPy and SciPy
imported."""

from __future__ import annotations

import os
import subprocess
import sys
import time

from bench.conftest import report

BARE = """
import numpy, scipy.optimize
from PyQt6.QtWidgets import QApplication, QMainWindow
application = QApplication(["bare"])
window = QMainWindow()
window.resize(1280, 800)
window.show()
application.processEvents()
"""
OURS = """
import os, tempfile
from pathlib import Path
from PyQt6.QtWidgets import QApplication
from grey_current.desk.shell.window import MainWindow
from grey_current.desk.theme import font, load_fonts
from grey_current.workspace.settings import UserSettings
from grey_current.workspace.workspace import demo_workspace
workspace = demo_workspace()
application = QApplication(["ours"])
application.setStyle("Fusion")
load_fonts()
application.setFont(font())
folder = Path(tempfile.mkdtemp())
window = MainWindow(workspace, UserSettings(folder), folder)
window.show()
application.processEvents()
os._exit(0)
"""


def seconds(script: str) -> float:
    """The quickest of several starts, in a process of its own each."""
    env = {**os.environ, "QT_QPA_PLATFORM": "offscreen", "OPENBLAS_NUM_THREADS": "1"}
    times = []
    for _ in range(5):
        start = time.perf_counter()
        subprocess.run([sys.executable, "-c", script], env=env, check=True, capture_output=True)
        times.append(time.perf_counter() - start)
    return min(times)


def test_the_window_is_up():
    ours, bare = seconds(OURS), seconds(BARE)
    report(
        f"window up after {ours:.2f} s, {ours / bare:.1f} times a bare PyQt6, NumPy and SciPy "
        "window"
    )
