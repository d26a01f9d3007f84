"""The page that says what holds names tests that are there."""

import re
from pathlib import Path

ROOT = Path(__file__).parents[2]


def test_every_test_that_the_security_page_names_is_there() -> None:
    named = set(re.findall(r"`(test_\w+)`", (ROOT / "docs/security.md").read_text()))
    there = {
        name
        for file in (ROOT / "tests").rglob("test_*.py")
        for name in re.findall(r"^def (test_\w+)", file.read_text(), re.M)
    }
    assert len(named) > 40 and named <= there, sorted(named - there)
