"""Station: grind."""

from zesty_lark.web.grind.views import blueprint

__all__ = ["blueprint"]
