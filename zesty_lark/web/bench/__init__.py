"""Station: set up."""

from zesty_lark.web.bench import listing, views
from zesty_lark.web.bench.context import blueprint

__all__ = ["blueprint", "listing", "views"]
