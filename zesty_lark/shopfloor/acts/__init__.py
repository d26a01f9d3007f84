"""Every act that changes the work, each one function with all its rules: what pages, API, files and demo call."""

from collections.abc import Mapping
from functools import cache
from typing import Any

from pydantic import BaseModel, ValidationError

from zesty_lark.core.calc import input_error_words, request_of
from zesty_lark.shopfloor.acts import (
    chucks,
    gauges,
    jobs,
    learned,
    machine,
    measuring,
    people,
    plans,
    record,
    set_ups,
    shelves,
    wheels,
)
from zesty_lark.shopfloor.acts.acting import ACTS, SHOP_ACTS, Act, Acting, InShop

__all__ = [
    "ACTS", "EVERY_ACT", "SHOP_ACTS", "Act", "Acting", "InShop", "chucks", "do", "gauges", "jobs", "learned", "machine",
    "measuring", "people", "plans", "record", "set_ups", "shelves", "wheels",
]  # fmt: skip

EVERY_ACT: Mapping[str, Act] = ACTS | SHOP_ACTS
"""Each can be asked for by name, with what it needs as data: those on a job, and those on the shop."""


@cache
def _request(name: str) -> type[BaseModel]:
    return request_of(name, EVERY_ACT[name].signature_of, but="acting")


def do(name: str, acting: Acting | InShop, text: str | bytes) -> Any:
    """Do an act by its name, with what it needs as one JSON object.

    Raises
    ------
    KeyError
        If there is no such act.
    InputError
        If what it needs is not there, or cannot be; it names the field.
    NotYours, LogError, ThingError, BehindError, NewerVersion, LaidOutMeanwhile
        As the act.
    """
    act = EVERY_ACT[name]
    act.check(acting)
    try:
        given = _request(name).model_validate_json(text or b"{}")
    except ValidationError as error:
        raise input_error_words(error) from error
    return act.do(acting, **{field: getattr(given, field) for field in type(given).model_fields})


def schema(name: str) -> dict[str, Any]:
    """Return the JSON Schema of what an act needs."""
    return _request(name).model_json_schema()
