"""The log as CSV: a row an entry, written whole and read back.

A cell that a spreadsheet would take for a formula is written with an apostrophe before it, which reading drops.
"""

import csv
import io
import json
import re
from collections.abc import Iterator, Sequence
from typing import Any

from zesty_lark.core.work.entry import MOST_ENTRIES, Entry
from zesty_lark.exchange.job_json import JobFileError, entry_from, entry_values

COLUMNS = (
    "at",
    "by",
    "kind",
    "surface",
    "setup",
    "load",
    "pieces",
    "piece",
    "machine",
    "reading_mm",
    "count",
    "amount_mm",
    "step",
    "change",
    "end",
    "characteristic",
    "instrument",
    "readings",
    "part_c",
    "gauge_c",
    "room_c",
    "uncertainty_mm",
    "verdict",
    "asked_mm",
    "got_mm",
    "note",
    "plan",
    "entry_id",
    "supersedes",
    "item",
    "answer",
    "asks",
    "how",
    "map_key",
    "seen",
    "side",
    "power_w",
)
FORMULA_STARTS = ("=", "+", "-", "@", "\t", "\r", "'")
NUMBER = re.compile(r"[+-]?\d+(\.\d+)?")
IN_JSON = ("readings", "plan", "pieces", "asks")
MOST_ROWS = MOST_ENTRIES + 1
"""With the names of the columns."""
LONGEST_CELL = 400_000


def write_log(entries: Sequence[Entry]) -> str:
    """Write a log as CSV; readings and plans are JSON in their cells."""
    out = io.StringIO()
    csv.writer(out).writerows(rows_of(entries))
    return out.getvalue()


def rows_of(entries: Sequence[Entry]) -> Iterator[list[str]]:
    """The rows of a log's table, its columns' names first; every cell is text."""
    yield list(COLUMNS)
    for entry in entries:
        values = entry_values(entry)
        yield [_cell(name, values.get(name)) for name in COLUMNS]


def _cell(name: str, value: Any) -> str:
    if value is None or value == [] or value == "":
        return ""
    if name in IN_JSON:
        return json.dumps(value, default=str)
    if name == "at":
        return str(value.isoformat())
    text = str(value)
    return f"'{text}" if text.startswith(FORMULA_STARTS) and not NUMBER.fullmatch(text) else text


def read_log(text: str) -> list[Entry]:
    """Read a log from CSV.

    Raises
    ------
    JobFileError
        If the columns are others, or a row cannot be read; the row is named.
    """
    csv.field_size_limit(LONGEST_CELL)
    reader = csv.reader(io.StringIO(text.lstrip("\ufeff")), strict=True)
    try:
        rows = list(reader)
    except csv.Error as error:
        raise JobFileError(f"This is not a CSV file that can be read: {error}.") from error
    return entries_of(rows)


def entries_of(rows: Sequence[list[str]]) -> list[Entry]:
    """Return the entries in the rows of a log's table.

    Raises
    ------
    JobFileError
        If the columns are others, or a row cannot be read; the row is named.
    """
    if not rows or tuple(rows[0]) != COLUMNS:
        raise JobFileError(f"This is not a shop log: its first row has to be {','.join(COLUMNS)}.")
    if len(rows) > MOST_ROWS:
        raise JobFileError(f"This log has more than {MOST_ENTRIES:,} entries.")
    return [_entry(number, row) for number, row in enumerate(rows[1:], start=2) if row]


def _entry(number: int, row: list[str]) -> Entry:
    if len(row) != len(COLUMNS):
        raise JobFileError(f"Row {number} has {len(row)} cells instead of {len(COLUMNS)}.")
    values: dict[str, Any] = {}
    for name, cell in zip(COLUMNS, row, strict=True):
        if cell == "":
            continue
        if name in IN_JSON:
            try:
                values[name] = json.loads(cell)
            except (ValueError, RecursionError) as error:
                raise JobFileError(f"Row {number}: {name} is not JSON.") from error
        else:
            values[name] = cell[1:] if cell.startswith("'") else cell
    try:
        return entry_from(values)
    except JobFileError as error:
        raise JobFileError(f"Row {number}: {error}") from error
