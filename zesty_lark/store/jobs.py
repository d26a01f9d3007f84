"""Jobs: taking in, changing, handing over, listing."""

from collections.abc import Sequence
from datetime import datetime
from decimal import Decimal
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session
from sqlalchemy.orm.attributes import flag_modified

from zesty_lark.core.part.prints import SIZES
from zesty_lark.core.part.taken_in import CharacteristicIn, FaceIn, SizeIn, TakeIn, differences
from zesty_lark.core.work.folding import stand
from zesty_lark.store import summaries
from zesty_lark.store.models import CharacteristicRow, Job, Part, PartFace, PartSize, Person, Piece


class NumberTaken(ValueError):
    """Another job has this number."""


class JobChanged(ValueError):
    """Someone else changed the job since it was opened."""


_JOB_FIELDS = ("number", "title", "print_unit", "due_on", "owner_id", "machine_id", "wheel_id")
_PART_FIELDS = (
    "quantity",
    "material",
    "hardness_hrc",
    "parallel_mm",
    "square_mm",
    "flat_mm",
    "ra_um",
    "mark_corner",
    "reference_face",
    "min_skin_mm",
    "first_share",
    "remarks",
    "bow_mm",
    "bow_shape",
    "leave_mm",
)


def by_number(session: Session, number: str, *, lock: bool = False) -> Job | None:
    """Return a job by its number, to the letter; with ``lock`` nobody else can log on it until the transaction ends.

    Only the job's own row is held, never the machine's, the wheel's or a person's.
    """
    if lock:
        session.execute(select(Job.id).where(Job.number == number).with_for_update())
    found = session.scalar(select(Job).where(Job.number == number).execution_options(populate_existing=lock))
    return found if found is not None and found.number == number else None


def _like(session: Session, number: str) -> int | None:
    """Return the key of the job whose number the database takes for the same as another."""
    return session.scalar(select(Job.id).where(Job.number == number))


def take_in(session: Session, what: TakeIn, at: datetime) -> Job:
    """Take a part in.

    Raises
    ------
    NumberTaken
        If a job has that number.
    """
    if _like(session, what.number) is not None:
        raise NumberTaken(f"There is a job {what.number} already.")
    part = Part()
    job = Job(created_at=at, part=part)
    _write(job, what)
    session.add(job)
    session.flush()
    session.refresh(job)
    summaries.keep_words(session, job)
    summaries.keep(session, job, stand(part.spec(), []))
    return job


def amend(session: Session, job: Job, what: TakeIn, version: int) -> list[str]:
    """Change what was taken in; return what changed, in words.

    Raises
    ------
    JobChanged
        If the job is no longer at ``version``.
    NumberTaken
        If another job has the new number.
    """
    if job.version != version:
        raise JobChanged("Someone changed this job while you had it open.")
    other = _like(session, what.number)
    if other is not None and other != job.id:
        raise NumberTaken(f"There is a job {what.number} already.")
    changed = differences(take_in_of(job), what)
    if changed:
        _write(job, what)
        flag_modified(job, "number")  # whatever of it changed, the job has another version
        session.flush()
        session.refresh(job)
        summaries.keep_words(session, job)
    return changed


def take_in_of(job: Job) -> TakeIn:
    """Return what a job was taken in with, as it stands."""
    part = job.part
    return TakeIn(
        **{name: getattr(job, name) for name in _JOB_FIELDS},
        **{name: getattr(part, name) for name in _PART_FIELDS},
        sizes={size.axis: SizeIn(size.to_core(), size.measured_max_mm, size.measured_min_mm) for size in part.sizes},
        faces={face.face: FaceIn(face.condition, face.cleanup_mm, face.purpose) for face in part.faces},
        route=part.route,
        features=part.features,
        pieces={piece.number: _own_sizes(piece) for piece in part.pieces},
        more=tuple(_more_in(row) for row in part.more),
    )


def _more_in(row: CharacteristicRow) -> CharacteristicIn:
    kind: Any = row.kind  # the table checks that it is one of them
    return CharacteristicIn(row.name, kind, row.surface, row.to_surface, row.nominal, row.tol_minus, row.tol_plus)


def _own_sizes(piece: Piece) -> dict[str, Decimal]:
    own = {axis: piece.came_mm(axis) for axis in SIZES}
    return {axis: mm for axis, mm in own.items() if mm is not None}


def _write(job: Job, what: TakeIn) -> None:
    for name in _JOB_FIELDS:
        setattr(job, name, getattr(what, name))
    part = job.part
    for name in _PART_FIELDS:
        setattr(part, name, getattr(what, name))
    known_sizes = {size.axis: size for size in part.sizes}
    for axis, given in what.sizes.items():
        row = known_sizes.get(axis)
        if row is None:
            row = PartSize(axis=axis)
            part.sizes.append(row)
        row.target_mm, row.tol_minus_mm, row.tol_plus_mm = (
            given.size.target_mm,
            given.size.tol_minus_mm,
            given.size.tol_plus_mm,
        )
        row.measured_max_mm, row.measured_min_mm = given.measured_max_mm, given.measured_min_mm
    part.route, part.features = what.route or part.route, what.features
    _write_pieces(part, what)
    known_faces = {face.face: face for face in part.faces}
    for number, face_in in what.faces.items():
        face = known_faces.get(number)
        if face is None:
            face = PartFace(face=number)
            part.faces.append(face)
        face.condition, face.cleanup_mm, face.purpose = face_in.condition, face_in.cleanup_mm, face_in.purpose


def _write_pieces(part: Part, what: TakeIn) -> None:
    known = {piece.number: piece for piece in part.pieces}
    part.pieces = [known.get(number) or Piece(number=number) for number in sorted(what.pieces) if what.pieces[number]]
    for piece in part.pieces:
        own = what.pieces[piece.number]
        piece.thickness_mm, piece.width_mm, piece.length_mm = own.get("thickness"), own.get("width"), own.get("length")
    rows = {row.name: row for row in part.more}
    part.more = [
        _asked(rows.get(each.name) or CharacteristicRow(name=each.name), each, position)
        for position, each in enumerate(what.more, start=1)
    ]


def _asked(row: CharacteristicRow, what: CharacteristicIn, position: int) -> CharacteristicRow:
    row.position, row.kind, row.surface, row.to_surface = position, what.kind, what.surface, what.to_surface
    row.nominal, row.tol_minus, row.tol_plus = what.nominal, what.tol_minus, what.tol_plus
    return row


def owners(people: Sequence[Person]) -> list[Person]:
    """Return those who can own a job: anyone who is active and not only an inspector."""
    return [person for person in people if person.active and person.role != "inspector"]
