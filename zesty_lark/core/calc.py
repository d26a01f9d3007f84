"""The calculations by name: name → function, request and result types; nothing else.

A function's signature is its request: names carry units, bounds stand in the annotations, defaults are the trade’s
usual ones. Modules are imported when their calculation is asked for.
"""

import dataclasses
import importlib
import inspect
import json
import math
import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from decimal import Decimal
from functools import cache
from typing import Annotated, Any, get_type_hints

from pydantic import BaseModel, BeforeValidator, ConfigDict, TypeAdapter, ValidationError, create_model

from zesty_lark.core.quantities.angles import parse_angle
from zesty_lark.core.quantities.numbers import InputError


@dataclass(frozen=True)
class Calculation:
    """Where a calculation is, what it answers in a line, and the name of a bare number's field."""

    where: str
    answers: str
    field: str | None = None


def _at(where: str, answers: str, field: str | None = None) -> Calculation:
    return Calculation(f"zesty_lark.core.{where}", answers, field)


CALCULATIONS: Mapping[str, Calculation] = {
    "size.goal": _at("part.stock:size_goal", "the size to aim at: the middle of the tolerance zone"),
    "stock.split": _at("part.stock:split", "how a pair's stock is shared, and whether its faces clean up"),
    "dial.plan": _at("part.dial:plan", "collar readings that take the stock off and never pass it"),
    "layout.stroke": _at("process.strokes:strokes", "strokes and time of one pass"),
    "hold.check": _at("process.holding:hold_check", "the magnet's pull, and safety against sliding and tipping"),
    "hold.fixture": _at("process.holding:hold_fixture", "the weakest link of a part in a fixture on the magnet"),
    "thin.bow": _at("process.holding:thin_bow", "whether the magnet flattens a bowed strip, and what springs back"),
    "run.next": _at("landing.next:run_next", "where a run is, what to do until the next stop, and how sure it is"),
    "wheel.marking": _at("wheel.marking:marking", "what a wheel's marking says, and what it leaves out"),
    "wheel.choose": _at("wheel.choosing:choose_wheel", "what wheel suits a material and a job, and why"),
    "wheel.rank": _at(
        "wheel.fitting:rank_wheels", "which of the shop's wheels suits a job, and what speaks against it"
    ),
    "wheel.profile": _at("wheel.profile:worn_face", "the wheel's face as it is worn, and what that costs"),
    "wheel.life": _at("things.rack.life:wheel_life", "what is left of a wheel, and what its use has cost"),
    "wheel.speed": _at("wheel.speed:wheel_speed", "whether a wheel may run at the spindle's speed"),
    "wheel.wear": _at("wheel.wear:wear", "how far the worn front has walked across the wheel's face"),
    "wheel.strokes_to_dress": _at(
        "wheel.wear:strokes_to_dress", "strokes until a third of the face is worn", "strokes"
    ),
    "dress.lead": _at("wheel.dressing:dress_lead", "dressing lead and overlap"),
    "dress.plan": _at("wheel.dressing:dress_plan", "how fast, how deep and how often a dress goes across"),
    "dress.diamond": _at("wheel.dressing:diamond_place", "where the diamond stands, and what its place falsifies"),
    "shape.angle": _at("wheel.shaping:angle_setting", "a dressing fixture's setting for an angle, from both sides"),
    "shape.relief": _at("wheel.shaping:relief", "whether a wheel's relief clears a slot's undercut"),
    "shape.steps": _at("wheel.shaping:step_dress", "the steps of a dressed radius, and the peaks they leave"),
    "shape.print": _at("wheel.shaping:corner_print", "what the print of a wheel's corner means"),
    "peel.limits": _at("wheel.grain:peel_limits", "crossfeed and depth of the peel method"),
    "balance.permissible": _at("wheel.balance:permissible", "the unbalance that may be left in wheel and flange"),
    "balance.level_ways": _at("wheel.level_ways:level_ways", "where two weights go next, by what hangs down"),
    "balance.two_weights": _at("wheel.balance:two_weights", "where two equal weights balance a wheel"),
    "balance.ring": _at("wheel.balance:ring", "which screws go into which holes of a balancing ring"),
    "balance.trial_runs": _at("wheel.balance:trial_runs", "the unbalance from four runs with a trial weight"),
    "pass.evaluate": _at("process.evaluate:evaluate", "power, forces and temperature of one grinding condition"),
    "heat.limit": _at("process.evaluate:heat_limit", "the temperature a tempered steel bears for a moment"),
    "heat.temper": _at("process.warmth:heat_temper", "the temper a steel has had, from its hardness"),
    "heat.warmth": _at("process.warmth:heat_warmth", "how warm a part gets while it is ground"),
    "heat.swelling": _at("process.warmth:heat_swelling", "how much a part has swollen at its last pass"),
    "pass.left": _at(
        "process.springs:pass_left", "what is still to spark out, pass by pass, each with its own crossfeed"
    ),
    "pass.sparkout": _at("process.springs:spark_out", "what each pass takes, and what is left after the spark-out"),
    "pass.sparkout_needed": _at("process.springs:spark_passes_needed", "spark-out passes needed", "passes"),
    "pass.cut_ratio": _at("process.springs:cut_ratio", "the cut ratio, from asked and got", "cut_ratio"),
    "pass.schools": _at("planning.methods:methods", "every method of taking stock off, side by side"),
    "pass.optimise": _at("planning.best:optimise", "the quickest plan within every limit"),
    "pass.plan": _at(
        "planning.custom:custom_plan", "one plan at your own settings, and every limit it keeps or breaks"
    ),
    "grind.heatmap": _at("process.heat:heatmap", "the hollow that heat leaves in a plate"),
    "heat.crown": _at("process.heat:heat_crown", "the crown of a plate that is warmer on top"),
    "finish.roughness": _at("process.finish:roughness", "the roughness a dress and a crossfeed leave"),
    "map.analyse": _at("measure.maps.analysis:map_analyse", "range, planes and flatness of a surface map"),
    "map.drift": _at("measure.maps.analysis:map_drift", "a map's readings with the drift shared out"),
    "map.feather": _at("measure.maps.feather:map_feather", "how much of a face is ground at each depth"),
    "square.reversal": _at("measure.squareness:reversal", "squareness error by reversal"),
    "square.four_corners": _at("measure.squareness:four_corners", "corner errors without a certified square"),
    "square.shim": _at("measure.squareness:shim", "the shim that leans a part back"),
    "thickness.verdict": _at("part.sizes:verdict", "in, out or unsure", "verdict"),
    "thermal.growth": _at("measure.cooling:thermal_growth", "what heat adds to a reading"),
    "cooling.wait": _at("measure.cooling:cooling_wait", "how long a part takes to cool"),
    "tolerance.chain": _at("measure.chain:chain", "worst and likely error of a chain of links"),
    "gauge.stack": _at("angles_slots.blocks:gauge_stack", "the fewest gauge blocks that add up"),
    "sine.stack": _at("angles_slots.blocks:sine_stack", "the stack under a sine plate"),
    "sine.setting": _at(
        "angles_slots.sine:sine_setting", "a sine plate's stack from blocks that are there, and what it is off"
    ),
    "sine.checked": _at("angles_slots.sine:sine_checked", "what a sine plate stands at as it was checked back"),
    "repeatability": _at("measure.repeat:repeatability", "whether repeated readings mean anything"),
    "compound.hinges": _at("angles_slots.compound:hinges", "the two angles of a compound sine plate"),
    "compound.normal": _at(
        "angles_slots.compound:face_normal", "a face's normal from two slopes, or from its tilt and direction"
    ),
    "compound.mitre": _at("angles_slots.compound:mitre", "two chamfers that meet in a corner"),
    "roll.corner": _at("angles_slots.rolls:roll_corner", "a roll in a corner"),
    "roll.vee": _at("angles_slots.rolls:roll_vee", "a roll in a vee"),
    "slot.plan": _at("angles_slots.slots:slot_plan", "the stock of each wall of a slot"),
    "slot.ways": _at(
        "angles_slots.slot_ways:slot_ways", "both ways of grinding a wall, with their downfeeds and spark-outs"
    ),
    "slot.flip_taper": _at("angles_slots.slots:slot_flip_taper", "what a lift under one end does to a slot"),
    "radius.arc": _at("angles_slots.radii:arc", "the steps of a swung radius"),
    "fence.plan": _at(
        "angles_slots.fences:fence_plan", "how a chuck's fence is ground in place, from a sweep along it"
    ),
    "rails.level": _at(
        "angles_slots.fences:rails_level", "two rails' coplanarity, the shim under one, what a part leans"
    ),
    "edge.break": _at("angles_slots.radii:edge_break", "an edge break at 45°"),
    "setup.check": _at("setup.rulebook:setup_check", "every rule of setting up, on a set-up as data"),
    "face.sequence": _at("part.sequence:face_sequence", "the set-ups of all six faces for a method of squareness"),
    "care.coolant": _at("care.coolant:coolant_mix", "the coolant's concentration, and what corrects it"),
    "nest.layout": _at("squaring.nest:nest", "how many parts lie on the chuck, and the minutes a part"),
    "trouble.rank": _at("trouble.ranking:rank", "what a fault probably is, and the cheapest telling test"),
    "chatter.identify": _at("trouble.chatter:identify", "what a ripple's pitch points to"),
}


