"""The calculations over HTTP, signed in: the same answers as the headless door."""

from flask import Blueprint, Response, jsonify, request
from flask.typing import ResponseReturnValue

from zesty_lark.core import calc
from zesty_lark.core.quantities.numbers import InputError
from zesty_lark.shopfloor import long_work
from zesty_lark.web.shared.guard import access

LONG = frozenset(
    (
        "balance.ring",
        "gauge.stack",
        "grind.heatmap",
        "map.analyse",
        "map.feather",
        "pass.optimise",
        "pass.plan",
        "pass.schools",
        "pass.sparkout",
        "sine.stack",
        "wheel.wear",
    )
)
"""What may take more than a moment."""
blueprint = Blueprint("api", __name__, url_prefix="/api")


@blueprint.get("/calc")
@access()
def listed() -> ResponseReturnValue:
    return jsonify({name: calculation.answers for name, calculation in calc.CALCULATIONS.items()})


@blueprint.get("/calc/<name>")
@access()
def described(name: str) -> ResponseReturnValue:
    return jsonify(calc.schema(name)) if name in calc.CALCULATIONS else _unknown(name)


@blueprint.post("/calc/<name>")
@access()
def asked(name: str) -> ResponseReturnValue:
    """Answer one JSON object, sent with the page's token in X-CSRFToken. What takes long is answered with 202 until it
    is there: the same question sent again then has its answer."""
    if name not in calc.CALCULATIONS:
        return _unknown(name)
    try:
        if name in LONG:
            return jsonify(long_work.run(calc.answer_json, name, request.get_data()))
        return jsonify(calc.answer_json(name, request.get_data()))
    except long_work.StillWorking as working:
        told = {"working_s": round(working.seconds, 1), "most_s": working.most_seconds, "ahead": working.ahead}
        return jsonify(told), 202, {"Retry-After": "1"}
    except long_work.TooLong as error:
        return jsonify({"error": str(error), "field": "input"}), 422
    except long_work.Crowded as error:
        return jsonify({"error": str(error), "field": "input"}), 429, {"Retry-After": "5"}
    except InputError as error:
        return jsonify({"error": str(error), "field": error.field}), 422


def _unknown(name: str) -> tuple[Response, int]:
    return jsonify({"error": f"there is no calculation “{name}”", "field": "name"}), 404
