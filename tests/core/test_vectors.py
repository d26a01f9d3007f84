"""Checked answers, one line a case: name, input, output, relative tolerance; asked through the headless door."""

import json
import math
from pathlib import Path
from typing import Any

import pytest

from zesty_lark.core.calc import CALCULATIONS, answer

CASES = [json.loads(line) for line in (Path(__file__).parent / "vectors/cases.jsonl").read_text().splitlines()]
ABSOLUTE = 1e-9


def agrees(got: Any, wanted: Any, tolerance: float) -> bool:
    if isinstance(wanted, list):
        return len(got) == len(wanted) and all(agrees(*pair, tolerance) for pair in zip(got, wanted, strict=True))
    if isinstance(wanted, dict):
        return all(agrees(got[name], value, tolerance) for name, value in wanted.items())
    if isinstance(wanted, bool) or isinstance(got, bool):
        return got is wanted
    if isinstance(wanted, int | float):
        return math.isclose(got, wanted, rel_tol=tolerance, abs_tol=ABSOLUTE)
    if got == wanted:
        return True
    try:
        return math.isclose(float(got), float(wanted), rel_tol=tolerance, abs_tol=ABSOLUTE)
    except ValueError:
        return False


def test_every_case_can_be_asked() -> None:
    assert len(CASES) == 228 and {case["name"] for case in CASES} <= set(CALCULATIONS)


@pytest.mark.parametrize("case", CASES, ids=[f"{case['name']}-{index}" for index, case in enumerate(CASES)])
def test_case(case: dict[str, Any]) -> None:
    assert agrees(answer(case["name"], case["input"]), case["output"], case["rel_tol"])
