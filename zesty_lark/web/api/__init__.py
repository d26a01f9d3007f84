"""Station: api."""

from zesty_lark.web.api.views import blueprint

__all__ = ["blueprint"]
