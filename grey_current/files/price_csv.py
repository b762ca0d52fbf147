"""A price list as CSV: the parts of a shop with their prices, out and in again."""

from __future__ import annotations

import datetime
import re
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

from grey_current.build.bill import Bill
from grey_current.build.selling import NAMES, sold_by
from grey_current.design.parts.keys import kind_of, part_words
from grey_current.errors import FileError, ValueRefused
from grey_current.files.csv_text import csv_of, csv_rows, csv_text
from grey_current.numerals import as_in_files
from grey_current.shop.build_plan import Price
from grey_current.units import Display, parse_number

COLUMNS = ("part", "name", "quantity", "unit", "price", "currency", "date")
# What a heading may be called.
WORDS = {
    "part": ("part", "key", "part key", "article"),
    "price": ("price", "unit price", "each", "cost"),
    "unit": ("unit", "per", "sold by"),
    "currency": ("currency",),
    "date": ("date", "as of"),
}
LARGEST = 2 * 1024 * 1024
SIGNS = {"$": "USD", "€": "EUR", "£": "GBP"}
LINES = 1000


@dataclass(frozen=True)
class PriceList:
    """Prices that were read, the parts of them that this shop does not want, and lines without a
    price.
    """

    prices: tuple[Price, ...]
    unknown: tuple[str, ...]
    empty: int


@as_in_files()
def price_list(found: Bill) -> str:
    """The bill as CSV, one part a line, to be filled in or sent to a dealer."""
    project = found.parts.project
    display = Display(project.settings.units)
    rows = []
    for line in found.lines:
        key = line.part.key
        unit = sold_by(key, display)
        # A usual price is nobody's: the cell is there to be filled in.
        entered = line.price if line.usual is None else None
        price = "" if entered is None else f"{entered * unit.size:.6g}"
        date = line.entry.date.isoformat() if line.entry is not None else ""
        quantity = f"{line.part.quantity / unit.size:.3f}".rstrip("0").rstrip(".")
        rows.append(
            (
                key,
                part_words(key, display),
                quantity,
                unit.name,
                price,
                project.build.currency,
                date,
            )
        )
    return csv_of(COLUMNS, rows)


def read_prices(path: Path, currency: str, wanted: Iterable[str]) -> PriceList:
    """Prices from a CSV file, matched by part key. Raises `FileError` for a file that is no price
    list.
    """
    text = csv_text(path, "a price list", LARGEST)
    return parse_prices(text, str(path), currency, wanted)


@as_in_files()
def parse_prices(text: str, name: str, currency: str, wanted: Iterable[str]) -> PriceList:
    """Prices from the text of a CSV file; `currency` is for lines that name none. Raises
    `FileError`.
    """
    rows = csv_rows(text, name, "the price list")
    if not rows:
        raise FileError(
            name, "is empty", "write the parts out first, fill in the prices, and read them back"
        )
    places = _columns(rows[0], name)
    # What the bill does not ask for is kept too: prices are for the next shop as well.
    known, found, unknown, empty = set(wanted), dict[str, Price](), list[str](), 0
    for number, row in enumerate(rows[1 : LINES + 1], 2):
        cells = {
            what: row[place].strip() if place < len(row) else "" for what, place in places.items()
        }
        if not cells["part"] and not cells["price"]:
            continue
        if not cells["price"]:
            empty += 1
            continue
        price = _price(cells, name, number, currency)
        found[price.key] = price
        if price.key not in known:
            unknown.append(price.key)
    return PriceList(tuple(found.values()), tuple(dict.fromkeys(unknown)), empty)


def _columns(heading: list[str], name: str) -> dict[str, int]:
    words = [cell.strip().lower() for cell in heading]
    places = {
        what: next((words.index(w) for w in names if w in words), -1)
        for what, names in WORDS.items()
    }
    for what in ("part", "price"):
        if places[what] < 0:
            raise FileError(
                name,
                f"has no column '{what}' in its first line",
                f"name the columns: {', '.join(COLUMNS)}",
            )
    return {what: place for what, place in places.items() if place >= 0}


def _price(cells: dict[str, str], name: str, number: int, currency: str) -> Price:
    text = cells["price"]
    # A sign or a code beside the price wins over the shop's currency.
    sign = next((SIGNS[s] for s in SIGNS if s in text), None)
    code = (cells.get("currency") or "").upper() or sign or currency
    # Prices in two currencies would be added up as one.
    if code != currency and re.fullmatch("[A-Z]{3}", code):
        raise FileError(
            name,
            f"line {number}: the price is in {code}, and this shop counts in {currency}",
            "change one of the two, and read the list again",
        )
    bare = re.sub(r"[$€£\s]|[A-Za-z]{3}$", "", text)
    try:
        if cells.get("date"):
            date = datetime.date.fromisoformat(cells["date"])
        else:
            date = datetime.date.today()
    except ValueError:
        raise FileError(
            name, f"line {number}: the date {cells['date']!r:.40} is none", "write it as 2026-11-26"
        ) from None
    try:
        size = _size_of_unit(cells, name, number)
        return Price(key=cells["part"], price=parse_number(bare) / size, currency=code, date=date)
    except ValueRefused as problem:
        field = str(problem.fault["loc"][0])
        shown = {"key": cells["part"], "price": text, "currency": code}.get(field, text)
        rule = {
            "key": "keep the part keys as they were written out",
            "currency": "write three letters such as EUR",
        }
        raise FileError(
            name,
            f"line {number}: the {field} {shown!r:.60} cannot be used",
            rule.get(field, "write a price such as 12.50"),
        ) from None
    except ValueError:
        raise FileError(
            name,
            f"line {number}: the price {text!r:.40} is no number",
            "write a price such as 12.50",
        ) from None


def _size_of_unit(cells: dict[str, str], name: str, number: int) -> float:
    """How much of a part one price is for, in the unit that its key counts in. Raises `FileError`
    where that is not said.
    """
    counts = kind_of(cells["part"]).unit
    said = cells.get("unit", "").strip().lower().rstrip(".")
    known = NAMES[counts]
    if not said and counts == "piece":
        return 1.0
    if said not in known:
        words = f"the unit {said!r:.30} cannot be used" if said else "no unit is said"
        raise FileError(
            name,
            f"line {number}: {words} for {cells['part']}",
            f"write {' or '.join(dict.fromkeys(unit.name for unit in known.values()))} in the "
            "column 'unit'",
        )
    return known[said].size
