"""Each press once: what was sent before is known by its id, and by what it said then.

Whoever sends an entry makes its id. Sent again with the same words it is kept no second time; with other words under
the same id it is refused, never taken for what is there.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import timedelta
from typing import Any, Final

from sqlalchemy import ColumnElement, select, true
from sqlalchemy.orm import Session

from zesty_lark.core.work.entry import ENTRY_ID
from zesty_lark.store.models.base import OnceRow

CAME_IN: Final = "came in"
"""Where a session has how what it logs came in."""


@dataclass(frozen=True)
class CameIn:
    """How a press came in.

    Attributes
    ----------
    digest : str or None
        Of what was posted; ``None`` where nothing was.
    waited : timedelta
        For how long it waited on a screen that nobody answered.
    clock_doubt : bool
        The clock that gave its time has jumped.
    """

    digest: str | None = None
    waited: timedelta = timedelta(0)
    clock_doubt: bool = False


def came_in(session: Session) -> CameIn:
    """Return how what this session logs came in."""
    found: CameIn = session.info.get(CAME_IN, CameIn())
    return found


def sent_before(
    session: Session,
    rows: type[OnceRow],
    entry_id: str,
    *,
    same: Mapping[str, Any],
    refused: type[ValueError],
    among: ColumnElement[bool] | None = None,
) -> bool:
    """Tell whether an entry is there already.

    Parameters
    ----------
    session : Session
    rows : type of OnceRow
        The log's table.
    entry_id : str
        The sender's id.
    same : mapping
        What the row that is there has to have in its columns to be the same entry.
    refused : type of ValueError
        What is raised.
    among : condition, optional
        Which of the table's rows are that log's.

    Raises
    ------
    ValueError
        Of the type ``refused``, if the id is none, or is that of something else.
    """
    if not ENTRY_ID.fullmatch(entry_id):
        raise refused("An entry's id has 8 to 36 letters, digits and dashes; open the page again and press once more.")
    columns = [getattr(rows, name) for name in ("digest", *same)]
    known = session.execute(
        select(*columns).where(rows.entry_id == entry_id, true() if among is None else among)
    ).first()
    if known is None:
        return False
    digest = came_in(session).digest
    if tuple(known)[1:] != tuple(same.values()) or (known.digest and digest and known.digest != digest):
        raise refused(
            "This entry's id was used for another entry, which is kept as it is; what was sent now says something "
            "else and is not kept. Open the page again and press once more."
        )
    return True
