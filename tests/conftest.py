"""What tests of the core and of the desk share."""

from __future__ import annotations

from pathlib import Path

import pytest

from grey_current.air import compiled

# Tests that take longer than the others together: sweeps, which ./check leaves to ./check --full.
# Named by `./check --full --durations 0` (bench/README.md, "A loop that is quick").
SLOW = frozenset(Path(__file__).with_name("slow.txt").read_text(encoding="utf-8").splitlines())


@pytest.hookimpl(tryfirst=True)
def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Mark the slow tests as sweeps."""
    for item in items:
        if item.nodeid in SLOW:
            item.add_marker(pytest.mark.sweep)


@pytest.fixture(scope="module")
def compiled_kernel():
    """The compiled kernel, as in the program; the other tests go on without it."""
    compiled.load()
    yield
    compiled._loaded.clear()
