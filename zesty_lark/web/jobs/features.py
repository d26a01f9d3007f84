"""Slots, inclined faces, lead-ins, radii and edges on the take-in form: their fields, and what they say together."""

from collections.abc import Mapping
from decimal import Decimal
from typing import Any

from pydantic import TypeAdapter, ValidationError
from wtforms import Field, SelectField

from zesty_lark.core.part.faces import ALL_FACES
from zesty_lark.core.part.surfaces.features import (
    FEATURE_KINDS,
    MOST_FEATURES,
    Feature,
    dumped_features,
    loaded_features,
)
from zesty_lark.core.part.surfaces.formed_face import KINDS, drawn_on_block, feature_wrong
from zesty_lark.core.part.surfaces.on_block import Drawn
from zesty_lark.core.part.surfaces.part import PairSize
from zesty_lark.core.quantities.angles import dms_text, parse_angle
from zesty_lark.core.quantities.numbers import InputError
from zesty_lark.web.shared.fields import AngleText, DecimalText, LengthField, Trimmed, choice_list, plain_decimal

FEATURES = range(1, MOST_FEATURES + 1)
FACES = choice_list((face, f"face {face}") for face in ALL_FACES)
KEEP = choice_list([("", "nobody decided"), ("width", "its width"), ("position", "its position")])
WAYS = choice_list([("tilted", "tilted 45°, the wheel’s face"), ("side", "the wheel’s side")])
NEEDED = "This is needed."
FACE_FIELDS = ("on_face", "datum", "falls_to", "wall_face", "end", "to_face")
MAY_BE_EMPTY = {"across_deg": 0.0, "undercut_mm": Decimal(0), "peak_um": 2.0, "keep": "", "flat_now_mm": Decimal(0)}
ZERO = ("minus_mm", "plus_mm", "now_mm", "undercut_mm")
_ADAPTER: TypeAdapter[Feature] = TypeAdapter(Feature)


def add_features(form: type[Any]) -> None:
    """Give a form the fields of so many features as a part may have."""
    kinds = choice_list([("", "–"), *FEATURE_KINDS.items()])
    labels = {name: label for kind in KINDS.values() for name, label in kind.asks.items()}
    for number in FEATURES:
        at = f"feature{number}_"
        setattr(form, f"{at}kind", SelectField(f"Feature {number}", choices=kinds, default=""))
        setattr(form, f"{at}name", Trimmed("Its name"))
        for name, label in labels.items():
            setattr(form, at + name, _field(name, label))


def _field(name: str, label: str) -> Any:
    if name in FACE_FIELDS:
        return SelectField(label, coerce=int, choices=FACES, default=1)
    if name == "keep":
        return SelectField(label, choices=KEEP, default="")
    if name == "way":
        return SelectField(label, choices=WAYS, default="tilted")
    if name == "peak_um":
        return DecimalText(label, least="0.1", most="1000", required=False)
    if name.endswith("_deg"):
        return AngleText(label)
    return LengthField(label, required=False, zero=name.endswith(ZERO))


def feature_fields(form: Any, number: int) -> list[Any]:
    """Return the fields that the kind of a feature asks, its name first; none while it has no kind."""
    kind = KINDS.get(form[f"feature{number}_kind"].data or "")
    asked = {} if kind is None else kind.asks
    labelled = []
    for name, label in asked.items():
        field = form[f"feature{number}_{name}"]
        field.label.text = label
        labelled.append(field)
    return [form[f"feature{number}_name"], *labelled] if asked else []


def _value(field: Any, name: str) -> Any:
    if isinstance(field, AngleText):
        return _degrees(field)
    if isinstance(field, DecimalText):
        number = plain_decimal(field.data or "")
        return None if number is None else float(number)
    return field.length() if isinstance(field, LengthField) else field.data


def _degrees(field: AngleText) -> float | None:
    try:
        return parse_angle(field.data) if (field.data or "").strip() else None
    except InputError:
        return None


def _sent(form: Any, number: int) -> tuple[dict[str, Any], list[str]]:
    """What a feature says, and the fields that it lacks."""
    kind = form[f"feature{number}_kind"].data
    values: dict[str, Any] = {"kind": kind, "name": (form[f"feature{number}_name"].data or "").lower()}
    lacking = [] if values["name"] else ["name"]
    for name in KINDS[kind].asks:
        value = _value(form[f"feature{number}_{name}"], name)
        if value is None and name in MAY_BE_EMPTY:
            value = MAY_BE_EMPTY[name]
        if value is None:
            lacking.append(name)
        values[name] = value
    return values, lacking


