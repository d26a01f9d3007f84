"""A whole shop in one file: a zip of one JSON object a row, one file a table, and a list of what is in it.

Figures and moments are text, exactly as the database has them; nothing is rounded on the way out or in.
"""

import hashlib
import hmac
import json
import zipfile
from collections.abc import Callable, Iterable, Iterator
from datetime import date, datetime
from decimal import Decimal
from pathlib import Path
from typing import IO, Any, Literal

from pydantic import AwareDatetime, BaseModel, ConfigDict, Field, ValidationError

from zesty_lark.files import written_whole

FORMAT, FORMAT_VERSION = "zesty-lark-backup", 1
LISTING = "backup.json"
LONGEST_ROW = 64 * 1024 * 1024
Row = dict[str, Any]


class BackupError(ValueError):
    """The file is no backup, or not a whole one; the message says what is wrong with it."""


class TableContents(BaseModel):
    """How much of one table is in the file."""

    model_config = ConfigDict(extra="forbid")

    rows: int = Field(ge=0)
    sha256: str = Field(pattern="^[0-9a-f]{64}$")


class Contents(BaseModel):
    """What a backup holds.

    Attributes
    ----------
    revision : str
        The table layout it was made from.
    tables : dict
        Each table's rows and the digest of its lines.
    seal : str or None
        Over all of this, by a key that the shop has: whoever changes a row has to change a digest, and cannot seal it.
    """

    model_config = ConfigDict(extra="forbid")

    format: Literal["zesty-lark-backup"] = "zesty-lark-backup"
    format_version: int = Field(default=FORMAT_VERSION, ge=1)
    made_by: str = Field(max_length=80)
    made_at: AwareDatetime
    revision: str = Field(pattern="^[0-9A-Za-z_]{1,32}$")
    tables: dict[str, TableContents]
    seal: str | None = Field(default=None, pattern="^[0-9a-f]{64}$")

    @property
    def rows(self) -> int:
        """How many rows it holds."""
        return sum(table.rows for table in self.tables.values())


def seal_of(contents: Contents, key: str) -> str:
    """Return the seal of what a backup says it holds, by a shop's key (HMAC-SHA-256)."""
    told = contents.model_dump(mode="json", exclude={"seal"})
    words = json.dumps(told, sort_keys=True, separators=(",", ":")).encode()
    return hmac.new(key.encode(), words, "sha256").hexdigest()


def is_sealed(contents: Contents, key: str) -> bool:
    """Tell whether a backup was sealed with a key, and is as it was then."""
    return contents.seal is not None and hmac.compare_digest(contents.seal, seal_of(contents, key))


def _text(value: object) -> object:
    if isinstance(value, Decimal):
        return f"{value:f}"
    if isinstance(value, datetime):
        return value.isoformat(" ")
    if isinstance(value, date):
        return value.isoformat()
    raise BackupError(f"A value of the kind {type(value).__name__} has no place in a backup.")


def write(
    path: Path,
    tables: Iterable[tuple[str, Iterable[Row]]],
    *,
    revision: str,
    made_by: str,
    at: datetime,
    key: str | None = None,
    told: Callable[[str, int], None] = lambda table, rows: None,
) -> Contents:
    """Write a backup; the file is there whole or not at all.

    Parameters
    ----------
    path : Path
        Where to; a file that is there already is replaced once the new one is whole.
    tables : iterable of (str, iterable of dict)
        Every table with its rows.
    key : str, optional
        Seals it.
    told : callable, optional
        Hears of each table that is finished.

    Raises
    ------
    BackupError
        If a row holds what the format has no place for.
    OSError
        If the file cannot be written.
    """
    listed: dict[str, TableContents] = {}
    with written_whole(path) as file, zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED, compresslevel=3) as archive:
        for name, rows in tables:
            seen, count = hashlib.sha256(), 0
            with archive.open(f"tables/{name}.jsonl", "w", force_zip64=True) as lines:
                for row in rows:
                    line = json.dumps(row, default=_text, ensure_ascii=False, separators=(",", ":")).encode() + b"\n"
                    seen.update(line)
                    lines.write(line)
                    count += 1
            listed[name] = TableContents(rows=count, sha256=seen.hexdigest())
            told(name, count)
        contents = Contents(made_by=made_by, made_at=at, revision=revision, tables=listed)
        if key is not None:
            contents = contents.model_copy(update={"seal": seal_of(contents, key)})
        archive.writestr(LISTING, contents.model_dump_json(indent=2))
    return contents


def _opened(path: Path) -> zipfile.ZipFile:
    try:
        return zipfile.ZipFile(path)
    except FileNotFoundError as error:
        raise BackupError(f"There is no file {path}.") from error
    except (zipfile.BadZipFile, OSError) as error:
        raise BackupError(f"{path} cannot be read as a backup: {error}.") from error


def contents_of(path: Path) -> Contents:
    """Return what a backup says it holds.

    Raises
    ------
    BackupError
        If it is none, or was written by a newer version.
    """
    with _opened(path) as archive:
        try:
            with archive.open(LISTING) as file:
                listing = json.loads(file.read(LONGEST_ROW))
        except (KeyError, ValueError, RecursionError, zipfile.BadZipFile, OSError) as error:
            raise BackupError(f"{path} is no backup of this application: it has no list of what is in it.") from error
    version = listing.get("format_version") if isinstance(listing, dict) else None
    if isinstance(version, int) and version > FORMAT_VERSION:
        raise BackupError(f"{path} was written by a newer version of the application; restore it with that one.")
    try:
        return Contents.model_validate(listing)
    except ValidationError as error:
        raise BackupError(f"The list of what is in {path} is damaged.") from error


def rows_in(path: Path, name: str, contents: Contents) -> Iterator[Row]:
    """Yield a table's rows, the file's own list proved against them.

    Raises
    ------
    BackupError
        If the table is damaged or not whole.
    """
    seen, count, expected = hashlib.sha256(), 0, contents.tables[name]
    damaged = BackupError(f"The table {name} in {path} is damaged; nothing can be restored from this file.")
    with _opened(path) as archive:
        try:
            with archive.open(f"tables/{name}.jsonl") as lines:
                for line in _lines(lines):
                    seen.update(line)
                    count += 1
                    yield json.loads(line)
        except (KeyError, ValueError, RecursionError, zipfile.BadZipFile, EOFError, OSError) as error:
            raise damaged from error
    if (count, seen.hexdigest()) != (expected.rows, expected.sha256):
        raise damaged


def _lines(file: IO[bytes]) -> Iterator[bytes]:
    while line := file.readline(LONGEST_ROW):
        yield line


def check(path: Path) -> Contents:
    """Read a whole backup and return what it holds.

    Raises
    ------
    BackupError
        If any of it is missing or damaged.
    """
    contents = contents_of(path)
    for name in contents.tables:
        for _row in rows_in(path, name, contents):
            pass
    return contents
