"""What earlier versions wrote, brought to today's form before it is checked."""

from typing import Any

__all__ = ["newest_entry", "newest_job"]

FIRST, NEWEST = "zesty-lark job 1", "zesty-lark job 2"
MOST_BLANKS = 1000


def newest_job(file: Any) -> Any:
    """Return a job file in today's form; what is no file of ours comes back as it is."""
    if not isinstance(file, dict) or file.get("format") != FIRST or not isinstance(file.get("entries"), list):
        return file
    return file | {"format": NEWEST, "entries": [newest_entry(entry) for entry in file["entries"]]}


def newest_entry(entry: Any) -> Any:
    """Return an entry in today's form: a plan told its blanks and settings once, now each of its steps has them."""
    if not isinstance(entry, dict) or not isinstance(entry.get("plan"), dict) or "spark_passes" not in entry["plan"]:
        return entry
    return entry | {"plan": _plan(entry["plan"])}


def _plan(plan: dict[str, Any]) -> dict[str, Any]:
    kept = {name: plan[name] for name in ("face", "school", "stock_mm", "left_on_mm", "keeps_wheel_height") if name in plan}
    rough = {"crossfeed_mm": plan.get("crossfeed_mm"), "table_mm_s": plan.get("table_mm_s")}
    finish = {"crossfeed_mm": plan.get("finish_crossfeed_mm") or rough["crossfeed_mm"],
              "table_mm_s": plan.get("finish_table_mm_s") or rough["table_mm_s"]}
    steps = [step | (finish if step.get("kind") == "finish" else rough) if isinstance(step, dict) else step
             for step in plan.get("steps", [])]
    blanks = plan["spark_passes"] if isinstance(plan["spark_passes"], int) else 0
    deepest = steps[-1].get("depth_mm", "0") if steps and isinstance(steps[-1], dict) else "0"
    steps += [{"number": len(steps) + 1 + number, "kind": "blank", "step_mm": "0", "depth_mm": deepest, **finish}
              for number in range(min(blanks, MOST_BLANKS))]
    return kept | {"steps": steps}
