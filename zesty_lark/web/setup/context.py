"""What the set-up works on: the set-up that is asked for, its face and its layout."""

from flask import Blueprint, abort, request

from zesty_lark.core.work.setups import SetUp
from zesty_lark.core.work.standing import Standing
from zesty_lark.shopfloor.forming_up import is_formed
from zesty_lark.shopfloor.loads import room_in
from zesty_lark.shopfloor.setting_up import LaidOut, laid_out_of
from zesty_lark.web.shared import database, guard
from zesty_lark.web.shared.wording import now

blueprint = Blueprint("setup", __name__, static_folder="static", static_url_path="/static/setup")


def set_ups_known(standing: Standing) -> list[tuple[SetUp, int]]:
    """The set-ups of the route that are run, each with the face that is up first and still wanted."""
    found = []
    for setup in standing.setups:
        if setup.left_out:
            continue
        asked = standing.brief.wanted.surfaces
        wanted = [
            face for face in setup.up if any(standing.pieces[number].wants(asked[face]) for number in standing.live)
        ]
        found.append((setup, (wanted or list(setup.up))[0]))
    return found


def asked_for(standing: Standing) -> tuple[SetUp, int]:
    """The set-up and the surface that a request names, else what is at work or comes next."""
    known = set_ups_known(standing)
    if not known:
        abort(404, "This job has no set-up: its route leaves every face as it is.")
    face = request.values.get("face", type=int) or standing.surface or known[0][1]
    setup = next((each for each, _ in known if face in each.up), None)
    if setup is None:
        abort(404, f"No set-up of this route has {standing.named(face)} up.")
    return setup, face


def here() -> LaidOut:
    """Gather the set-up this request is about: of the face it names, else of what is at work or comes next."""
    job, standing = guard.job(), guard.standing()
    setup, face = asked_for(standing)
    if is_formed(standing, face):
        abort(404, f"{standing.titled(face)} is set up on a page of its own: nothing is laid out for it.")
    room = room_in(job, standing, face, lead_in=False)
    return laid_out_of(database.session(), job, standing, now().date(), setup=setup, face=face, room=room)
