"""A job or a log from a file: judged anew here, from its readings, before anything of it is believed.

A verdict and an uncertainty that a file states are held against what this shop makes of the readings with its own
record of the gauge. What differs is told by field, and is kept as this shop has it only once somebody has seen that. A
sign-off never comes with a file.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from decimal import Decimal

from sqlalchemy.orm import Session

from zesty_lark.core.measure.instruments import Instrument
from zesty_lark.core.measure.thickness import Gauge, form_budget
from zesty_lark.core.part.prints import Characteristic
from zesty_lark.core.part.sizes import Verdict, judge_zone, verdict
from zesty_lark.core.work.entries import Measured, SignedOff
from zesty_lark.core.work.entry import Entry
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.record import JobRecord
from zesty_lark.shopfloor.measuring import Tool, budget_for, verdict_on
from zesty_lark.shopfloor.squaring import sides_of
from zesty_lark.store import job_files, people, shop
from zesty_lark.store.job_files import ReadInError
from zesty_lark.store.models import InstrumentRow, Job, Person
from zesty_lark.store.read_in import ReadIn, read_back


@dataclass(frozen=True)
class Source:
    """Where entries come from: who reads them in, when, and from which file; ``agreed`` once what differs was seen."""

    by: Person
    at: datetime
    name: str = ""
    agreed: bool = False


@dataclass(frozen=True)
class Difference:
    """A field of a measurement that a file states otherwise than this shop has it; a sign-off, that is left out."""

    entry: Entry
    field: str
    in_file: str
    here: str


class Differs(ValueError):
    """What a file states differs from what this shop makes of its readings; nothing is read in until that was seen."""

    def __init__(self, differences: Sequence[Difference]) -> None:
        super().__init__(f"{len(differences)} figures of the file are not what its readings come to here.")
        self.differences = tuple(differences)


class _Judge:
    """Judges what a file says was measured, and notes what differs."""

    def __init__(self) -> None:
        self.differences: list[Difference] = []

    def __call__(self, job: Job, job_state: JobState, entry: Measured, gauge: InstrumentRow | None) -> Measured:
        made = judged_anew(job, job_state, entry, gauge)
        if entry.verdict != made.verdict:
            self._note(entry, "verdict", entry.verdict or "none", made.verdict or "none")
        if entry.uncertainty_mm != made.uncertainty_mm:
            self._note(entry, "± U", *(f"{each.uncertainty_mm.normalize():f} mm" for each in (entry, made)))
        return made

    def _note(self, entry: Measured, field: str, in_file: str, here: str) -> None:
        self.differences.append(Difference(entry, field, in_file, here))


def judged_anew(job: Job, job_state: JobState, entry: Measured, gauge: InstrumentRow | None) -> Measured:
    """Return a measurement with the verdict that its readings bear, and a U no smaller than its gauge can have.

    What the file has as unsure is never in: it may have known why.
    """
    wanted = job_state.spec.wanted
    asked = wanted.named(entry.characteristic)
    if asked is None:
        return replace(entry, verdict=None)
    at_least = _least_u(job_state, entry, asked, gauge)
    made = replace(entry, uncertainty_mm=max(entry.uncertainty_mm, at_least), verdict=None)
    overdue = gauge is None or entry.at.date() > gauge.due_on
    word = _word(job, job_state, made, asked, overdue=overdue)
    doubted = entry.verdict == "unsure" or (entry.verdict is None and word is not None)
    return replace(made, verdict="unsure" if word == "in" and doubted else word)


def _least_u(job_state: JobState, entry: Measured, asked: Characteristic, gauge: InstrumentRow | None) -> Decimal:
    """The least U that a gauge can have here: of a size that it read straight off, the whole budget."""
    if gauge is None or asked.kind == "angle":
        return Decimal(0)
    if entry.how or asked.kind not in ("size", "position"):
        return form_budget(Gauge.of(gauge.to_core(), entry.at.date())).expanded_mm
    length = float(max(reading.value_mm for reading in entry.readings))
    taken = entry.part_c is not None
    return budget_for(job_state, asked, Tool(gauge), at=entry.at, taken_c=taken, length_mm=length).expanded_mm


def _word(job: Job, job_state: JobState, entry: Measured, asked: Characteristic, *, overdue: bool) -> Verdict | None:
    if asked.kind in ("size", "position"):
        return verdict_on(job, job_state, entry, asked, overdue=overdue)
    if asked.is_zone:
        word = judge_zone(entry.readings, asked.allowed_mm, entry.uncertainty_mm, overdue=overdue)
        sides = {f"face {side}" for side in sides_of(asked)} if asked.kind == "square" else set()
        return "unsure" if word == "in" and sides - {each.place for each in entry.readings} else word
    limits = asked.limits
    told = {
        verdict(reading.value_mm, limits.lower_mm, limits.upper_mm, entry.uncertainty_mm) for reading in entry.readings
    }
    return "out" if "out" in told else "unsure" if "unsure" in told or overdue else "in"


def read_job_in(session: Session, record: JobRecord, source: Source) -> tuple[Job, int]:
    """Take a job and its log in from a file; return it, and how many entries were new.

    Raises
    ------
    Differs
        If a figure is not what the readings come to here, or there is a sign-off, and nobody has agreed to that yet.
    ReadInError, LogError, NumberTaken
        If the record contradicts itself, or cannot follow on from what is here.
    """
    judge = _Judge()
    record = replace(record, instruments=[_without_address(instrument) for instrument in record.instruments])
    read_in = ReadIn(source.by, source.at, source.name, judge)
    job, fresh = job_files.read_in(session, record, read_in)
    _agree(judge, record.entries, source)
    return job, fresh


def read_log_in(session: Session, job: Job, entries: Sequence[Entry], source: Source) -> int:
    """Read a job's log back in from a file; return how many entries were new. Raises as ``read_job_in``."""
    known = {who.sign_in_name: who for who in people.everyone(session)}
    unknown = {entry.by for entry in entries} - set(known)
    if unknown:
        raise ReadInError(f"The log names {', '.join(sorted(unknown))}, who is not known here.")
    gauges: Mapping[str, InstrumentRow] = {row.name: row for row in shop.listed(session, InstrumentRow)}
    judge = _Judge()
    read_in = ReadIn(source.by, source.at, source.name, judge)
    fresh = read_back(session, job, entries, known, instruments=dict(gauges), read_in=read_in)
    _agree(judge, entries, source)
    return fresh


def _agree(judge: _Judge, entries: Sequence[Entry], source: Source) -> None:
    signed = [
        Difference(entry, "sign-off", "signed off", "left out") for entry in entries if isinstance(entry, SignedOff)
    ]
    if judge.differences and not source.agreed:
        raise Differs([*judge.differences, *signed])


def _without_address(gauge: Instrument) -> Instrument:
    """Where a gauge's readings come from is set in this shop, never by a file."""
    return replace(gauge, port=None, simulated=False)
