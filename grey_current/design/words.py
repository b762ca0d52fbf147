"""Plain words for pieces and states, shared by the verdict, the findings, the desk and the
reports.
"""

from __future__ import annotations

from grey_current.air import pieces
from grey_current.air.needs import MET_FROM, NEARLY, SETTLES_BELOW
from grey_current.air.pieces import Piece
from grey_current.shop.catalogue import materials
from grey_current.shop.model import Project
from grey_current.spelling import spelled
from grey_current.units import Display

# Share of its need under which a pickup is starved rather than short. Allowance.
STARVED_BELOW = 0.75

_PLAIN = {
    "mitre": "mitred elbow",
    "wye_branch": "branch of the wye",
    "wye_main": "straight leg of the wye",
    "expansion": "widening",
    "contraction": "narrowing",
    "splitter": "splitter box",
    "seam": "duct leakage",
    "inlet_disturbance": "turn close to the inlet",
    "separator": "separator",
    "return_opening": "opening that the air comes back through",
    "filter": "filter",
    "fan": "fan",
    "hose_bend": "bends of the hose",
}


def state_word(share: float) -> str:
    """One word for an airflow that is this share of its need: good, nearly, short or starved."""
    if share >= MET_FROM:
        return "good"
    if share >= NEARLY:
        return "nearly"
    return "short" if share >= STARVED_BELOW else "starved"


def transport_word(share: float) -> str:
    """One word for a velocity that is this share of the transport velocity."""
    if share >= MET_FROM:
        return "carries"
    return "may settle" if share >= SETTLES_BELOW else "settles"


def piece_words(project: Project, piece: Piece, display: Display, is_open: bool = True) -> str:
    """What a piece is, with its size: "1.2 m of ribbed hose", "90° elbow, 6 in"."""
    size = display.diameter(piece.diameter)
    if isinstance(piece, pieces.Straight):
        material = materials()[project.run[piece.source_id].material].label.split(",")[0].lower()
        return f"{display.about(piece.length)} of {size} {material}"
    if isinstance(piece, pieces.CollectorHose):
        return f"{display.about(piece.length)} of {size} hose between fan and {piece.to}"
    if isinstance(piece, pieces.BlastGate):
        return f"blast gate, {size}" if is_open else f"shut gate's leak, {size}"
    if isinstance(piece, pieces.Cap):
        return f"cap, {size}"
    if isinstance(piece, pieces.Elbow):
        return f"{piece.angle:.0f}° elbow, {size}"
    if isinstance(piece, pieces.Intake):
        return f"the {machine_name(project, piece)}'s own intake"
    if isinstance(piece, pieces.Entry):
        if piece.source_id in project.point:
            return f"open pipe end, {size}"
        return f"port opening, {size}"
    if isinstance(piece, pieces.SizeChange):
        small, large = display.diameter(piece.small), display.diameter(piece.large)
        return f"{_PLAIN[piece.kind]}, {small} and {large}"
    if isinstance(piece, pieces.Spacing):
        return "fitting too close to the one before"
    return spelled(_PLAIN.get(piece.kind, piece.kind), display.system)


def machine_name(project: Project, piece: Piece) -> str:
    """The name of the machine that an intake belongs to, as it stands inside a sentence."""
    return project.machine[piece.source_id].name.lower()


def how_many_get(count: int, of: int) -> str:
    """The beginning of a sentence: "3 of 4 machines get"; of one machine whether it does."""
    if of == 1:
        return "The one machine gets" if count else "The one machine does not get"
    return f"{count} of {of} machines get"


def served_words(met: int, served: int, asked: int) -> str:
    """How many machines get the air that they need, and how many of those have their chips carried
    too.
    """
    carried = f", chips carried for {served}" if served < met else ""
    return f"air enough for {met} of {asked}{carried}"