@cache
def _function(name: str) -> Callable[..., Any]:
    where, _, attribute = CALCULATIONS[name].where.partition(":")
    function: Callable[..., Any] = getattr(importlib.import_module(where), attribute)
    return function


@cache
def _request(name: str) -> type[BaseModel]:
    return request_of(name, _function(name))


QUESTION = "question"
"""What an argument is called whose fields stand in the request themselves."""


def request_of(name: str, function: Callable[..., Any], *, but: str = "") -> type[BaseModel]:
    """Return the request type of a function, made from its arguments, all ``but`` one; text is taken for degrees. An
    argument called ``question`` is a type of its own, whose fields are the request's."""
    asked: dict[str, Any] = {}
    hints = get_type_hints(function, include_extras=True)
    for parameter in inspect.signature(function).parameters.values():
        if parameter.name == but:
            continue
        kind = hints[parameter.name]
        if parameter.name == QUESTION:
            known = get_type_hints(kind, include_extras=True)
            asked |= {each.name: (known[each.name], each.default) for each in dataclasses.fields(kind)}
        else:
            asked[parameter.name] = (kind, parameter.default)
    fields: dict[str, Any] = {}
    for field, (kind, default) in asked.items():
        if field.endswith("_deg"):
            kind = Annotated[kind, BeforeValidator(_angle_reader(field))]
        fields[field] = (kind, ... if default in (inspect.Parameter.empty, dataclasses.MISSING) else default)
    return create_model(
        f"{name} request", __config__=ConfigDict(extra="forbid", strict=True, allow_inf_nan=False), **fields
    )


