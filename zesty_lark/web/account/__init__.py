"""Signing in and out, and the people of the shop."""

from zesty_lark.web.account.views import blueprint

__all__ = ["blueprint"]
