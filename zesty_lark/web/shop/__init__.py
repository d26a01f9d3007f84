"""Station: shop."""

from zesty_lark.web.shop.views import blueprint

__all__ = ["blueprint"]
