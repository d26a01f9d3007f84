"""What earlier versions wrote, brought to today's form before it is checked."""

from typing import Any

FIRST, SECOND, *LATER, NEWEST = (f"zesty-lark job {number}" for number in range(1, 10))
MOST_BLANKS = 1000
_AT_MACHINE = ("planned", "placed", "touched off", "pass", "spark-out", "dressed", "done", "skipped", "face done")
_FIRST_PIECE: dict[str, dict[str, Any]] = {
    "measured": {"piece": 1},
    "planned": {"pieces": [1]},
    "face done": {"pieces": [1]},
}


def newest_job(file: Any) -> Any:
    """Return a job file in today's form; what is no file of ours comes back as it is."""
    if isinstance(file, dict) and file.get("format") in LATER:
        return file | {"format": NEWEST}
    if (
        not isinstance(file, dict)
        or file.get("format") not in (FIRST, SECOND)
        or not isinstance(file.get("entries"), list)
    ):
        return file
    return file | {"format": NEWEST, "entries": [newest_entry(entry) for entry in file["entries"]]}


def newest_entry(entry: Any) -> Any:
    """Return an entry in today's form.

    A plan told its blanks and settings once, now each of its steps has them; there was one piece, and the set-up and
    load were not said; every entry had every field.
    """
    if not isinstance(entry, dict):
        return entry
    kind = entry.get("kind")
    made = {name: value for name, value in entry.items() if name != "face" and value not in (None, [], "")}
    made |= {name: entry[name] for name in ("kind", "at", "by") if name in entry}
    if entry.get("face") is not None:
        made["surface"] = entry["face"]
    if kind not in ("measured", "waived"):
        made.pop("characteristic", None)
    if kind not in (*_AT_MACHINE, "measured"):
        made.pop("surface", None)
    elif "surface" in made:
        made |= {"setup": str(made["surface"]), "load": 1}
    made |= _FIRST_PIECE.get(str(kind), {})
    if isinstance(entry.get("plan"), dict):
        made["plan"] = _plan(entry["plan"])
    return made


def _plan(plan: dict[str, Any]) -> dict[str, Any]:
    plan = {name: value for name, value in plan.items() if name != "face"} | (
        {"surface": plan["face"]} if "face" in plan else {}
    )
    return plan if "spark_passes" not in plan else _first_plan(plan)


def _first_plan(plan: dict[str, Any]) -> dict[str, Any]:
    kept = {
        name: plan[name]
        for name in ("surface", "method", "stock_mm", "left_on_mm", "keeps_wheel_height")
        if name in plan
    }
    rough = {"crossfeed_mm": plan.get("crossfeed_mm"), "table_mm_s": plan.get("table_mm_s")}
    finish = {
        "crossfeed_mm": plan.get("finish_crossfeed_mm") or rough["crossfeed_mm"],
        "table_mm_s": plan.get("finish_table_mm_s") or rough["table_mm_s"],
    }
    steps = [
        step | (finish if step.get("kind") == "finish" else rough) if isinstance(step, dict) else step
        for step in plan.get("steps", [])
    ]
    blanks = plan["spark_passes"] if isinstance(plan["spark_passes"], int) else 0
    deepest = steps[-1].get("depth_mm", "0") if steps and isinstance(steps[-1], dict) else "0"
    steps += [
        {"number": len(steps) + 1 + number, "kind": "blank", "step_mm": "0", "depth_mm": deepest, **finish}
        for number in range(min(blanks, MOST_BLANKS))
    ]
    return kept | {"steps": steps}
