"""Set-ups as they are laid out: one a set-up of a job, with the layouts before it for undo."""

import json
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from zesty_lark.core.setup.layout import Layout, dumped, loaded
from zesty_lark.store.database import first
from zesty_lark.store.jobs import by_number
from zesty_lark.store.models import Job, LogEntry, Person, SetUpRow

MOST_BEFORE = 40
LONGEST_BEFORE = 2_000_000
LONGEST_STOP = 500


class LaidOutMeanwhile(ValueError):
    """Someone else moved something since this was drawn; ``now`` is the set-up as it is."""

    def __init__(self, now: SetUpRow) -> None:
        super().__init__(f"{now.changed_by.name} moved something in this set-up meanwhile. This is how it is now.")
        self.now = now


def of(session: Session, job: Job, setup: str) -> SetUpRow | None:
    """Return a set-up as it is laid out; ``None`` while it is not."""
    return session.scalar(select(SetUpRow).where(SetUpRow.job_id == job.id, SetUpRow.setup == setup))


def layout_of(row: SetUpRow) -> Layout:
    """Return a set-up's layout."""
    return loaded(row.layout)


def keep(
    session: Session,
    job: Job,
    person: Person,
    setup: str,
    *,
    layout: Layout,
    stop: str,
    cautions: list[str],
    version: int | None,
    at: datetime,
    back: bool = False,
) -> SetUpRow:
    """Keep how a set-up is laid out, and what its check found; the layout before can be gone back to, and is taken off
    the pile when this is it (``back``).

    Raises
    ------
    LaidOutMeanwhile
        If it is no longer at the ``version`` that was changed.
    """
    row, text = _held(session, job, setup, version), dumped(layout)
    if row is None:
        row = SetUpRow(job_id=job.id, setup=setup, before="[]", layout=text)
        session.add(row)
    elif back:
        row.before, row.layout = json.dumps(json.loads(row.before)[:-1]), text
    elif row.layout != text:
        row.before, row.layout = _pushed(row.before, row.layout), text
    row.stop, row.cautions = stop[:LONGEST_STOP], "\n".join(cautions)
    row.changed_by, row.changed_at = person, at
    session.flush()
    session.expire(job, ["set_ups"])
    return row


def found(session: Session, job: Job, row: SetUpRow, *, stop: str, cautions: list[str]) -> None:
    """Keep what a new check of a set-up found, where that is something else than the last."""
    kept = (stop[:LONGEST_STOP], "\n".join(cautions))
    if (row.stop, row.cautions) != kept:
        row.stop, row.cautions = kept
        session.flush()
        session.expire(job, ["set_ups"])


def before(row: SetUpRow) -> Layout | None:
    """Return the layout that undo would go back to; ``None`` when there is none."""
    pile: list[str] = json.loads(row.before)
    return loaded(pile[-1]) if pile else None


def _held(session: Session, job: Job, setup: str, version: int | None) -> SetUpRow | None:
    """The row, its job held; as it was seen."""
    by_number(session, job.number, lock=True)
    row = of(session, job, setup)
    if row is not None:
        session.refresh(row)
        if version != row.version:
            raise LaidOutMeanwhile(row)
    return row


def _pushed(before: str, layout: str) -> str:
    pile: list[str] = [*json.loads(before), layout][-MOST_BEFORE:]
    while len(pile) > 1 and sum(len(each) for each in pile) > LONGEST_BEFORE:
        pile.pop(0)
    return json.dumps(pile)


def read_in(session: Session, job: Job, person: Person, *, layouts: dict[str, str], at: datetime) -> None:
    """Keep layouts that were written out before, where none is here; they are checked when they are looked at."""
    for setup, text in layouts.items():
        if of(session, job, setup) is None:
            row = SetUpRow(job_id=job.id, setup=setup, before="[]", layout=dumped(loaded(text)), cautions="")
            row.changed_by, row.changed_at = person, at
            session.add(row)
    session.flush()
    session.expire(job, ["set_ups"])


def warmed_up_today(session: Session, job: Job, now: datetime) -> datetime | None:
    """Return when a job's machine had its warm-up run last since this day's midnight, by the shop's clock."""
    return warmed_up_at(session, job, now.astimezone().replace(hour=0, minute=0, second=0, microsecond=0))


def warmed_up_at(session: Session, job: Job, since: datetime) -> datetime | None:
    """Return when a job's machine had its warm-up run last since a moment, whichever job it was logged on."""
    query = select(LogEntry.at).where(
        LogEntry.machine_id == job.machine_id,
        LogEntry.kind == "prepared",
        LogEntry.item == "warm up",
        LogEntry.at >= since,
    )
    return first(session, query.order_by(LogEntry.seq.desc()))
