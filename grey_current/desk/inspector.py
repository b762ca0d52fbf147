"""The inspector: the selected thing in plain words, its numbers editable in place, what is wrong with it."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QSignalBlocker, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import (
    QComboBox,
    QFrame,
    QGridLayout,
    QLabel,
    QLineEdit,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from grey_current.design.findings import Finding
from grey_current.desk import glyphs
from grey_current.desk.inspector_pages import ChoiceField, Fact, Item, Page, Section, TextField, page
from grey_current.desk.theme import SPACE, Palette
from grey_current.errors import GreyCurrentError
from grey_current.workspace.workspace import Edit, Workspace

WIDTH = 296
MOST_FINDINGS = 7
SEVERITY_STATE = {"fault": "starved", "warning": "short", "note": "note"}


class Mark(QWidget):
    """A state shape on its own."""

    def __init__(self, state: str, palette: Palette) -> None:
        super().__init__()
        self.state, self.colours = state, palette
        self.setFixedSize(QSize(16, 18))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        glyphs.draw_state(painter, QPointF(8, 9), 12, self.state, self.colours)
        painter.end()


class FindingRow(QWidget):
    """One finding. Signal: `chosen` (element) when it is clicked."""

    chosen = pyqtSignal(str)

    def __init__(self, finding: Finding, palette: Palette) -> None:
        super().__init__()
        self.finding = finding
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        layout = QGridLayout(self)
        layout.setContentsMargins(0, 2, 0, 4)
        layout.setHorizontalSpacing(6)
        layout.setVerticalSpacing(0)
        layout.addWidget(Mark(SEVERITY_STATE[finding.severity], palette), 0, 0, Qt.AlignmentFlag.AlignTop)
        text = QLabel(finding.message)
        text.setWordWrap(True)
        layout.addWidget(text, 0, 1)
        if finding.remedies:
            remedy = QLabel(" ".join(finding.remedies))
            remedy.setObjectName("soft")
            remedy.setWordWrap(True)
            layout.addWidget(remedy, 1, 1)
        layout.setColumnStretch(1, 1)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        del event
        self.chosen.emit(self.finding.element)


class Inspector(QFrame):
    """The page of what is selected. Signal: `chosen` (element) when a finding is clicked."""

    chosen = pyqtSignal(str)

    def __init__(self, workspace: Workspace, palette: Palette) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.workspace, self.colours = workspace, palette
        self.setFixedWidth(WIDTH)
        self._fields: dict[str, QLineEdit | QComboBox] = {}
        self._page: Page | None = None
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        self._scroll.setFrameShape(QFrame.Shape.NoFrame)
        self._scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(1, 1, 1, 1)
        layout.addWidget(self._scroll)
        self.show_workspace()

    def field(self, key: str) -> QLineEdit | QComboBox:
        """An editor by its key. Raises `KeyError` for one that is not on the page."""
        return self._fields[key]

    def show_workspace(self, palette: Palette | None = None) -> None:
        """Show the workspace as it is now; a page that did not change stays as it is."""
        new = page(self.workspace)
        if palette is None and self._page is not None and _same(new, self._page):
            return
        self.colours = palette or self.colours
        keep = next((key for key, field in self._fields.items() if field.hasFocus()), None)
        self._page = new
        self._build(new)
        if keep in self._fields:
            self._fields[keep].setFocus()

    def _build(self, shown: Page) -> None:
        self._fields = {}
        body = QWidget()
        layout = QVBoxLayout(body)
        layout.setContentsMargins(12, SPACE, 10, SPACE)
        layout.setSpacing(4)
        layout.addWidget(_label(shown.title, "title"))
        layout.addWidget(_label(shown.subtitle, "soft"))
        for section in shown.sections:
            layout.addSpacing(SPACE)
            layout.addWidget(_label(section.title, "head"))
            layout.addLayout(self._section(section))
        if shown.findings:
            layout.addSpacing(SPACE)
            layout.addWidget(
                _label("What to mend first" if self.workspace.selection is None else "What is wrong", "head")
            )
            for finding in shown.findings[:MOST_FINDINGS]:
                row = FindingRow(finding, self.colours)
                row.chosen.connect(self.chosen)
                layout.addWidget(row)
            rest = len(shown.findings) - MOST_FINDINGS
            if rest > 0:
                layout.addWidget(_label(f"and {rest} more, less pressing", "soft"))
        if shown.caution:
            layout.addSpacing(SPACE)
            layout.addWidget(_line())
            layout.addWidget(_label(shown.caution, "soft"))
        layout.addStretch(1)
        old = self._scroll.takeWidget()
        if old is not None:
            old.deleteLater()  # one of its fields may be the sender of the edit that is shown here
        self._scroll.setWidget(body)

    def _section(self, section: Section) -> QGridLayout:
        grid = QGridLayout()
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(3)
        grid.setColumnStretch(1, 1)
        row = 0
        for item in section.items:
            row += self._add(grid, row, item)
        return grid

    def _add(self, grid: QGridLayout, row: int, item: Item) -> int:
        """Put an item into the grid; answers how many rows it took."""
        if isinstance(item, Fact):
            value = _label(item.value, "" if item.label else "soft")
            if not item.label:
                grid.addWidget(value, row, 0, 1, 3)
                return 1
            grid.addWidget(_label(item.label, "soft"), row, 0)
            value.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
            grid.addWidget(value, row, 1)
            if item.state:
                mark = Mark(item.state, self.colours)
                mark.setToolTip(item.state)
                grid.addWidget(mark, row, 2)
            return 1
        grid.addWidget(_label(item.label, "soft"), row, 0)
        bad = _label("", "bad")
        bad.hide()
        grid.addWidget(bad, row + 1, 0, 1, 3)
        editor = self._text(item, bad) if isinstance(item, TextField) else self._choice(item, bad)
        editor.setAccessibleName(item.label)
        self._fields[item.key] = editor
        grid.addWidget(editor, row, 1, 1, 2)
        return 2

    def _text(self, item: TextField, bad: QLabel) -> QLineEdit:
        editor = QLineEdit(item.value)
        editor.setAlignment(Qt.AlignmentFlag.AlignRight)

        def on_finished() -> None:
            if editor.text() == item.value:
                _mark_bad(editor, bad, "")
                return
            self._apply(item.step, lambda: item.edit(editor.text()), editor, bad)

        editor.editingFinished.connect(on_finished)
        return editor

    def _choice(self, item: ChoiceField, bad: QLabel) -> QComboBox:
        editor = QComboBox()
        editor.setMinimumWidth(80)
        editor.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        for value, words in item.options:
            editor.addItem(words, value)
        with QSignalBlocker(editor):
            editor.setCurrentIndex([value for value, _ in item.options].index(item.value))

        def on_activated(index: int) -> None:
            value = str(editor.itemData(index))
            self._apply(item.step, lambda: item.edit(value), None, bad)

        editor.activated.connect(on_activated)
        return editor

    def _apply(self, step: str, edit: object, editor: QLineEdit | None, bad: QLabel) -> None:
        """Make an edit; a value that cannot be is marked and explained, and stays to be mended."""
        try:
            change: Edit = edit()  # type: ignore[operator]
            self.workspace.edit(step, change)
        except GreyCurrentError as problem:
            _mark_bad(editor, bad, str(problem))


def _same(a: Page, b: Page) -> bool:
    """Whether two pages look alike; the functions behind their fields are always new ones."""

    def shown(p: Page) -> object:
        return (
            p.title, p.subtitle, p.findings, p.caution,
            [(s.title, [_face(item) for item in s.items]) for s in p.sections],
        )  # fmt: skip

    return shown(a) == shown(b)


def _face(item: Item) -> object:
    if isinstance(item, Fact):
        return item
    options = item.options if isinstance(item, ChoiceField) else ()
    return (item.key, item.label, item.value, options)


def _mark_bad(editor: QLineEdit | None, bad: QLabel, text: str) -> None:
    bad.setText(text)
    bad.setVisible(bool(text))
    if editor is not None:
        editor.setProperty("bad", "true" if text else "false")
        style = editor.style()
        if style is not None:
            style.polish(editor)


def _label(text: str, name: str) -> QLabel:
    label = QLabel(text)
    label.setObjectName(name)
    label.setWordWrap(True)
    label.setTextFormat(Qt.TextFormat.PlainText)
    return label


def _line() -> QFrame:
    line = QFrame()
    line.setObjectName("line")
    return line
