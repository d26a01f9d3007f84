"""What the log teaches: kept with the entry that told it, forgotten when that is taken back."""

from collections.abc import Mapping, Sequence
from decimal import Decimal
from typing import TypeAlias

from sqlalchemy import ColumnElement, delete, func, select
from sqlalchemy.orm import InstrumentedAttribute as Attribute
from sqlalchemy.orm import Session

from zesty_lark.core.landing.landed import landed
from zesty_lark.core.part.prints import SIZES
from zesty_lark.core.work.entries import PART_WARM, Measured, Undone
from zesty_lark.core.work.entry import Entry, Kind
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.landing_acts import Dial
from zesty_lark.core.work.landing_run import landing_of
from zesty_lark.core.work.learned import (
    RUNS_KEPT,
    TIMED,
    WORK_KINDS,
    CutRatio,
    Times,
    WorkKind,
    cut_ratio_of,
    time_told,
    usual_cut_ratio,
    usual_time,
    work_kind,
)
from zesty_lark.core.work.short_of import SizeFigures, WarmAndCold
from zesty_lark.store import racks
from zesty_lark.store.models import Job, LearnedRun, LearnedTime, LogEntry, LogReading, MachineRow, SizeRun, WheelRow

SIZE_RUNS_KEPT = 60
KNOWN_U = 0.06
"""η counts as learned once the estimate of a run knows it so well, k = 1."""
MEASUREMENTS_READ = 300
Told: TypeAlias = LearnedRun | LearnedTime | SizeRun


def learn(session: Session, seq: int, entry: Entry, job: Job, *, before: JobState, after: JobState) -> None:
    """Keep what an entry teaches; what a taken back one taught is forgotten."""
    if isinstance(entry, Undone):
        forget(session, entry)
    rows = told(entry, job, before=before, after=after)
    keep(session, seq, rows)
    for row in rows:
        if isinstance(row, SizeRun):
            racks.ground(session, row.wheel_id, row.volume_mm3)
    session.flush()


def keep(session: Session, seq: int, rows: Sequence[Told]) -> None:
    """Keep what was told with the entry of that number."""
    for row in rows:
        row.seq = seq
    session.add_all(rows)


def told(entry: Entry, job: Job, *, before: JobState, after: JobState) -> list[Told]:
    """What an entry tells: how long hands took; asked against got, and η where the passes let it be told."""
    rows: list[Told] = []
    took = time_told(entry, before)
    if took is not None:
        rows.append(LearnedTime(machine_id=job.machine_id, act=took[0], minutes=Decimal(repr(took[1]))))
    if (
        isinstance(entry, Measured)
        and entry.asked_mm
        and len(after.shortfalls) > len(before.shortfalls)
        and _teaches(after)
    ):
        rows += _of_run(job, after)
    return rows


def _teaches(after: JobState) -> bool:
    """A slot's wall or an edge springs otherwise than a face does: it teaches nothing of the machine."""
    return after.spec.wanted.surfaces[after.shortfalls[-1].surface].is_height


def _of_run(job: Job, after: JobState) -> list[Told]:
    shortfall = after.shortfalls[-1]
    of = {
        "machine_id": job.machine_id,
        "wheel_id": job.wheel_id,
        "work": work_kind(after.runs[shortfall.surface], after),
    }
    run = SizeRun(
        **of,
        asked_mm=shortfall.asked_mm,
        got_mm=shortfall.got_mm,
        held_back_mm=shortfall.held_back_mm,
        volume_mm3=round(shortfall.volume_mm3, 2),
        fresh=shortfall.fresh,
    )
    eta = cut_ratio_of(shortfall, float(job.wheel.width_mm)) or _estimated(job, after, shortfall.surface)
    return [run] if eta is None else [run, LearnedRun(**of, eta=Decimal(repr(round(eta, 5))))]


def _estimated(job: Job, after: JobState, surface: int) -> float | None:
    """η by the estimate of the whole run, where that has come to know it; it is tried at the end of each stretch."""
    asked = after.spec.wanted.ends_on(surface)
    if asked is None:
        return None
    dial = Dial(job.machine.graduation_mm, job.machine.coolant)  # type: ignore[arg-type]
    run = landing_of(after, after.runs[surface], asked.limits.goal_mm, dial)
    made = None if run is None else landed(run)
    return made.cut_ratio if made is not None and made.cut_ratio_u <= KNOWN_U else None


def forget(session: Session, undone: Undone) -> None:
    """What an entry taught is forgotten when it is taken back."""
    taken_back = select(LogEntry.seq).where(LogEntry.entry_id == undone.supersedes).scalar_subquery()
    lived = (SizeRun.seq == taken_back) & (LogEntry.seq == SizeRun.seq) & LogEntry.read_in_at.is_(None)
    for wheel_id, volume in session.execute(select(SizeRun.wheel_id, SizeRun.volume_mm3).where(lived)):
        racks.ground(session, wheel_id, -volume)
    for table in (LearnedRun, LearnedTime, SizeRun):
        session.execute(delete(table).where(table.seq == taken_back))


