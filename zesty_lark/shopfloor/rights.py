"""Who may do what with a job."""

from typing import Literal

from zesty_lark.store.models import Job, Person
from zesty_lark.store.models.people import Role

JobUse = Literal["look", "work", "inspect"]


class NotYours(PermissionError):
    """It is for somebody else to do; the message says for whom, and who can change that."""


def may_work_on(who: Person, what: Job, use: JobUse = "work") -> bool:
    """Tell whether someone may log on a job: its owner and leads; inspectors measure and sign off."""
    if use == "look" or who.role == Role.LEAD or what.owner_id == who.id:
        return True
    return use == "inspect" and who.role == Role.INSPECTOR


def may_release(who: Person, job: Job) -> bool:
    """A plan goes to the machine by its job's owner or a lead; an apprentice's by a lead."""
    return may_work_on(who, job) and who.role != Role.APPRENTICE


def check_use(who: Person, what: Job, use: JobUse) -> None:
    """Raise ``NotYours`` where someone may not use a job so."""
    if not may_work_on(who, what, use):
        raise NotYours(
            f"{what.number} is {what.owner.name}’s job. You can look at it; to log on it, ask "
            f"{what.owner.name} or a lead to hand it over."
        )
