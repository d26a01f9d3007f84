"""Tests; what they compile is kept, as the commands keep it, and nothing in them looks at the clock."""

from hypothesis import settings

from zesty_lark.running.compiled_code import use_kept

use_kept()
settings.register_profile("lark", deadline=None)
settings.load_profile("lark")
