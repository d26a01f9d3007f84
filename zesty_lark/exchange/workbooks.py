"""Workbooks: sheets of rows out, and in again no further than is allowed."""

import io
from collections.abc import Iterable, Sequence
from typing import Any

from zesty_lark.exchange.packed import PackedError, check_packed, member
from zesty_lark.exchange.xml_parts import XmlError, XmlLimits, check_elements

ROWS_LIMITS = XmlLimits(elements=4_500_000, depth=12)
"""Of a sheet and of the texts that its cells name: as many as the longest log or the largest map has."""
OTHER_LIMITS = XmlLimits(elements=10_000, depth=40)
"""Of what else there is: styles, names, properties."""


def _limits_of(part: str) -> XmlLimits:
    return ROWS_LIMITS if part.startswith("xl/worksheets/") or part == "xl/sharedStrings.xml" else OTHER_LIMITS


class WorkbookError(ValueError):
    """The file is no workbook that can be read; the message says so."""


def write_rows(sheets: Iterable[tuple[str, Iterable[Sequence[object]]]]) -> bytes:
    """Write sheets of rows as a workbook."""
    from openpyxl import Workbook

    book = Workbook(write_only=True)
    for name, rows in sheets:
        sheet = book.create_sheet(name)
        for row in rows:
            sheet.append(list(row))
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def read_rows(data: bytes, sheet: str, *, most_rows: int, columns: int) -> list[list[Any]]:
    """Read the rows of a workbook's sheet of that name, or of its first; empty cells are empty text.

    Raises
    ------
    WorkbookError
        If it is no workbook that can be read safely.
    """
    from openpyxl import load_workbook

    try:
        for each in check_packed(data):
            if each.filename.endswith((".xml", ".rels")):
                check_elements(member(data, each.filename), _limits_of(each.filename))
        book = load_workbook(io.BytesIO(data), read_only=True, data_only=True, keep_links=False)
        found = book[sheet] if sheet in book.sheetnames else book.worksheets[0]
        rows = found.iter_rows(max_row=most_rows, max_col=columns, values_only=True)
        return [["" if cell is None else cell for cell in row] for row in rows]
    except (PackedError, XmlError) as error:
        raise WorkbookError(f"This workbook is not read: {error}") from error
    except Exception as error:  # whatever a workbook's parts are made to raise, it is no workbook of ours
        raise WorkbookError("This is not a workbook that can be read.") from error
