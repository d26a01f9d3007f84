"""Set up for a slot, an angle or an edge: its figures, its drawings, and its list before the wheel touches."""

from flask import render_template

from zesty_lark.shopfloor.forming_up import FormedSetUp, formed_set_up, is_formed
from zesty_lark.shopfloor.setting_up import known_set_ups
from zesty_lark.web.setup.context import asked_for
from zesty_lark.web.shared import database, guard
from zesty_lark.web.shared.svg.outlines import outlines
from zesty_lark.web.shared.wording import now


def forming_here() -> FormedSetUp | None:
    """Gather what this request is about where that is none of the block's faces; ``None`` where it is."""
    job, job_state = guard.job(), guard.job_state()
    setup, face = asked_for(job_state)
    if not is_formed(job_state, face):
        return None
    return formed_set_up(database.session(), job, job_state, now(), setup=setup, face=face)


def forming_page(made: FormedSetUp, *, sheet: bool = False) -> str:
    """Render the set-up, on the screen or as a sheet to print."""
    drawn = [] if made.answer is None else [(title, outlines(each, title)) for title, each in made.answer.drawings]
    return render_template(
        "setup/forming_sheet.html" if sheet else "setup/forming.html",
        made=made,
        answer=made.answer,
        drawn=drawn,
        set_ups=known_set_ups(made.job_state),
        printed_at=now(),
        as_pdf=False,
    )
