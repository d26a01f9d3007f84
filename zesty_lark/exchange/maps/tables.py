"""A map as a table of points: CSV and XLSX.

A row a point in the order of reading, and one of the kind "closing" for the first point read again at the end.
"""

import csv
import io
import math
from collections.abc import Sequence
from typing import Any

from zesty_lark.core.measure.maps.analysis import Frame
from zesty_lark.core.measure.maps.bounds import MOST_POINTS
from zesty_lark.exchange.maps.record import MapFileError, MapRecord, checked_map
from zesty_lark.exchange.workbooks import WorkbookError, read_rows, write_rows

COLUMNS = ("frame", "patch", "kind", "x_mm", "y_mm", "z_um")
FRAMES: tuple[Frame, ...] = ("machine", "plate")
LONGEST_CELL = 200
SHEET = "map"
FORMULA_STARTS = ("=", "+", "-", "@", "\t", "\r", "'")


def _rows(record: MapRecord) -> list[tuple[object, ...]]:
    whole = record.whole
    rows: list[tuple[object, ...]] = []
    for number, (x, y, z) in enumerate(whole.points):
        patch = whole.patches[whole.patch_of[number]] if whole.patches else ""
        rows.append((whole.frame, _safe(patch), "point", x, y, z))
    if whole.closing_um is not None:
        x, y, _ = whole.points[0]
        rows.append((whole.frame, "", "closing", x, y, whole.closing_um))
    return rows


def _safe(words: str) -> str:
    """A name that a spreadsheet would take for a formula begins with an apostrophe, which reading drops."""
    return f"'{words}" if words.startswith(FORMULA_STARTS) else words


def write_csv(record: MapRecord) -> bytes:
    """Write a map as CSV; figures as Python writes them, which reads back bit by bit."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(COLUMNS)
    writer.writerows([*head, repr(x), repr(y), repr(z)] for *head, x, y, z in _rows(record))
    return out.getvalue().encode()


def read_csv(data: bytes) -> MapRecord:
    """Read a map from CSV.

    Raises
    ------
    MapFileError
        If it is none; the row is named.
    """
    csv.field_size_limit(LONGEST_CELL)
    try:
        rows = list(csv.reader(io.StringIO(data.decode("utf-8-sig")), strict=True))
    except (UnicodeDecodeError, csv.Error) as error:
        raise MapFileError(f"This is not a CSV file that can be read: {error}.") from error
    return _from_rows(rows)


def write_xlsx(record: MapRecord) -> bytes:
    """Write a map as a workbook: one sheet with its points, one with what is known of it."""
    taken = "" if record.taken_at is None else record.taken_at.isoformat()
    about = (("title", record.title), ("taken at", taken), ("by", record.by), ("gauge", record.instrument))
    said = [[_safe(each) for each in line] for line in about]
    return write_rows([(SHEET, [COLUMNS, *_rows(record)]), ("about", said)])


def read_xlsx(data: bytes) -> MapRecord:
    """Read a map from a workbook's sheet "map", or its first.

    Raises
    ------
    MapFileError
        If it is no workbook that can be read safely, or no map.
    """
    try:
        return _from_rows(read_rows(data, SHEET, most_rows=MOST_POINTS + 3, columns=len(COLUMNS)))
    except WorkbookError as error:
        raise MapFileError(str(error)) from error


def _from_rows(rows: Sequence[Sequence[Any]]) -> MapRecord:
    rows = [row for row in rows if any(cell != "" for cell in row)]
    if not rows or tuple(str(cell) for cell in rows[0]) != COLUMNS:
        raise MapFileError(f"This is no map: its first row has to be {','.join(COLUMNS)}.")
    if len(rows) - 1 > MOST_POINTS + 1:
        raise MapFileError(f"This map has over {MOST_POINTS:,} points.")
    points, patch_of, names = list[list[float]](), list[int](), dict[str, int]()
    closing: float | None = None
    frames = {str(row[0]) for row in rows[1:]}
    frame = next((each for each in FRAMES if frames == {each}), None)
    if frame is None:
        raise MapFileError("Every row has to be in one frame: machine, or plate.")
    for number, row in enumerate(rows[1:], start=2):
        if len(row) != len(COLUMNS):
            raise MapFileError(f"Row {number} has {len(row)} cells instead of {len(COLUMNS)}.")
        x, y, z = (_figure(cell, number) for cell in row[3:])
        if row[2] == "closing":
            closing = z
        elif row[2] == "point":
            points.append([x, y, z])
            patch_of.append(names.setdefault(str(row[1]).removeprefix("'")[:30], len(names)))
        else:
            raise MapFileError(f"Row {number} is neither a point nor the closing reading.")
    named = list(names) if set(names) - {""} else []
    return MapRecord(checked_map(points, frame, closing_um=closing, patch_of=patch_of if named else (), patches=named))


def _figure(cell: Any, number: int) -> float:
    try:
        value = float(cell)
    except (TypeError, ValueError):
        value = math.nan
    if isinstance(cell, bool) or not math.isfinite(value):
        raise MapFileError(f"Row {number}: “{str(cell)[:20]}” is no number.")
    return value
