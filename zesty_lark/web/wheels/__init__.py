"""Station: wheels: the rack, advice, mounting, balance, dress, shape, and the face as it is worn."""

from zesty_lark.web.wheels import advice, balancing, dressing, mounting, shaping, views
from zesty_lark.web.wheels.context import blueprint

__all__ = ["advice", "balancing", "blueprint", "dressing", "mounting", "shaping", "views"]
