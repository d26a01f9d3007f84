"""The plan station's forms: a face's settings, and the part's route."""

import re
from dataclasses import replace
from decimal import Decimal
from typing import cast

from werkzeug.datastructures import MultiDict
from wtforms import HiddenField, RadioField, SelectField, StringField
from wtforms.validators import Length, NumberRange, Optional

from zesty_lark.core.part.faces import Axis
from zesty_lark.core.part.sequence import SQUARENESS_NAMES, SquarenessMethod
from zesty_lark.core.part.surfaces.part import AXES
from zesty_lark.core.planning.plan import Plan
from zesty_lark.core.planning.problem import Problem
from zesty_lark.core.squaring.choices import FaceChoice, PairChoice, RouteChoices
from zesty_lark.core.squaring.order import StepChoice
from zesty_lark.core.work.plans import METHODS, Method
from zesty_lark.shopfloor.stock import depth_graduation
from zesty_lark.shopfloor.units import as_unit
from zesty_lark.store.models import Job
from zesty_lark.web.shared.fields import DecimalText, LengthField, WholeNumber, choice_list, set_units
from zesty_lark.web.shared.forms import EntryForm, PostedForm

BLOCKS = {"yes": True, "no": False}
SLIDERS = ("downfeed", "crossfeed", "table")
STEP_KEY, MOST_STEPS = re.compile(r"\d{1,2}(\+\d{1,2})?"), 24


class FaceForm(EntryForm):
    """A face's settings. Sliders count graduations of the machine; while they stand as they were shown, the method
    counts."""

    face = HiddenField()
    based_on = WholeNumber(default=0)
    over = HiddenField()
    was = HiddenField()
    method = RadioField("Method", choices=choice_list(METHODS.items()), validators=[Optional()])
    downfeed = WholeNumber("Downfeed", validators=[Optional(), NumberRange(1, 100_000)])
    crossfeed = WholeNumber("Crossfeed", validators=[Optional(), NumberRange(1, 100_000)])
    table = DecimalText("Table", least="1", most="10000", places=7, required=False)
    skew = DecimalText("Turned", least="-90", most="90", required=False)
    margin = DecimalText("Margin kept", least="0", most="70", required=False)
    until = SelectField(
        "Roughing ends",
        choices=choice_list([("plan", "with the plan"), ("clean", "when it is clean all over")]),
        validators=[Optional()],
    )
    pieces = StringField("Pieces put up together")
    reason = StringField("Why it is released all the same", validators=[Length(max=500)])


class ChangeForm(EntryForm):
    """What leaves the route: which change of which set-up or face, on which pieces, and why."""

    what = HiddenField()
    pieces = StringField("Pieces, such as 4, 7")
    reason = StringField("Why")


class ReferenceForm(PostedForm):
    reference = RadioField("Reference", coerce=int, choices=choice_list([(1, "Face 1"), (2, "Face 2")]))


class RouteForm(EntryForm):
    """The part's route: the method of squareness and how each pair's stock is shared; set-ups are read beside it."""

    PATTERNS = (r"(skip|fixture|blocks)-\d{1,2}(\+\d{1,2})?",)
    step = HiddenField()
    move = HiddenField()
    over = HiddenField()
    reason = StringField("Why it is released all the same", validators=[Length(max=500)])
    based_on = WholeNumber(default=0)
    was_squareness = HiddenField()
    squareness = SelectField("Squareness by", choices=choice_list(SQUARENESS_NAMES.items()))
    gap = DecimalText("Gap between parts, mm", least="0", most="100", places=4, required=False)

    def pair_fields(self, axis: Axis) -> tuple[LengthField, DecimalText]:
        """The skin and the share of a pair."""
        return self[f"{axis}_skin"], self[f"{axis}_share"]

    def position_fields(self, axis: Axis) -> tuple[LengthField, LengthField]:
        """Where a hole or slot is now, and where it is wanted, from the pair's reference."""
        return self[f"{axis}_now"], self[f"{axis}_wanted"]


for _axis in AXES:
    setattr(RouteForm, f"{_axis}_skin", LengthField(f"Skin, {_axis}", required=False, zero=True))
    setattr(RouteForm, f"{_axis}_now", LengthField(f"{_axis.capitalize()}: it is now at", required=False, zero=True))
    setattr(RouteForm, f"{_axis}_wanted", LengthField(f"{_axis.capitalize()}: wanted at", required=False, zero=True))
    setattr(
        RouteForm,
        f"{_axis}_share",
        DecimalText(f"Reference’s share of the {_axis}, %", least="0", most="100", required=False),
    )


