"""A chuck's history, and the job of grinding it."""

from collections.abc import Sequence

from flask import flash, redirect, request
from flask.typing import ResponseReturnValue
from markupsafe import Markup

from zesty_lark.core.things.chuck import STEP_NAMES, Film
from zesty_lark.core.things.log import ThingError
from zesty_lark.shopfloor.acts.chucks import grind_chuck, take_back_chuck_step
from zesty_lark.store.models import SurfaceMapRow
from zesty_lark.store.models.people import Role
from zesty_lark.store.models.shop import IN_USE
from zesty_lark.web.maps.context import about, blueprint
from zesty_lark.web.maps.forms import StepForm
from zesty_lark.web.shared.acting import in_shop
from zesty_lark.web.shared.forms import UndoForm
from zesty_lark.web.shared.guard import access
from zesty_lark.web.shared.svg.history import Past, range_history

MOST_DRAWN = 20


def history(rows: Sequence[SurfaceMapRow], limit_um: float) -> Markup:
    """Draw the range of a chuck's maps over the years; newest first is how they come."""
    past = [
        Past(row.taken_at, float(row.range_um))
        for row in reversed(rows)
        if row.state == IN_USE and row.range_um is not None
    ]
    return range_history(past[-MOST_DRAWN:], limit_um) if len(past) > 1 else Markup("")


@blueprint.post("/shop/chucks/<int:chuck>/grinding")
@access(Role.LEAD, Role.MACHINIST, takes=StepForm)
def grind(chuck: int) -> ResponseReturnValue:
    """Log a step of grinding a chuck; the first begins it."""
    of = about(writes=True)
    assert of.chuck is not None
    step = next((name for name in STEP_NAMES if name == request.form.get("step")), None)
    answer: Film = "full" if request.form.get("answer") == "full" else "partly" if request.form.get("answer") else ""
    if step is not None:
        try:
            grind_chuck(
                in_shop(),
                chuck=of.chuck.name,
                step=step,
                answer=answer,
                passes=request.form.get("passes", type=int),
                note=request.form.get("note", ""),
            )
        except ThingError as error:
            flash(str(error))
    return redirect(f"{of.url('listed')}#grinding", 303)


@blueprint.post("/shop/chucks/<int:chuck>/grinding/undo")
@access(Role.LEAD, Role.MACHINIST, takes=UndoForm)
def take_back(chuck: int) -> ResponseReturnValue:
    """Take the last step of grinding a chuck back."""
    of, form = about(writes=True), UndoForm()
    assert of.chuck is not None
    try:
        take_back_chuck_step(in_shop(), chuck=of.chuck.name, supersedes=form.supersedes.data or "")
    except ThingError as error:
        flash(str(error))
    return redirect(f"{of.url('listed')}#grinding", 303)
