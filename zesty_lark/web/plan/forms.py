"""The plan form: which school, its settings, and how the pair's stock is shared."""

from decimal import Decimal
from typing import Any, cast

from flask_wtf import FlaskForm
from wtforms import HiddenField, IntegerField, RadioField
from wtforms.validators import NumberRange, Optional

from zesty_lark.core.process.schools import SCHOOLS, SchoolKey, SchoolPlan
from zesty_lark.core.shoplog.telling import Tongue
from zesty_lark.store.models import Job
from zesty_lark.web.plan.planning import Choice
from zesty_lark.web.shared.fields import DecimalText, LengthField, picks, speak
from zesty_lark.web.shared.wording import as_unit, plain

__all__ = ["PlanForm", "ReferenceForm", "choice_of", "fill", "prepared", "within_machine"]



class PlanForm(FlaskForm):
    """Bare lengths are in the dial's unit; skin in the print's."""

    entry_id = HiddenField()
    seen = IntegerField(default=0)
    was_school = HiddenField()
    school = RadioField("School", choices=picks([(key, school.name) for key, school in SCHOOLS.items()]),
                        validators=[Optional()])
    downfeed = LengthField("Downfeed a pass", required=False)
    crossfeed = LengthField("Crossfeed", required=False)
    table = DecimalText("Table speed, mm/s", least="1", most="10000", required=False)
    finish = LengthField("Finish step", required=False)
    finish_passes = IntegerField("Finish passes", validators=[Optional(), NumberRange(0, 20, "From 0 to 20.")])
    skin = LengthField("Skin, each face", required=False, zero=True)
    share = DecimalText("First face’s share, %", least="0", most="100", required=False)


class ReferenceForm(FlaskForm):
    reference = RadioField("Reference", coerce=int, choices=picks([(1, "Face 1"), (2, "Face 2")]))


def prepared(form: PlanForm, job: Job) -> PlanForm:
    """Tell the form which units bare numbers are in on this job."""
    speak(form, as_unit(job.machine.dial_unit), but={"skin": as_unit(job.print_unit)})
    return form


def choice_of(form: PlanForm, job: Job) -> Choice:
    """Return the choice a form makes; settings count only while the school they were shown for stays chosen."""
    school = cast(SchoolKey | None, form.school.data or None)
    settings: dict[str, Decimal | int] = {}
    if school is not None and form.was_school.data in ("", None, school):
        given: dict[str, Any] = {
            "downfeed_mm": form.downfeed.length(), "crossfeed_mm": form.crossfeed.length(),
            "finish_mm": form.finish.length(), "table_mm_s": form.table.number,
            "finish_passes": form.finish_passes.data,
        }
        settings = {name: value for name, value in given.items() if value is not None}
    sharing = form.skin.typed is not None
    share = form.share.number
    return Choice(
        school=school, settings=settings or None, skin_mm=form.skin.length() if sharing else None,
        share=None if share is None else share / 100, sharing=sharing,
    )


def within_machine(form: PlanForm, job: Job) -> None:
    """Check the settings against the machine's ranges; what is wrong is said beside the field."""
    machine = job.machine
    crossfeed, table = form.crossfeed.length(), form.table.number
    if crossfeed is not None and not machine.crossfeed_min_mm <= crossfeed <= machine.crossfeed_max_mm:
        form.crossfeed.errors = [f"{machine.name} feeds across from {plain(machine.crossfeed_min_mm)} "
                                 f"to {plain(machine.crossfeed_max_mm)} mm."]
    if table is not None and not machine.table_min_mm_s <= table <= machine.table_max_mm_s:
        form.table.errors = [f"{machine.name} runs from {plain(machine.table_min_mm_s)} "
                             f"to {plain(machine.table_max_mm_s)} mm/s."]


def fill(form: PlanForm, plan: SchoolPlan, job: Job, tongue: Tongue, choice: Choice) -> None:
    """Write the chosen plan's settings into the form, but leave what was typed wrongly as it is."""
    used = plan.settings
    lengths = ((form.downfeed, tongue.collar(used.downfeed_mm)), (form.finish, tongue.collar(used.finish_mm)),
               (form.crossfeed, f"{plain(used.crossfeed_mm)} mm"))
    for field, words in lengths:
        if not field.errors and (field.typed is None or form.was_school.data != plan.school.key):
            field.typed = words
    if not form.table.errors:
        form.table.data = plain(used.table_mm_s)
    if not form.finish_passes.errors:
        form.finish_passes.data = used.finish_passes
        form.finish_passes.raw_data = None
    form.school.data = plan.school.key
    form.was_school.data = plan.school.key
    if form.skin.typed is None:
        form.skin.data = job.part.min_skin_mm
        form.share.data = "" if job.part.first_share is None else f"{(job.part.first_share * 100).normalize():f}"
