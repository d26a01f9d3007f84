"""Station: a machine by itself: its wall display, what it has taught, and what its instruments say."""

from zesty_lark.web.machines.views import blueprint

__all__ = ["blueprint"]
