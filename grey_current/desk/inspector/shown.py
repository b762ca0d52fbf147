"""How the inspector shows what a page says: shapes of widgets, marks, beginnings of values."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QComboBox, QFrame, QGridLayout, QLineEdit, QPushButton, QWidget

from grey_current.desk.inspector.fields import (
    ActionField,
    ChoiceField,
    Fact,
    Item,
    Page,
    Picture,
    Table,
)
from grey_current.desk.inspector.rows import Complaint
from grey_current.desk.plain import tip

Editor = QLineEdit | QComboBox | QPushButton
# The sentences under a page's title, each in the style of its name.
SAID = ("subtitle", "answer")
# Letters of a value that never break over two lines.
ONE_LINE = 24


def show_its_beginning(editor: Editor) -> None:
    """A long value or a sentence is read from its first letter, a short one stands at the right,
    like a figure.
    """
    if isinstance(editor, QLineEdit) and not editor.hasFocus() and not editor.isModified():
        long = len(editor.text()) > ONE_LINE
        editor.setAlignment(
            Qt.AlignmentFlag.AlignLeft
            if long or editor.text().endswith(".")
            else Qt.AlignmentFlag.AlignRight
        )
        editor.setCursorPosition(0)
        editor.setToolTip(tip(editor.text()) if long else "")


def half_typed(field: Editor) -> str | None:
    """What was typed into a field and not entered yet; None for nothing."""
    if isinstance(field, QLineEdit) and field.isModified() and field.hasFocus():
        return field.text()
    return None


def chosen_index(item: ChoiceField) -> int:
    """The place of a field's value in its list; -1, which shows none, for one that is not in it."""
    values = [value for value, _ in item.options]
    return values.index(item.value) if item.value in values else -1


def page_shape(p: Page) -> object:
    """What a page's widgets follow from; the values in them may differ."""
    return (
        p.title,
        [bool(getattr(p, name)) for name in SAID],
        p.caution,
        p.state,
        [(section.title, [item_face(item) for item in section.items]) for section in p.sections],
    )


def new_grid() -> QGridLayout:
    """Labels on the left, fields on the right."""
    grid = QGridLayout()
    grid.setContentsMargins(0, 0, 0, 0)
    grid.setHorizontalSpacing(8)
    grid.setVerticalSpacing(3)
    grid.setColumnStretch(1, 1)
    return grid


def item_face(item: Item) -> object:
    """What an item's widget follows from, its value left out."""
    if isinstance(item, Fact):
        return bool(item.label), bool(item.state)
    if isinstance(item, Picture):
        return "picture"
    if isinstance(item, Table):
        return item.headings, len(item.rows), bool(item.states)
    detail = item.detail if isinstance(item, ActionField) else ""
    primary = isinstance(item, ActionField) and item.primary
    return (
        item.key,
        item.label,
        detail,
        primary,
        item.options if isinstance(item, ChoiceField) else (),
    )


def mark_bad(editor: QWidget, bad: Complaint, text: str, choices: tuple[str, ...] = ()) -> None:
    """Mark a field whose text cannot be used, with the sentence under it; "" takes both away."""
    bad.say(text, "bad", choices)
    was, now = editor.property("bad"), "true" if text else "false"
    style = editor.style()
    if style is not None and was != now and (was or text):
        editor.setProperty("bad", now)
        style.polish(editor)


def new_line() -> QFrame:
    """A thin line between two sections."""
    line = QFrame()
    line.setObjectName("line")
    return line


def more_problems(shown: Page, few: int) -> str:
    """What stands beside the heading of the problems while they are folded."""
    hidden = len(shown.findings) - few
    more = [f"{hidden} more" if few else f"{hidden}"] if hidden else []
    if shown.explained:
        more.append(f"{len(shown.explained)} from the cause above")
    return ", ".join(more)
