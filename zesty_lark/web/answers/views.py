"""Quick answers at the bench: two presses from anywhere, each with its drawing."""

from flask import Blueprint, abort, render_template, request
from flask.typing import ResponseReturnValue
from markupsafe import Markup
from werkzeug.datastructures import MultiDict
from wtforms import SelectField
from wtforms.fields.choices import SelectChoice

from zesty_lark.core.angles_slots.answers import Answer
from zesty_lark.core.angles_slots.block_sets import BlockSet
from zesty_lark.core.quantities.numbers import InputError
from zesty_lark.store import shop
from zesty_lark.store.models import BlockSetRow
from zesty_lark.web.answers.kinds import KINDS, Kind
from zesty_lark.web.shared import database
from zesty_lark.web.shared.fields import choice_list
from zesty_lark.web.shared.forms import PostedForm
from zesty_lark.web.shared.guard import access
from zesty_lark.web.shared.svg.outlines import outlines

blueprint = Blueprint("answers", __name__, static_folder="static", static_url_path="/static/answers")
BUILT_IN = ("metric88", "the usual 88 metric blocks")


@blueprint.get("/answers")
@access()
def listed() -> ResponseReturnValue:
    """Which answers there are, a key each."""
    return render_template("answers/listed.html", kinds=KINDS)


@blueprint.get("/answers/<name>")
@access()
def one(name: str) -> ResponseReturnValue:
    """One question, its figures and its drawing."""
    kind = KINDS.get(name) or abort(404, "There is no such answer.")
    sets = shop.listed(database.session(), BlockSetRow)
    form = _form(kind, sets)
    answer, wrong = None, ""
    if form.validate():
        try:
            answer = kind.work_out(form, _blocks(form, sets))
        except InputError as error:
            wrong = str(error)
    return render_template(
        "answers/one.html", kinds=KINDS, kind=kind, name=name, form=form, answer=answer, wrong=wrong,
        drawn=[] if answer is None else _drawn(answer), hidden=_hidden(kind, form),
    ), 422 if wrong or form.errors else 200  # fmt: skip


def _form(kind: Kind, sets: list[BlockSetRow]) -> PostedForm:
    """The form as it was sent, what was not sent as it usually is."""
    usual = kind.form(formdata=None, meta={"csrf": False})
    if "blocks" in usual:
        usual["blocks"].choices = _choices(sets)
    for each in usual:
        if isinstance(each, SelectField) and not each.data:
            each.data = each.choices[0].value
    given = MultiDict({each.name: str(each.data or "") for each in usual} | request.args.to_dict())
    form = kind.form(given, meta={"csrf": False})
    if "blocks" in form:
        form["blocks"].choices = _choices(sets)
    return form


def _choices(sets: list[BlockSetRow]) -> list[SelectChoice]:
    own = [(str(each.id), each.name) for each in sets]
    return choice_list([*own, BUILT_IN])


def _blocks(form: PostedForm, sets: list[BlockSetRow]) -> BlockSet | None:
    if "blocks" not in form:
        return None
    return next((each.to_core() for each in sets if str(each.id) == form["blocks"].data), None)


def _hidden(kind: Kind, form: PostedForm) -> set[str]:
    """The fields that belong to another choice."""
    found: set[str] = set()
    for chooser, by in kind.shows.items():
        shown = by.get(form[chooser].data, ())
        found |= {name for names in by.values() for name in names if name not in shown}
    return found


def _drawn(answer: Answer) -> list[tuple[str, Markup]]:
    return [(title, outlines(each, title)) for title, each in answer.drawings]
