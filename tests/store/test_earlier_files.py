"""Files that earlier versions wrote are read: the plan's blanks and settings become steps, nothing is lost."""

import json
from typing import Any

from sqlalchemy.orm import Session

from zesty_lark.exchange import job_json
from zesty_lark.exchange.earlier import newest_entry, newest_job
from zesty_lark.store.job_files import write_out
from zesty_lark.store.jobs import by_number

PLAN: dict[str, Any] = {
    "face": 1, "school": "light", "stock_mm": "0.046", "left_on_mm": "0.001", "keeps_wheel_height": False, "spark_passes": 2,
    "crossfeed_mm": "0.8", "table_mm_s": "350", "finish_crossfeed_mm": "3.2",
    "steps": [{"number": 1, "kind": "rough", "step_mm": "0.04", "depth_mm": "0.04"},
              {"number": 2, "kind": "finish", "step_mm": "0.005", "depth_mm": "0.045"}]}


def test_a_plan_of_the_first_format_becomes_steps_with_their_own_settings() -> None:
    steps = newest_entry({"kind": "planned", "plan": PLAN})["plan"]["steps"]
    assert [step["kind"] for step in steps] == ["rough", "finish", "blank", "blank"]
    assert [step["crossfeed_mm"] for step in steps] == ["0.8", "3.2", "3.2", "3.2"]
    assert [step["table_mm_s"] for step in steps] == ["350"] * 4
    assert [step["number"] for step in steps] == [1, 2, 3, 4] and {step["depth_mm"] for step in steps[1:]} == {"0.045"}


def test_what_is_not_of_the_first_format_is_left_as_it_is() -> None:
    for given in ([], "x", {"format": "zesty-lark job 2", "entries": [{"plan": PLAN}]}, {"format": "zesty-lark job 1"},
                  {"format": "zesty-lark job 1", "entries": None}):
        assert newest_job(given) == given
    for entry in ({"kind": "note"}, {"plan": None}, {"plan": {"steps": []}}, 3):
        assert newest_entry(entry) == entry
    wild = newest_entry({"plan": PLAN | {"spark_passes": 10**9, "steps": ["x"]}})["plan"]["steps"]
    assert len(wild) == 1001, "blanks are bounded"


def test_a_job_of_the_first_format_is_read_whole(demo: Session) -> None:
    job = by_number(demo, "TR-101")
    assert job is not None
    text = job_json.write_job(write_out(demo, job))
    file = json.loads(text)
    file["format"] = "zesty-lark job 1"
    planned = [entry for entry in file["entries"] if entry.get("plan")]
    planned[0]["plan"] = PLAN
    record = job_json.read_job(json.dumps(file))
    assert len(record.entries) == len(file["entries"])
    first = next(entry for entry in record.entries if entry.plan is not None)
    assert first.plan is not None and [step.kind for step in first.plan.steps] == ["rough", "finish", "blank", "blank"]
