"""Station: record."""

from zesty_lark.web.record import files, sheets, views
from zesty_lark.web.record.context import blueprint

__all__ = ["blueprint", "files", "sheets", "views"]
