"""A chuck ground in place, step by step."""

from sqlalchemy.orm import Session

from zesty_lark.core.things.chuck import ChuckStepDone, Film, StepName
from zesty_lark.core.things.log import ThingEntry, ThingError, ThingUndone
from zesty_lark.shopfloor.acts.acting import InShop, shop_act
from zesty_lark.shopfloor.mapping import chuck_outlook
from zesty_lark.store import chucks, shop
from zesty_lark.store.models import ChuckRow
from zesty_lark.store.models.people import Role

MOST_PASSES = 60
REFUSAL = "A chuck is ground by a machinist or a lead."


def _chuck(acting: InShop, name: str) -> ChuckRow:
    found = shop.by_name(acting.session, ChuckRow, name)
    if found is None:
        raise ThingError(f"There is no chuck “{name[:40]}”.")
    return found


@shop_act(Role.LEAD, Role.MACHINIST, refusal=REFUSAL)
def grind_chuck(
    acting: InShop, *, chuck: str, step: StepName, answer: Film = "", passes: int | None = None, note: str = ""
) -> None:
    """Log a step of grinding a chuck; the first begins it, with so many passes, or as many as its map asks for.

    Raises
    ------
    ThingError
        If the step cannot be as things stand: the new map is taken before it is said to be.
    """
    of = _chuck(acting, chuck)
    if step == "mapped":
        _check_mapped_again(acting.session, of)
    outlook = chuck_outlook(acting.session, of, acting.at)
    asked = passes or (outlook.passes if outlook else 1)
    said = ChuckStepDone(step=step, answer=answer, passes=max(1, min(asked, MOST_PASSES)))
    entry = ThingEntry(entry_id=acting.entry_id, at=acting.at, what=said, note=note.strip())
    chucks.append(acting.session, of, acting.person, entry)


@shop_act(Role.LEAD, Role.MACHINIST, refusal=REFUSAL)
def take_back_chuck_step(acting: InShop, *, chuck: str, supersedes: str) -> None:
    """Take the last step of grinding a chuck back; ``ThingError`` for any other."""
    entry = ThingEntry(entry_id=acting.entry_id, at=acting.at, what=ThingUndone(supersedes=supersedes[:36]))
    chucks.append(acting.session, _chuck(acting, chuck), acting.person, entry)


def _check_mapped_again(session: Session, chuck: ChuckRow) -> None:
    """The new map has to be there: in use, and taken after the last pass."""
    grinding, newest = chucks.state_of(session, chuck).grinding, chuck.newest_map
    done = () if grinding is None else grinding.done
    steps = [(entry.what.step, entry.at) for entry in done if isinstance(entry.what, ChuckStepDone)]
    last = next((at for step, at in reversed(steps) if step == "spark-out"), None)
    if newest is None or (last is not None and newest.taken_at < last):
        raise ThingError("Take the new map first: the newest in use is from before the grinding.")
