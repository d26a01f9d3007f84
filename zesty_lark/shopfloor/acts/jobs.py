"""A part taken in, and what was taken in of it changed."""

from collections.abc import Callable, Sequence
from datetime import datetime

from sqlalchemy.orm import Session

from zesty_lark.core.part.faces import AXIS
from zesty_lark.core.part.surfaces.features import loaded_features
from zesty_lark.core.work.entries import Amended, HandedOver, TakenIn, ZeroLost
from zesty_lark.core.work.entry import Entry
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.machine_acts import PassFed
from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.shopfloor.acts.acting import Acting, act, log_any_time, reason_given, unseen
from zesty_lark.shopfloor.rights import NotYours
from zesty_lark.store import jobs, shoplog, told_jobs
from zesty_lark.store.jobs import TakeIn
from zesty_lark.store.models import Job, Person
from zesty_lark.store.models.people import Role
from zesty_lark.store.shoplog import Draft

TAKERS = (Role.MACHINIST, Role.LEAD, Role.APPRENTICE)
GROUND = "The part has been ground since; this belongs to its record and stays."
FEATURES = "A slot, angle or edge has been ground since: what was taken in of them stays."


class StaysAsItWas(LogError):
    """A change of what has been ground; ``fields`` says of what, and why."""

    def __init__(self, fields: dict[str, str]) -> None:
        super().__init__(next(iter(fields.values())))
        self.fields = fields


def take_in(session: Session, person: Person, what: TakeIn, *, at: datetime, entry_id: str, note: str = "") -> Job:
    """Take a part in; ``NumberTaken`` if a job has its number."""
    if person.role not in TAKERS:
        raise NotYours("A part is taken in by a machinist, a lead or an apprentice.")
    job = jobs.take_in(session, what, at)
    shoplog.append(session, job, person, Draft(TakenIn(entry_id=entry_id, at=at, note=note)))
    return job


@act(asked_for=False)
def change_job(acting: Acting, *, after: TakeIn, version: int, new_id: Callable[[], str]) -> list[str]:
    """Change what was taken in; return what changed, in words. Each kind of change is an entry of its own, under an id
    that ``new_id`` makes.

    Raises
    ------
    StaysAsItWas
        If it contradicts what was ground.
    JobChanged, NumberTaken
        If somebody changed the job since, or another has the number.
    """
    job, job_state = acting.job, acting.job_state
    fixed = what_stays(jobs.take_in_of(job), after, job_state)
    if job_state.up is not None and after.machine_id != job.machine_id:
        fixed["machine_id"] = f"It is up on {job.machine.name}. Take it off there first."
    if job_state.up is not None and after.number != job.number:
        fixed["number"] = f"It is up on {job.machine.name}, which knows it by its number. Take it off there first."
    if fixed:
        raise StaysAsItWas(fixed)
    wheel_before, owner_before = job.wheel_id, job.owner_id
    changed = jobs.amend(acting.session, job, after, version)
    acting.session.refresh(job)

    def log(entry: type[Entry], **fields: object) -> None:
        made = entry(entry_id=new_id(), at=acting.at, **fields)  # type: ignore[arg-type]
        shoplog.append(acting.session, job, acting.person, Draft(made))

    if job.owner_id != owner_before:
        log(HandedOver, note=f"to {job.owner.name}.")
    others = [name for name in changed if name != "owner"]
    if others:
        log(Amended, note=", ".join(others) + ".")
    if job.wheel_id != wheel_before and job_state.surface_up is not None:
        lost = ZeroLost(entry_id=new_id(), at=acting.at, note=f"{job.wheel.name} is the wheel of this job now")
        told_jobs.tell_job(acting.session, job, acting.person, lost)
    return changed


@act(Role.MACHINIST, Role.LEAD, use="look", refusal="A job is taken over by a machinist or a lead.")
def take_job_over(acting: Acting, *, reason: str = "") -> None:
    """Make a job one's own, with a reason: whoever had it is named in its log."""
    job, was = acting.job, acting.job.owner
    if was.id == acting.person.id:
        raise LogError(f"{job.number} is yours already.")
    given = reason_given(reason, f"Why is {job.number} taken over from {was.name}?")
    job.owner = acting.person
    acting.session.flush()
    note = f"to {acting.person.name}, taken over from {was.name}: {given}"
    log_any_time(unseen(acting), HandedOver, note=note)


def what_stays(before: TakeIn, after: TakeIn, job_state: JobState) -> dict[str, str]:
    """Return what of a change contradicts what has been ground already, by the field that it is about, in words."""
    fed = [entry for entry in job_state.history if isinstance(entry, PassFed)]
    ground = {entry.surface for entry in fed}
    if not ground:
        return {}
    axes = {AXIS[face] for face in ground if face in AXIS} | {"thickness"}
    faces = {1, 2} | (ground & set(AXIS))
    was, now = before.sizes, after.sizes
    kept: Sequence[tuple[str, object, object]] = (
        ("reference_face", before.reference_face, after.reference_face),
        ("machine_id", before.machine_id, after.machine_id),
        ("mark_corner", before.mark_corner, after.mark_corner),
        ("quantity", before.quantity, max(after.quantity, before.quantity)),
        *((f"{axis}_max", was[axis].measured_max_mm, now[axis].measured_max_mm) for axis in axes),
        *((f"{axis}_min", was[axis].measured_min_mm, now[axis].measured_min_mm) for axis in axes),
        *((f"face{face}_condition", before.faces[face].condition, after.faces[face].condition) for face in faces),
    )
    said = {name: GROUND for name, old, new in kept if old != new}
    if not ground <= set(AXIS) and not _features_stay(before, after):
        said["feature1_kind"] = FEATURES
    pieces = {number for entry in fed for number in job_state.runs[entry.surface].pieces or job_state.pieces}
    for number in sorted(pieces):
        if before.pieces.get(number) != after.pieces.get(number):
            said["pieces"] = (
                f"Piece {number} has been ground since; the size it came with belongs to its record and stays."
            )
            break
    return said


def _features_stay(before: TakeIn, after: TakeIn) -> bool:
    """Whether the features that were there are, as they were; more may come after them."""
    known = loaded_features(before.features)
    return loaded_features(after.features)[: len(known)] == known
