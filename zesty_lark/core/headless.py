"""The headless door: text in, text out, around ``core.calc``; it adds no arithmetic of its own."""

import json
from collections.abc import Iterable, Iterator
from typing import IO

from zesty_lark.core import calc
from zesty_lark.core.quantities.numbers import InputError

LONGEST_LINE = 2_000_000
"""Bytes of a line of ``--batch``."""


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


def lines_of(stream: IO[bytes]) -> Iterator[bytes]:
    """Yield lines, none much longer than is answered: of one that is, the rest is passed over."""
    while line := stream.readline(LONGEST_LINE + 1):
        yield line
        while line and not line.endswith(b"\n"):
            line = stream.readline(LONGEST_LINE)


def batch(lines: Iterable[bytes]) -> Iterator[str]:
    """Answer JSON lines one by one; a wrong line is answered as such and the next goes on."""
    for line in lines:
        if line.strip():
            yield json.dumps(_line(line), ensure_ascii=False, allow_nan=False)


def _line(line: bytes) -> dict[str, object]:
    if len(line) > LONGEST_LINE:
        return {"error": f"the line must not be over {LONGEST_LINE} bytes long", "field": "input"}
    try:
        asked = json.loads(line)
    except (ValueError, RecursionError):
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
    except (ValueError, RecursionError):
        return {"error": "input must be of usual sizes: the answer is beyond any number", "field": "input"}
    except Exception as error:  # the next line is another question
        return {"error": f"this could not be worked out, a fault in the program: {error!r}", "field": "input"}
