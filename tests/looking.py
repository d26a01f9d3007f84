"""Whoever looks at what the list before the touch-off still asks, and finds all of it well."""

from datetime import UTC, datetime
from uuid import uuid4

from sqlalchemy.orm import Session

from zesty_lark.core.work.looking import holding
from zesty_lark.core.work.next_act import next_act
from zesty_lark.shopfloor.acts import set_ups
from zesty_lark.shopfloor.acts.acting import Acting
from zesty_lark.store import job_states
from zesty_lark.store.models import Job, Person


def look(session: Session, job: Job, person: Person, screen: str = "") -> None:
    """Answer what holds the touch-off of the load that is up, where that is what comes next."""
    state = job_states.state_of(session, job)
    what = next_act(state)
    if what.act != "look" or what.surface is None:
        return
    for each in holding(state, state.runs[what.surface]):
        seen = job_states.state_of(session, job).last_seq
        acting = Acting(session, person, job, datetime.now(UTC), str(uuid4()), seen, screen=screen)
        set_ups.tick(acting, face=what.surface, item=each.item.key, answer=each.item.well_answer, pieces=each.pieces)
