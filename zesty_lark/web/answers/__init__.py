"""Station: quick answers at the bench: angles, slots, rolls and radii, each with its drawing."""

from zesty_lark.web.answers.views import blueprint

__all__ = ["blueprint"]
