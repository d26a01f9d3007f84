"""The load drawn: the pieces that go up together, on their chuck."""

from markupsafe import Markup

from zesty_lark.core.quantities.numbers import InputError
from zesty_lark.shopfloor.loads import chuck_size
from zesty_lark.shopfloor.part_planning import PartPlanning
from zesty_lark.shopfloor.planning import Planning
from zesty_lark.web.shared.svg.nest import nest_plan


def load_drawn(where: PartPlanning, planning: Planning) -> Markup | str:
    """Draw the load on its chuck, where several pieces go up together."""
    load = where.load_at(planning)
    if planning.plan is None or len(load) < 2 or where.too_many(planning.face):
        return ""
    try:
        return nest_plan(where.nested(planning), *chuck_size(where.job), load)
    except InputError:
        return ""
