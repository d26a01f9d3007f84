"""Summaries of jobs: kept in the transaction of the entry that changes them, found by filter and word, a page at a
time."""

import json
import re
from collections.abc import Iterable
from dataclasses import dataclass, replace
from datetime import date
from typing import Any, cast

from sqlalchemy import Select, delete, select
from sqlalchemy.orm import Session, aliased

from zesty_lark.core.part.faces import FaceState
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.summary import Summary, summary_of
from zesty_lark.store.database import first
from zesty_lark.store.models import Job, MachineRow, Person
from zesty_lark.store.models.summaries import JobSummary, JobWord

PAGE, MOST_PAGES = 25, 40
MOST_FOUND = 1000
"""Whoever finds more has to say more."""
_WORD = re.compile(r"\w+")
LONGEST_WORD, MOST_WORDS = 40, 6


@dataclass(frozen=True)
class Wanted:
    """What a list shows: of whom, on which machine, what it waits for, due by when, finished or not, found by which
    words."""

    owner_id: int | None = None
    machine_id: int | None = None
    waits_for: str = ""
    due_by: date | None = None
    finished: bool = False
    words: str = ""
    page: int = 1


@dataclass(frozen=True)
class Found:
    """A page of a list, and whether there is more."""

    rows: list[tuple[Job, Summary]]
    page: int
    more: bool


def keep(session: Session, job: Job, job_state: JobState) -> None:
    """Write where a job stands now."""
    now = summary_of(replace(job_state, on=None))  # a wheel that is changed later would leave it behind
    row = session.get(JobSummary, job.id) or JobSummary(job_id=job.id)
    row.act, row.surface, row.piece, row.characteristic = now.act, now.surface, now.piece, now.characteristic
    row.words, row.waits_for, row.running, row.up = now.words[:200], now.waits_for, now.running, now.up
    row.states = json.dumps({surface: state.value for surface, state in now.states.items()})
    row.finished_at, row.last_at = now.finished_at, now.last_at
    session.add(row)
    session.flush()


def summary_from(row: JobSummary) -> Summary:
    """Return a kept summary."""
    states = {int(surface): FaceState(state) for surface, state in json.loads(row.states).items()}
    return Summary(
        row.act,  # type: ignore[arg-type]
        row.surface,
        row.piece,
        row.characteristic,
        row.words,
        row.waits_for,  # type: ignore[arg-type]
        row.running,
        row.up,
        states,
        row.finished_at,
        row.last_at,
    )


def words_of(text: str) -> set[str]:
    """The words of a text, as they are looked for."""
    return {word.lower()[:LONGEST_WORD] for word in _WORD.findall(text)}


def keep_words(session: Session, job: Job) -> None:
    """Write the words a job is found by."""
    wanted = words_of(f"{job.number} {job.title} {job.part.material}") | {job.number.lower()[:LONGEST_WORD]}
    known = set(session.scalars(select(JobWord.word).where(JobWord.job_id == job.id)))
    if known - wanted:
        session.execute(delete(JobWord).where(JobWord.job_id == job.id, JobWord.word.in_(known - wanted)))
    session.add_all(JobWord(word=word, job_id=job.id) for word in sorted(wanted - known))
    session.flush()


def find(session: Session, wanted: Wanted, me: Person) -> Found:
    """Return a page of jobs: what is mine and running first, then by date; of the finished ones the newest first.

    The rows read do not grow with the shop's years: what is under way, or the newest finished ones, or those of a word.
    """
    page = min(max(wanted.page, 1), MOST_PAGES)
    index = "ix_job_summary_waits" if wanted.waits_for else "ix_job_summary_finished"
    query = cast(Select[Any], select(JobSummary.job_id).join(Job, JobSummary.job_id == Job.id))
    looked_for = sorted(words_of(wanted.words), key=len, reverse=True)[:MOST_WORDS]
    if looked_for:
        query = query.where(JobSummary.job_id.in_(_with_words(session, *looked_for)))
    else:
        query = query.prefix_with("STRAIGHT_JOIN").with_hint(JobSummary, f"FORCE INDEX ({index})", "mariadb")
    for each in _order(wanted, me):
        query = query.order_by(each)
    found = list(session.scalars(_filtered(query, wanted).limit(PAGE + 1).offset((page - 1) * PAGE)))
    return Found(_loaded(session, found[:PAGE]), page, len(found) > PAGE and page < MOST_PAGES)


def _loaded(session: Session, numbers: list[int]) -> list[tuple[Job, Summary]]:
    """The jobs of these numbers and where they stand, in this order."""
    rows = session.execute(
        select(Job, JobSummary).join(JobSummary, JobSummary.job_id == Job.id).where(Job.id.in_(numbers))
    ).all()
    told = {job.id: (job, summary_from(row)) for job, row in rows}
    return [told[number] for number in numbers]


def _order(wanted: Wanted, me: Person) -> Iterable[Any]:
    if wanted.finished:
        return (JobSummary.finished_at.desc(), JobSummary.job_id.desc())
    mine = Job.owner_id == me.id
    return (
        (mine & JobSummary.running).desc(),
        mine.desc(),
        JobSummary.running.desc(),
        Job.due_on.is_(None),
        Job.due_on,
        Job.number,
    )


def _filtered(query: Select[Any], wanted: Wanted) -> Select[Any]:
    query = query.where(JobSummary.finished_at.is_not(None) if wanted.finished else JobSummary.finished_at.is_(None))
    if wanted.owner_id is not None:
        query = query.where(Job.owner_id == wanted.owner_id)
    if wanted.machine_id is not None:
        query = query.where(Job.machine_id == wanted.machine_id)
    if wanted.waits_for:
        query = query.where(JobSummary.waits_for == wanted.waits_for)
    return query if wanted.due_by is None else query.where(Job.due_on <= wanted.due_by)


def _with_words(session: Session, longest: str, *others: str) -> list[int]:
    """The newest jobs that have each of the words, or words that begin so; the longest is looked up first."""
    query = select(JobWord.job_id).where(JobWord.word.startswith(longest, autoescape=True))
    for word in others:
        other = aliased(JobWord)
        query = query.where(
            select(other.job_id)
            .where(other.job_id == JobWord.job_id, other.word.startswith(word, autoescape=True))
            .exists()
        )
    return list(session.scalars(query.distinct().order_by(JobWord.job_id.desc()).limit(MOST_FOUND)))


def running_on(session: Session, machine: MachineRow) -> Job | None:
    """Return the job that is up on a machine, the one logged last if there are several."""
    query = (
        select(Job)
        .join(JobSummary, JobSummary.job_id == Job.id)
        .where(Job.machine_id == machine.id, JobSummary.finished_at.is_(None), JobSummary.running)
    )
    return first(session, query.order_by(JobSummary.last_at.desc()))


def without(session: Session) -> list[Job]:
    """Return the jobs that have no summary yet."""
    query = select(Job).outerjoin(JobSummary, JobSummary.job_id == Job.id).where(JobSummary.job_id.is_(None))
    return list(session.scalars(query))
