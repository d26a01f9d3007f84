"""Station: jobs."""

from zesty_lark.web.jobs.views import blueprint

__all__ = ["blueprint"]
