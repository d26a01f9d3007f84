"""Tests; what they compile is kept, as the commands keep it, and nothing in them looks at the clock.

What is drawn at random is the same in every run, so that a change and not chance breaks it; with ``LARK_SEARCH`` set it
is new each time, and where many whole runs are tried, four times as many are.
"""

import os

from hypothesis import settings

from zesty_lark.running.compiled_code import use_kept

SEARCHES = bool(os.environ.get("LARK_SEARCH"))
use_kept()
settings.register_profile("lark", deadline=None, derandomize=not SEARCHES)
settings.load_profile("lark")
