"""Before you touch off: the short list, a tap each, in the log with its time."""

import re

from flask import redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from zesty_lark.core.quantities.units import LengthError, parse_length
from zesty_lark.core.setup.before import Touch, comes_now, high_side
from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.core.work.telling import pieces_words
from zesty_lark.shopfloor.acts import set_ups as acts
from zesty_lark.shopfloor.forming_up import FormedSetUp
from zesty_lark.shopfloor.looking import list_of
from zesty_lark.shopfloor.rights import may_work_on
from zesty_lark.shopfloor.setting_up import LaidOut
from zesty_lark.shopfloor.units import as_unit
from zesty_lark.store import shoplog
from zesty_lark.web.setup.context import blueprint, here
from zesty_lark.web.setup.forming import forming_here
from zesty_lark.web.setup.forms import ListForm
from zesty_lark.web.shared import database, guard
from zesty_lark.web.shared.acting import acting
from zesty_lark.web.shared.guard import access
from zesty_lark.web.shared.wording import now

TOUCH_FIELDS = (
    ("touch_bl", "back left"),
    ("touch_br", "back right"),
    ("touch_fl", "front left"),
    ("touch_fr", "front right"),
)
TOUCHES = {"touch_fl": (0.1, 0.1), "touch_fr": (0.9, 0.1), "touch_bl": (0.1, 0.9), "touch_br": (0.9, 0.9)}


@blueprint.get("/jobs/<number>/set-up/before")
@access(job="look")
def list_page(number: str) -> ResponseReturnValue:
    """Show the list."""
    return _listing_page(_about())


def _about() -> LaidOut | FormedSetUp:
    """The set-up, or the set-up of a slot, an angle or an edge, that this request is about."""
    return forming_here() or here()


def _listing_page(laid_out: LaidOut | FormedSetUp, wrong: str = "") -> str:
    if isinstance(laid_out, LaidOut):
        listed = list_of(database.session(), laid_out, now())
        stop = laid_out.checked.stops[0].finding.why if laid_out.checked.stops else ""
    else:
        listed, stop = laid_out.listed, laid_out.stop
    run = laid_out.job_state.runs.get(laid_out.face)
    up = run is not None and laid_out.job_state.is_up(run)
    return render_template(
        "setup/before.html",
        touched_off=run is not None and run.touched_off,
        up=up,
        several=run is not None and len(run.pieces) > 1,
        holds=sum(row.item.holds for row in listed if not row.is_done),
        laid_out=laid_out,
        listed=listed,
        current=comes_now(listed) if up else None,
        may_work=may_work_on(guard.person(), laid_out.job),
        which=pieces_words,
        typed=request.form,
        touch_fields=TOUCH_FIELDS,
        checked_stop=stop,
        wrong=wrong,
    )


@blueprint.post("/jobs/<number>/set-up/before")
@access(job="work", takes=ListForm)
def tick(number: str) -> ResponseReturnValue:
    """Log that something of the list is done, and what was felt."""
    laid_out = _about()
    try:
        answer, note = _said(laid_out)
        item = request.form.get("item", "")
        about = acting(at_machine=True)
        acts.tick(about, face=laid_out.face, item=item, answer=answer, note=note, pieces=_pieces())
    except (LogError, ValueError) as error:
        return _listing_page(laid_out, wrong=str(error)), 409 if isinstance(error, shoplog.BehindError) else 422
    return redirect(url_for("setup.list_page", number=number, face=laid_out.face), 303)


def _pieces() -> tuple[int, ...]:
    """The pieces that it is said of: all that were ticked, else the one that was asked about."""
    typed = request.form.get("pieces", "") or request.form.get("piece", "")
    named = [each.strip() for each in typed.split(",") if each.strip()]
    if not all(re.fullmatch(r"\d{1,4}", each) for each in named):
        raise ValueError("Of which piece is that said? A piece is a whole number.")
    return tuple(int(each) for each in named)


def _said(laid_out: LaidOut | FormedSetUp) -> tuple[str, str]:
    """The answer; of indicator touches the side they show to be high, and what they read."""
    form = request.form
    typed = {name: form.get(name, "").strip() for name in TOUCHES if form.get(name, "").strip()}
    if form.get("item") != "high side" or not typed:
        return form.get("answer", ""), ""
    unit = as_unit(laid_out.job.machine.dial_unit)
    touches = []
    for name, words in typed.items():
        try:
            touches.append(Touch(*TOUCHES[name], parse_length(words, unit)))
        except LengthError as error:
            raise ValueError(str(error)) from error
    told = ", ".join(f"{name.removeprefix('touch_')} {words}" for name, words in typed.items())
    return high_side(touches), f"Indicator: {told}."
