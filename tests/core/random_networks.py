"""Random ducted shops by seed, wilder than anybody builds: for the solver's tests and bench/."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from grey_current.air import fan, fittings, laws
from grey_current.air.gas import air_at
from grey_current.air.network import Branch, Network
from grey_current.air.pieces import Piece
from grey_current.air.solver import Solved, solve

BORES = (0.05, 0.063, 0.076, 0.1, 0.125, 0.15, 0.2)


@dataclass(frozen=True)
class RandomShop:
    """A network, and some settings of its gates and own fans, (scenario, switch)."""

    network: Network
    rows: np.ndarray


def piece(law: laws.Law, bore: float) -> Piece:
    return Piece("x", "x", law, bore)


def random_curve(rng: np.random.Generator) -> fan.FanCurve:
    """A fan's curve: most fall all the way, some have a hump, some a gap."""
    shut, free = rng.uniform(300, 5000), rng.uniform(0.03, 1.2)
    x = np.linspace(0, 1, int(rng.integers(3, 9)))
    p = shut * (1 - x ** rng.uniform(1.2, 3.0))
    if rng.random() < 0.25:
        p[1:-1] *= rng.uniform(0.8, 1.25, len(x) - 2)
    p[-1] = min(p[-1], p[-2] * 0.5)
    return fan.curve_from_points([(free * q, max(v, 0.0)) for q, v in zip(x, p, strict=True)])


def random_shop(seed: int, most: int = 60) -> RandomShop:
    """A shop of 1 to `most` pickups and four settings of its gates."""
    rng = np.random.default_rng(seed)
    pickups = int(rng.integers(1, most + 1))
    main = float(rng.choice(BORES[3:]))
    root = [
        piece(laws.Friction(rng.uniform(0.3, 6), main, 9e-5), main),
        piece(laws.Fan(random_curve(rng)), main),
    ]
    root.append(piece(laws.FilterMedium(rng.uniform(50, 5000)), main))
    if rng.random() < 0.5:
        root.append(piece(laws.QuadraticLoss(rng.uniform(500, 6000)), main))
    own = [n for n in range(pickups) if rng.random() < 0.12]
    branches, gates, joins = [Branch(tuple(root), -1)], 0, [0]
    for number in range(pickups):
        bore = float(rng.choice([b for b in BORES if b <= main]))
        leaf = [piece(laws.Constant(rng.uniform(0.3, 12), bore), bore)]
        if number in own:
            switch = pickups + own.index(number)
            leaf.append(piece(laws.MachineFan(random_curve(rng), 3.0, bore, switch), bore))
        leak = float(rng.choice([1e-6, 0.001, 0.005, 0.02]))
        leaf.append(piece(laws.Gate(0.35, fittings.leak(leak), bore, gates), bore))
        gates += 1
        rough = float(rng.choice([3e-5, 9e-5, 1.5e-3, 3e-3]))
        leaf.append(piece(laws.Friction(rng.uniform(0.2, 9), bore, rough), bore))
        leaf.append(piece(laws.Constant(rng.uniform(0, 3), bore), bore))
        last = number == pickups - 1
        at = joins[-1] if rng.random() < 0.8 or last else int(rng.choice(joins))
        angle = float(rng.choice([30, 45, 60, 90]))
        if pickups > 1 and not (last and at == joins[-1] and len(joins) == 1 and pickups == 1):
            leaf.append(piece(laws.Wye(False, angle, bore, main, bore), bore))
        branches.append(Branch(tuple(leaf), at, ("m", str(number))))
        if not last and at == joins[-1]:
            onward = [piece(laws.Friction(rng.uniform(0.1, 4), main, 9e-5), main)]
            onward.append(piece(laws.Wye(True, angle, bore, main, main), main))
            branches.append(Branch(tuple(onward), at))
            joins.append(len(branches) - 1)
    network = Network(
        "c",
        tuple(branches),
        tuple(map(str, range(gates))),
        air_at(),
        tuple(("m", str(n)) for n in own),
    )
    rows = rng.random((4, pickups + len(own))) < rng.choice([0.05, 0.2, 0.6])
    rows[0, :pickups] = False
    rows[0, int(rng.integers(0, pickups))] = True
    return RandomShop(network, rows)


def solved(seed: int) -> Solved:
    """A random shop's answer."""
    shop = random_shop(seed)
    return solve(shop.network, laws.cases(shop.rows))
