"""Five thousand random shops: who has an answer, in how many iterations, in how long."""

from __future__ import annotations

import os
import subprocess
import sys
import time
from pathlib import Path

import numpy as np

from bench.conftest import report
from grey_current.air import compiled
from grey_current.design.flow.assess import assess
from grey_current.errors import GreyCurrentError
from grey_current.files import project_file
from tests.core.random_networks import solved
from tests.core.shops import hall, made_up

COUNT = int(os.environ.get("RANDOM_SHOPS", "5000"))
FIRST = int(os.environ.get("FIRST_SHOP", "0"))
WANTED = 30
"""Iterations that no scenario should come to."""


def test_random_shops() -> None:
    compiled.load()
    iterations, seconds, unanswered = [], [], []
    for seed in range(FIRST, FIRST + COUNT):
        begun = time.perf_counter()
        answer = solved(seed)
        seconds.append(time.perf_counter() - begun)
        iterations += answer.iterations.tolist()
        if not answer.converged.all():
            unanswered.append(seed)
    few, most = np.percentile(iterations, [50, 99])
    report(
        f"{COUNT} random shops, {len(iterations)} scenarios: {len(unanswered)} without an "
        f"answer {unanswered[:9]}"
    )
    over = sum(count >= WANTED for count in iterations)
    report(f"iterations: median {few:.0f}, 99th percentile {most:.0f}, most {max(iterations)}")
    report(f"scenarios that take {WANTED} or more: {over}")
    report(
        f"four scenarios at once: {np.median(seconds) * 1e3:.1f} ms median, "
        f"{max(seconds) * 1e3:.0f} ms at most"
    )
    assert not unanswered


def test_drawn_shops() -> None:
    """Shops as they are drawn on the floor: rooms, machines anywhere, branches routed; every
    scenario solved."""
    compiled.load()
    count, iterations, unanswered, refused = int(os.environ.get("DRAWN_SHOPS", "5000")), [], [], []
    for seed in range(count):
        try:
            now = assess(made_up(seed))
        except GreyCurrentError as problem:
            refused.append((seed, str(problem)))
            continue
        for answer in now.answers:
            iterations += [
                int(system.solved.iterations[system.row]) for system in answer.systems.values()
            ]
            unanswered += [seed] if not answer.converged else []
    report(
        f"{count} drawn shops, {len(iterations)} systems: {len(unanswered)} without, most "
        f"{max(iterations)} steps"
    )
    assert not unanswered
    assert not refused
    assert max(iterations) < WANTED


def test_two_hundred_machines(tmp_path: Path) -> None:
    """The largest shop that is taken: opened, checked, its air."""
    path = tmp_path / "hall.greycurrent.json"
    project_file.save(hall(200), path)
    for command in ("air", "check"):
        begun = time.perf_counter()
        subprocess.run(
            [sys.executable, "-m", "grey_current.cli", command, str(path)],
            check=False,
            capture_output=True,
        )
        report(f"200 machines: {command} in {time.perf_counter() - begun:.1f} s")
    picture = [
        sys.executable,
        "-m",
        "grey_current.desk.app",
        str(path),
        "--stage",
        "shop",
        "--settings",
        str(tmp_path),
    ]
    begun = time.perf_counter()
    subprocess.run(
        [*picture, "--picture", str(tmp_path / "hall.png")],
        check=True,
        capture_output=True,
        env={**os.environ, "QT_QPA_PLATFORM": "offscreen"},
    )
    report(
        "200 machines: opened, every finding found and painted in "
        f"{time.perf_counter() - begun:.1f} s"
    )
