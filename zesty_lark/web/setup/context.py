"""What the set-up works on: the set-up that is asked for, its face and its layout."""

from flask import Blueprint, abort, request

from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.core.work.setups import SetUp
from zesty_lark.shopfloor.acts.set_ups import laid_out_at
from zesty_lark.shopfloor.setting_up import LaidOut, set_up_of
from zesty_lark.web.shared import guard
from zesty_lark.web.shared.acting import acting

blueprint = Blueprint("setup", __name__, static_folder="static", static_url_path="/static/setup")


def face_asked() -> int | None:
    """The face that this request names."""
    return request.values.get("face", type=int)


def asked_for(job_state: JobState) -> tuple[SetUp, int]:
    """The set-up and the surface that a request names, else what is at work or comes next."""
    try:
        return set_up_of(job_state, face_asked())
    except LogError as error:
        abort(404, str(error))


def here() -> LaidOut:
    """Gather the set-up this request is about: of the face it names, else of what is at work or comes next."""
    _, face = asked_for(guard.job_state())
    try:
        return laid_out_at(acting(), face)
    except LogError as error:
        abort(404, str(error))
