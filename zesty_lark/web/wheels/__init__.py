"""Station: wheels: the rack, advice, mounting, balance, dress, shape, and the face as it is worn."""

from zesty_lark.web.wheels.views import blueprint

__all__ = ["blueprint"]
