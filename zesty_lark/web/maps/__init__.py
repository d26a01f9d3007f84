"""Station: surface maps of pieces and of chucks."""

from zesty_lark.web.maps import chucks, files, looking, views
from zesty_lark.web.maps.context import blueprint

__all__ = ["blueprint", "chucks", "files", "looking", "views"]
