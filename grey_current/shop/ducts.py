"""The ductwork as drawn: points, runs between them, gates on them."""

from __future__ import annotations

import itertools
from collections.abc import Iterable
from typing import Annotated, Literal

from pydantic import Field

from grey_current.shop.build_plan import PhaseNumber
from grey_current.shop.values import Bore, Height, Id, Name, Place, Ref, Share, Size, Value


class Point(Value):
    """A place that ducts pass or end at. What stands there is inferred; the rest overrides it."""

    id: Id
    x: Place
    y: Place
    height: Height
    # What a run that ends here has on its end.
    end: Literal["open", "cap"] = "open"
    elbow: Literal["smooth", "five gores", "three gores", "mitre", "two 45s"] = "smooth"
    # Centre-line radius of an elbow here over its diameter.
    radius_ratio: Annotated[float, Field(ge=0.5, le=10)] = 1.5
    reducer: Literal["taper", "step"] = "taper"
    # Angle of a wye here; None reads it off the drawing.
    wye_angle: Annotated[float, Field(ge=15, le=90)] | None = None
    # A box that joins two pipes into one, instead of a wye.
    splitter: bool = False
    # Kept as it is when ducts are laid by computation.
    pinned: bool = False


class Run(Value):
    """A straight length of duct, or a hose, between two ends."""

    id: Id
    start: Ref
    end: Ref
    diameter: Bore
    material: Name
    # A hose's own length (m); None, and any rigid duct, is as long as the way between its ends.
    length: Size | None = None
    # m over the floor of the hook, rail or arm that a hose hangs from; None: it lies as it will.
    hung: Height | None = None
    # Runs of one such name are the very same hose, plugged in at one port or another.
    one_hose: Annotated[str, Field(min_length=1, max_length=60)] | None = None
    # Other pickups that this hose's start is moved to.
    also_serves: tuple[Ref, ...] = ()
    # How a moved hose is fastened: a hose clamp, or a connector that pushes on.
    coupling: Literal["clamp", "quick"] = "clamp"
    # The user's own time for moving it once; None takes the usual time for its coupling.
    swap_seconds: Annotated[float, Field(gt=0, le=3600, description="s")] | None = None
    # Kept as it is when ducts are laid by computation.
    pinned: bool = False
    # When it is built; None: as soon as a machine that it serves comes.
    phase: PhaseNumber | None = None

    @property
    def ends(self) -> tuple[Ref, Ref]:
        """Its two ends as it rests."""
        return self.start, self.end

    @property
    def serves(self) -> tuple[Ref, ...]:
        """Every place that its start may be at: where it rests, then where it is moved to."""
        return self.start, *self.also_serves

    @property
    def touches(self) -> tuple[Ref, ...]:
        """Every end that it has at some time."""
        return self.start, self.end, *self.also_serves


def ends_of(runs: Iterable[Run]) -> set[Ref]:
    """The ends of several runs as they rest."""
    return set(itertools.chain.from_iterable(run.ends for run in runs))


class Gate(Value):
    """A blast gate on a run, at a share of the way from the run's start."""

    id: Id
    run: Id
    at: Share = 0.5
    rule: Literal["with its machine", "left open", "kept shut"] = "with its machine"
    # Machines for which it is opened too, on purpose: their chips need the air in the main.
    also_open_for: Annotated[tuple[Id, ...], Field(max_length=400)] = ()
    # Free share of the bore when open.
    opening: Annotated[float, Field(ge=0.05, le=1, description="share")] = 1.0
    bore: Literal["full bore", "stepped"] = "stepped"
    # Share of the bore through which the shut gate leaks.
    leak: Annotated[float, Field(ge=0, le=0.2, description="share")] = 0.005
