"""Dust in the air of rooms: well-mixed rooms joined by airflows, solved exactly from one change to
the next.

In every room V dC/dt = S + Σ Q_in C_from − (Q_out + λ V + k) C: what is made, what other rooms
send, what goes out, settles and is filtered. Between two changes all of it is constant, so the
answer is a matrix exponential; what settled, was filtered and went out is integrated in the same
exponential, so that mass is kept to rounding.

Source: Nazaroff and Cass, Mathematical modeling of indoor aerosol dynamics, Environ. Sci. Technol.
23, 1989 (well-mixed rooms); Moler and Van Loan, Nineteen dubious ways to compute the exponential of
a matrix, 2003.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
# 1/s; more than 3,600 changes an hour is no room.
MOST_RATE = 1.0


@dataclass(frozen=True)
class RoomAir:
    """One constant stretch for some rooms.

    `volumes` (m³) and `made` (mg/s) by room; `exchange` (m³/s) from room i to room j; `out` (m³/s)
    to outdoors; `settling` (m³/s, velocity times floor) and `filtered` (m³/s of clean air by
    cleaners and by what comes back clean).
    """

    seconds: float
    volumes: tuple[float, ...]
    made: tuple[float, ...]
    exchange: tuple[tuple[float, ...], ...]
    out: tuple[float, ...]
    settling: tuple[float, ...]
    filtered: tuple[float, ...]


@dataclass(frozen=True)
class RoomCourse:
    """What came of it: times (s), dust in the air (mg/m³) by time and room, and the masses (mg) at
    the end.

    `sinks` has a row each for what settled, was filtered and went out, a column a room; `made` what
    was made in all.
    """

    times: Array
    dust: Array
    sinks: Array
    made: float
    left: float

    @property
    def balance(self) -> float:
        """What was made less what became of it (mg): 0 but for rounding."""
        return self.made - self.left - float(self.sinks.sum())


def rates(air: RoomAir) -> tuple[Array, Array, Array]:
    """The matrix A and vector b of dC/dt = A C + b (1/s, mg/m³ s), and the sinks' rates (m³/s),
    shape (3, room).

    Raises `ValueError` for a volume of nothing or a rate that no room has.
    """
    volumes = np.array(air.volumes)
    if (volumes <= 0).any() or not np.isfinite(volumes).all():
        raise ValueError("a room has no volume")
    exchange = np.array(air.exchange, dtype=float).reshape(len(volumes), len(volumes))
    sinks = np.array([air.settling, air.filtered, air.out], dtype=float)
    # What leaves a room goes to another one, settles, is filtered or goes out.
    leaving = exchange.sum(axis=1) + sinks.sum(axis=0)
    if (leaving / volumes > MOST_RATE).any():
        raise ValueError("a room's air cannot be changed so often")
    matrix = (exchange.T - np.diag(leaving)) / volumes[:, None]
    return matrix, np.array(air.made) / volumes, sinks


def course(stretches: Sequence[RoomAir], start: Sequence[float], step: float = 60.0) -> RoomCourse:
    """The dust from one stretch to the next, told about every `step` s and at every change.

    `start` is what hangs in the air of each room at first (mg/m³). Raises as `rates`.
    """
    rooms = len(start)
    # The dust in each room, then what each sink has taken, then a 1 that carries what is made.
    state = np.concatenate([np.array(start, dtype=float), np.zeros(3 * rooms), [1.0]])
    times, dust, now, made = [0.0], [state[:rooms].copy()], 0.0, 0.0
    for air in stretches:
        if air.seconds <= 0:
            continue
        count = max(math.ceil(air.seconds / step), 1)
        # The exact solution over a step, so that the step's length does not matter.
        onward = _exponential(air, air.seconds / count)
        for _ in range(count):
            state = onward @ state
            now += air.seconds / count
            times.append(now)
            dust.append(state[:rooms].copy())
        made += sum(air.made) * air.seconds
    volumes = np.array(stretches[0].volumes) if stretches else np.ones(rooms)
    held = float((np.array(start) * volumes).sum())
    left = float((state[:rooms] * volumes).sum())
    return RoomCourse(
        np.array(times), np.array(dust), state[rooms:-1].reshape(3, rooms), made + held, left
    )


def course_in_parts(
    stretches: Sequence[RoomAir], made: Sequence[Array], step: float = 60.0
) -> Array:
    """The dust (mg/m³) that each of several sources put into the air, shape (times, rooms, parts).

    `made` is what each source makes in each stretch, mg/s, shape (rooms, parts). Rooms are clean at
    first and the answer is linear in what is made, so that the parts add up to the `course` of the
    whole, at the same times. Raises as `rates`.
    """
    from scipy.linalg import expm  # noqa: PLC0415 - slow to load

    state = np.zeros_like(made[0])
    found = [state]
    for air, source in zip(stretches, made, strict=True):
        matrix, _, _ = rates(air)
        rooms = len(matrix)
        count = max(math.ceil(air.seconds / step), 1)
        # One exponential has both: what becomes of the dust, and what a source of 1 comes to.
        whole = np.zeros((2 * rooms, 2 * rooms))
        whole[:rooms, :rooms], whole[:rooms, rooms:] = matrix, np.eye(rooms)
        onward = expm(whole * (air.seconds / count))
        more = onward[:rooms, rooms:] @ (source / np.array(air.volumes)[:, None])
        for _ in range(count):
            state = onward[:rooms, :rooms] @ state + more
            found.append(state)
    return np.array(found)


def _exponential(air: RoomAir, seconds: float) -> Array:
    """The step of (dust, sinks, 1) over so many seconds."""
    from scipy.linalg import expm  # noqa: PLC0415 - slow to load

    matrix, source, sinks = rates(air)
    rooms = len(source)
    whole = np.zeros((4 * rooms + 1, 4 * rooms + 1))
    whole[:rooms, :rooms], whole[:rooms, -1] = matrix, source
    for row in range(3):
        whole[rooms * (row + 1) : rooms * (row + 2), :rooms] = np.diag(sinks[row])
    made: Array = expm(whole * seconds)
    return made


def seconds_until(
    air: RoomAir, start: Sequence[float], share: float, room: int, most: float = 86_400.0
) -> float:
    """How long (s) a room's dust takes to fall to a share of what it is; infinite when it does not
    within `most` s.

    Raises as `rates`. Found by doubling and halving the time of the exact answer.
    """
    first = start[room]
    if first <= 0:
        return 0.0

    def after(seconds: float) -> float:
        onward = _exponential(air, seconds)
        state = np.concatenate([np.array(start, dtype=float), np.zeros(3 * len(start)), [1.0]])
        return float((onward @ state)[room])

    # Twice as long until it is enough, then by halving.
    high = 60.0
    while after(high) > share * first:
        high *= 2
        if high > most:
            return math.inf
    low = 0.0
    for _ in range(40):
        middle = (low + high) / 2
        low, high = (middle, high) if after(middle) > share * first else (low, middle)
    return high