def _called(function: Callable[..., Any], values: dict[str, Any]) -> Any:
    """Call a function with the values of its request."""
    questions = []
    for parameter in inspect.signature(function).parameters.values():
        if parameter.name == QUESTION:
            kind = get_type_hints(function)[parameter.name]
            questions.append(kind(**{field.name: values.pop(field.name) for field in dataclasses.fields(kind)}))
    return function(*questions, **values)


def _angle_reader(field: str) -> Callable[[Any], Any]:
    return lambda value: parse_angle(value, field) if isinstance(value, str) else value


def answer_json(name: str, text: str | bytes) -> dict[str, Any]:
    """Answer one JSON request with plain values ready for JSON: exact numbers as decimal strings.

    Raises
    ------
    KeyError
        If there is no such calculation.
    InputError
        If the input cannot be; it names the field and says what it must be.
    """
    calculation, model = CALCULATIONS[name], _request(name)
    try:
        request = model.model_validate_json(text)
    except ValidationError as error:
        raise input_error_words(error) from error
    values = {field: getattr(request, field) for field in model.model_fields}
    try:
        result = _called(_function(name), dict(values))
    except InputError:
        raise
    except (ValueError, OverflowError, ZeroDivisionError) as error:
        raise _named(error, values) from error
    plain: dict[str, Any] = _plain({calculation.field: result} if calculation.field else result)
    return plain


def answer(name: str, values: Mapping[str, Any]) -> dict[str, Any]:
    """Answer a request given as plain values; as ``answer_json``."""
    return answer_json(name, json.dumps(values))


