"""A chuck ground in place, step by step."""

from datetime import datetime

from sqlalchemy.orm import Session

from zesty_lark.core.things.chuck import ChuckStepDone, Film, StepName
from zesty_lark.core.things.log import ThingEntry, ThingError, ThingUndone
from zesty_lark.shopfloor.mapping import chuck_outlook
from zesty_lark.shopfloor.rights import NotYours
from zesty_lark.store import chucks
from zesty_lark.store.models import ChuckRow, Person
from zesty_lark.store.models.people import Role

MOST_PASSES = 60


def grind_chuck(
    session: Session,
    person: Person,
    chuck: ChuckRow,
    step: StepName,
    *,
    entry_id: str,
    at: datetime,
    answer: Film = "",
    passes: int | None = None,
    note: str = "",
) -> None:
    """Log a step of grinding a chuck; the first begins it, with so many passes, or as many as its map asks for.

    Raises
    ------
    ThingError
        If the step cannot be as things stand: the new map is taken before it is said to be.
    """
    _check_who(person)
    if step == "mapped":
        _check_mapped_again(session, chuck)
    outlook = chuck_outlook(session, chuck, at)
    asked = passes or (outlook.passes if outlook else 1)
    said = ChuckStepDone(step=step, answer=answer, passes=max(1, min(asked, MOST_PASSES)))
    chucks.append(session, chuck, person, ThingEntry(entry_id=entry_id, at=at, what=said, note=note.strip()))


def take_back_chuck_step(
    session: Session, person: Person, chuck: ChuckRow, supersedes: str, *, entry_id: str, at: datetime
) -> None:
    """Take the last step of grinding a chuck back; ``ThingError`` for any other."""
    _check_who(person)
    said = ThingUndone(supersedes=supersedes)
    chucks.append(session, chuck, person, ThingEntry(entry_id=entry_id, at=at, what=said))


def _check_who(person: Person) -> None:
    if person.role not in (Role.LEAD, Role.MACHINIST):
        raise NotYours("A chuck is ground by a machinist or a lead.")


def _check_mapped_again(session: Session, chuck: ChuckRow) -> None:
    """The new map has to be there: in use, and taken after the last pass."""
    grinding, newest = chucks.state_of(session, chuck).grinding, chuck.newest_map
    done = () if grinding is None else grinding.done
    steps = [(entry.what.step, entry.at) for entry in done if isinstance(entry.what, ChuckStepDone)]
    last = next((at for step, at in reversed(steps) if step == "spark-out"), None)
    if newest is None or (last is not None and newest.taken_at < last):
        raise ThingError("Take the new map first: the newest in use is from before the grinding.")
