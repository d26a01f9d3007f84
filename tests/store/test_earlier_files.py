"""Files that earlier versions wrote are read: the plan's spark_outs and settings become steps, nothing is lost."""

import json
from dataclasses import replace
from typing import Any

from sqlalchemy.orm import Session

from zesty_lark.core.work.machine_acts import Planned
from zesty_lark.exchange import job_json
from zesty_lark.exchange.earlier import newest_entry, newest_job
from zesty_lark.store.job_files import write_out
from zesty_lark.store.jobs import by_number

PLAN: dict[str, Any] = {
    "face": 1,
    "method": "light",
    "stock_mm": "0.046",
    "left_on_mm": "0.001",
    "keeps_wheel_height": False,
    "spark_passes": 2,
    "crossfeed_mm": "0.8",
    "table_mm_s": "350",
    "finish_crossfeed_mm": "3.2",
    "steps": [
        {"number": 1, "kind": "rough", "step_mm": "0.04", "depth_mm": "0.04"},
        {"number": 2, "kind": "finish", "step_mm": "0.005", "depth_mm": "0.045"},
    ],
}


def test_a_plan_of_the_first_format_becomes_steps_with_their_own_settings() -> None:
    steps = newest_entry({"kind": "planned", "plan": PLAN})["plan"]["steps"]
    assert [step["kind"] for step in steps] == ["rough", "finish", "spark-out", "spark-out"]
    assert [step["crossfeed_mm"] for step in steps] == ["0.8", "3.2", "3.2", "3.2"]
    assert [step["table_mm_s"] for step in steps] == ["350"] * 4
    assert [step["number"] for step in steps] == [1, 2, 3, 4] and {step["depth_mm"] for step in steps[1:]} == {"0.045"}


def test_what_is_no_file_of_an_earlier_version_is_left_as_it_is() -> None:
    for given in (
        [],
        "x",
        {"format": "zesty-lark job 9", "entries": [{"plan": PLAN}]},
        {"format": "zesty-lark job 1"},
        {"format": "zesty-lark job 1", "entries": None},
    ):
        assert newest_job(given) == given
    assert (
        newest_entry({"kind": "note", "note": "x", "face": 2}) == {"kind": "note", "note": "x"} and newest_entry(3) == 3
    )
    wild = newest_entry({"plan": PLAN | {"spark_passes": 10**9, "steps": ["x"]}})["plan"]["steps"]
    assert len(wild) == 1001, "spark_outs are bounded"


def test_what_was_logged_before_was_of_the_first_piece_in_the_set_up_of_its_face() -> None:
    told = newest_entry({"kind": "measured", "face": 2, "characteristic": "width", "verdict": None, "readings": []})
    assert told == {"kind": "measured", "surface": 2, "setup": "2", "load": 1, "piece": 1, "characteristic": "width"}
    assert newest_entry({"kind": "pass", "face": 1, "characteristic": "thickness", "reading_mm": "0.1"}) == {
        "kind": "pass",
        "surface": 1,
        "setup": "1",
        "load": 1,
        "reading_mm": "0.1",
    }
    assert newest_entry({"kind": "face done", "face": 1})["pieces"] == [1]
    assert newest_entry({"kind": "waived", "characteristic": "flat"}) == {"kind": "waived", "characteristic": "flat"}


def as_written_before(values: dict[str, Any]) -> dict[str, Any]:
    """An entry as the version before wrote it: every field, one piece, no set-up."""
    old = {
        name: None
        for name in (
            "face",
            "machine",
            "plan",
            "reading_mm",
            "amount_mm",
            "count",
            "step",
            "supersedes",
            "instrument",
            "part_c",
            "gauge_c",
            "room_c",
            "uncertainty_mm",
            "verdict",
            "asked_mm",
            "got_mm",
        )
    }
    old |= {"note": "", "characteristic": "thickness", "readings": []}
    old |= {
        name: value for name, value in values.items() if name not in ("surface", "setup", "load", "piece", "pieces")
    }
    if old["plan"]:
        old["plan"] = {name: value for name, value in old["plan"].items() if name != "surface"} | {
            "face": old["plan"]["surface"]
        }
    return old | {"face": values.get("surface")}


def test_a_job_of_the_second_format_is_read_whole(demo: Session) -> None:
    job = by_number(demo, "TR-101")
    assert job is not None
    wanted = write_out(demo, job)
    file = json.loads(job_json.write_job(wanted))
    file["format"] = "zesty-lark job 2"
    file["entries"] = [as_written_before(entry) for entry in file["entries"]]
    del file["pieces"], file["characteristics"], file["part"]["route"]
    record = job_json.read_job(json.dumps(file))
    entries = [
        replace(entry, plan=replace(entry.plan, plan_id=0), seq=0)
        if isinstance(entry, Planned)
        else replace(entry, seq=0)
        for entry in wanted.entries
    ]
    assert list(record.entries) == entries


def test_a_job_of_the_first_format_is_read_whole(demo: Session) -> None:
    job = by_number(demo, "TR-101")
    assert job is not None
    file = json.loads(job_json.write_job(write_out(demo, job)))
    file["format"] = "zesty-lark job 1"
    file["entries"] = [as_written_before(entry) for entry in file["entries"]]
    planned = [entry for entry in file["entries"] if entry.get("plan")]
    planned[0]["plan"] = PLAN
    record = job_json.read_job(json.dumps(file))
    assert len(record.entries) == len(file["entries"])
    first = next(entry for entry in record.entries if isinstance(entry, Planned))
    assert [step.kind for step in first.plan.steps] == [
        "rough",
        "finish",
        "spark-out",
        "spark-out",
    ] and first.plan.surface == 1
