"""Jobs: the strips, taking a part in, and the rest of its print and pieces."""

from zesty_lark.web.jobs import more
from zesty_lark.web.jobs.views import blueprint

__all__ = ["blueprint", "more"]
