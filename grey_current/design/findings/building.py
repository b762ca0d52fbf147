"""What keeps the ducts from being built as drawn: no room for pipe, pieces too short or cut
otherwise, phases.
"""

from __future__ import annotations

from collections.abc import Iterator

from grey_current.design.findings.finding import Finding, Found, Inspection
from grey_current.design.parts.joint_words import misfit_words, sold_words, unsold_words
from grey_current.design.parts.make_room import with_room
from grey_current.design.parts.phase_order import Hanging, hanging
from grey_current.design.parts.straights import CUT_WITHIN, Straight, straights_of
from grey_current.design.parts.takeoffs import Joints
from grey_current.shop.build_edits import with_phase_of
from grey_current.shop.build_plan import CutPiece
from grey_current.shop.catalogue import materials
from grey_current.shop.edits import Change, Edit
from grey_current.shop.fitting_sizes import stock_lengths
from grey_current.shop.names import Names


def room_for_pipe(inspection: Inspection) -> Found:
    """Fittings that are too long for the way between them, pieces too short for their two joints,
    joints that cannot be put together, fittings that are not sold.
    """
    project = inspection.project
    cut_ones = {item.piece: item for item in project.build.cut}
    joints = Joints(project)
    yield None
    for run in project.runs:
        if not materials()[run.material].hose:
            for piece in straights_of(project, joints, run):
                yield from _room_for_piece(inspection, piece, cut_ones.get(piece.id))
            yield None
    for misfit in joints.misfits:
        yield Finding(
            "no-joint-room",
            "fault",
            misfit.point,
            misfit_words(misfit, inspection.names, inspection.display),
            remedies=(
                f"Bring one of its branches in {inspection.display.about(misfit.by)} further along "
                "the main, or turn it so that an elbow brings it round.",
            ),
            value=misfit.by,
        )
    for unsold in joints.unsold:
        yield Finding(
            "unsold-fitting",
            "warning",
            unsold.element,
            unsold_words(unsold, inspection.names),
            remedies=(f"Turn it to one of these: {sold_words(unsold)}.",),
            value=unsold.angle,
        )


def _room_for_piece(
    inspection: Inspection, piece: Straight, cut: CutPiece | None
) -> Iterator[Finding]:
    names, display = inspection.names, inspection.display
    between = _between(inspection, piece)
    # Fittings that overlap are a fault; a piece too short for its joints is a warning.
    if not piece.fits:
        yield Finding(
            "no-pipe-room",
            "fault",
            piece.run,
            f"{names.start(piece.run)} has no room for pipe between {between}: they are "
            f"{display.length(-piece.free)} too long together.",
            remedies=(
                f"Move them {display.about(piece.least - piece.length)} apart, or take tighter "
                "elbows.",
            ),
            fixes=(_make_room(piece),),
            value=piece.free,
        )
    elif piece.is_pipe and not piece.long_enough:
        yield Finding(
            "short-piece",
            "warning",
            piece.run,
            f"The piece between {between} would be {display.length(piece.length)} long; its "
            "joints want "
            f"{display.length(piece.least)}.",
            remedies=(
                f"Move them {display.about(piece.least - piece.length)} apart, or join the "
                "fittings directly.",
            ),
            fixes=(_make_room(piece),),
            value=piece.length,
            limit=piece.least,
        )
    # What was cut by an earlier drawing no longer fits.
    if cut is not None and abs(cut.length - piece.length) > CUT_WITHIN:
        yield Finding(
            "cut-otherwise",
            "warning",
            piece.run,
            f"A piece of {names.of(piece.run)} is cut to {display.length(cut.length)}, and now "
            "wants "
            f"{display.length(piece.length)}.",
            remedies=("Cut another one, or undo what moved it.",),
            value=cut.length,
            limit=piece.length,
        )


def _make_room(piece: Straight) -> Change:
    return Change("Make room", piece.run, lambda project: with_room(project, piece.id))


def _between(inspection: Inspection, piece: Straight) -> str:
    ends = [inspection.names.of(element) if element else "a coupling" for element in piece.between]
    return two_of(ends[0]) if len(ends) > 1 and len(set(ends)) == 1 else " and ".join(ends)


def two_of(name: str) -> str:
    """Two things of one name: "two elbows in the planer's branch", "the saw's two gates"."""
    what, inside, where = name.partition(" in ")
    owner, of, thing = what.rpartition("'s ")
    thing = thing.removeprefix("the ").removeprefix("a ")
    return f"{owner}{of}two {thing}s{inside}{where}"


def pipe_in_stock(inspection: Inspection) -> Found:
    """Pipe for which no length is entered that one can buy."""
    seen: set[tuple[str, float]] = set()
    for run in inspection.project.runs:
        key = (run.material, round(run.diameter, 4))
        # One finding for each kind of pipe, at the first run of it.
        if materials()[run.material].hose or key in seen:
            continue
        seen.add(key)
        if not stock_lengths(inspection.project, *key):
            yield Finding(
                "no-stock",
                "warning",
                run.id,
                f"{materials()[run.material].label}, "
                f"{inspection.display.diameter(run.diameter)}: no length to buy it "
                "in is entered.",
                remedies=("Enter one at Build.",),
            )


def hangs_on_nothing(inspection: Inspection) -> Found:
    """Ducts that would be built before what carries their air on."""
    names = inspection.names
    for found in hanging(inspection.project):
        yield Finding(
            "hangs-on-nothing",
            "warning",
            found.run,
            f"{names.start(found.run)} is built in phase {found.phase} and is not connected to "
            "anything: "
            f"{names.of(found.waits_for)} comes in phase {found.later}.",
            remedies=(f"{_brought_forward(found, names)}.",),
            fixes=(Change(_brought_forward(found, names), found.waits_for, _brings(found)),),
            also=(found.waits_for,),
        )


def _brought_forward(found: Hanging, names: Names) -> str:
    return f"Put {names.of(found.waits_for)} into phase {found.phase} too"


def _brings(found: Hanging) -> Edit:
    return lambda project: with_phase_of(project, (found.waits_for,), found.phase)


RULES = (room_for_pipe, pipe_in_stock, hangs_on_nothing)
