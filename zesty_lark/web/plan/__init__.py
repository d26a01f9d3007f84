"""Station: plan."""

from zesty_lark.web.plan import panels, route_views, views
from zesty_lark.web.plan.context import blueprint

__all__ = ["blueprint", "panels", "route_views", "views"]
