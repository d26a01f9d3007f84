"""Checks of gauges, and the grinding of chucks: what was done, never changed."""

import json
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import get_args

from sqlalchemy import select
from sqlalchemy.orm import Session

from zesty_lark.core.measure.maps.chuck import ChuckAct, ChuckGrinding, ChuckJobError, StepName, check_act, grinding_now
from zesty_lark.store.database import first
from zesty_lark.store.models import ChuckActRow, ChuckRow, GaugeCheckRow, InstrumentRow, Person
from zesty_lark.store.once import came_in, sent_before

MOST_LISTED = 20


class CheckError(ValueError):
    """A check that cannot be kept; the message says why."""


@dataclass(frozen=True)
class Check:
    """A check of a gauge on its way in: the sender's id, its kind, what was read [µm], whether it was good."""

    entry_id: str
    kind: str
    readings_um: Sequence[float]
    good: bool
    words: str


def keep_check(session: Session, gauge: InstrumentRow, check: Check, by: Person, *, at: datetime) -> None:
    """Keep a check of a gauge; what was sent before is not kept again.

    Raises
    ------
    CheckError
        If its id is none, or was used for something else.
    """
    same = {"instrument_id": gauge.id, "kind": check.kind}
    if sent_before(session, GaugeCheckRow, check.entry_id, same=same, refused=CheckError):
        return
    session.add(
        GaugeCheckRow(
            entry_id=check.entry_id,
            digest=came_in(session).digest,
            instrument_id=gauge.id,
            kind=check.kind,
            readings=json.dumps(list(check.readings_um)),
            good=check.good,
            words=check.words[:300],
            at=at,
            by_id=by.id,
        )
    )
    session.flush()


def checks_of(session: Session, gauge: InstrumentRow) -> list[GaugeCheckRow]:
    """Return a gauge's checks, the newest first."""
    found = select(GaugeCheckRow).where(GaugeCheckRow.instrument_id == gauge.id)
    return list(session.scalars(found.order_by(GaugeCheckRow.id.desc()).limit(MOST_LISTED)))


def latest_check(session: Session, gauge: InstrumentRow, kind: str) -> GaugeCheckRow | None:
    """Return the newest check of a kind."""
    found = select(GaugeCheckRow).where(GaugeCheckRow.instrument_id == gauge.id, GaugeCheckRow.kind == kind)
    return first(session, found.order_by(GaugeCheckRow.id.desc()))


@dataclass(frozen=True)
class Grinding:
    """The newest grinding of a chuck: its number, what was done, the newest first, and where it stands."""

    number: int
    acts: list[ChuckActRow]
    stands: ChuckGrinding


def grinding_of(session: Session, chuck: ChuckRow) -> Grinding | None:
    """Return the newest grinding of a chuck; ``None`` when it was never ground here."""
    newest = first(
        session, select(ChuckActRow.grinding).where(ChuckActRow.chuck_id == chuck.id).order_by(ChuckActRow.id.desc())
    )
    if newest is None:
        return None
    found = select(ChuckActRow).where(ChuckActRow.chuck_id == chuck.id, ChuckActRow.grinding == newest)
    rows = list(session.scalars(found.order_by(ChuckActRow.id)))
    return Grinding(newest, rows[::-1], grinding_now([_act(row) for row in rows], rows[0].passes))


def _act(row: ChuckActRow) -> ChuckAct:
    step = next(name for name in get_args(StepName) if name == row.step)
    return ChuckAct(step, row.at, row.answer)


def keep_act(
    session: Session, chuck: ChuckRow, act: ChuckAct, by: Person, *, entry_id: str, passes: int, note: str = ""
) -> None:
    """Log a step of grinding a chuck; the first begins a new grinding with so many passes. What was sent before is not
    kept again.

    Raises
    ------
    ChuckJobError
        If another step comes first, or its id is none or was used for something else.
    """
    session.refresh(chuck, with_for_update=True)
    same = {"chuck_id": chuck.id, "step": act.step}
    if sent_before(session, ChuckActRow, entry_id, same=same, refused=ChuckJobError):
        return
    running = grinding_of(session, chuck)
    if running is None or running.stands.next is None:
        number, stands = (1 if running is None else running.number + 1), grinding_now([], passes)
    else:
        number, stands, passes = running.number, running.stands, running.stands.passes
    check_act(act, stands)
    session.add(
        ChuckActRow(
            entry_id=entry_id,
            digest=came_in(session).digest,
            chuck_id=chuck.id,
            grinding=number,
            passes=passes,
            step=act.step,
            answer=act.answer,
            note=note[:500],
            at=act.at,
            by_id=by.id,
        )
    )
    session.flush()
