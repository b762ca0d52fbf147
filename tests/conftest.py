"""What tests of the core and of the desk share."""

from __future__ import annotations

from collections import Counter
from pathlib import Path

import pytest

from grey_current.air import compiled
from grey_current.numerals import use_marks

# Figures as the tests have them, whatever this computer is set to; what is begun from here too.
use_marks("point")

# Tests that take longer than the others together: sweeps, which ./check leaves to ./check --full.
# Named by `./check --full --durations 0` (bench/README.md, "A loop that is quick").
SLOW = frozenset(Path(__file__).with_name("slow.txt").read_text(encoding="utf-8").splitlines())
# Tests of many cases of which ./check takes one in so many.
SAMPLED = {
    name: int(every)
    for every, name in (line.split(" ", 1) for line in SLOW if line.partition(" ")[0].isdigit())
}


@pytest.hookimpl(tryfirst=True)
def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Mark the slow tests as sweeps, and of the sampled ones all but a few cases."""
    seen: Counter[str] = Counter()
    for item in items:
        name = item.nodeid.partition("[")[0]
        every = SAMPLED.get(name, 1)
        seen[name] += 1
        # The middle one of so many, so that neither the first nor the last is always left out.
        if item.nodeid in SLOW or seen[name] % every != every // 2:
            item.add_marker(pytest.mark.sweep)


@pytest.fixture(scope="module")
def compiled_kernel():
    """The compiled kernel, as in the program; the other tests go on without it."""
    compiled.load()
    yield
    compiled._loaded.clear()
