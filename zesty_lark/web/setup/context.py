"""What the set-up works on: the set-up that is asked for, its face and its layout."""

from flask import Blueprint, abort, request

from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.setups import SetUp
from zesty_lark.shopfloor.forming_up import is_formed
from zesty_lark.shopfloor.loads import room_in
from zesty_lark.shopfloor.setting_up import LaidOut, laid_out_of
from zesty_lark.web.shared import database, guard
from zesty_lark.web.shared.wording import now

blueprint = Blueprint("setup", __name__, static_folder="static", static_url_path="/static/setup")


def set_ups_known(job_state: JobState) -> list[tuple[SetUp, int]]:
    """The set-ups of the route that are run, each with the face that is up first and still wanted."""
    found = []
    for setup in job_state.setups:
        if setup.left_out:
            continue
        asked = job_state.spec.wanted.surfaces
        wanted = [
            face for face in setup.up if any(job_state.pieces[number].wants(asked[face]) for number in job_state.live)
        ]
        found.append((setup, (wanted or list(setup.up))[0]))
    return found


def asked_for(job_state: JobState) -> tuple[SetUp, int]:
    """The set-up and the surface that a request names, else what is at work or comes next."""
    known = set_ups_known(job_state)
    if not known:
        abort(404, "This job has no set-up: its route leaves every face as it is.")
    face = request.values.get("face", type=int) or job_state.surface or known[0][1]
    setup = next((each for each, _ in known if face in each.up), None)
    if setup is None:
        abort(404, f"No set-up of this route has {job_state.named(face)} up.")
    return setup, face


def here() -> LaidOut:
    """Gather the set-up this request is about: of the face it names, else of what is at work or comes next."""
    job, job_state = guard.job(), guard.job_state()
    setup, face = asked_for(job_state)
    if is_formed(job_state, face):
        abort(404, f"{job_state.titled(face)} is set up on a page of its own: nothing is laid out for it.")
    room = room_in(job, job_state, face, lead_in=False)
    return laid_out_of(database.session(), job, job_state, now().date(), setup=setup, face=face, room=room)
