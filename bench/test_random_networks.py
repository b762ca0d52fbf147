"""Five thousand random shops: who has an answer, in how many iterations, in how long."""

from __future__ import annotations

import os
import time

import numpy as np

from bench.conftest import report
from grey_current.air import compiled
from tests.core.random_networks import solved

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
    report(f"{COUNT} random shops, {len(iterations)} scenarios: {len(unanswered)} without an answer {unanswered[:9]}")
    over = sum(count >= WANTED for count in iterations)
    report(f"iterations: median {few:.0f}, 99th percentile {most:.0f}, most {max(iterations)}")
    report(f"scenarios that take {WANTED} or more: {over}")
    report(f"four scenarios at once: {np.median(seconds) * 1e3:.1f} ms median, {max(seconds) * 1e3:.0f} ms at most")
    assert not unanswered
