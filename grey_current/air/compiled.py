"""The compiled kernel when it is there: loaded beside the window, so that no start ever waits for it."""

from __future__ import annotations

import threading
from collections.abc import Callable

import numpy as np

from grey_current.air import fan, laws, tables
from grey_current.air.gas import Air

SolveCases = Callable[..., None]

_loaded: list[SolveCases] = []
_lock = threading.Lock()


def solve_cases() -> SolveCases | None:
    """`kernel.solve_cases` once it is loaded, else None."""
    return _loaded[0] if _loaded else None


def load() -> None:
    """Load the kernel and let it solve one small network, so that its machine code is there; safe to call again.

    Raises nothing: where numba cannot be used, NumPy goes on answering.
    """
    with _lock:
        if _loaded:
            return
        try:
            from grey_current.air import kernel  # noqa: PLC0415 - numba takes a third of a second to import
        except ImportError:
            return
        _try(kernel.solve_cases)
        _loaded.append(kernel.solve_cases)


def load_beside() -> threading.Thread:
    """`load` in a thread of its own; answers the thread."""
    thread = threading.Thread(target=load, name="kernel", daemon=True)
    thread.start()
    return thread


def _try(solve: SolveCases) -> None:
    """Solve one branch, which makes numba load or make the machine code."""
    curve = fan.curve_from_points([(0.0, 1000.0), (0.5, 0.0)])
    given: list[laws.Law] = [
        laws.Fan(curve),
        laws.Friction(1.0, 0.1, 1e-4),
        laws.Gate(0.3, 1e4, 0.1, 0),
        laws.Wye(False, 45.0, 0.1, 0.1, 0.1),
        laws.DuctLeakage(1e-3),
    ]
    table = tables.packed(given, [0] * len(given), 1, Air(1.2, 1.8e-5))
    one = np.ones(1)
    solve(
        table,
        np.array([-1]),
        np.array([True]),
        np.ones((1, 1), dtype=np.bool_),
        one,
        one,
        np.array([1000.0, 0.5, 1000.0]),
        np.zeros((1, 1)),
        False,
        np.zeros(1),
        np.zeros(1, dtype=np.int64),
    )


if __name__ == "__main__":
    load()