def forget_cut_ratios(session: Session, machine: MachineRow, wheel: WheelRow, work: WorkKind) -> int:
    """Forget what runs have taught of η on a machine with a wheel, held so; return how many there were."""
    of = (LearnedRun.machine_id == machine.id, LearnedRun.wheel_id == wheel.id, LearnedRun.work == work)
    rows = session.scalars(select(LearnedRun).where(*of)).all()
    for row in rows:
        session.delete(row)
    session.flush()
    return len(rows)


def cut_ratio(session: Session, machine: MachineRow, wheel: WheelRow, work: WorkKind = "magnet") -> CutRatio:
    """Return η of one wipe for a machine, a wheel and a kind of work, and how many runs it rests on; a wheel that has
    no runs of its own starts from what the machine's page says."""
    return cut_ratios(session, machine, wheel)[work]


def cut_ratios(session: Session, machine: MachineRow, wheel: WheelRow) -> dict[WorkKind, CutRatio]:
    """Return the same for every kind of work, in one statement."""
    of = (LearnedRun.machine_id == machine.id) & (LearnedRun.wheel_id == wheel.id)
    found = _newest(session, LearnedRun.work, LearnedRun.eta, of)
    return {work: usual_cut_ratio(found.get(work, []), float(machine.cut_ratio)) for work in WORK_KINDS}


def times(session: Session, machine: MachineRow, usual: Mapping[str, float]) -> dict[str, Times]:
    """Return how long hands take at a machine, by act: from its last ten runs of each, else as usual [min]; in one
    statement."""
    of = LearnedTime.machine_id == machine.id
    found = _newest(session, LearnedTime.act, LearnedTime.minutes, of)
    return {act: usual_time(found.get(act, []), usual[act]) for act in TIMED}


def _newest(
    session: Session, by: Attribute[str], value: Attribute[Decimal], of: ColumnElement[bool]
) -> dict[str, list[float]]:
    """The last ten values of each kind, the newest first."""
    seq = by.class_.seq
    place = func.row_number().over(partition_by=by, order_by=seq.desc())
    ranked = select(by.label("kind"), value.label("value"), place.label("place")).where(of).subquery()
    rows = session.execute(
        select(ranked.c.kind, ranked.c.value).where(ranked.c.place <= RUNS_KEPT).order_by(ranked.c.kind, ranked.c.place)
    )
    found: dict[str, list[float]] = {}
    for kind, each in rows:
        found.setdefault(kind, []).append(float(each))
    return found


def size_runs(session: Session, machine: MachineRow, wheel: WheelRow) -> list[SizeFigures]:
    """Return the last runs between two measurements on a machine with a wheel, the newest first."""
    rows = session.scalars(
        select(SizeRun)
        .where(SizeRun.machine_id == machine.id, SizeRun.wheel_id == wheel.id)
        .order_by(SizeRun.seq.desc())
        .limit(SIZE_RUNS_KEPT)
    )
    return [
        SizeFigures(float(row.asked_mm), float(row.got_mm), float(row.held_back_mm), float(row.volume_mm3), row.fresh)
        for row in rows
    ]


def warm_and_cold(session: Session, machine: MachineRow) -> list[WarmAndCold]:
    """Return the sizes that were read warm and then cold on a machine with no cut between, among its last
    measurements, the newest first."""
    greatest = func.max(LogReading.value_mm)
    rows = session.execute(
        select(LogEntry.job_id, LogEntry.piece, LogEntry.characteristic, LogEntry.note, LogEntry.asked_mm, greatest)
        .join(LogReading, LogReading.seq == LogEntry.seq)
        .where(LogEntry.machine_id == machine.id, LogEntry.kind == Kind.MEASURED.value)
        .where(LogEntry.characteristic.in_(SIZES))
        .group_by(LogEntry.seq)
        .order_by(LogEntry.seq.desc())
        .limit(MEASUREMENTS_READ)
    )
    later: dict[tuple[object, ...], tuple[str, Decimal | None, Decimal]] = {}
    found = []
    for job, piece, characteristic, note, asked, mm in rows:
        of = (job, piece, characteristic)
        cold = later.get(of)
        if cold is not None and note == PART_WARM and cold[0] != PART_WARM and cold[1] is None:
            found.append(WarmAndCold(float(mm), float(cold[2])))
        later[of] = (note, asked, mm)
    return found


def wheels_of(session: Session, machine: MachineRow) -> list[WheelRow]:
    """Return the wheels that runs on a machine were measured with."""
    known = select(SizeRun.wheel_id).where(SizeRun.machine_id == machine.id).distinct()
    return list(session.scalars(select(WheelRow).where(WheelRow.id.in_(known)).order_by(WheelRow.name)))
