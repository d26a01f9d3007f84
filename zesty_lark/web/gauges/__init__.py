"""Station: gauges as they read, and what they were found to do."""

from zesty_lark.web.gauges.views import blueprint

__all__ = ["blueprint"]
