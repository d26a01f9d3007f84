"""A part taken in, and what was taken in of it changed."""

from collections.abc import Sequence
from uuid import NAMESPACE_URL, uuid5

from sqlalchemy.orm import Session

from zesty_lark.core.part.faces import AXIS
from zesty_lark.core.part.surfaces.features import loaded_features
from zesty_lark.core.part.taken_in import TakeIn, take_in_wrong
from zesty_lark.core.squaring.choices import loaded
from zesty_lark.core.wheel.mounting import mounting_stops
from zesty_lark.core.work.entries import Amended, HandedOver, TakenIn, ZeroLost
from zesty_lark.core.work.entry import Entry
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.machine_acts import PassFed, Planned
from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.shopfloor.acts.acting import (
    LONGEST_NOTE,
    Acting,
    InShop,
    act,
    log_any_time,
    reason_given,
    shop_act,
    unseen,
)
from zesty_lark.shopfloor.rights import NotYours
from zesty_lark.store import jobs, people, shop, shoplog, told_jobs
from zesty_lark.store.log_rows import is_there
from zesty_lark.store.models import Job, MachineRow, Person, WheelRow
from zesty_lark.store.models.people import Role
from zesty_lark.store.shoplog import Draft

TAKERS = (Role.MACHINIST, Role.LEAD, Role.APPRENTICE)
GROUND = "The part has been ground since; this belongs to its record and stays."
FEATURES = "A slot, angle or edge has been ground since: what was taken in of them stays."


class TakenInWrong(LogError):
    """What is taken in cannot be, or changes what has been ground; ``fields`` says of what, and why."""

    def __init__(self, fields: dict[str, str]) -> None:
        super().__init__(next(iter(fields.values())))
        self.fields = fields


@shop_act(*TAKERS, refusal="A part is taken in by a machinist, a lead or an apprentice.")
def take_in(acting: InShop, *, what: TakeIn, note: str = "") -> Job:
    """Take a part in; sent twice it is done once.

    Raises
    ------
    TakenInWrong
        If what it says does not go together, or names nobody and nothing here.
    NumberTaken
        If another job has its number.
    """
    session, words = acting.session, note.strip()[:LONGEST_NOTE]
    begun = TakenIn(entry_id=acting.entry_id, at=acting.at, note=words)
    there = jobs.by_number(session, what.number)
    if there is not None and is_there(session, begun, there):
        return there
    _refuse_wrong(_wrong(session, what))
    job = jobs.take_in(session, what, acting.at)
    shoplog.append(session, job, acting.person, Draft(begun))
    return job


@act()
def change_job(acting: Acting, *, after: TakeIn, version: int) -> list[str]:
    """Change what was taken in, as it was at a version; return what changed, in words. Each kind of change is an entry
    of its own.

    Raises
    ------
    TakenInWrong
        If it does not go together, or contradicts what was ground.
    JobChanged, NumberTaken
        If somebody changed the job since, or another has the number.
    """
    job, job_state = acting.job, acting.job_state
    before = jobs.take_in_of(job)
    wrong = _wrong(acting.session, after, owner=after.owner_id != job.owner_id)
    _refuse_wrong(what_stays(before, after, job_state) | _up_elsewhere(job, after, job_state) | wrong)
    wheel_before, owner_before = job.wheel_id, job.owner_id
    changed = jobs.amend(acting.session, job, after, version)
    acting.session.refresh(job)

    def log(entry: type[Entry], note: str) -> None:
        made = entry(entry_id=_id_of(acting, entry), at=acting.at, note=note)
        shoplog.append(acting.session, job, acting.person, Draft(made))

    if job.owner_id != owner_before:
        log(HandedOver, f"to {job.owner.name}.")
    others = [name for name in changed if name != "owner"]
    if others:
        log(Amended, ", ".join(others) + ".")
    if job.wheel_id != wheel_before and job_state.surface_up is not None:
        note = f"{job.wheel.name} is the wheel of this job now"
        lost = ZeroLost(entry_id=_id_of(acting, ZeroLost), at=acting.at, note=note)
        told_jobs.tell_job(acting.session, job, acting.person, lost)
    return changed


def _id_of(acting: Acting, entry: type[Entry]) -> str:
    """The id of one of the entries that a change of a job makes."""
    return str(uuid5(NAMESPACE_URL, f"{acting.entry_id}/{entry.kind}"))


def _refuse_wrong(fields: dict[str, str]) -> None:
    if fields:
        raise TakenInWrong(fields)


def _wrong(session: Session, what: TakeIn, *, owner: bool = True) -> dict[str, str]:
    """What of a part cannot be, by itself and in this shop; an ``owner`` who has left keeps what they had."""
    said = take_in_wrong(what)
    if owner and what.owner_id not in [who.id for who in jobs.owners(people.everyone(session))]:
        said["owner_id"] = "Nobody who works here by that number can own a job."
    machine, wheel = shop.find(session, MachineRow, what.machine_id), shop.find(session, WheelRow, what.wheel_id)
    if machine is None:
        said["machine_id"] = "There is no machine with that number."
    if wheel is None:
        said["wheel_id"] = "There is no wheel with that number."
    if machine is not None and wheel is not None:
        stops = mounting_stops(wheel.mounted(), machine.rpm, what.material)
        said |= {"wheel_id": stops[0]} if stops else {}
    try:
        _ = what.route and loaded(what.route)
    except ValueError:
        said["route"] = "The route cannot be read."
    return said


def _up_elsewhere(job: Job, after: TakeIn, job_state: JobState) -> dict[str, str]:
    """What a job's machine knows it by, while its load is up there."""
    if job_state.up is None:
        return {}
    said = {}
    if after.machine_id != job.machine_id:
        said["machine_id"] = f"It is up on {job.machine.name}. Take it off there first."
    if after.number != job.number:
        said["number"] = f"It is up on {job.machine.name}, which knows it by its number. Take it off there first."
    return said


@act(*TAKERS, use="look", refusal="A job is taken over by a machinist, a lead, or who planned it.")
def take_job_over(acting: Acting, *, reason: str = "") -> None:
    """Make a job one's own, with a reason: whoever had it is named in its log. While learning, only one whose plan at
    work is one's own."""
    job, was = acting.job, acting.job.owner
    if was.id == acting.person.id:
        raise LogError(f"{job.number} is yours already.")
    if not may_take_over(acting.person, acting.job_state):
        raise NotYours("While learning, a job is taken over only with a plan of one's own at work.")
    given = reason_given(reason, f"Why is {job.number} taken over from {was.name}?")
    job.owner = acting.person
    acting.session.flush()
    note = f"to {acting.person.name}, taken over from {was.name}: {given}"
    log_any_time(unseen(acting), HandedOver, note=note)


def may_take_over(person: Person, job_state: JobState) -> bool:
    """Tell whether somebody may make another's job their own."""
    if person.role != Role.APPRENTICE:
        return person.role in TAKERS
    run = job_state.at
    released = [entry for entry in job_state.history if isinstance(entry, Planned)]
    of_run = [entry.by for entry in released if run is not None and entry.surface == run.surface]
    return bool(of_run) and of_run[-1] == person.sign_in_name


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
