"""The air report: every piece, loss and pressure of every scenario as plain data, complete enough
to be recomputed by an independent program. docs/air-report.md describes it.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from grey_current.air import laws, pieces
from grey_current.air.fan import FanCurve
from grey_current.air.pieces import Piece
from grey_current.design.collector.make_up_air import depression
from grey_current.design.flow.assessment import Assessment, ScenarioAir, System

FORMAT = "grey-current/air/1"
CURVE_STEPS = 60

# What each kind of piece was made from, under the names that the report gives it.
_GEOMETRY: tuple[tuple[type[pieces.Piece], dict[str, str]], ...] = (
    (pieces.Straight, {"length": "length_m", "roughness": "roughness_m"}),
    (pieces.CollectorHose, {"length": "length_m", "roughness": "roughness_m"}),
    (
        pieces.HoseBend,
        {
            "count": "count",
            "radius_ratio": "radius_ratio",
            "roughness": "roughness_m",
            "friction_factor": "friction_factor",
        },
    ),
    (
        pieces.Elbow,
        {
            "angle": "angle_deg",
            "radius_ratio": "radius_ratio",
            "construction": "construction",
            "friction_factor": "friction_factor",
        },
    ),
    (pieces.Mitre, {"angle": "angle_deg"}),
    (
        pieces.SizeChange,
        {
            "small": "diameter_small_m",
            "large": "diameter_large_m",
            "angle": "angle_deg",
            "friction_factor": "friction_factor",
        },
    ),
    (
        pieces.WyeLeg,
        {"angle": "angle_deg", "combined": "combined_diameter_m", "other": "other_diameter_m"},
    ),
    (pieces.Splitter, {"small": "diameter_small_m", "large": "diameter_large_m"}),
    (
        pieces.BlastGate,
        {"construction": "construction", "opening": "opening", "leak_share": "leak_share"},
    ),
    (pieces.Cap, {"leak_share": "leak_share"}),
    (pieces.Entry, {"construction": "construction"}),
    (pieces.Intake, {"free_area": "free_area_m2"}),
    (pieces.ReturnOpening, {"free_area": "free_area_m2"}),
    (pieces.Leakage, {"capacity": "leak_capacity"}),
    (pieces.Spacing, {"gap": "length_m"}),
    (pieces.InletDisturbance, {"gap": "length_m"}),
)


def air_report(assessment: Assessment) -> dict[str, Any]:
    """The whole report, SI units, finite numbers only; a scenario without an answer carries no
    figures.
    """
    return {
        "format": FORMAT,
        "air": {
            "density_kg_m3": assessment.air.density,
            "viscosity_pa_s": assessment.air.viscosity,
        },
        "uses": [_scenario(assessment, answer) for answer in assessment.answers],
    }


def _scenario(assessment: Assessment, answer: ScenarioAir) -> dict[str, Any]:
    systems = list(answer.systems.items()) if answer.converged else []
    return {
        "name": answer.scenario.name(assessment.project),
        "running": list(answer.scenario.running),
        "converged": answer.converged,
        "shop_depression_pa": depression(assessment.project, answer, assessment.air)
        if answer.converged
        else None,
        "collectors": [_collector(ident, system) for ident, system in systems],
        "pickups": [
            {
                "machine": p.machine,
                "pickup": p.pickup,
                "need_m3_s": p.need.airflow,
                "airflow_m3_s": p.airflow,
                "met": p.met,
            }
            for p in answer.pickups
            if answer.converged
        ],
        "nodes": [
            {"id": node, "total_pressure_pa": pressure}
            for node, pressure in _nodes(systems).items()
        ],
        "pieces": [
            _piece(system, index) for _, system in systems for index in range(len(system.losses))
        ],
    }


def _collector(ident: str, system: System) -> dict[str, Any]:
    law = system.network.pieces[system.fan_piece].law
    assert isinstance(law, laws.Fan)
    return {
        "id": ident,
        "airflow_m3_s": system.airflow,
        "fan_static_pressure_pa": system.fan_static,
        "inlet_static_pressure_pa": system.inlet_static,
        "curve": _curve(law.curve),
    }


def _curve(curve: FanCurve) -> list[list[float]]:
    """The curve so finely that straight lines between its points say the same."""
    knots = [q for q, _ in curve.points]
    flow = np.unique(np.concatenate([np.linspace(0, knots[-1], CURVE_STEPS), knots]))
    return [[float(q), float(p)] for q, p in zip(flow, curve.pressure(flow)[0], strict=True)]


def _nodes(systems: list[tuple[str, System]]) -> dict[str, float]:
    nodes: dict[str, float] = {"room": 0.0} if systems else {}
    for _, system in systems:
        row = system.row
        for index, (start, end) in enumerate(system.network.nodes):
            for node, table in ((start, system.solved.before), (end, system.solved.after)):
                if node != "room":
                    nodes[node] = float(table[row, index])
    return nodes


def _piece(system: System, index: int) -> dict[str, Any]:
    piece = system.network.pieces[index]
    start, end = system.network.nodes[index]
    shut = isinstance(piece, pieces.BlastGate) and not system.gate_open(piece)
    loss = system.losses[index]
    kind = piece.kind
    if shut:
        kind = "leak"
    elif _stands(system, piece):
        kind = "standing_fan"
    entry: dict[str, Any] = {
        "id": piece.id,
        "of": piece.source_id,
        "kind": kind,
        "from": start,
        "to": end,
        "diameter_m": piece.diameter,
    }
    entry |= _geometry(piece)
    if shut:
        entry.pop("opening")
    entry["airflow_m3_s"] = system.airflows[index]
    entry["velocity_m_s"] = system.velocity(index)
    entry.update(_coefficient(system, index, piece, loss, shut))
    entry["total_pressure_loss_pa"] = loss
    if piece.allowance:
        entry["allowance"] = True
    if isinstance(piece, pieces.WyeLeg) and (piece.outside_data or system.runs_backward(index)):
        entry["outside_data"] = True
    return entry


def _stands(system: System, piece: Piece) -> bool:
    """Whether a piece is a machine's own fan that does not run."""
    return isinstance(piece.law, laws.MachineFan) and not system.runs(piece.law)


