"""Preferences: how the program looks, what new shops begin with, who works in them and with which
instruments; made from the declared settings, taken at once.
"""

from __future__ import annotations

from functools import partial

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import (
    QCheckBox,
    QDialog,
    QDialogButtonBox,
    QGridLayout,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from grey_current.desk.choice_box import ChoiceBox
from grey_current.desk.plain import plain_label, resize_on_screen, tip
from grey_current.desk.scroll import Scrolled
from grey_current.desk.theme import SPACE
from grey_current.errors import GreyCurrentError, InputError
from grey_current.keep.reading_words import INSTRUMENT_NAMES
from grey_current.shop.keep_plan import READS, Instrument
from grey_current.units import Display, System, parse_length, parse_mass
from grey_current.workspace.settings import (
    NEW_SHOPS,
    PERSON,
    SETTINGS,
    START,
    Measure,
    Setting,
    UserSettings,
)
from grey_current.workspace.workspace import Workspace

SIZE = (480, 730)


class PreferencesDialog(QDialog):
    """All that is set for every shop. Signal: `chosen` (setting, choice)."""

    chosen = pyqtSignal(str, str)

    def __init__(self, parent: QWidget, workspace: Workspace, settings: UserSettings) -> None:
        super().__init__(parent)
        self.setWindowTitle("Preferences")
        self.workspace, self.settings = workspace, settings
        self.boxes: dict[str, ChoiceBox] = {}
        self.fields: dict[str, QLineEdit] = {}
        self.instruments: dict[Instrument, QCheckBox] = {}
        self.complaint = plain_label("", "bad", wraps=True)
        self.complaint.hide()
        self._grid = QGridLayout()
        self._grid.setHorizontalSpacing(SPACE * 2)
        self._grid.setVerticalSpacing(SPACE // 2)
        self._grid.setColumnStretch(1, 1)
        self._heading("This program")
        for setting in (*START, *SETTINGS):
            self._choice(setting)
        self._heading("New shops")
        for setting in NEW_SHOPS:
            self._choice(setting)
        self._heading("You")
        for one in PERSON:
            self._measure(one)
        self._heading("You measure with")
        for name in READS:
            self._instrument(name)
        use = QPushButton("Use them in this shop too")
        use.setToolTip(tip("What new shops begin with, for the shop that is open: one undo step."))
        use.setAutoDefault(False)
        use.clicked.connect(self.on_use)
        self.use = use
        buttons = QDialogButtonBox()
        close = buttons.addButton("Close", QDialogButtonBox.ButtonRole.RejectRole)
        assert close is not None
        close.setAutoDefault(False)
        buttons.rejected.connect(self.reject)
        layout = QVBoxLayout(self)
        layout.setSpacing(SPACE)
        # On a small screen they are scrolled; the buttons below stay.
        rows, scroll = QWidget(), Scrolled()
        scroll.setAccessibleName("Preferences")
        self._grid.setContentsMargins(0, 0, SPACE, 0)
        rows.setLayout(self._grid)
        scroll.setWidget(rows)
        layout.addWidget(scroll, 1)
        layout.addWidget(self.complaint)
        layout.addWidget(use)
        layout.addWidget(buttons)
        resize_on_screen(self, parent, *SIZE)
        self.show_settings()

    # -- building

    def _heading(self, words: str) -> None:
        row = self._grid.rowCount()
        if row > 1:
            self._grid.setRowMinimumHeight(row, SPACE)
        self._grid.addWidget(plain_label(words, "head"), row + 1, 0, 1, 2)

    def _row(self, label: str, widget: QWidget) -> None:
        row = self._grid.rowCount()
        self._grid.addWidget(plain_label(label, "soft"), row, 0)
        self._grid.addWidget(widget, row, 1)
        widget.setAccessibleName(label)

    def _choice(self, setting: Setting) -> None:
        box = ChoiceBox()
        for choice, words in zip(setting.choices, setting.words, strict=True):
            box.addItem(words, choice)
        box.activated.connect(
            lambda index: self.chosen.emit(setting.name, str(box.itemData(index)))
        )
        self.boxes[setting.name] = box
        self._row(setting.title, box)

    def _measure(self, one: Measure) -> None:
        field = QLineEdit()
        field.setPlaceholderText("not said")
        field.editingFinished.connect(partial(self.on_typed, one))
        self.fields[one.name] = field
        self._row(one.title, field)

    def _instrument(self, name: Instrument) -> None:
        box = QCheckBox(INSTRUMENT_NAMES[name])
        box.clicked.connect(self.on_instruments)
        self.instruments[name] = box
        self._grid.addWidget(box, self._grid.rowCount(), 0, 1, 2)

    # -- what is shown and taken

    @property
    def _units(self) -> System:
        """The units that are shown: those of new shops."""
        return self.settings.begun(self.workspace.project).settings.units

    def show_settings(self) -> None:
        """Show the settings as they are."""
        for name, box in self.boxes.items():
            box.setCurrentIndex(box.findData(self.settings.get(name)))
        for one in PERSON:
            field = self.fields[one.name]
            if not field.isModified():
                field.setText(self._said(one, self.settings.measure(one.name)))
        owned = self.settings.instruments
        for name, check in self.instruments.items():
            check.setChecked(owned is None or name in owned)

    def _said(self, one: Measure, value: float | None) -> str:
        display = Display(self._units)
        if value is None:
            return ""
        return display.length(value) if one.quantity == "length" else display.mass(value)

    def on_typed(self, one: Measure) -> None:
        """Take a measure that was typed, or say why not."""
        field = self.fields[one.name]
        text = field.text().strip()
        try:
            self.settings.put_measure(one.name, self._read(one, text) if text else None)
        except GreyCurrentError as problem:
            self._complain(str(problem))
            return
        field.setModified(False)
        self._complain("")
        self.show_settings()

    def _read(self, one: Measure, text: str) -> float:
        read = parse_length if one.quantity == "length" else parse_mass
        value = read(text, self._units, one.title.lower())
        if not one.least <= value <= one.most:
            low, high = self._said(one, one.least), self._said(one, one.most)
            raise InputError(one.title.lower(), text, f"write {low} to {high}, or nothing")
        return value

    def _complain(self, words: str) -> None:
        self.complaint.setText(words)
        self.complaint.setVisible(bool(words))

    def on_instruments(self) -> None:
        """Keep which instruments there are."""
        owned = tuple(name for name, check in self.instruments.items() if check.isChecked())
        self.settings.put_instruments(owned)

    def on_use(self) -> None:
        """Give the open shop what new ones begin with."""
        self.workspace.edit("Use my preferences", self.settings.begun)
