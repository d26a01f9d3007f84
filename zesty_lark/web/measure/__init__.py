"""Station: measure."""

from zesty_lark.web.measure.views import blueprint

__all__ = ["blueprint"]
