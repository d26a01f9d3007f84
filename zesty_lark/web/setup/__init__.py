"""Station: set up."""

from zesty_lark.web.setup import listing, views
from zesty_lark.web.setup.context import blueprint

__all__ = ["blueprint", "listing", "views"]
