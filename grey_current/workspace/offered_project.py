"""An open project with what the search offers for it: asked for, pointed at, taken or put away."""

from __future__ import annotations

from dataclasses import replace

from grey_current.errors import RefusedEdit
from grey_current.shop.model import Project
from grey_current.workspace.offering import STEPS, Offer, OfferKind, OfferRequest, OfferRow, took
from grey_current.workspace.open_project import OpenProject
from grey_current.workspace.placing import Placeable

# Stages at which an offer of the search stays open.
LAYING_STAGES = ("collector", "air", "gates")


class OfferedProject(OpenProject):
    """A project that is worked on, and the search's offer for it."""

    # The stage that it is looked at from.
    stage: str

    def _begin_with(self, project: Project) -> None:
        super()._begin_with(project)
        # What a click on the floor puts down.
        self.placing: Placeable | None = None
        # What the search was asked to lay, size or place.
        self.asked: OfferRequest | None = None
        # The kept design that the present one is compared with, by id.
        self.compared: str | None = None
        # Whether the strip's own offer to lay ducts was put away in this shop.
        self.put_off = False

    def ask_for(self, kind: OfferKind, collector: str = "") -> None:
        """Ask the search for layouts, sizes or places; its answer comes from the background.

        Raises `RefusedEdit` when there is no collector to lay ducts to, or nothing to connect or to
        size.
        """
        if not self.project.collectors:
            raise RefusedEdit(
                "the ducts", "laying them without a collector", "put a collector in first (stage 3)"
            )
        if self.stage not in LAYING_STAGES:
            self.stage = "air"
        self.placing, self.asked = None, OfferRequest(kind, collector)
        self.selected = ()
        self._tell(look=True, selection=True)

    @property
    def waiting(self) -> int:
        """How many pickups wait without a duct; what a moved hose leaves open waits for none."""
        answers = self.assessment.counted.answers
        loose = set()
        for answer in answers:
            loose |= {f"{p.machine}/{p.pickup}" for p in answer.pickups if p.loose}
        return len(loose - self.project.moved_to)

    @property
    def offers_to_lay(self) -> bool:
        """Whether the strip offers to lay ducts: at the Air stage, while machines wait and nothing
        is looked at.
        """
        idle = not self.selected and not self.running and self.placing is None
        return (
            self.stage == "air"
            and idle
            and not self.put_off
            and bool(self.project.collectors)
            and bool(self.waiting)
        )

    @property
    def offer(self) -> Offer | None:
        """What is offered of what was asked for; None when nothing was."""
        if self.asked is None:
            return None
        return self.computed.offer(self.asked)

    @property
    def pointed_row(self) -> OfferRow | None:
        """The row of the offer that is shown on the floor: that which is pointed at, else the best
        so far.
        """
        offer = self.offer
        if offer is None or self.asked is None or not offer.rows:
            return None
        at = self.asked.pointed or 0
        return offer.rows[at] if at < len(offer.rows) else None

    def point_at(self, row: int | None) -> None:
        """Point at a row of the offer, or at none: it is shown on the floor."""
        if self.asked is not None and self.asked.pointed != row:
            self.asked = replace(self.asked, pointed=row, lit=())
            self._tell(look=True)

    def light(self, element: str) -> None:
        """Light what a problem of the row on the floor is about; what is lit already goes out."""
        row = self.pointed_row
        if self.asked is None or row is None:
            return
        lit: tuple[str, ...] = ()
        for finding in row.problems:
            if finding.element == element:
                lit = (element, *finding.also)
        self.asked = replace(self.asked, lit=() if lit == self.asked.lit else lit)
        self._tell(look=True)

    @property
    def lit(self) -> tuple[str, ...]:
        """What stands out on the floor: what is lit of an offer's ghost, else what is selected."""
        if self.pointed_row is not None and self.asked is not None:
            return self.asked.lit
        return self.selected

    def take(self, row: int) -> None:
        """Take a row of the offer as one step; the design before is kept and compared with.

        Raises `RefusedEdit` when no more designs can be kept.
        """
        offer, asked = self.offer, self.asked
        if offer is None or asked is None:
            return
        if not 0 <= row < len(offer.rows):
            return
        after, before = took(self.project, offer.rows[row])
        self.asked, self.compared = None, before
        self.edit(STEPS[asked.kind], lambda project: after)
        self._tell(look=True)

    def end_offer(self) -> None:
        """Put the offer away, or the strip's own offer to lay ducts; nothing is taken."""
        if self.asked is None:
            self.put_off = True
        self.asked = None
        self._tell(look=True)
