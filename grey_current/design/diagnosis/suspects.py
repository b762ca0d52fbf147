"""What is out of the ordinary in a shop: one rule a cause, each with the changes that cure it.

A rule looks at how the shop is made, not at what it costs in air: that is computed afterwards, for
every suspect alike (`diagnose.py`).
"""

from __future__ import annotations

from grey_current.design.diagnosis import (
    collector_suspects,
    duct_suspects,
    gate_suspects,
    machine_suspects,
)
from grey_current.design.diagnosis.scene import Rule

RULES: tuple[Rule, ...] = (
    duct_suspects.not_connected,
    duct_suspects.open_ends,
    gate_suspects.no_gates,
    gate_suspects.gates_set_wrong,
    gate_suspects.leaky_gates,
    collector_suspects.separators,
    collector_suspects.filters,
    collector_suspects.way_back,
    collector_suspects.collector_kinds,
    collector_suspects.inlets,
    duct_suspects.mains,
    duct_suspects.branches,
    duct_suspects.hoses,
    duct_suspects.leaking_ducts,
    duct_suspects.winding_ways,
    machine_suspects.ports,
    machine_suspects.intakes,
    machine_suspects.own_fans,
    machine_suspects.sets_together,
    machine_suspects.many_pickups,
    machine_suspects.small_ports_on_ducts,
    machine_suspects.far_machines,
    collector_suspects.far_collectors,
    collector_suspects.through_the_fan,
)
