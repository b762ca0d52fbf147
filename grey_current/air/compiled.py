"""The compiled kernel when it is there: loaded beside the window, so that no start ever waits for
it.
"""

from __future__ import annotations

import contextlib
import os
import threading
from collections.abc import Callable
from pathlib import Path
from typing import NamedTuple

import numpy as np

from grey_current.air import fan, laws, tables
from grey_current.air.gas import Air

# Modules whose constants are part of the machine code.
CONSTANTS_OF = ("bank", "fittings", "friction", "laws", "newton")
_loaded: list[Kernel] = []
_lock = threading.Lock()


class Kernel(NamedTuple):
    """What is compiled: `kernel.solve_cases` and `kernel.losses`."""

    solve_cases: Callable[..., None]
    losses: Callable[..., None]


def kernel() -> Kernel | None:
    """The compiled kernel once it is loaded, else None."""
    return _loaded[0] if _loaded else None


def load() -> None:
    """Load the kernel and let it solve one small network, so that its machine code is there; safe
    to call again.

    Raises nothing: where numba cannot be used, NumPy goes on answering.
    """
    with _lock:
        if _loaded:
            return
        # Numba colours its errors by putting something in the place of the standard output, and
        # back: beside a command that prints, what is printed in between is lost.
        os.environ.setdefault("NUMBA_DISABLE_ERROR_MESSAGE_HIGHLIGHTING", "1")
        # Machine code of another version of the sources would be used without a word.
        _forget_stale()
        try:
            from grey_current.air import kernel as made  # noqa: PLC0415 - numba takes a third of a second to import
        except ImportError:
            return
        found = Kernel(made.solve_cases, made.losses)
        _try(found)
        _loaded.append(found)


def _forget_stale() -> None:
    """Take machine code away that is older than what the kernel takes its constants from; numba
    looks at it alone.
    """
    folder = Path(__file__).parent
    with contextlib.suppress(OSError):
        newest = max((folder / f"{name}.py").stat().st_mtime for name in CONSTANTS_OF)
        for kept in (folder / "__pycache__").glob("kernel.*.nb[ic]"):
            if kept.stat().st_mtime < newest:
                kept.unlink()


def load_beside() -> threading.Thread:
    """`load` in a thread of its own; returns the thread."""
    thread = threading.Thread(target=load, name="kernel", daemon=True)
    thread.start()
    return thread


def _try(found: Kernel) -> None:
    """Solve one branch, which makes numba load or make the machine code."""
    curve = fan.curve_from_points([(0.0, 1000.0), (0.5, 0.0)])
    table = tables.packed(
        [laws.Fan(curve), laws.Friction(1.0, 0.1, 1e-4)], [0, 0], 1, Air(1.2, 1.8e-5)
    )
    gates, one, flow = np.zeros((1, 1), dtype=np.bool_), np.ones(1), np.zeros((1, 1))
    joins, ends = np.array([-1]), np.array([1000.0, 0.5, 1000.0])
    steps = np.zeros(1, dtype=np.int64)
    found.solve_cases(
        table, joins, np.array([True]), gates, one, one, ends, flow, False, np.zeros(1), steps
    )
    found.losses(table, gates, one, one, flow, np.array([0]), joins, np.zeros((1, 1)))


if __name__ == "__main__":
    load()
