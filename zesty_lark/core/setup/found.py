"""What is found in a set-up: a finding, what it is pinned to, and the remedy that can be worked out."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from zesty_lark.core.setup.rulebook.data import Finding, Level
from zesty_lark.core.setup.solids import Built

Fix = str
"""The name of a remedy that can be worked out."""


@dataclass(frozen=True)
class Pinned:
    """A finding, the keys of what it is about, and the remedy that can be worked out."""

    finding: Finding
    keys: tuple[str, ...] = ()
    fix: Fix = ""

    @property
    def level(self) -> Level:
        """Its level."""
        return self.finding.level


Rule = Callable[[Built], Iterator[Pinned]]


def said(
    check: str, about: str, level: Level, why: str, *remedy_and_keys: str, fix: Fix = "", number: float | None = None
) -> Pinned:
    """Return a finding: after why it is one, the remedy, and the keys of what it is about."""
    remedy, *keys = remedy_and_keys
    rounded = None if number is None else round(number, 4)
    return Pinned(Finding(check, about, level, why, rounded, remedy), tuple(keys), fix)
