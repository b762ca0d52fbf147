"""Actions and menus of the window, made from the list of commands and the declared settings."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Protocol

from PyQt6.QtGui import QAction, QActionGroup, QKeySequence
from PyQt6.QtWidgets import QMainWindow, QMenu

from grey_current.desk.plain import tip
from grey_current.desk.shell.file_dialogs import FileDialogs
from grey_current.workspace.commands import COMMANDS, CONTEXT, GROUPS, Command
from grey_current.workspace.desk import Desk
from grey_current.workspace.settings import SETTINGS, UserSettings
from grey_current.workspace.workspace import Workspace

# Commands above which a menu has a line.
LINE_BEFORE = {
    "save",
    "underlay",
    "papers",
    "quit",
    "cut",
    "select-all",
    "turn",
    "zoom-in",
    "pane-machines",
    "theme",
    "keep-design",
    "next-machine",
    "criterion",
    "instrument",
    "keep-machine",
}


class Shell(Desk, Protocol):
    """The window as the menus know it."""

    def attempt(self, action: Callable[[], object]) -> bool:
        """Do something that may be refused, and say so."""

    def put_setting(self, name: str, choice: str) -> None:
        """Choose one of the declared settings."""

    @property
    def files(self) -> FileDialogs:
        """Its file dialogs."""


class Menus:
    """The window's actions by command id, its menu bar, and what stands in it now."""

    def __init__(self, window: QMainWindow, shell: Shell, settings: UserSettings) -> None:
        self._window, self._shell, self._settings = window, shell, settings
        self.actions = {command.id: self._action(command) for command in COMMANDS}
        self._choices: dict[tuple[str, str], QAction] = {}

    def _action(self, command: Command) -> QAction:
        action = QAction(command.title, self._window)
        if command.shortcut:
            action.setShortcuts(QKeySequence.listFromString(command.shortcut))
            action.setToolTip(f"{command.title} ({command.usual_key})")
        action.triggered.connect(
            lambda checked=False: self._shell.attempt(lambda: command.act(self._shell))
        )
        self._window.addAction(action)
        return action

    def build(self) -> None:
        """Put everything into the window's menu bar."""
        bar = self._window.menuBar()
        assert bar is not None
        for group in GROUPS:
            menu = bar.addMenu(group)
            assert menu is not None
            self._fill(menu, group)
            if group == "View":
                self._add_settings(menu)

    def _fill(self, menu: QMenu, group: str) -> None:
        """Put a menu's commands and submenus into it, in the order of the list."""
        submenus: dict[str, QMenu] = {}
        for command in COMMANDS:
            name, _, below = command.group.partition("/")
            if name != group:
                continue
            if command.id in LINE_BEFORE:
                menu.addSeparator()
            if below and below not in submenus:
                submenu = menu.addMenu(below)
                assert submenu is not None
                submenus[below] = submenu
            submenus.get(below, menu).addAction(self.actions[command.id])

    def _add_settings(self, menu: QMenu) -> None:
        """A submenu for each declared setting."""
        menu.addSeparator()
        for setting in SETTINGS:
            sub = menu.addMenu(setting.title)
            assert sub is not None
            group = QActionGroup(self._window)
            for choice, words in zip(setting.choices, setting.words, strict=True):
                action = QAction(words, self._window)
                action.setCheckable(True)
                action.triggered.connect(partial(self._shell.put_setting, setting.name, choice))
                group.addAction(action)
                sub.addAction(action)
                self._choices[setting.name, choice] = action

    def show_workspace(self, workspace: Workspace) -> None:
        """Which commands make sense now, what undo and redo would do, which settings are chosen."""
        for command in COMMANDS:
            self.actions[command.id].setEnabled(command.enabled(workspace))
        for ident, label in (("undo", workspace.undo_label), ("redo", workspace.redo_label)):
            title = ident.capitalize()
            words = f"{title}: {label}" if label else title
            self.actions[ident].setText(words)
            self.actions[ident].setToolTip(tip(words))
        for (setting, choice), action in self._choices.items():
            action.setChecked(self._settings.get(setting) == choice)

    def context_menu(self, kind: str) -> QMenu:
        """What can be done to a kind of thing, as a menu that opens where it is; what makes no
        sense just now is left out.
        """
        menu = QMenu(self._window)
        for name in CONTEXT[kind]:
            if name == "-":
                menu.addSeparator()
            elif self.actions[name].isEnabled():
                menu.addAction(self.actions[name])
        return menu
