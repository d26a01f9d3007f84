"""Station: api."""

from zesty_lark.web.api import acts
from zesty_lark.web.api.views import blueprint

__all__ = ["acts", "blueprint"]
