"""Station: plan."""

from zesty_lark.web.plan.views import blueprint

__all__ = ["blueprint"]
