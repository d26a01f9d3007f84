"""What the plan station works on: its blueprint, and the version that is worked from."""

from flask import Blueprint, request

from zesty_lark.core.squaring.changes import Change, differences
from zesty_lark.core.squaring.planned import RoutePlan
from zesty_lark.shopfloor.part_planning import PartPlanning, part_planning
from zesty_lark.store import part_plans
from zesty_lark.store.models import PartPlanRow
from zesty_lark.web.shared import database, guard
from zesty_lark.web.shared.wording import now

blueprint = Blueprint("plan", __name__, static_folder="static", static_url_path="/static/plan")


def version_asked() -> int | None:
    """The version that this request works from; ``None`` for the newest."""
    number = request.values.get("based_on", type=int)
    return request.values.get("version", type=int) if number is None else number


def pieces_asked() -> tuple[int, ...]:
    """The pieces that this request wants put up together."""
    return tuple(request.values.getlist("pieces", type=int))


def planning_here() -> PartPlanning:
    """Lay out what this request works on: the version it names, else the newest."""
    today, named = now().date(), pieces_asked()
    return part_planning(
        database.session(), guard.job(), guard.job_state(), today, version=version_asked(), pieces=named
    )


def kept_over() -> bool:
    """Whether what is kept goes over what somebody else kept meanwhile."""
    return request.form.get("over") == "yes"


def conflict_of(where: PartPlanning, route: RoutePlan, other: PartPlanRow) -> list[Change]:
    """How what is on the screen differs from a version someone else kept meanwhile."""
    return differences(part_plans.figures_of(other), where.basis.figures(route))
