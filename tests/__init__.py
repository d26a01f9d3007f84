"""Tests; what they compile is kept, as the commands keep it."""

from zesty_lark.running.compiled_code import use_kept

use_kept()
