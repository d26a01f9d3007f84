"""What the application comes to, written out as text and compared with it again: no change of it goes unseen."""

import os
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import fields, is_dataclass
from datetime import date, datetime
from decimal import Decimal
from difflib import unified_diff
from enum import Enum
from pathlib import Path

WRITE = "LARK_STORIES"
"""Set, it writes the texts anew: then read what changed before it is kept."""


def compare(written: Path, lines: Sequence[str]) -> None:
    """Hold lines against what is written down."""
    if os.environ.get(WRITE):
        written.write_text("\n".join(lines) + "\n")
    before = written.read_text().splitlines()
    assert before == list(lines), "\n".join(unified_diff(before, lines, written.name, "now", n=0, lineterm=""))


def told(value: object) -> str:
    """A value in a line: figures short, things of the shop by name, moments and what is too long left out."""
    match value:
        case None:
            return "-"
        case bool() | str():
            return str(value)
        case Enum():
            return str(value.value)
        case int():
            return str(value)
        case float():
            return f"{value:.5g}"
        case Decimal():
            return f"{value.normalize():f}"
        case date() | datetime():
            return "…"
        case Mapping():
            return "{" + ", ".join(f"{told(name)}: {told(each)}" for name, each in value.items()) + "}"
        case set() | frozenset():
            return "{" + ", ".join(sorted(map(told, value))) + "}"
        case Sequence():
            return "(" + _shortened(value) + ")"
    name = getattr(value, "name", None) or getattr(value, "number", None)
    if is_dataclass(value):
        return f"{type(value).__name__}({', '.join(_fields(value))})"
    return str(name or type(value).__name__)


def _shortened(values: Sequence[object], most: int = 12) -> str:
    more = f" … {len(values)}" if len(values) > most else ""
    return ", ".join(told(each) for each in values[:most]) + more


def _fields(value: object) -> Iterator[str]:
    for field in fields(value):  # type: ignore[arg-type]
        yield f"{field.name} {told(getattr(value, field.name))}"