def features_sent(form: Any) -> str | None:
    """Return a valid form's features as they are kept."""
    return dumped_features(tuple(made for number in FEATURES if (made := _made(form, number)) is not None))


def _made(form: Any, number: int) -> Feature | None:
    """A feature as far as it can be read now; ``None`` when it cannot, or is none."""
    if form[f"feature{number}_kind"].data not in KINDS:
        return None
    values, lacking = _sent(form, number)
    try:
        return None if lacking else _ADAPTER.validate_python(values)
    except ValidationError:
        return None


def check_features(form: Any, sizes: Mapping[str, PairSize]) -> None:
    """Check each feature by itself and against its block; what is wrong is said beside its field."""
    names: list[str] = []
    for number in FEATURES:
        if form[f"feature{number}_kind"].data in KINDS:
            _check(form, number, sizes, names)
            names.append((form[f"feature{number}_name"].data or "").lower())


def _check(form: Any, number: int, sizes: Mapping[str, PairSize], names: list[str]) -> None:
    at = f"feature{number}_"
    values, lacking = _sent(form, number)
    for name in lacking:
        _say(form[at + name], NEEDED)
    if values["name"] and values["name"] in names:
        _say(form[f"{at}name"], "Another goes by this name.")
    if lacking or any(form[at + name].errors for name in ("name", *KINDS[values["kind"]].asks)):
        return
    try:
        feature = _ADAPTER.validate_python(values)
    except ValidationError as error:
        first = error.errors(include_url=False)[0]
        where, words = _where(first, KINDS[values["kind"]].asks)
        _say(form[at + where], words)
        return
    for name, words in feature_wrong(feature, sizes).items():
        _say(form[at + name], words)


def _where(error: Any, asked: Mapping[str, str]) -> tuple[str, str]:
    """The field that an error is about, and what to say."""
    cause = error.get("ctx", {}).get("error")
    field = getattr(cause, "field", "")
    if field:
        return field, str(cause)
    name = next((str(part) for part in error["loc"] if part in asked or part == "name"), "name")
    words = {
        "name": "A short name: small letters, digits, spaces or dashes, at most 10, such as “slot”.",
        "angle_deg": "This has to be over 0° and under 80°.",
        "floor_deg": "This has to be over 0° and under 80°.",
        "wall_deg": "This has to be over 0° and under 80°.",
        "angle_tol_deg": "This has to be over 0° and up to 5°.",
    }
    return name, words.get(name, f"{error['msg']}.")


def _say(field: Field, words: str) -> None:
    field.errors = [*field.errors, words]


def filled(features: str | None) -> dict[str, Any]:
    """Return a form's values for features as they are kept."""
    values: dict[str, Any] = {}
    for number, feature in enumerate(loaded_features(features), start=1):
        at = f"feature{number}_"
        values |= {f"{at}kind": feature.kind, f"{at}name": feature.name}
        for name in KINDS[feature.kind].asks:
            value = getattr(feature, name)
            if name.endswith("_deg"):
                value = _angle(value)
            elif name == "peak_um":
                value = f"{value:g}"
            values[at + name] = value
    return values


def _angle(degrees: float) -> str:
    """Whole seconds as people write them, else the degrees to their last figure."""
    whole = abs(degrees * 3600 - round(degrees * 3600)) < 1e-6
    return dms_text(degrees) if whole else repr(degrees)


def drawn_features(form: Any, sizes: Mapping[str, float]) -> list[Drawn]:
    """Return the edges of the features that can be read now, on a block of these sizes [mm]."""
    if len(sizes) < len(("length", "width", "thickness")):
        return []
    bounds = {axis: PairSize(*(Decimal(repr(each)), Decimal(0), Decimal(0)), *(Decimal(repr(each)),) * 2)
              for axis, each in sizes.items()}  # fmt: skip
    drawn: list[Drawn] = []
    for number in FEATURES:
        made = _made(form, number)
        if made is not None and not feature_wrong(made, bounds):
            drawn += drawn_on_block(made, sizes)
    return drawn
