"""A field for a figure, with its unit set apart at its right end; where the figure can be typed in
other units, a click on the unit lists it in each.
"""

from __future__ import annotations

import re

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QResizeEvent
from PyQt6.QtWidgets import QLineEdit, QMenu, QToolButton

from grey_current.desk.inspector.fields import Page, TextField
from grey_current.unit_choices import FEET_AND_INCHES, InUnit, in_each_unit

# A figure with a sign after it: "6.00 m", "-5 °C", "1,200 CFM", "0.5 %".
# No unit begins with a figure: 11 13/16" is one value.
FIGURE = re.compile(r"(-?[\d.,]+) ([^\s\d].{0,8})")
BARE = re.compile(r"-?[\d.,]+")
METRES = "m"
# Pixels between a figure and its unit.
APART = 4


def group_signs(page: Page) -> dict[str, str]:
    """The unit of each length of a page, by its field's key, where those of one section would have
    different ones: metres, as soon as one of them is as long as that.
    """
    signs: dict[str, str] = {}
    for section in page.sections:
        lengths = [
            item
            for item in section.items
            if isinstance(item, TextField) and item.quantity == "length" and item.amount is not None
        ]
        own = {item.value.rpartition(" ")[2] for item in lengths}
        if METRES in own and len(own) > 1:
            signs |= {item.key: METRES for item in lengths}
    return signs


class UnitEdit(QLineEdit):
    """The field. Signal: `unit_chosen` (quantity, sign) when another unit is picked for it.

    What is typed counts in the unit that is shown. `text` is the whole value with its unit while
    nothing is typed, and what is typed otherwise.
    """

    unit_chosen = pyqtSignal(str, str)

    def __init__(self) -> None:
        super().__init__()
        self._value = self._shown = self._own_sign = self.sign = self._quantity = ""
        self._choices: tuple[InUnit, ...] = ()
        self._has_unit = False
        self._button = QToolButton(self)
        self._button.setObjectName("unit")
        self._button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self._button.setCursor(Qt.CursorShape.ArrowCursor)
        self._button.clicked.connect(self.open_menu)
        self._button.hide()

    def show_field(self, item: TextField, sign: str = "") -> None:
        """Show a field's value, in the unit of that sign if the value can be written in it."""
        self._quantity, self._choices = item.quantity, ()
        self._has_unit = bool(item.quantity or item.unit)
        if item.quantity and item.amount is not None:
            self._choices = in_each_unit(item.quantity, item.amount)
        self.setText(item.value)
        other = next((c for c in self._choices if c.sign == sign != self._own_sign), None)
        if other is not None:
            self._show_figure(_figure(other.text), other.sign)

    def setText(self, text: str | None) -> None:
        """Show a value, its unit apart."""
        self._value = text or ""
        split = FIGURE.fullmatch(self._value) if self._has_unit else None
        self._own_sign = split[2] if split else FEET_AND_INCHES if self._choices else ""
        self._show_figure(split[1] if split else self._value, self._own_sign)

    def retype(self, text: str) -> None:
        """Put back what was half typed."""
        super().setText(text)
        self.setModified(True)

    def text(self) -> str:
        """The value as it is read: whole, with the unit that a bare figure is in."""
        typed = super().text()
        if typed == self._shown:
            return self._value
        if self.sign != self._own_sign and BARE.fullmatch(typed.strip()):
            if self.sign == FEET_AND_INCHES:
                return f"{typed} in"
            return f"{typed} {self.sign}"
        return typed

    def open_menu(self) -> None:
        """List the value in each unit."""
        if len(self._choices) < 2:
            return
        menu = QMenu(self)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        for choice in self._choices:
            action = menu.addAction(choice.text)
            if action is not None:
                action.setCheckable(True)
                action.setChecked(choice.sign == self.sign)
                action.triggered.connect(lambda _, choice=choice: self.choose(choice.sign))
        menu.popup(self.mapToGlobal(self.rect().bottomLeft()))

    def choose(self, sign: str) -> None:
        """Show the value in another unit, and read bare figures in it. Raises `StopIteration` for a
        unit that is not in the menu.
        """
        choice = next(c for c in self._choices if c.sign == sign)
        half_typed = super().text() if self.isModified() else None
        self._show_figure(_figure(choice.text), sign)
        if half_typed is not None:
            self.retype(half_typed)
        self.unit_chosen.emit(self._quantity, sign)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._place_button()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Alt+Down opens the units, as it opens a list of choices."""
        alt = event is not None and event.modifiers() == Qt.KeyboardModifier.AltModifier
        if event is not None and alt and event.key() == Qt.Key.Key_Down:
            self.open_menu()
            return
        super().keyPressEvent(event)

    def _show_figure(self, figure: str, sign: str) -> None:
        self._shown, self.sign = figure, sign
        super().setText(figure)
        opens = len(self._choices) > 1
        self._button.setText(sign)
        self._button.setVisible(bool(sign))
        self._button.setEnabled(opens)
        self._button.setToolTip("In other units (Alt+Down)" if opens else "")
        self._button.setAccessibleName(f"Unit: {sign}" if sign else "")
        self._place_button()

    def _place_button(self) -> None:
        """Stand the unit at the right end, and keep the figure off it."""
        self._button.ensurePolished()
        wide = self._button.sizeHint().width() if self._button.text() else 0
        self._button.setGeometry(self.width() - wide - 1, 1, wide, max(self.height() - 2, 0))
        self.setTextMargins(0, 0, max(wide - APART, 0), 0)


def _figure(text: str) -> str:
    """A value without its unit."""
    split = FIGURE.fullmatch(text)
    return split[1] if split else text