def _coefficient(
    system: System, index: int, piece: Piece, loss: float, shut: bool
) -> dict[str, Any]:
    law = piece.law
    density = system.network.air.density
    if isinstance(law, laws.FilterMedium):
        return {"resistance_pa_s_m3": law.resistance}
    if isinstance(law, laws.QuadraticLoss):
        return {"resistance_pa_s2_m6": law.coefficient * density / 1.2014}
    if isinstance(law, laws.Fan) or (isinstance(law, laws.MachineFan) and system.runs(law)):
        return {"curve": _curve(law.curve)}
    if isinstance(law, laws.DuctLeakage):
        return {}
    if isinstance(law, laws.Friction):
        dynamic = density / 2 * system.velocity(index) ** 2
        k = abs(loss) / dynamic if dynamic > 0 else 0.0
    elif isinstance(law, laws.Wye):
        k = float(system.solved.wye_coefficients[system.row, index])
    elif isinstance(law, laws.Gate):
        k = law.shut_k if shut else law.open_k
    elif isinstance(law, laws.MachineFan):
        k = law.standing_k
    else:
        k = law.k
    return {"loss_coefficient": k, "coefficient_on": _coefficient_on(piece)}


def _geometry(piece: Piece) -> dict[str, Any]:
    """What a piece was made from; what does not apply is left out."""
    fields = next((fields for kind, fields in _GEOMETRY if isinstance(piece, kind)), {})
    found = {key: getattr(piece, name) for name, key in fields.items()}
    if isinstance(piece, pieces.Mitre):
        found["construction"] = "mitre"
    elif isinstance(piece, pieces.HoseBend):
        found["angle_deg"] = 90.0
    elif isinstance(piece, pieces.SizeChange):
        found["construction"] = "step" if piece.sudden else "taper"
    return {key: value for key, value in found.items() if value is not None}


def _coefficient_on(piece: Piece) -> str:
    """The field whose velocity pressure a piece's K counts on."""
    if isinstance(piece, pieces.WyeLeg):
        return "combined_diameter_m"
    if isinstance(piece, pieces.SizeChange | pieces.Splitter):
        return "diameter_small_m"
    by_area = isinstance(piece, pieces.ReturnOpening) or (
        isinstance(piece, pieces.Intake) and piece.free_area is not None
    )
    return "free_area_m2" if by_area else "diameter_m"
