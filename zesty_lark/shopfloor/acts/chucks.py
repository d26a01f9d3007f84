"""A chuck ground in place, step by step."""

from sqlalchemy.orm import Session

from zesty_lark.core.measure.maps.chuck import ChuckAct, ChuckJobError
from zesty_lark.shopfloor.mapping import chuck_outlook
from zesty_lark.shopfloor.rights import NotYours
from zesty_lark.store import gauging
from zesty_lark.store.models import ChuckRow, Person
from zesty_lark.store.models.people import Role

MOST_PASSES = 60
LONGEST_NOTE = 500


def grind_chuck(
    session: Session, person: Person, chuck: ChuckRow, act: ChuckAct, *, entry_id: str, passes: int | None, note: str
) -> None:
    """Log a step of grinding a chuck; the first begins it, with so many passes, or as many as its map asks for.

    Raises
    ------
    ChuckJobError
        If the step cannot be as things stand: the new map is taken before it is said to be.
    """
    if person.role not in (Role.LEAD, Role.MACHINIST):
        raise NotYours("A chuck is ground by a machinist or a lead.")
    if act.step == "mapped":
        _check_mapped_again(session, chuck)
    outlook = chuck_outlook(session, chuck, act.at)
    asked = passes or (outlook.passes if outlook else 1)
    gauging.keep_act(
        session,
        chuck,
        act,
        person,
        entry_id=entry_id,
        passes=max(1, min(asked, MOST_PASSES)),
        note=note.strip()[:LONGEST_NOTE],
    )


def _check_mapped_again(session: Session, chuck: ChuckRow) -> None:
    """The new map has to be there: in use, and taken after the last pass."""
    running, newest = gauging.grinding_of(session, chuck), chuck.newest_map
    last = None if running is None else next((row.at for row in running.acts if row.step == "spark-out"), None)
    if newest is None or (last is not None and newest.taken_at < last):
        raise ChuckJobError("Take the new map first: the newest in use is from before the grinding.")
