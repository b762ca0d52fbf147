"""A machine that blows its chips with its own fan into a bag of its own: what air that gives."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from grey_current.air import laws
from grey_current.air.gas import Air
from grey_current.air.network import Branch, Network
from grey_current.air.solver import solve
from grey_current.design.flow import fittings as make
from grey_current.shop.catalogue import catalogue, materials
from grey_current.shop.machines import Pickup

# m of hose from its outlet to the bag, and m that the two are apart; m² of the bag. Allowances.
HOSE, APART, CLOTH = 2.5, 1.8, 0.5


@lru_cache(maxsize=256)
def own_bag_airflow(ref: str, pickup: Pickup, air: Air) -> float:
    """Airflow (m³/s) of a pickup's own fan through a hose into a seasoned cloth bag; nothing where
    it has no such fan.

    Worked out as a small system of its own: intake, port, hose, fan, bag. Raises nothing.
    """
    if pickup.own_fan is None:
        return 0.0
    machine = ref.split("/", maxsplit=1)[0]
    ribbed = materials()["ribbed-hose"].roughness
    # Cloth as that of the smallest collector's bag, of another size.
    bag = next(m.filter for m in catalogue().collectors if m.filter.kind == "bag")
    cloth = bag.replaced(
        area=CLOTH, resistance=bag.resistance * bag.area / CLOTH, loading=bag.seasoned
    )
    pieces = (
        *make.pickup(ref, machine, pickup.replaced(own_fan=None), air),
        make.straight(
            "hose", machine, HOSE, pickup.port, ribbed, hose=True, rises=False, forward=True
        ),
        make.hose_bends(machine, HOSE, APART, pickup.port, ribbed),
        make.fan_piece("own-fan", make.fan_curve(pickup.own_fan, air), pickup.port),
        make.filter_piece("own-bag", cloth, pickup.port),
    )
    network = Network("own-bag", (Branch(pieces, -1, (machine, pickup.id)),), (), air, ())
    solved = solve(network, laws.cases(np.ones((1, 0), dtype=bool)))
    return float(solved.flow[0, 0]) if bool(solved.converged[0]) else 0.0
