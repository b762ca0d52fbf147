"""Screens: a Wayland compositor of its own, at three densities; one that is named and not there."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import time
from pathlib import Path

import pytest
from PyQt6.QtGui import QImage

from grey_current.desk import app
from tests.desk.screens import hidden_screen

NAMES = ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM", "XDG_RUNTIME_DIR")


@pytest.fixture
def compositor(tmp_path):
    """A compositor without a screen, and the environment of its desktop."""
    weston = shutil.which("weston")
    if weston is None:
        pytest.skip("weston is not installed")
    place = tmp_path / "run"
    place.mkdir(mode=0o700)
    env = {name: value for name, value in os.environ.items() if name not in NAMES}
    env |= {"XDG_RUNTIME_DIR": str(place), "WAYLAND_DISPLAY": "wood"}
    size = ["--width=1400", "--height=900"]
    with subprocess.Popen(
        [weston, "--backend=headless-backend.so", "--socket=wood", *size],
        env=env,
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
    ) as running:
        until = time.monotonic() + 20
        while not (place / "wood").exists() and time.monotonic() < until:
            time.sleep(0.05)
        yield env
        running.terminate()


@pytest.mark.sweep
@pytest.mark.window
@pytest.mark.parametrize("scale", [1.0, 1.5, 2.0])
def test_the_window_opens_under_wayland_at_each_density(compositor, scale, tmp_path):
    picture = tmp_path / "shot.png"
    command = [sys.executable, "-m", "grey_current.desk.app", "--settings", str(tmp_path / "own")]
    done = subprocess.run(
        [*command, "--picture", str(picture)],
        capture_output=True,
        text=True,
        timeout=120,
        check=False,
        env={**compositor, "QT_SCALE_FACTOR": str(scale)},
    )
    assert done.returncode == 0 and "Traceback" not in done.stderr, done.stderr
    shot = QImage(str(picture))
    assert (shot.width(), shot.height()) == (1280 * scale, 800 * scale)
    colours = {shot.pixel(x, y) for x in range(0, shot.width(), 7) for y in range(0, 700, 7)}
    assert len(colours) > 20


def test_a_screen_is_one_that_answers(monkeypatch, tmp_path):
    def has(**env):
        for name in NAMES:
            monkeypatch.delenv(name, raising=False)
        for name, value in env.items():
            monkeypatch.setenv(name, value)
        return app.has_screen()

    here = str(tmp_path)
    assert not has() and not has(DISPLAY=":7654")
    assert not has(WAYLAND_DISPLAY="wood", XDG_RUNTIME_DIR=here)
    assert not has(WAYLAND_DISPLAY="wood")
    (tmp_path / "wood").touch()
    assert has(WAYLAND_DISPLAY="wood", XDG_RUNTIME_DIR=here)
    assert has(WAYLAND_DISPLAY=str(tmp_path / "wood"))
    # What was chosen by hand, and another machine's screen, is left to Qt.
    assert has(QT_QPA_PLATFORM="offscreen") and has(DISPLAY="bench:0")
    with hidden_screen("640x480") as display:
        assert has(DISPLAY=display)
    assert not has(DISPLAY=display)


@pytest.mark.sweep
def test_without_a_screen_it_says_so_and_draws_all_the_same(tmp_path):
    env = {name: value for name, value in os.environ.items() if name not in NAMES}
    env |= {"DISPLAY": ":7654"}
    command = [sys.executable, "-m", "grey_current.desk.app", "--settings", str(tmp_path)]
    done = subprocess.run(command, capture_output=True, text=True, check=False, env=env)
    assert done.returncode == 2 and done.stderr.count("\n") == 1 and "no screen" in done.stderr
    picture = Path(tmp_path / "shot.png")
    drawn = subprocess.run([*command, "--picture", str(picture)], check=False, env=env)
    assert drawn.returncode == 0 and picture.exists()