def choice_of(form: FaceForm, before: FaceChoice, job: Job) -> FaceChoice:
    """Return what a face's form chooses: a moved slider makes the settings one's own. What is wrong in it stays as it
    was."""
    if form.errors:
        return before
    before = replace(before, until_clean=form.until.data == "clean") if form.until.data else before
    skew = float(form.skew.number) if form.skew.number is not None else before.skew_deg
    margin = float(form.margin.number) / 100 if form.margin.number is not None else before.margin
    method = cast(Method, form.method.data or before.method)
    was = (form.was.data or "").split(",")
    now = [_sent(form, name) for name in SLIDERS]
    if method == "custom" or (len(was) == len(now) and "" not in now and was != now):
        if "" in now:
            return before
        machine = job.machine
        return replace(before, margin=margin).custom(
            skew,
            form.downfeed.data or 1,
            depth_graduation(job, int(form.face.data)) if (form.face.data or "").isdigit() else machine.graduation_mm,
            form.crossfeed.data or 1,
            crossfeed_graduation_mm=machine.crossfeed_graduation_mm,
            table_mm_s=float(form.table.number or machine.table_max_mm_s),
        )
    return before.under(method, skew, margin)


def _sent(form: FaceForm, name: str) -> str:
    return str(form[name].data if form[name].data is not None else "").strip()


def fill(form: FaceForm, choice: FaceChoice, plan: Plan | None, problem: Problem | None) -> None:
    """Set the sliders to the chosen plan."""
    form.method.data = choice.method
    form.until.data = "clean" if choice.until_clean else "plan"
    form.skew.data, form.margin.data = f"{choice.skew_deg:g}", f"{100 * choice.margin:g}"
    if plan is None or problem is None or form.errors:
        form.was.data = ""
        return
    form.downfeed.data = max(1, plan.downfeed_graduations)
    form.crossfeed.data = round(plan.crossfeed_mm / float(problem.machine.crossfeed_graduation_mm))
    form.table.data = f"{plan.table_mm_s:g}"
    for name in SLIDERS:
        form[name].raw_data = None
    form.was.data = ",".join(_sent(form, name) for name in SLIDERS)


def route_form(choices: RouteChoices, job: Job, based_on: int) -> RouteForm:
    """The form of a route as it is chosen."""
    form = RouteForm(
        formdata=None,
        data={
            "squareness": choices.squareness,
            "was_squareness": choices.squareness,
            "gap": f"{choices.gap_mm:g}",
            "based_on": based_on,
        },
    )
    set_units(form, as_unit(job.print_unit))
    for axis in AXES:
        skin, share = form.pair_fields(axis)
        pair = choices.pairs.get(axis, PairChoice())
        skin.data = pair.skin_mm
        for field, at in zip(form.position_fields(axis), (pair.position_now_mm, pair.position_wanted_mm), strict=True):
            field.data = at
        share.data = "" if pair.first_share is None else f"{(pair.first_share * 100).normalize():f}"
    return form


def route_of(form: RouteForm, sent: MultiDict[str, str], base: RouteChoices) -> RouteChoices:
    """Return what a route's form chooses, with set-ups in the order sent and moved by the button that was pressed."""
    pairs: dict[Axis, PairChoice] = {}
    for axis in AXES:
        skin, share = form.pair_fields(axis)
        part = None if share.number is None else (share.number / 100).quantize(Decimal("0.0001"))
        turns = base.pairs.get(axis, PairChoice()).turns
        now, wanted = (_length(field) for field in form.position_fields(axis))
        pair = PairChoice(_length(skin), part, now, wanted, turns=turns)
        if pair != PairChoice():
            pairs[axis] = pair
    keys = _moved([key for key in sent.getlist("step") if STEP_KEY.fullmatch(key)][:MOST_STEPS], sent.get("move", ""))
    chosen = tuple(
        StepChoice(
            key,
            bool(sent.get(f"skip-{key}")),
            sent.get(f"fixture-{key}") or None,
            BLOCKS.get(sent.get(f"blocks-{key}", "")),
        )
        for key in keys
    )
    gap = base.gap_mm if form.gap.number is None else float(form.gap.number)
    squareness = form.squareness.data if form.squareness.data in SQUARENESS_NAMES else base.squareness
    kept = chosen if squareness == form.was_squareness.data else ()
    return RouteChoices(cast(SquarenessMethod, squareness), kept, dict(base.faces), pairs, gap)


def _length(field: LengthField) -> Decimal | None:
    """A length that is right; ``None`` where it is wrong, and said beside the field."""
    return None if field.errors else field.length()


def _moved(keys: list[str], move: str) -> list[str]:
    way, _, key = move.partition(":")
    if key not in keys or way not in ("up", "down"):
        return keys
    at = keys.index(key)
    to = min(max(at + (-1 if way == "up" else 1), 0), len(keys) - 1)
    keys.insert(to, keys.pop(at))
    return keys
