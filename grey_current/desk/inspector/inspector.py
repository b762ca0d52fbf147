"""The inspector: the selected thing in plain words, its numbers editable in place, what is wrong
with it.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import QSignalBlocker, Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QComboBox,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from grey_current.design.findings.finding import Finding
from grey_current.desk.choice_box import ChoiceBox
from grey_current.desk.inspector.fields import (
    ActionField,
    ChoiceField,
    Fact,
    Field,
    Item,
    Page,
    Picture,
    Section,
    Table,
    TextField,
)
from grey_current.desk.inspector.folding import (
    FirstLook,
    findings_in_sight,
    first_look,
    one_title_each,
)
from grey_current.desk.inspector.pages import StagePage, page
from grey_current.desk.inspector.picture import DrawnPicture
from grey_current.desk.inspector.rows import (
    AboutButton,
    Complaint,
    FindingRow,
    FoldHead,
    Mark,
    WordButton,
    page_label,
)
from grey_current.desk.inspector.shown import (
    ONE_LINE,
    SAID,
    Editor,
    chosen_index,
    half_typed,
    mark_bad,
    more_problems,
    new_grid,
    new_line,
    page_shape,
    show_its_beginning,
)
from grey_current.desk.inspector.table import TableGrid
from grey_current.desk.inspector.unit_edit import UnitEdit, group_signs
from grey_current.desk.plain import tip
from grey_current.desk.scroll import Scrolled
from grey_current.desk.theme import SPACE, Palette
from grey_current.errors import DoubtfulInput, GreyCurrentError, InputError
from grey_current.shop.edits import Change
from grey_current.workspace.manual import page_of_section
from grey_current.workspace.workspace import Workspace

PROBLEMS = "Problems"


class Inspector(QFrame):
    """The page of what is selected. Signals: `chosen` (element) when a finding is clicked,
    `looked_up` (page of the manual) when one wants to read about it.
    """

    chosen = pyqtSignal(str)
    looked_up = pyqtSignal(str)

    def __init__(self, workspace: Workspace, palette: Palette, own_page: StagePage) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.workspace, self.colours, self._own_page = workspace, palette, own_page
        # The editors on the page, by key.
        self.fields: dict[str, Editor] = {}
        self._items: dict[str, Field] = {}
        self._complaints: dict[str, Complaint] = {}
        self._values: list[tuple[QLabel | None, QLabel, Mark | None]] = []
        self._pictures: list[DrawnPicture] = []
        self._tables: list[TableGrid] = []
        self._findings = QVBoxLayout()
        self._said: dict[str, QLabel] = {}
        self._look = FirstLook({}, {}, 0)
        # Which sections of the page are open, and by the titles of page and section which of them
        # somebody has folded or opened; where each field stands.
        self._open_now: dict[str, bool] = {}
        self._by_hand: dict[tuple[str, str], bool] = {}
        self._folds: dict[str, tuple[FoldHead, QWidget]] = {}
        self._where: dict[str, str] = {}
        # The section of every field, and each section's button to its page of the manual.
        self._section_of: dict[str, str] = {}
        self._about: dict[str, AboutButton] = {}
        self._page: Page | None = None
        # The unit that was picked in a field, by quantity; it holds for all fields of that one.
        self._signs: dict[str, str] = {}
        self._group_signs: dict[str, str] = {}
        self._scroll = Scrolled()
        self._scroll.setAccessibleName("What is selected")
        self._scroll.resized.connect(self._settle)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(1, 1, 1, 1)
        layout.addWidget(self._scroll)
        self.show_workspace()

    def field(self, key: str) -> Editor:
        """An editor by its key. Raises `KeyError` for one that is not on the page."""
        return self.fields[key]

    def show_workspace(self, palette: Palette | None = None) -> None:
        """Show the workspace as it is now; a page of the same shape only has its values renewed."""
        new, old = one_title_each(page(self.workspace, self._own_page)), self._page
        self._page, self._group_signs = new, group_signs(new)
        # The same fields with other figures: written into what is there, so that the focus and what
        # is half typed stay.
        if palette is None and old is not None and page_shape(new) == page_shape(old):
            self._renew(new)
            if (new.findings, new.explained) != (old.findings, old.explained):
                self._show_findings(new)
            self._settle()
            return
        self.colours = palette or self.colours
        keep = next((key for key, field in self.fields.items() if field.hasFocus()), None)
        # What is half typed goes into the new fields, for the edit came from somewhere else.
        typed = {
            key: text
            for key, field in self.fields.items()
            if (text := half_typed(field)) is not None
        }
        for field in self.fields.values():
            # Losing the focus while they go would enter what is half typed.
            field.blockSignals(True)
        self._build(new, self._where.get(keep or "", ""))
        for key, text in typed.items():
            self._type_again(key, text)
        if keep in self.fields:
            self.fields[keep].setFocus()

    def _type_again(self, key: str, text: str) -> None:
        """Put back what was half typed when the page was made anew."""
        editor = self.fields.get(key)
        if isinstance(editor, UnitEdit):
            editor.retype(text)

    def enter(self) -> None:
        """Enter what is half typed, as leaving its field would."""
        for key, field in list(self.fields.items()):
            if isinstance(field, QLineEdit) and half_typed(field) is not None:
                self._on_typed(key, field)

    def _build(self, shown: Page, busy: str) -> None:
        """Make the page's widgets; `busy` is the section in which somebody has the keyboard."""
        self.fields, self._items, self._values, self._folds = {}, {}, [], {}
        self._where, self._pictures, self._tables = {}, [], []
        self._section_of, self._about = {}, {}
        body = QWidget()
        layout = QVBoxLayout(body)
        layout.setContentsMargins(12, SPACE, 10, SPACE)
        layout.setSpacing(4)
        self._add_head(layout, shown)
        self._decide_folds(shown, busy)
        for section in shown.sections:
            layout.addSpacing(SPACE // 2)
            self._add_section(layout, shown, section)
        self._findings = QVBoxLayout()
        self._findings.setSpacing(4)
        layout.addLayout(self._findings)
        self._show_findings(shown)
        if shown.caution:
            layout.addSpacing(SPACE)
            layout.addWidget(new_line())
            layout.addWidget(page_label(shown.caution, "soft"))
        layout.addStretch(1)
        old = self._scroll.takeWidget()
        if old is not None:
            old.deleteLater()  # one of its fields may be the sender of the edit that is shown here
        self._scroll.setWidget(body)
        self._settle()

    def _add_head(self, layout: QVBoxLayout, shown: Page) -> None:
        """Title with the state of what is selected, what it is, the one answer."""
        line = QHBoxLayout()
        line.setSpacing(6)
        if shown.state:
            line.addWidget(Mark(shown.state, self.colours))
        line.addWidget(page_label(shown.title, "title"), 1)
        layout.addLayout(line)
        self._said = {name: page_label(getattr(shown, name), name) for name in SAID}
        # What it is and what it says are two things.
        self._said["answer"].setContentsMargins(0, SPACE // 2, 0, 0)
        for name, label in self._said.items():
            layout.addWidget(label)
            label.setVisible(bool(getattr(shown, name)))

    def _decide_folds(self, shown: Page, busy: str) -> None:
        """Decide what is open of a page: what somebody has folded or opened stays so, so does the
        section in which somebody is `busy`, and of the rest what fits.
        """
        self._look = first_look(shown)
        self._open_now = self._look.opened | {PROBLEMS: False}
        if busy in self._open_now:
            self._open_now[busy] = True
        for title in self._open_now:
            self._open_now[title] = self._by_hand.get((shown.title, title), self._open_now[title])

    def _add_section(self, layout: QVBoxLayout, shown: Page, section: Section) -> None:
        """A heading that folds, the items that are always in sight, and the others."""
        title = section.title
        brief = self._look.brief[title]
        first, rest = section.items[:brief], section.items[brief:]
        head = FoldHead(section.title, section.summary, self.colours, bool(rest))
        head.pressed_to.connect(lambda opened: self._fold(title, opened))
        line = QHBoxLayout()
        line.setSpacing(0)
        line.addWidget(head, 1)
        about = AboutButton(title)
        about.clicked.connect(lambda: self._look_up(title))
        line.addWidget(about)
        layout.addLayout(line)
        if first:
            layout.addLayout(self._grid_of(first))
        hidden = QWidget()
        hidden.setLayout(self._grid_of(rest))
        layout.addWidget(hidden)
        fields = [item for item in section.items if not isinstance(item, Fact | Picture | Table)]
        self._section_of |= {item.key: title for item in fields}
        self._where |= {item.key: title for item in fields if item in rest}
        self._folds[title] = head, hidden
        self._about[title] = about
        self._show_fold(title)

    def _look_up(self, title: str) -> None:
        self.looked_up.emit(page_of_section(self.workspace, title))

    def page_in_hand(self) -> str:
        """The page of the manual about the section in which somebody has the keyboard; "" for
        none.
        """
        # That of this window also while the manual's has the keyboard.
        owner = self.window()
        in_hand = None if owner is None else owner.focusWidget()
        for key, field in self.fields.items():
            if field is in_hand and key in self._section_of:
                return page_of_section(self.workspace, self._section_of[key])
        return ""

    def _fold(self, title: str, opened: bool) -> None:
        """Open or fold a section of the page, which it stays while this window is up."""
        if self._page is None:
            return
        self._by_hand[self._page.title, title] = self._open_now[title] = opened
        if title == PROBLEMS:
            self._show_findings(self._page)
        else:
            self._show_fold(title)
        self._settle()

    def _show_fold(self, title: str) -> None:
        head, hidden = self._folds[title]
        head.show_opened(self._open_now[title])
        hidden.setVisible(self._open_now[title])
        # Where nothing but a heading is in sight there is nothing to ask about.
        self._about[title].setVisible(self._open_now[title] or not head.isEnabled())

    def reveal(self, key: str) -> None:
        """Open the section in which a field stands. Raises `KeyError` for one not on the page."""
        if key not in self.fields:
            raise KeyError(key)
        if key in self._where:
            self._fold(self._where[key], True)

    def _settle(self) -> None:
        """Give the page the height that its wrapped lines need at this width; the scroll area does
        not ask.
        """
        body = self._scroll.widget()
        layout = body.layout() if body is not None else None
        viewport = self._scroll.viewport()
        if body is not None and layout is not None and viewport is not None:
            for child in body.findChildren(QPushButton):
                child.ensurePolished()  # its padding counts in its height
            for editor in self.fields.values():
                show_its_beginning(editor)
            layout.activate()
            body.setMinimumHeight(layout.totalHeightForWidth(viewport.width()))

    def _show_findings(self, shown: Page) -> None:
        while (item := self._findings.takeAt(0)) is not None:
            if (widget := item.widget()) is not None:
                widget.hide()
                widget.deleteLater()
        if not shown.findings and not shown.explained:
            return
        opened = self._open_now[PROBLEMS]
        look = FirstLook(self._open_now, self._look.brief, 0)
        few = findings_in_sight(shown, look)
        head = FoldHead(PROBLEMS, more_problems(shown, few), self.colours)
        head.pressed_to.connect(lambda now: self._fold(PROBLEMS, now))
        head.show_opened(opened)
        self._findings.addSpacing(SPACE // 2)
        self._findings.addWidget(head)
        for finding in shown.findings if opened else shown.findings[:few]:
            self._add_finding(finding, brief=not opened)
        if opened and shown.explained:
            self._findings.addWidget(page_label("From the cause above:", "soft"))
            for finding in shown.explained:
                self._add_finding(finding, brief=True)
        for place in range(self._findings.count()):
            item = self._findings.itemAt(place)
            widget = item.widget() if item is not None else None
            if widget is not None:
                # At once: what is not shown yet has no height that `_settle` could count.
                widget.show()

    def _add_finding(self, finding: Finding, *, brief: bool) -> None:
        row = FindingRow(finding, self.colours, brief=brief)
        row.chosen.connect(self.chosen)
        row.mended.connect(lambda change, row=row: self._mend(change, row))
        row.wondered.connect(self.workspace.read)
        row.looked_up.connect(self.looked_up)
        self._findings.addWidget(row)

    def _mend(self, change: Change, row: FindingRow) -> None:
        """Make a fix of a finding as one edit; what stands against it is said in the finding's
        place.
        """
        try:
            self.workspace.edit(change.words, change.edit)
        except GreyCurrentError as problem:
            row.refuse(str(problem))

    def _renew(self, shown: Page) -> None:
        """Write new values into the widgets that are there."""
        for said, words in self._said.items():
            words.setText(getattr(shown, said))
        # In the order in which they were built.
        facts, pictures = iter(self._values), iter(self._pictures)
        tables = iter(self._tables)
        for section in shown.sections:
            self._folds[section.title][0].say_beside(section.summary)
            for item in section.items:
                if isinstance(item, Fact):
                    name, value, mark = next(facts)
                    if name is not None:
                        name.setText(item.label)
                    value.setText(item.value)
                    if mark is not None:
                        mark.show_state(item.state, self.colours)
                    continue
                if isinstance(item, Picture):
                    next(pictures).show_item(item)
                    continue
                if isinstance(item, Table):
                    next(tables).show_item(item)
                    continue
                self._items[item.key] = item
                field = self.fields[item.key]
                # Never write over what somebody types.
                if half_typed(field) is not None:
                    continue
                if isinstance(field, UnitEdit) and isinstance(item, TextField):
                    field.show_field(item, self._sign_of(item))
                elif isinstance(field, QComboBox) and isinstance(item, ChoiceField):
                    with QSignalBlocker(field):
                        field.setCurrentIndex(chosen_index(item))
                mark_bad(field, self._complaints[item.key], "")

    def _grid_of(self, items: tuple[Item, ...]) -> QGridLayout:
        grid = new_grid()
        row = 0
        for item in items:
            row += self._add(grid, row, item)
        return grid

    def _add(self, grid: QGridLayout, row: int, item: Item) -> int:
        """Put an item into the grid; returns how many rows it took."""
        if isinstance(item, Fact):
            self._values.append(self._fact(grid, row, item))
            return 1
        if isinstance(item, Picture):
            drawn = DrawnPicture(item, self.colours)
            self._pictures.append(drawn)
            grid.addWidget(drawn, row, 0, 1, 3)
            return 1
        if isinstance(item, Table):
            table = TableGrid(item, self.colours)
            self._tables.append(table)
            grid.addWidget(table, row, 0, 1, 3)
            return 1
        label = None
        if not isinstance(item, ActionField):
            label = page_label(item.label, "soft")
            grid.addWidget(label, row, 0)
        bad = Complaint()
        bad.answered.connect(lambda text: self._on_answered(item.key, text))
        grid.addWidget(bad, row + 1, 0, 1, 3)
        self._items[item.key], self._complaints[item.key] = item, bad
        editor = self._editor(item)
        editor.setAccessibleName(item.label)
        if label is not None:
            # A list that opens is told by its choice; whose it is, by its label.
            label.setBuddy(editor)
        self.fields[item.key] = editor
        if isinstance(item, ActionField):
            grid.addWidget(editor, row, 0, 1, 3)
        else:
            grid.addWidget(editor, row, 1, 1, 2)
        return 2

    def _fact(
        self, grid: QGridLayout, row: int, item: Fact
    ) -> tuple[QLabel | None, QLabel, Mark | None]:
        value = page_label(item.value, "" if item.label or item.prose else "soft")
        if item.prose:
            value.setContentsMargins(0, 2, 0, SPACE // 2)
        if not item.label:
            grid.addWidget(value, row, 0, 1, 3)
            return None, value, None
        name = page_label(item.label, "soft")
        value.setWordWrap(len(item.value) > ONE_LINE)
        grid.addWidget(name, row, 0)
        value.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        grid.addWidget(value, row, 1)
        if not item.state:
            return name, value, None
        mark = Mark(item.state, self.colours)
        grid.addWidget(mark, row, 2)
        return name, value, mark

    def _editor(self, item: Field) -> Editor:
        if isinstance(item, TextField):
            return self._text(item)
        if isinstance(item, ChoiceField):
            return self._choice(item)
        button = WordButton(item.label, item.detail)
        if item.primary:
            button.setObjectName("primary")
        button.clicked.connect(lambda: self._on_pressed(item.key))
        return button

    def _on_pressed(self, key: str) -> None:
        item = self._items.get(key)
        if isinstance(item, ActionField):
            edit, act = item.edit, item.act
            self._attempt(
                key, act if edit is None else lambda: self.workspace.edit(item.step, edit)
            )

    def _text(self, item: TextField) -> UnitEdit:
        editor = UnitEdit()
        editor.show_field(item, self._sign_of(item))
        show_its_beginning(editor)
        editor.editingFinished.connect(lambda: self._on_typed(item.key, editor))
        editor.textEdited.connect(lambda _: self._echo(item.key, editor.text()))
        editor.unit_chosen.connect(self.on_unit_chosen)
        return editor

    def _sign_of(self, item: TextField) -> str:
        """The unit that a field is shown in: the one chosen by hand, else its group's."""
        return self._signs.get(item.quantity) or self._group_signs.get(item.key, "")

    def on_unit_chosen(self, quantity: str, sign: str) -> None:
        """Show every field of a quantity in the unit that was chosen for one of them."""
        self._signs[quantity] = sign
        for key, editor in self.fields.items():
            item = self._items[key]
            if (
                isinstance(editor, UnitEdit)
                and isinstance(item, TextField)
                and item.quantity == quantity
                and half_typed(editor) is None
            ):
                editor.show_field(item, sign)

    def _echo(self, key: str, text: str) -> None:
        """Say under a field how what is typed is understood, where that is not the very same."""
        item, label = self._items.get(key), self._complaints[key]
        if not isinstance(item, TextField) or item.say is None:
            return
        try:
            words = item.say(item.read(text))
        except GreyCurrentError:
            words = ""
        shown = f"= {words}" if words and words != text.strip() else ""
        label.say(shown, "soft")
        self._settle()

    def _on_typed(self, key: str, editor: QLineEdit) -> None:
        item = self._items.get(key)
        if not isinstance(item, TextField):
            return
        editor.setModified(False)
        if editor.text() == item.value:
            mark_bad(editor, self._complaints[key], "")
        else:
            self._attempt(key, lambda: self._take(item, item.read(editor.text())))
            # The same value in other words is no edit, and is shown as it is said.
            same = self._items.get(key) is item and self.fields.get(key) is editor
            if same and isinstance(editor, UnitEdit) and not editor.isModified():
                editor.show_field(item, self._sign_of(item))
                mark_bad(editor, self._complaints[key], "")

    def _choice(self, item: ChoiceField) -> QComboBox:
        editor = ChoiceBox()
        editor.setMinimumWidth(80)
        editor.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        for value, words in item.options:
            editor.addItem(words, value)
        # The box is narrower than some choices: the whole words are told on hover.
        editor.currentTextChanged.connect(lambda words: editor.setToolTip(tip(words)))
        editor.setCurrentIndex(chosen_index(item))
        editor.setToolTip(tip(editor.currentText()))
        editor.activated.connect(
            lambda index: self._on_chosen(item.key, str(editor.itemData(index)))
        )
        return editor

    def _on_chosen(self, key: str, value: str) -> None:
        item = self._items.get(key)
        if isinstance(item, ChoiceField) and value != item.value:
            self._attempt(key, lambda: self._take(item, value))

    def _take(self, item: TextField | ChoiceField, value: Any) -> None:
        """Put a value where its field says."""
        edit = item.edit
        if edit is not None:
            self.workspace.edit(item.step, lambda project: edit(project, value))
        elif item.act is not None:
            item.act(value)

    def _attempt(self, key: str, action: Callable[[], None] | None) -> None:
        """Do something; a value that cannot be is marked and explained, and stays to be mended."""
        try:
            if action is not None:
                action()
        except GreyCurrentError as problem:
            field = self.fields[key]
            choices = problem.choices if isinstance(problem, DoubtfulInput) else ()
            said = str(problem)
            if isinstance(problem, InputError) and isinstance(field, QLineEdit):
                said = problem.beside(field.text())
            mark_bad(field, self._complaints[key], said, choices)
            if isinstance(field, QLineEdit):
                field.setModified(True)  # it stays as it was typed, to be mended
            self._settle()

    def _on_answered(self, key: str, text: str) -> None:
        """Enter what a field's question was answered with."""
        editor = self.fields.get(key)
        if isinstance(editor, QLineEdit):
            editor.setText(text)
            self._on_typed(key, editor)
