"""Station: surface maps of pieces and of chucks."""

from zesty_lark.web.maps.views import blueprint

__all__ = ["blueprint"]
