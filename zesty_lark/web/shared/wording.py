"""Numbers and times as they are written on the page."""

import uuid
from collections.abc import Sequence
from datetime import UTC, date, datetime
from decimal import Decimal

from flask import Flask, session
from jinja2 import pass_context
from jinja2.runtime import Context

from zesty_lark.core.part.shown_units import ShownUnits, set_up_words
from zesty_lark.core.planning.reasons import MORE_IS_BETTER, UNSURE
from zesty_lark.core.quantities.units import known_text, size_text, small_text
from zesty_lark.core.work.plans import PlanSteps
from zesty_lark.core.work.time_left import TimeLeft, whole_range
from zesty_lark.shopfloor.units import as_unit, shown_units
from zesty_lark.store.models import Job

HOURS_FROM_MIN = 90


def now() -> datetime:
    """Return this moment in UTC: the one clock of the web floor."""
    return datetime.now(UTC)


def entry_id() -> str:
    """Return a new id for an entry that a page is about to send."""
    return str(uuid.uuid4())


def units(job: Job) -> ShownUnits:
    """Return the units a job's pages are in: sizes the print's, the machine its dial's; the switch shows all of it in
    the other."""
    own = shown_units(job)
    return own if session.get("unit", "own") == "own" else own.switched


def plain(number: Decimal) -> str:
    """Write an exact number without trailing zeros and never with an exponent."""
    return f"{number.normalize():f}"


def install(app: Flask) -> None:
    """Give templates their filters."""
    app.add_template_filter(_size, "size")
    app.add_template_filter(_small, "small")
    app.add_template_filter(_surface_name, "surface_name")
    app.add_template_filter(_set_up_name, "set_up_name")
    app.add_template_filter(plain, "plain")
    app.add_template_filter(_known, "known")
    app.jinja_env.globals["unsure"] = UNSURE
    app.add_template_filter(_exact, "exact")
    app.add_template_filter(_clock, "clock")
    app.add_template_filter(_day, "day")
    app.add_template_filter(_minutes, "minutes")
    app.add_template_filter(_between, "between")
    app.add_template_filter(_from_to, "from_to")
    app.add_template_global(entry_id, "entry_id")


def _size(mm: Decimal | None, unit: str, with_unit: bool = True) -> str:
    return "–" if mm is None else size_text(mm, as_unit(unit), with_unit=with_unit)


def _small(mm: Decimal | None, unit: str) -> str:
    return "–" if mm is None else small_text(mm, as_unit(unit))


def _exact(length: float) -> Decimal:
    return Decimal(repr(length))


def _clock(moment: datetime) -> str:
    local = moment.astimezone()
    return f"{local:%H:%M}" if local.date() == now().astimezone().date() else f"{local:%d %b %H:%M}"


def _day(day: date | None) -> str:
    return "no date" if day is None else f"{day:%d %b %Y}"


def _known(value: float | Decimal, figure: str) -> str:
    """A figure of a plan, with as many digits as what is known of it bears."""
    return known_text(float(value), UNSURE[figure], down=figure in MORE_IS_BETTER)


def _minutes(minutes: float) -> str:
    if minutes < 1:
        return "under 1 min"
    return f"{minutes:.0f} min" if minutes < HOURS_FROM_MIN else f"{int(minutes // 60)} h {int(minutes % 60):02d} min"


def _between(of: TimeLeft | PlanSteps) -> str:
    """A time, or that of a whole plan, as a range: ``18 to 32 min``."""
    time = whole_range(of) if isinstance(of, PlanSteps) else of
    low, high = _minutes(time.low), _minutes(time.high)
    if low == high:
        return low
    return f"{low.removesuffix(' min')} to {high}" if time.high < HOURS_FROM_MIN else f"{low} to {high}"


def _from_to(time: TimeLeft | None) -> str:
    """A time as a range of minutes, where there is little room: ``18–32``."""
    return "–" if time is None else f"{time.low:.0f}–{time.high:.0f}"


@pass_context
def _surface_name(context: Context, surface: int) -> str:
    """What a surface of the page's job is called in a sentence."""
    name: str = context["job_state"].named(surface)
    return name


@pass_context
def _set_up_name(context: Context, up: Sequence[int]) -> str:
    """What a set-up has up, in a sentence."""
    return set_up_words(up, context["job_state"].named)
