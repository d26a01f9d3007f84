"""Station: measure."""

from zesty_lark.web.measure import pieces, shapes, square, views
from zesty_lark.web.measure.subject import blueprint

__all__ = ["blueprint", "pieces", "shapes", "square", "views"]
