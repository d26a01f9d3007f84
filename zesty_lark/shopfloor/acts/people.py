"""The people of the shop: added, changed, shut out and let in by a lead."""

from typing import Annotated

from annotated_types import MaxLen, MinLen

from zesty_lark.shopfloor.acts.acting import InShop, shop_act
from zesty_lark.store import people, sign_ins
from zesty_lark.store.models import Person
from zesty_lark.store.models.people import Role
from zesty_lark.store.people import PASSWORD_LEAST_LENGTH

Password = Annotated[str, MinLen(PASSWORD_LEAST_LENGTH), MaxLen(200)]
Name = Annotated[str, MinLen(1), MaxLen(80)]
SignInName = Annotated[str, MinLen(1), MaxLen(40)]
REFUSAL = "People are looked after by a lead."


class NoSuchPerson(ValueError):
    """Nobody signs in by that name."""


class NotYourself(ValueError):
    """Nobody shuts themselves out."""


def _who(acting: InShop, sign_in_name: str) -> Person:
    found = people.by_sign_in_name(acting.session, sign_in_name)
    if found is None:
        raise NoSuchPerson(f"Nobody signs in as “{sign_in_name[:40]}”.")
    return found


@shop_act(Role.LEAD, refusal=REFUSAL)
def add_person(acting: InShop, *, sign_in_name: SignInName, name: Name, role: Role, password: Password) -> Person:
    """Add somebody, with a first password; ``NameTaken`` if somebody signs in by that name."""
    return people.add_person(
        acting.session, sign_in_name=sign_in_name, name=name, role=role, password=password, at=acting.at
    )


@shop_act(Role.LEAD, refusal=REFUSAL)
def change_person(acting: InShop, *, sign_in_name: SignInName, name: Name, role: Role) -> bool:
    """Give somebody another name or role; tell whether anything changed. ``NoLead`` if none would be left."""
    who = _who(acting, sign_in_name)
    return people.change(acting.session, who, name=name, role=role, by=acting.person, at=acting.at)


@shop_act(Role.LEAD, refusal=REFUSAL)
def set_password(acting: InShop, *, sign_in_name: SignInName, password: Password) -> Person:
    """Give somebody a new password; wherever they were signed in, that ends, but where a lead gives it to
    themselves."""
    who = _who(acting, sign_in_name)
    own = who.id == acting.person.id
    people.set_password(acting.session, who, password, but=acting.sign_in if own else None)
    return who


@shop_act(Role.LEAD, refusal=REFUSAL)
def shut_out(acting: InShop, *, sign_in_name: SignInName) -> None:
    """Keep somebody from signing in; the record stays."""
    who = _who(acting, sign_in_name)
    if who.id == acting.person.id:
        raise NotYourself("You cannot shut yourself out.")
    people.shut_out(acting.session, who)


@shop_act(Role.LEAD, refusal=REFUSAL)
def let_in(acting: InShop, *, sign_in_name: SignInName) -> None:
    """Let somebody sign in again; ``NoPassword`` if they have none yet."""
    people.let_in(_who(acting, sign_in_name))


@shop_act(Role.LEAD, refusal=REFUSAL)
def end_sign_in(acting: InShop, *, sign_in_name: SignInName, sign_in: int) -> bool:
    """End a sign-in of somebody, by its number; tell whether there was one."""
    return sign_ins.end(acting.session, _who(acting, sign_in_name), sign_in)