def input_error_words(error: ValidationError) -> InputError:
    """Return the first thing wrong with a request as a field and a sentence about what it must be."""
    first = error.errors(include_url=False)[0]
    field = ".".join(str(part) for part in first["loc"]) or "input"
    kind = first["type"]
    if kind == "missing":
        return InputError(field, f"{field} is missing")
    if kind == "extra_forbidden":
        return InputError(field, f"{field} is not a field of this calculation")
    if kind == "json_invalid":
        return InputError("input", "input must be one JSON object")
    cause = first.get("ctx", {}).get("error")
    if isinstance(cause, InputError):
        return InputError(field, str(cause))
    words = re.sub(r"^(Input|Value|List|Decimal input|String|Object) should", "should", first["msg"])
    return InputError(field, f"{field} {words.replace('should', 'must', 1)}")


def _named(error: Exception, values: Mapping[str, Any]) -> InputError:
    field = getattr(error, "field", None) or next(
        (word for word in re.findall(r"\w+", str(error)) if word in values), "input"
    )
    if isinstance(error, OverflowError | ZeroDivisionError):
        return InputError(field, f"{field} must be of a usual size: the answer is beyond any number")
    return InputError(field, str(error))


def _plain(value: Any) -> Any:
    """Turn a result into what JSON can hold."""
    if isinstance(value, Decimal):
        return f"{value.normalize():f}" if value else "0"
    if dataclasses.is_dataclass(value) and not isinstance(value, type):
        return {field.name: _plain(getattr(value, field.name)) for field in dataclasses.fields(value)}
    if isinstance(value, Mapping):
        return {str(key): _plain(each) for key, each in value.items()}
    if isinstance(value, list | tuple):
        return [_plain(each) for each in value]
    return _finite(value.item() if hasattr(value, "item") and not isinstance(value, str) else value)


def _finite(value: Any) -> Any:
    """Refuse a result that is no number, or beyond all: the input was beyond what the model can hold."""
    if isinstance(value, float) and not math.isfinite(value):
        raise InputError("input", "input must be of usual sizes: the answer is beyond any number")
    return value


def schema(name: str) -> dict[str, Any]:
    """Return the JSON Schema of a calculation's input and output, with units and defaults, and the most it works.

    Raises
    ------
    KeyError
        If there is no such calculation.
    """
    calculation = CALCULATIONS[name]
    given = _with_units(_request(name).model_json_schema())
    result = get_type_hints(_function(name))["return"]
    made = TypeAdapter(result).json_schema(mode="serialization")
    if calculation.field:
        made = {"type": "object", "properties": {calculation.field: made}, "required": [calculation.field]}
    told = {"name": name, "answers": calculation.answers, "input": given, "output": _with_units(made)}
    work = _most_work(calculation)
    return told | {"most_work": work} if work else told


def _most_work(calculation: Calculation) -> Mapping[str, float]:
    """How much a calculation does at most, by what is counted; more is refused before it starts."""
    where, _, attribute = calculation.where.partition(":")
    most: Mapping[str, Mapping[str, float]] = getattr(importlib.import_module(where), "MOST_WORK", {})
    return most.get(attribute, {})


UNITS = {
    "mm": "mm",
    "um": "µm",
    "mm2": "mm²",
    "mm3": "mm³",
    "deg": "°",
    "c": "°C",
    "s": "s",
    "ms": "ms",
    "h": "h",
    "w": "W",
    "n": "N",
    "hz": "Hz",
    "g": "g",
    "gmm": "g·mm",
    "kg": "kg",
    "m2": "m²",
    "j": "J",
    "rpm": "rpm",
    "n_cm2": "N/cm²",
    "n_mm2": "N/mm²",
    "mm_s": "mm/s",
    "mm3_s": "mm³/s",
    "mm2_s": "mm²/s",
    "m_s": "m/s",
    "w_mk": "W/mK",
    "w_m2k": "W/m²K",
    "j_kgk": "J/kgK",
    "kg_m3": "kg/m³",
    "j_mm3": "J/mm³",
    "w_mm2": "W/mm²",
    "um_per_100": "µm per 100 mm",
    "j_mm": "J/mm",
    "mm3_mm": "mm³/mm",
}


def _with_units(made: dict[str, Any]) -> dict[str, Any]:
    """Write the unit that a field's name carries into its schema."""
    for part in (made, *made.get("$defs", {}).values()):
        for name, field in part.get("properties", {}).items():
            words = name.split("_")
            for start in range(1, len(words)):
                unit = UNITS.get("_".join(words[start:]))
                if unit:
                    field["unit"] = unit
                    break
    return made
