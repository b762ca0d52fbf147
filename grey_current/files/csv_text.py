"""Tables as CSV: those that people or other programs wrote, with what can go wrong, and those that
are written here.
"""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterable, Sequence
from pathlib import Path

from grey_current.errors import FileError
from grey_current.files.safe_write import reason
from grey_current.numerals import decimal

# How a cell begins that a spreadsheet works out instead of showing it, or one that looks like such
# a cell guarded.
FORMULA = re.compile("'*[=+\\-@\t]")
NUMBER = re.compile(r"[+-]?[\d.,]+(?:e[+-]?\d+)?", re.IGNORECASE)


def csv_text(path: Path, what: str, largest: int) -> str:
    """The text of a table of something, such as "a fan curve". Raises `FileError` for what is no
    such file.
    """
    try:
        if path.exists() and not path.is_file():
            raise FileError(str(path), "is not an ordinary file", "choose a CSV file")
        if path.stat().st_size > largest:
            raise FileError(
                str(path),
                f"is too large for {what}",
                f"those are under {decimal(largest // 1000)} kB; choose another file",
            )
        return path.read_text(encoding="utf-8-sig")
    except UnicodeDecodeError:
        raise FileError(str(path), "is not a text file", f"save {what} as CSV in UTF-8") from None
    except OSError as problem:
        why = f"cannot be read ({reason(problem)})"
        raise FileError(str(path), why, "check the name and its permissions") from None


def csv_rows(text: str, name: str, what: str) -> list[list[str]]:
    """The cells of all lines, parted by comma, semicolon or tab. Raises `FileError` for text that
    is no table.
    """
    if "\0" in text:
        raise FileError(name, "is not a text file", f"save {what} as CSV in UTF-8")
    # Whatever parts the first line most often.
    delimiter = max(",;\t", key=text.partition("\n")[0].count)
    try:
        rows = list(csv.reader(io.StringIO(text), delimiter=delimiter))
        return [[_unguarded(cell) for cell in row] for row in rows]
    except csv.Error as problem:
        raise FileError(
            name, f"is no readable CSV ({problem})", f"save {what} again as CSV"
        ) from None


def csv_of(heading: Sequence[object], rows: Iterable[Sequence[object]]) -> str:
    """Rows under a heading as CSV text that no spreadsheet runs, whatever somebody wrote into a
    name or a note.
    """
    out = io.StringIO()
    write = csv.writer(out, lineterminator="\n")
    write.writerow([_guarded(cell) for cell in heading])
    write.writerows([_guarded(cell) for cell in row] for row in rows)
    return out.getvalue()


def _guarded(cell: object) -> object:
    """A cell with an apostrophe before what a spreadsheet would take for a formula; numbers stay
    numbers.
    """
    if not isinstance(cell, str):
        return cell
    plain = cell.replace("\r\n", "\n").replace("\r", "\n")
    return f"'{plain}" if FORMULA.match(plain) and not NUMBER.fullmatch(plain) else plain


def _unguarded(cell: str) -> str:
    """A cell as it was before `_guarded`."""
    return cell[1:] if cell[:1] == "'" and FORMULA.match(cell[1:]) else cell
