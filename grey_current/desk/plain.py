"""Texts on screen as they are written: names come from files of anybody, and are never read as
markup.
"""

from __future__ import annotations

import html

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QLabel


def plain_label(text: str = "", name: str = "", wraps: bool = False) -> QLabel:
    """A label that shows its text and nothing else; `name` is what the style sheet knows it by."""
    label = QLabel(text)
    label.setTextFormat(Qt.TextFormat.PlainText)
    label.setObjectName(name)
    label.setWordWrap(wraps)
    return label


def tip(text: str) -> str:
    """A tool tip's text so that Qt shows it as it is written; it would take a name with brackets
    for markup.
    """
    if "<" in text or "&" in text:
        return f"<qt>{html.escape(text)}</qt>".replace("\n", "<br>")
    return text


# What a machine's row is, while it is dragged from the rack.
MACHINE_DRAG = "application/x-grey-current-machine"
