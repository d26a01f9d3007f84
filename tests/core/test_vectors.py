"""Checked answers, one line a case: name, input, output, relative tolerance."""

import json
import math
from collections.abc import Callable
from decimal import Decimal
from pathlib import Path
from typing import Any

import pytest

from zesty_lark.core import dial, layout, stock
from zesty_lark.core.measure import thickness
from zesty_lark.core.process import springs

CASES = [json.loads(line) for line in (Path(__file__).parent / "vectors/cases.jsonl").read_text().splitlines()]
ABSOLUTE = 1e-9


def exact(values: dict[str, Any]) -> dict[str, Any]:
    return {name: Decimal(value) if isinstance(value, str) else value for name, value in values.items()}


def spark_out(values: dict[str, Any]) -> dict[str, Any]:
    removed, left = springs.spark_out(**values)
    return {"removed_mm": removed, "left_mm": left}


def collar(values: dict[str, Any]) -> dict[str, Any]:
    plan = dial.plan(**exact(values))
    return {"passes": [vars(each) for each in plan.passes], "downfeed_total_mm": plan.downfeed_total_mm,
            "left_on_mm": plan.left_on_mm}


ANSWERS: dict[str, Callable[[dict[str, Any]], dict[str, Any]]] = {
    "stock.split": lambda values: vars(stock.split(**exact(values))),
    "dial.plan": collar,
    "layout.stroke": lambda values: vars(layout.strokes(**values)),
    "pass.sparkout": spark_out,
    "pass.sparkout_needed": lambda values: {"passes": springs.spark_passes_needed(**values)},
    "pass.cut_ratio": lambda values: {"cut_ratio": springs.cut_ratio(**values)},
    "thickness.verdict": lambda values: {"verdict": thickness.verdict(**exact(values))},
}
KNOWN = [case for case in CASES if case["name"] in ANSWERS]


def agrees(got: Any, wanted: Any, tolerance: float) -> bool:
    if isinstance(wanted, list):
        return len(got) == len(wanted) and all(agrees(*pair, tolerance) for pair in zip(got, wanted, strict=True))
    if isinstance(wanted, dict):
        return all(agrees(got[name], value, tolerance) for name, value in wanted.items())
    if isinstance(wanted, str) and isinstance(got, Decimal):
        return got == Decimal(wanted)
    if isinstance(wanted, float):
        return math.isclose(got, wanted, rel_tol=tolerance, abs_tol=ABSOLUTE)
    return bool(got == wanted)


def test_every_answer_has_cases() -> None:
    assert {case["name"] for case in KNOWN} == set(ANSWERS)


@pytest.mark.parametrize("case", KNOWN, ids=[f"{case['name']}-{index}" for index, case in enumerate(KNOWN)])
def test_case(case: dict[str, Any]) -> None:
    assert agrees(ANSWERS[case["name"]](case["input"]), case["output"], case["rel_tol"])
