"""Station: record."""

from zesty_lark.web.record.views import blueprint

__all__ = ["blueprint"]
