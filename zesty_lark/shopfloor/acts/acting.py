"""Whoever acts on a job, and the one way from an act into the job's log."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import datetime
from functools import wraps
from typing import Any, Concatenate, ParamSpec, TypeVar

from sqlalchemy.orm import Session

from zesty_lark.core.work.entry import Entry
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.shopfloor.rights import JobUse, NotYours, check_use
from zesty_lark.store import job_states, shop, shoplog
from zesty_lark.store.models import InstrumentRow, Job, Person, SignedIn
from zesty_lark.store.models.people import Role
from zesty_lark.store.shoplog import Appended, Draft

P = ParamSpec("P")
Answer = TypeVar("Answer")
AnyEntry = TypeVar("AnyEntry", bound=Entry)

LONGEST_NOTE = 1000
NOT_SEEN = "This press did not say what it had seen; look and press again."
NO_ID = "This press came without its id; open the page again and press once more."


@dataclass(frozen=True)
class Acting:
    """Who acts on which job, when, under which id, and what they had seen of its log.

    Attributes
    ----------
    seen : int or None
        The number of the newest entry that was seen.
    after : str
        The id of the entry that this one was made after, where its sender had not been answered yet.
    screen : str
        The mark of the screen it was pressed on.
    """

    session: Session
    person: Person
    job: Job
    at: datetime
    entry_id: str
    seen: int | None = None
    after: str = ""
    screen: str = ""

    @property
    def job_state(self) -> JobState:
        """Where the job stands."""
        return job_states.state_of(self.session, self.job)

    def is_a(self, *roles: Role) -> bool:
        """Whether who acts has one of these roles."""
        return self.person.role in roles

    def gauge(self, name: str) -> InstrumentRow:
        """Return a gauge by its name; ``LogError`` when there is none."""
        found = shop.by_name(self.session, InstrumentRow, name)
        if found is None:
            raise LogError(f"There is no gauge “{name[:40]}”.")
        return found


@dataclass(frozen=True)
class InShop:
    """Who changes something of the shop, by which sign-in, when, under which id."""

    session: Session
    person: Person
    at: datetime
    entry_id: str = ""
    sign_in: SignedIn | None = None


@dataclass(frozen=True)
class Act:
    """One thing that can be done: its function, the roles that may, and what they have to be to the job; ``None`` of
    what is done to the shop."""

    name: str
    do: Callable[..., Any]
    signature_of: Callable[..., Any]
    roles: frozenset[Role]
    use: JobUse | None
    refusal: str = ""

    def check(self, acting: Acting | InShop) -> None:
        """Raise ``NotYours`` where somebody may not do it."""
        if self.use is not None and isinstance(acting, Acting):
            check_use(acting.person, acting.job, self.use)
        if acting.person.role not in self.roles:
            names = sorted(self.roles)
            who = " or ".join(f"a{'n' if name[0] in 'aeio' else ''} {name}" for name in names)
            raise NotYours(self.refusal or f"This is for {who} to do.")


ACTS: dict[str, Act] = {}
"""Every act on a job, by its name; modules beside this one add theirs."""
SHOP_ACTS: dict[str, Act] = {}
"""Every act on the shop, by its name."""


def act(
    *roles: Role, use: JobUse = "work", refusal: str = ""
) -> Callable[[Callable[Concatenate[Acting, P], Answer]], Callable[Concatenate[Acting, P], Answer]]:
    """Declare an act: who may do it, checked before any of its own rules. No roles means every role."""

    def declare(function: Callable[Concatenate[Acting, P], Answer]) -> Callable[Concatenate[Acting, P], Answer]:
        @wraps(function)
        def checked(acting: Acting, /, *args: P.args, **given: P.kwargs) -> Answer:
            ACTS[function.__name__].check(acting)
            return function(acting, *args, **given)

        may = frozenset(roles) or frozenset(Role)
        ACTS[function.__name__] = Act(function.__name__, checked, function, may, use, refusal)
        return checked

    return declare


def shop_act(
    *roles: Role, refusal: str = ""
) -> Callable[[Callable[Concatenate[InShop, P], Answer]], Callable[Concatenate[InShop, P], Answer]]:
    """Declare an act on the shop, as ``act`` does one on a job."""

    def declare(function: Callable[Concatenate[InShop, P], Answer]) -> Callable[Concatenate[InShop, P], Answer]:
        @wraps(function)
        def checked(acting: InShop, /, *args: P.args, **given: P.kwargs) -> Answer:
            SHOP_ACTS[function.__name__].check(acting)
            return function(acting, *args, **given)

        may = frozenset(roles) or frozenset(Role)
        SHOP_ACTS[function.__name__] = Act(function.__name__, checked, function, may, None, refusal)
        return checked

    return declare


def log(
    acting: Acting, entry: type[Entry], *, gauge: InstrumentRow | None = None, takes_off: str = "", **fields: Any
) -> Appended:
    """Log an entry made after what was seen of the log; ``takes_off`` is the job whose load comes off for it.

    Raises
    ------
    LogError
        If it cannot be as things stand, or does not say what was seen.
    BehindError
        If something was logged since.
    """
    if acting.seen is None and not acting.after:
        raise LogError(NOT_SEEN)
    return log_any_time(acting, entry, gauge=gauge, takes_off=takes_off, **fields)


def log_any_time(
    acting: Acting, entry: type[Entry], *, gauge: InstrumentRow | None = None, takes_off: str = "", **fields: Any
) -> Appended:
    """Log an entry, whatever was seen of the log, where nothing was said of that."""
    if not acting.entry_id:
        raise LogError(NO_ID)
    return log_made(acting, made(acting, entry, **fields), gauge, takes_off=takes_off)


def made(acting: Acting, entry: type[AnyEntry], **fields: Any) -> AnyEntry:
    """Return an entry as whoever acts would log it; nothing is logged."""
    who = acting.person.sign_in_name
    return entry(entry_id=acting.entry_id, at=acting.at, by=who, screen=acting.screen, **fields)


def log_made(acting: Acting, entry: Entry, gauge: InstrumentRow | None = None, *, takes_off: str = "") -> Appended:
    """Log an entry that was worked out before."""
    draft = Draft(entry, acting.seen, gauge, acting.after, takes_off)
    return shoplog.append(acting.session, acting.job, acting.person, draft)


def unseen(acting: Acting) -> Acting:
    """The same, for what is logged whatever had been seen: a note, a stop, a takeover."""
    return replace(acting, seen=None, after="")


def reason_given(reason: str, asks: str) -> str:
    """Return a reason that was given, as long as is kept; ``LogError`` with the question where there is none."""
    given = reason.strip()[:LONGEST_NOTE]
    if not given:
        raise LogError(f"{asks} The reason goes into the record.")
    return given
