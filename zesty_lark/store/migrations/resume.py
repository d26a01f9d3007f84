"""Migrations that can be cut short anywhere and taken up again.

MariaDB commits at every change of the tables' layout, so a migration is no transaction. Its statements are counted
instead: how many are surely done is kept in the database, in one transaction with the rows they wrote. Whoever takes a
migration up again passes over those. Of the one statement that may or may not have been done, a change of the layout,
"it is so already" is the answer wanted.
"""

import hashlib
from collections.abc import Mapping, Sequence
from typing import Any

from alembic.ddl.mysql import MariaDBImpl
from sqlalchemy import Connection, CursorResult, Executable, inspect, text
from sqlalchemy.exc import DBAPIError
from sqlalchemy.schema import DDLElement
from sqlalchemy.sql.dml import UpdateBase

PROGRESS = "migration_progress"
CHANGES_LAYOUT = ("alter ", "create ", "drop ", "rename ", "truncate ")
SO_ALREADY = frozenset((1050, 1051, 1054, 1060, 1061, 1091, 1359, 1360, 1826))
"""MariaDB's errors for what is there already, or gone already: tables, columns, keys, constraints, triggers."""
NOT_MADE, DUPLICATE_KEY = 1005, "errno: 121"
"""A foreign key that is there already."""
_MAKE = f"create table if not exists {PROGRESS} (done int not null, digest char(64) not null) engine=InnoDB"


class CutShort(RuntimeError):
    """A change of the tables was cut short that these migrations do not know; the message says what to do."""


def in_progress(connection: Connection) -> bool:
    """Tell whether a migration of this database was begun and not finished."""
    if not inspect(connection).has_table(PROGRESS):
        return False
    return connection.execute(text(f"select 1 from {PROGRESS}")).first() is not None


class _Progress:
    """How far the migration under way has come; one row, none between two migrations."""

    def __init__(self, connection: Connection) -> None:
        self.connection = connection
        connection.execute(text(_MAKE))
        row = connection.execute(text(f"select done, digest from {PROGRESS}")).first()
        self.kept: int = row.done if row else 0
        self.kept_digest: str = row.digest if row else ""
        self.seen, self._so_far = 0, hashlib.sha256()
        self.resuming = row is not None
        self._noted: int | None = row.done if row else None

    @property
    def digest(self) -> str:
        return self._so_far.copy().hexdigest()

    def is_done(self) -> bool:
        """Whether the statement that comes now was done before the migration was cut short."""
        if self.seen < self.kept:
            return True
        if self.seen == self.kept and self.resuming and self.digest != self.kept_digest:
            raise CutShort(
                "The tables are half-way through a change that this version does not know. Start the version that "
                "began it once, or restore the backup that was made before it."
            )
        return False

    def passed(self, statement: str) -> None:
        self.seen += 1
        self._so_far.update(statement.encode() + b"\0")

    def keep(self) -> None:
        """Note, with whatever rows were written since, that all statements so far are done."""
        if self._noted == self.seen:
            return
        note = "insert into {} (done, digest) values (:done, :digest)"
        if self._noted is not None:
            note = "update {} set done = :done, digest = :digest"
        self.connection.execute(text(note.format(PROGRESS)), {"done": self.seen, "digest": self.digest})
        self.connection.commit()
        self._noted = self.seen

    def finish(self) -> None:
        """The version has just been written: the next migration begins at nought, in the same transaction."""
        self.connection.execute(text(f"delete from {PROGRESS}"))
        self.connection.commit()
        self.kept, self.kept_digest, self.resuming, self._noted = 0, "", False, None
        self.seen, self._so_far = 0, hashlib.sha256()


class ResumableImpl(MariaDBImpl):
    """Runs a migration's statements on MariaDB, passing over those that were done before it was cut short."""

    __dialect__ = "mariadb"
    _progress: _Progress | None = None

    def _exec(
        self,
        construct: Executable | str,
        execution_options: Mapping[str, Any] | None = None,
        multiparams: Sequence[Mapping[str, Any]] | None = None,
        params: Mapping[str, Any] | None = None,
    ) -> CursorResult[Any] | None:
        assert self.connection is not None
        self._progress = progress = self._progress or _Progress(self.connection)
        if _writes_version(construct):
            answer = super()._exec(construct, execution_options, multiparams, params or {})
            progress.finish()
            return answer
        statement = f"{_in_words(construct, self.dialect)} {multiparams or ''} {params or ''}"
        answer = None
        if not progress.is_done():
            if _changes_layout(construct):
                uncertain = progress.resuming and progress.seen == progress.kept
                progress.keep()
                self._change(construct, uncertain=uncertain)
                progress.passed(statement)
                progress.keep()
                return None
            answer = super()._exec(construct, execution_options, multiparams, params or {})
        progress.passed(statement)
        return answer

    def _change(self, construct: Executable | str, *, uncertain: bool) -> None:
        """Change the layout; where it may have been done before, that it is so already is no error."""
        try:
            super()._exec(construct)
        except DBAPIError as error:
            if not uncertain or not _is_so_already(error):
                raise


def _is_so_already(error: DBAPIError) -> bool:
    number, *words = error.orig.args if error.orig is not None and error.orig.args else (None,)
    return number in SO_ALREADY or (number == NOT_MADE and DUPLICATE_KEY in str(words))


def _in_words(construct: Executable | str, dialect: Any) -> str:
    return construct if isinstance(construct, str) else str(construct.compile(dialect=dialect))  # type: ignore[attr-defined]


def _writes_version(construct: Executable | str) -> bool:
    return isinstance(construct, UpdateBase) and getattr(construct.table, "name", "") == "alembic_version"


def _changes_layout(construct: Executable | str) -> bool:
    if isinstance(construct, DDLElement):
        return True
    return str(construct).lstrip().lower().startswith(CHANGES_LAYOUT)
