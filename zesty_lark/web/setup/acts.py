"""What is done at the set-up: each act makes a layout from a layout."""

from collections.abc import Callable
from dataclasses import replace

from flask import request

from zesty_lark.core.quantities.units import LengthError, parse_length
from zesty_lark.core.setup import moves
from zesty_lark.core.setup.fixes import FIXES, fixed, lacking
from zesty_lark.core.setup.layout import FURTHEST_MM, LONGEST_OVERRUN_MM, Layout, Piece
from zesty_lark.core.setup.suggest import suggest
from zesty_lark.shopfloor.setting_up import LaidOut
from zesty_lark.store import set_ups


class WrongAct(ValueError):
    """What was asked of the set-up cannot be; the message is for the person."""


Changed = tuple[Layout, str]


def changed(laid_out: LaidOut) -> Changed:
    """Return the layout after the act that was asked for, and what is chosen then."""
    asked = request.form.get("act", "")
    if asked not in _ACTS:
        raise WrongAct("That is not something the set-up does.")
    key = request.form.get("key", "")
    if asked in ("move", "nudge", "turn", "lie", "off", "place") and laid_out.layout.find(key) is None:
        raise WrongAct("That is no longer on the set-up.")
    return _ACTS[asked](laid_out, key)


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


def _move(laid_out: LaidOut, key: str) -> Changed:
    x, y = _number("x_mm", FURTHEST_MM), _number("y_mm", FURTHEST_MM)
    snap = request.form.get("snap") == "yes"
    return moves.move(laid_out.layout, laid_out.facts, key, x_mm=x, y_mm=y, snap=snap), key


def _place(laid_out: LaidOut, key: str) -> Changed:
    """Typed numbers: where its middle is, and its turn."""
    layout, _ = _move(laid_out, key)
    return moves.turn_to(layout, laid_out.facts, key, _number("turn_deg", 180)), key


def _nudge(laid_out: LaidOut, key: str) -> Changed:
    return moves.nudge(laid_out.layout, laid_out.facts, key, _number("by_x", 100), y_mm=_number("by_y", 100)), key


def _turn(laid_out: LaidOut, key: str) -> Changed:
    return moves.turn(laid_out.layout, laid_out.facts, key, _number("by_deg", 180)), key


def _lie(laid_out: LaidOut, key: str) -> Changed:
    if isinstance(laid_out.layout.find(key), Piece):
        raise WrongAct("A piece lies as its set-up has it.")
    return moves.tip_over(laid_out.layout, key), key


def _off(laid_out: LaidOut, key: str) -> Changed:
    if isinstance(laid_out.layout.find(key), Piece):
        raise WrongAct("The load’s pieces are chosen in the plan.")
    return laid_out.layout.without(key), ""


def _add(laid_out: LaidOut, key: str) -> Changed:
    try:
        layout = moves.add(laid_out.layout, laid_out.facts, request.form.get("name", ""), request.form.get("role", ""))
    except KeyError as error:
        raise WrongAct("The shop has nothing of that name.") from error
    if layout == laid_out.layout:
        raise WrongAct("The set-up is full: take something off first.")
    return layout, layout.things[-1].key


def _fix(laid_out: LaidOut, key: str) -> Changed:
    fix = request.form.get("fix", "")
    if fix not in FIXES:
        raise WrongAct("There is no such remedy.")
    keys = tuple(part for part in request.form.get("keys", "").split(",") if part)
    layout = fixed(laid_out.layout, laid_out.facts, fix, keys)
    if layout == laid_out.layout:
        raise WrongAct(f"The shop has nothing for that now: {lacking(laid_out.checked.built, fix)}")
    return layout, keys[0] if keys and layout.find(keys[0]) else ""


def _suggest(laid_out: LaidOut, key: str) -> Changed:
    ways = suggest(laid_out.facts)
    number = request.form.get("way", 0, type=int)
    if not 0 <= number < len(ways):
        raise WrongAct("There is no such suggestion.")
    return ways[number].layout, ""


def _strokes(laid_out: LaidOut, key: str) -> Changed:
    names = ("left_mm", "right_mm", "front_mm", "back_mm")
    given = {name: _mm(name) for name in names if request.form.get(name, "").strip()}
    if any(not 0 <= value <= LONGEST_OVERRUN_MM for value in given.values()):
        raise WrongAct(f"The wheel clears the work by 0 to {LONGEST_OVERRUN_MM:g} mm.")
    return replace(laid_out.layout, **given), ""  # type: ignore[arg-type]


def _settings(laid_out: LaidOut, key: str) -> Changed:
    form, layout = request.form, laid_out.layout
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


def _undo(laid_out: LaidOut, key: str) -> Changed:
    layout = None if laid_out.row is None else set_ups.before(laid_out.row)
    if layout is None:
        raise WrongAct("There is nothing to take back.")
    return layout, ""


_ACTS: dict[str, Callable[[LaidOut, str], Changed]] = {
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
