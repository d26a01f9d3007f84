"""The log as a workbook: the rows of its CSV on one sheet, every cell text, written and read back."""

from collections.abc import Sequence

from zesty_lark.core.work.entry import Entry
from zesty_lark.exchange.job_json import JobFileError
from zesty_lark.exchange.log_csv import COLUMNS, MOST_ROWS, entries_of, rows_of
from zesty_lark.exchange.workbooks import WorkbookError, read_rows, write_rows

SHEET = "log"


def write_log_xlsx(entries: Sequence[Entry]) -> bytes:
    """Write a log as a workbook."""
    return write_rows([(SHEET, rows_of(entries))])


def read_log_xlsx(data: bytes) -> list[Entry]:
    """Read a log from a workbook.

    Raises
    ------
    JobFileError
        If it is none; the row is named.
    """
    try:
        rows = read_rows(data, SHEET, most_rows=MOST_ROWS + 2, columns=len(COLUMNS))
    except WorkbookError as error:
        raise JobFileError(str(error)) from error
    return entries_of([[str(cell) for cell in row] for row in rows if any(cell != "" for cell in row)])
