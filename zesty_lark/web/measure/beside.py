"""What stands beside the readings: the stack to wring, what U will be and why, the cooling clock, why it is out of
parallel."""

from dataclasses import dataclass
from decimal import Decimal
from typing import Any

from flask import url_for
from markupsafe import Markup

from zesty_lark.core.measure.budget import Budget
from zesty_lark.core.measure.comparison import Wrung
from zesty_lark.core.measure.tapers import Explained
from zesty_lark.core.quantities.numbers import InputError
from zesty_lark.core.work.job_state import JobState
from zesty_lark.shopfloor.cooling import Clock, clock_of
from zesty_lark.shopfloor.gauges import repeat_due
from zesty_lark.shopfloor.measuring import Tool, budget_for, stack_for
from zesty_lark.shopfloor.tapers import explained, lies_on
from zesty_lark.store.models import InstrumentRow, Job
from zesty_lark.web.measure.forms import MeasureForm
from zesty_lark.web.measure.subject import Subject, tool_of
from zesty_lark.web.shared import database
from zesty_lark.web.shared.svg.budget import budget_bars
from zesty_lark.web.shared.svg.places import PLACES
from zesty_lark.web.shared.wording import now


@dataclass(frozen=True)
class Beside:
    """What the page shows beside the readings; each may be missing.

    Attributes
    ----------
    gauge : InstrumentRow or None
    stack : Wrung or None
        What to wring, for a comparison; ``no_stack`` says why there is none.
    budget : Budget or None
        U of a reading with this gauge, contribution by contribution; ``bars`` draws it.
    clock : Clock or None
        The cooling of the part; ``cooled`` when it has come to the room, however it lies.
    repeat : str
        Where five lifts are taken, when they come first.
    why : Explained or None
        Why the last measurement is out of parallel.
    lies_on : int or None
        The face under it, where that is not ground yet.
    """

    gauge: InstrumentRow | None
    stack: Wrung | None
    no_stack: str
    budget: Budget | None
    bars: Markup
    clock: Clock | None
    cooled: bool
    repeat: str
    why: Explained | None
    lies_on: int | None = None


def beside(form: MeasureForm, job: Job, job_state: JobState, about: Subject, *, result: Any) -> Beside:
    """Work out what stands beside the readings."""
    tool, clock = tool_of(form), clock_of(job, job_state, about.asked)
    stack, no_stack = _stack(tool, about)
    budget = None if tool is None or no_stack else _budget(job_state, about, tool, form)
    measured = None if result is None else result.entry
    return Beside(
        None if tool is None else tool.gauge,
        stack,
        no_stack,
        budget,
        budget_bars(budget) if budget is not None else Markup(""),
        clock,
        clock is not None and all(ready <= now() for _, ready in clock.ready),
        _repeat(job, tool, about, budget),
        explained(job, job_state, measured, dict(PLACES))
        if measured is not None and about.asked.kind == "size"
        else None,
        None if measured is None else lies_on(job_state, measured),
    )


def _stack(tool: Tool | None, about: Subject) -> tuple[Wrung | None, str]:
    if tool is None or not about.is_size or tool.gauge.reads != "deviations":
        return None, ""
    if tool.blocks is None:
        return None, "It reads deviations: choose the blocks it is set to."
    try:
        return stack_for(about.asked, tool.blocks), ""
    except InputError as error:
        return None, str(error)


def _budget(job_state: JobState, about: Subject, tool: Tool, form: MeasureForm) -> Budget | None:
    taken = bool((form.part_c.data or "").strip())
    return budget_for(job_state, about.asked, tool, at=now(), taken_c=taken) if about.asked.kind != "angle" else None


def _repeat(job: Job, tool: Tool | None, about: Subject, budget: Budget | None) -> str:
    """Where five lifts are taken, when the tolerance asks for them and the gauge has not shown it today."""
    if tool is None or budget is None:
        return ""
    width = about.asked.limits.width_mm if about.is_size else 2 * about.asked.allowed_mm
    if width <= Decimal(0) or not repeat_due(database.session(), tool.gauge, width, budget.expanded_mm, at=now()):
        return ""
    back = url_for("measure.station", number=job.number, of=about.of, piece=about.piece, instrument=tool.gauge.id)
    return url_for("gauges.page", key=tool.gauge.id, back=back)
