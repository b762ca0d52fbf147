"""The strip of the Build stage: the parts to buy, the bars to cut, or the staircase of phases."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QPushButton,
    QScrollArea,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from grey_current.build.cuts import proof_words
from grey_current.build.words import money_words, totals_words
from grey_current.desk.plain import OneLine
from grey_current.desk.strips.cut_bars import CutBars
from grey_current.desk.strips.panel import StripPanel
from grey_current.desk.strips.parts_table import PartsTable
from grey_current.desk.strips.staircase import Staircase
from grey_current.desk.strips.step_panel import StepPanel
from grey_current.desk.theme import SPACE, Palette
from grey_current.errors import GreyCurrentError
from grey_current.shop.build_edits import with_cut, with_owned, with_phase_of
from grey_current.shop.names import Names
from grey_current.shop.places import bodies
from grey_current.units import Display
from grey_current.workspace.workspace import BuildFace, Workspace

FACES: tuple[tuple[BuildFace, str], ...] = (
    ("parts", "Parts"),
    ("cuts", "Cuts"),
    ("steps", "Step by step"),
    ("phases", "Phases"),
)


class BuildStrip(StripPanel):
    """Parts, cuts and phases: signals `chosen` (element) when a piece or a machine is clicked."""

    tall = 252

    def __init__(self, workspace: Workspace, palette: Palette) -> None:
        super().__init__(workspace, palette)
        self.head = OneLine("head")
        top = QHBoxLayout()
        self.faces: dict[str, QPushButton] = {}
        for face, title in FACES:
            button = QPushButton(title)
            button.setCheckable(True)
            button.setObjectName("small")
            button.clicked.connect(lambda _, face=face: self.workspace.show_face(face))
            self.faces[face] = button
            top.addWidget(button)
        top.addSpacing(SPACE)
        top.addWidget(self.head, 1)
        self.parts, self.bars, self.stairs = PartsTable(), CutBars(), Staircase()
        self.steps = StepPanel()
        self._stack = QStackedWidget()
        for shown in (self.parts, self.bars, self.steps):
            self._stack.addWidget(_scrolled(shown))
        self._stack.addWidget(self.stairs)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(12, SPACE, 8, SPACE)
        layout.setSpacing(4)
        layout.addLayout(top)
        layout.addWidget(self._stack, 1)
        self.parts.picked.connect(self._on_part)
        self.parts.ticked.connect(self._on_bought)
        self.bars.picked.connect(self.chosen)
        self.bars.ticked.connect(self._on_cut)
        self.steps.wanted.connect(lambda number: self.attempt(lambda: workspace.show_step(number)))
        self.steps.space_wanted.connect(self._on_space_wanted)
        self.stairs.picked.connect(self.chosen)
        self.stairs.moved.connect(self._on_moved)

    def show_workspace(self, palette: Palette | None = None) -> None:
        """Show the workspace as it is now."""
        self.colours = palette or self.colours
        face = self.workspace.face
        for name, button in self.faces.items():
            button.setChecked(name == face)
        self._stack.setVisible(self.has_something)
        self._stack.setCurrentIndex([name for name, _ in FACES].index(face))
        try:
            {
                "parts": self._show_parts,
                "cuts": self._show_cuts,
                "steps": self._show_steps,
                "phases": self._show_phases,
            }[face]()
        except GreyCurrentError as problem:
            self.head.setText(str(problem))

    @property
    def has_something(self) -> bool:
        """Whether there is anything to buy, cut and put up."""
        return bool(self.workspace.project.runs or self.workspace.project.collectors)

    def take_keys(self) -> None:
        """Give the face that is shown the keyboard."""
        {"parts": self.parts, "cuts": self.bars, "steps": self.steps, "phases": self.stairs}[
            self.workspace.face
        ].setFocus()

    def _show_parts(self) -> None:
        found = self.workspace.computed.bill
        self.head.setText(
            " ".join(totals_words(found))
            if found.lines
            else "Nothing to buy yet: lay the ducts first."
        )
        chosen = set(self.workspace.selected) if self.workspace.part is None else set()
        self.parts.show_bill(found, self.workspace.part, chosen, self.colours)

    def _show_cuts(self) -> None:
        project, found = self.workspace.project, self.workspace.computed.bill
        display = Display(project.settings.units)
        words = [f"{display.diameter(pipe.diameter)}: {proof_words(pipe)}" for pipe in found.cuts]
        self.head.setText(".  ".join(words) + "." if words else "No pipe to cut.")
        cut = {item.piece for item in project.build.cut}
        chosen, names = set(self.workspace.selected), Names(project)
        self.bars.show_cuts(found.cuts, display, cut, chosen, self.colours, names)

    def _show_steps(self) -> None:
        steps = self.workspace.computed.steps
        count = "1 part" if len(steps) == 1 else f"{len(steps)} parts"
        words = f"{count}, from the collector outwards: each goes on what is up already."
        self.head.setText(words if steps else "")
        self.steps.show_steps(steps, self.workspace.step)

    def _show_phases(self) -> None:
        phases, project = self.workspace.computed.phases, self.workspace.project
        currency = project.build.currency
        if not phases:
            self.head.setText("Working out the phases…")
        elif len(phases) == 1:
            self.head.setText(
                "All in one go. Propose phases on the right, or put a machine into phase 2."
            )
        else:
            waste = sum(facts.waste_money for facts in phases)
            if waste:
                thrown = f"; {money_words(waste, currency, 0)} of it is bought for the time between"
            else:
                thrown = ""
            self.head.setText(
                f"{money_words(phases[-1].so_far, currency, 0)} in {len(phases)} phases{thrown}."
            )
        names = {item.id: item.name for item in bodies(project)}
        self.stairs.show_phases(phases, names, currency, set(self.workspace.selected), self.colours)

    # -- what is clicked

    def _on_space_wanted(self) -> None:
        self.workspace.show_space()

    def _on_part(self, key: str) -> None:
        self.attempt(
            lambda: self.workspace.choose_part(None if key == self.workspace.part else key)
        )

    def _on_bought(self, key: str) -> None:
        line = self.workspace.computed.bill.line[key]
        bought = 0.0 if line.left <= 0 else line.bought + line.left
        self.attempt(
            lambda: self.workspace.edit(
                "Buy a part" if bought else "Not bought after all",
                lambda p: with_owned(p, key, bought=bought),
            )
        )

    def _on_cut(self, piece: str, length: float, done: bool) -> None:
        step = "Cut a piece" if done else "Not cut after all"
        self.attempt(
            lambda: self.workspace.edit(
                step, lambda p: with_cut(p, piece, length if done else None)
            )
        )

    def _on_moved(self, element: str, number: int) -> None:
        self.attempt(
            lambda: self.workspace.edit(
                "Put into a phase", lambda p: with_phase_of(p, (element,), number)
            )
        )


def _scrolled(shown: QWidget) -> QScrollArea:
    scroll = QScrollArea()
    scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    scroll.setWidgetResizable(True)
    scroll.setFrameShape(QFrame.Shape.NoFrame)
    scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    scroll.setWidget(shown)
    return scroll
