"""The headless door: text in, text out, around ``core.calc``; it adds no arithmetic of its own."""

import json
from collections.abc import Iterable, Iterator

from zesty_lark.core import calc
from zesty_lark.core.quantities import InputError

__all__ = ["batch", "listing", "one", "schema"]


def listing() -> list[str]:
    """Return the names, each with a line on what it answers."""
    width = max(len(name) for name in calc.CALCULATIONS)
    return [f"{name:<{width}}  {calculation.answers}" for name, calculation in calc.CALCULATIONS.items()]


def one(name: str, text: bytes) -> tuple[str, bool]:
    """Answer one JSON object; return the answer, or a line naming what is wrong, and whether it is wrong."""
    if name not in calc.CALCULATIONS:
        return f"name: there is no calculation “{name}”; “lark calc --list” shows them all", True
    try:
        return json.dumps(calc.answer_json(name, text), ensure_ascii=False, allow_nan=False), False
    except InputError as error:
        return f"{error.field}: {error}".replace("\n", " "), True
    except ValueError:
        return "input: input must be of usual sizes: the answer is beyond any number", True


def schema(name: str) -> tuple[str, bool]:
    """Return a calculation's schema as text, or what is wrong."""
    if name not in calc.CALCULATIONS:
        return f"name: there is no calculation “{name}”; “lark calc --list” shows them all", True
    return json.dumps(calc.schema(name), ensure_ascii=False, indent=1), False


def batch(lines: Iterable[bytes]) -> Iterator[str]:
    """Answer JSON lines one by one; a wrong line is answered as such and the next goes on."""
    for line in lines:
        if line.strip():
            yield json.dumps(_line(line), ensure_ascii=False)


def _line(line: bytes) -> dict[str, object]:
    try:
        asked = json.loads(line)
    except ValueError:
        return {"error": "the line must be one JSON object", "field": "input"}
    if not isinstance(asked, dict) or set(asked) != {"name", "input"}:
        return {"error": "the line must have name and input, and nothing else", "field": "input"}
    name = asked["name"]
    if not isinstance(name, str) or name not in calc.CALCULATIONS:
        return {"error": f"there is no calculation “{name}”", "field": "name"}
    try:
        return {"output": calc.answer(name, asked["input"])}
    except InputError as error:
        return {"error": str(error), "field": error.field}
    except ValueError:
        return {"error": "input must be of usual sizes: the answer is beyond any number", "field": "input"}
