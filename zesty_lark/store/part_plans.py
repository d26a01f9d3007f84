"""A part's plan in its versions: none is changed, none is lost, one is released."""

import json
from collections.abc import Mapping, Sequence
from datetime import datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from zesty_lark.core.squaring.changes import Figure
from zesty_lark.core.squaring.choices import RouteChoices, dumped, loaded
from zesty_lark.store import rebuilding
from zesty_lark.store.database import first
from zesty_lark.store.jobs import by_number
from zesty_lark.store.models import Job, PartPlanRow, Person


class NewerVersion(ValueError):
    """Someone saved a newer version since this one was opened; ``newest`` is it."""

    def __init__(self, newest: PartPlanRow) -> None:
        super().__init__(f"{newest.made_by.name} saved version {newest.number} while you were working.")
        self.newest = newest


def versions(session: Session, job: Job) -> list[PartPlanRow]:
    """Return all versions, newest first."""
    return list(
        session.scalars(select(PartPlanRow).where(PartPlanRow.job_id == job.id).order_by(PartPlanRow.number.desc()))
    )


def newest(session: Session, job: Job) -> PartPlanRow | None:
    """Return the newest version; ``None`` before the first."""
    return first(session, select(PartPlanRow).where(PartPlanRow.job_id == job.id).order_by(PartPlanRow.number.desc()))


def in_force(rows: Sequence[PartPlanRow]) -> PartPlanRow | None:
    """Return the version that is in force: of those that were released, the one released last."""
    out = [row for row in rows if row.released_at is not None]
    return max(out, key=lambda row: row.release or 0, default=None)


def save(
    session: Session,
    job: Job,
    person: Person,
    choices: RouteChoices,
    *,
    figures: Mapping[str, Mapping[str, Figure]],
    based_on: int,
    at: datetime,
    over: bool = False,
) -> PartPlanRow:
    """Keep a new version.

    Parameters
    ----------
    based_on : int
        The version it was made from, 0 for none.
    over : bool
        Keep it as the newest even when someone saved another meanwhile; that one stays what it is.

    Raises
    ------
    NewerVersion
        If someone did, and ``over`` is not set.

    Notes
    -----
    Sent twice, it is kept once.
    """
    by_number(session, job.number, lock=True)
    last = newest(session, job)
    text = dumped(choices)
    if last is not None and last.choices == text and last.made_by_id == person.id and figures_of(last) == figures:
        return last
    if last is not None and last.number != based_on and not over:
        raise NewerVersion(last)
    number = 1 + (session.scalar(select(func.max(PartPlanRow.number)).where(PartPlanRow.job_id == job.id)) or 0)
    row = PartPlanRow(
        job_id=job.id,
        number=number,
        based_on=based_on,
        choices=text,
        figures=json.dumps(figures),
        made_by=person,
        made_at=at,
    )
    session.add(row)
    session.flush()
    return row


def release(session: Session, job: Job, row: PartPlanRow, person: Person, *, at: datetime, reason: str = "") -> None:
    """Release a version to the machine: its route is in force; with the reason where it is on a limit or does not clean
    up."""
    last = session.scalar(select(func.max(PartPlanRow.release)).where(PartPlanRow.job_id == job.id)) or 0
    row.released_by, row.released_at, row.reason, row.release = person, at, reason, last + 1
    job.part.route = row.choices
    session.flush()
    rebuilding.summarise(session, job)
    session.flush()


def choices_of(row: PartPlanRow | None) -> RouteChoices:
    """Return what a version chose; the usual choices without one."""
    return RouteChoices() if row is None else loaded(row.choices)


def figures_of(row: PartPlanRow) -> dict[str, dict[str, Figure]]:
    """Return a version's figures as they came out when it was saved."""
    told: dict[str, dict[str, Figure]] = json.loads(row.figures)
    return told
