"""What a page of maps is about: a job's pieces, or a chuck; and the map that its address names."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, TypeVar

from flask import Blueprint, abort, request, url_for
from flask.typing import ResponseReturnValue

from zesty_lark.core.work.job_state import JobState
from zesty_lark.shopfloor.mapping import size_of_surface
from zesty_lark.shopfloor.rights import may_work_on
from zesty_lark.store import maps, shop
from zesty_lark.store.models import ChuckRow, InstrumentRow, Job, SurfaceMapRow
from zesty_lark.store.models.people import Role
from zesty_lark.web.maps.forms import BringInForm, LayOutForm
from zesty_lark.web.shared import database, guard
from zesty_lark.web.shared.fields import choice_list

View = TypeVar("View", bound=Callable[..., ResponseReturnValue])

blueprint = Blueprint("maps", __name__, static_folder="static", static_url_path="/static/maps")


def both(path: str = "", **options: Any) -> Callable[[View], View]:
    """A view's two addresses: under a job, and under a chuck."""

    def add(view: View) -> View:
        blueprint.route(f"/shop/chucks/<int:chuck>/maps{path}", **options)(view)
        return blueprint.route(f"/jobs/<number>/maps{path}", **options)(view)

    return add


@dataclass(frozen=True)
class About:
    """What the page is about."""

    job: Job | None
    chuck: ChuckRow | None

    @property
    def args(self) -> dict[str, object]:
        """What its addresses are made with."""
        return {"number": self.job.number} if self.job is not None else {"chuck": self.chuck.id if self.chuck else 0}

    @property
    def job_state(self) -> JobState | None:
        """Where the job stands, if it is about one."""
        return guard.job_state() if self.job is not None else None

    @property
    def name(self) -> str:
        """In words."""
        return self.job.number if self.job is not None else self.chuck.name if self.chuck else ""

    def url(self, endpoint: str, **more: object) -> str:
        """The address of a view of it."""
        return url_for(f"maps.{endpoint}", **self.args, **more)  # type: ignore[arg-type]

    def size(self, surface: int | None) -> tuple[float, float]:
        """Length and width of what is mapped [mm]."""
        if self.chuck is not None:
            return float(self.chuck.length_mm), float(self.chuck.width_mm)
        assert self.job is not None
        return size_of_surface(self.job, surface or 1)

    @property
    def may_take(self) -> bool:
        """Whether who is here may map it."""
        if self.job is not None:
            return may_work_on(guard.person(), self.job, "inspect")
        return guard.person().role != Role.APPRENTICE

    @property
    def may_grind(self) -> bool:
        """Whether who is here may grind the chuck."""
        return self.chuck is not None and guard.person().role in (Role.LEAD, Role.MACHINIST)

    def must_take(self) -> None:
        """Refuse whoever may not map it."""
        if not self.may_take:
            abort(403)


def about(*, writes: bool = False) -> About:
    """Return what the request is about.

    Parameters
    ----------
    writes : bool
        Whether it changes something; an apprentice maps the pieces of their own jobs, and no chuck.
    """
    args = request.view_args or {}
    if "chuck" in args:
        chuck = shop.find(database.session(), ChuckRow, args["chuck"])
        found = About(None, chuck or abort(404, "There is no chuck with that number."))
    else:
        found = About(guard.job(), None)
    if writes:
        found.must_take()
    return found


def the_map(of: About) -> SurfaceMapRow:
    """Return the map that the address names, which has to be one of what the address is about."""
    row = maps.by_key(database.session(), str((request.view_args or {}).get("key", "")))
    belongs = row is not None and (
        row.job_id == of.job.id if of.job is not None else of.chuck is not None and row.chuck_id == of.chuck.id
    )
    if row is None or not belongs:
        abort(404, "There is no such map of it.")
    return row


def gauge_of(form: LayOutForm | BringInForm) -> InstrumentRow | None:
    """The gauge that was chosen."""
    return shop.find(database.session(), InstrumentRow, form.instrument.data) if form.instrument.data else None


def with_gauges(form: LayOutForm | BringInForm) -> None:
    """Give a form the gauges there are: those that read deviations first."""
    gauges = sorted(
        shop.listed(database.session(), InstrumentRow), key=lambda row: (row.reads != "deviations", row.port is None)
    )
    form.instrument.choices = choice_list((row.id, row.name) for row in gauges)
