"""What is done at the bench: each act makes a layout from a layout."""

from collections.abc import Callable
from dataclasses import replace

from flask import request

from zesty_lark.core.quantities.units import LengthError, parse_length
from zesty_lark.core.setup import moves
from zesty_lark.core.setup.fixes import FIXES, fixed, lacking
from zesty_lark.core.setup.layout import FURTHEST_MM, LONGEST_OVERRUN_MM, Layout, Piece
from zesty_lark.core.setup.suggest import suggest
from zesty_lark.shopfloor.benching import Bench
from zesty_lark.store import benches


class WrongAct(ValueError):
    """What was asked of the bench cannot be; the message is for the person."""


Changed = tuple[Layout, str]


def changed(bench: Bench) -> Changed:
    """Return the layout after the act that was asked for, and what is chosen then."""
    asked = request.form.get("act", "")
    if asked not in _ACTS:
        raise WrongAct("That is not something the bench does.")
    key = request.form.get("key", "")
    if asked in ("move", "nudge", "turn", "lie", "off", "place") and bench.layout.find(key) is None:
        raise WrongAct("That is no longer on the bench.")
    return _ACTS[asked](bench, key)


def _mm(name: str) -> float:
    try:
        return float(parse_length(request.form.get(name, "").replace("−", "-").strip(), "mm"))
    except LengthError as error:
        raise WrongAct(str(error)) from error


def _number(name: str, most: float) -> float:
    try:
        value = float(request.form.get(name, "").replace("−", "-").replace("°", "").replace(",", ".").strip())
    except ValueError as error:
        raise WrongAct("A number is wanted, such as 12.5.") from error
    if not -most <= value <= most:
        raise WrongAct(f"It has to be from −{most:g} to {most:g}.")
    return value


def _move(bench: Bench, key: str) -> Changed:
    x, y = _number("x_mm", FURTHEST_MM), _number("y_mm", FURTHEST_MM)
    snap = request.form.get("snap") == "yes"
    return moves.move(bench.layout, bench.facts, key, x_mm=x, y_mm=y, snap=snap), key


def _place(bench: Bench, key: str) -> Changed:
    """Typed numbers: where its middle is, and its turn."""
    layout, _ = _move(bench, key)
    return moves.turn_to(layout, bench.facts, key, _number("turn_deg", 180)), key


def _nudge(bench: Bench, key: str) -> Changed:
    return moves.nudge(bench.layout, bench.facts, key, _number("by_x", 100), y_mm=_number("by_y", 100)), key


def _turn(bench: Bench, key: str) -> Changed:
    return moves.turn(bench.layout, bench.facts, key, _number("by_deg", 180)), key


def _lie(bench: Bench, key: str) -> Changed:
    if isinstance(bench.layout.find(key), Piece):
        raise WrongAct("A piece lies as its set-up has it.")
    return moves.tip_over(bench.layout, key), key


def _off(bench: Bench, key: str) -> Changed:
    if isinstance(bench.layout.find(key), Piece):
        raise WrongAct("The load’s pieces are chosen in the plan.")
    return bench.layout.without(key), ""


def _add(bench: Bench, key: str) -> Changed:
    try:
        layout = moves.add(bench.layout, bench.facts, request.form.get("name", ""), request.form.get("role", ""))
    except KeyError as error:
        raise WrongAct("The shop has nothing of that name.") from error
    if layout == bench.layout:
        raise WrongAct("The bench is full: take something off first.")
    return layout, layout.things[-1].key


def _fix(bench: Bench, key: str) -> Changed:
    fix = request.form.get("fix", "")
    if fix not in FIXES:
        raise WrongAct("There is no such remedy.")
    keys = tuple(each for each in request.form.get("keys", "").split(",") if each)
    layout = fixed(bench.layout, bench.facts, fix, keys)
    if layout == bench.layout:
        raise WrongAct(f"The shop has nothing for that now: {lacking(bench.checked.built, fix)}")
    return layout, keys[0] if keys and layout.find(keys[0]) else ""


def _suggest(bench: Bench, key: str) -> Changed:
    ways = suggest(bench.facts)
    number = request.form.get("way", 0, type=int)
    if not 0 <= number < len(ways):
        raise WrongAct("There is no such suggestion.")
    return ways[number].layout, ""


def _strokes(bench: Bench, key: str) -> Changed:
    names = ("left_mm", "right_mm", "front_mm", "back_mm")
    given = {name: _mm(name) for name in names if request.form.get(name, "").strip()}
    if any(not 0 <= value <= LONGEST_OVERRUN_MM for value in given.values()):
        raise WrongAct(f"The wheel clears the work by 0 to {LONGEST_OVERRUN_MM:g} mm.")
    return replace(bench.layout, **given), ""  # type: ignore[arg-type]


def _settings(bench: Bench, key: str) -> Changed:
    form, layout = request.form, bench.layout
    start, nozzle, magnet = (form.get(name, "") for name in ("start", "nozzle", "magnet"))
    if start in ("front", "back"):
        layout = replace(layout, start=start)  # type: ignore[arg-type]
    if nozzle in ("off", "entry", "exit"):
        layout = replace(layout, nozzle=nozzle)  # type: ignore[arg-type]
    if magnet in ("full", "low"):
        layout = replace(layout, magnet=magnet)  # type: ignore[arg-type]
    if form.get("second_nozzle") in ("yes", "no"):
        layout = replace(layout, second_nozzle=form["second_nozzle"] == "yes")
    return layout, ""


def _undo(bench: Bench, key: str) -> Changed:
    layout = None if bench.row is None else benches.before(bench.row)
    if layout is None:
        raise WrongAct("There is nothing to take back.")
    return layout, ""


_ACTS: dict[str, Callable[[Bench, str], Changed]] = {
    "move": _move,
    "place": _place,
    "nudge": _nudge,
    "turn": _turn,
    "lie": _lie,
    "off": _off,
    "add": _add,
    "fix": _fix,
    "suggest": _suggest,
    "strokes": _strokes,
    "settings": _settings,
    "undo": _undo,
}
