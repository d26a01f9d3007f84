"""Whole jobs told act by act: what was done or refused, what comes next, and every figure that follows, as they came
out when the texts were written. ``LARK_STORIES=1`` writes them anew; then read what changed before it is kept."""

import os
from pathlib import Path

import pytest

from tests.core.storyteller import BRIEFS, Story

WRITTEN = Path(__file__).parent / "stories"
TOLD = [(name, seed) for name in BRIEFS for seed in (1, 2)]
ACTS = 70


@pytest.mark.parametrize(("name", "seed"), TOLD)
def test_a_story_is_told_as_it_was(name: str, seed: int) -> None:
    story = Story(BRIEFS[name], seed, until_clean=name == "until clean")
    lines = []
    for number, line in enumerate(story.lines(ACTS), start=1):
        lines += [f"{number}. {line.said}", *(f"    {stand}" for stand in line.stands)]
    written = WRITTEN / f"{name.replace(' ', '-')}-{seed}.txt"
    if os.environ.get("LARK_STORIES"):
        written.write_text("\n".join(lines) + "\n")
    assert written.read_text().splitlines() == lines
