"""Form fields that take what people type, keep it, and say beside it what is wrong."""

import re
from collections.abc import Iterable, Mapping, Sequence
from contextlib import suppress
from decimal import Decimal, InvalidOperation
from typing import Any

from wtforms import Field, Form, IntegerField, StringField, ValidationError
from wtforms.fields.choices import SelectChoice
from wtforms.widgets import TextInput

from zesty_lark.core.quantities.angles import parse_angle
from zesty_lark.core.quantities.numbers import LONGEST_MM, InputError
from zesty_lark.core.quantities.plausible import Doubt
from zesty_lark.core.quantities.units import LengthError, Unit, fine_text, parse_length, parse_roughness, size_text

KEPT_ROUGHNESS = 4
"""Decimals of a micrometre of roughness that are kept."""
KEPT_PLACES = 7
"""Decimals of a millimetre that are kept."""
LONGEST_NUMBER = 20
"""So many characters of a whole number are read."""
BARE = re.compile(r"[\d./ +-]+")
"""A number that carries no unit of its own."""


class Trimmed(StringField):
    """A text without spaces round it."""

    def process_formdata(self, valuelist: Sequence[Any]) -> None:
        if valuelist:
            self.data = str(valuelist[0]).strip()


class WholeNumber(IntegerField):
    """A whole number that no calculation is too small for, valid or not."""

    data: int | None

    def process_formdata(self, valuelist: Sequence[Any]) -> None:
        if valuelist and len(str(valuelist[0])) > LONGEST_NUMBER:
            self.data = None
            raise ValueError("This has more figures than are read.")
        super().process_formdata(valuelist)


class LengthField(Field):
    """A length in any form people write; ``data`` is exact millimetres once validated.

    The unit that a bare number is in is set with ``set_units`` after the form is made; a ``roughness`` is read in µm or
    µin; a ``signed`` one is a deviation, and may be negative.
    """

    widget = TextInput()

    def __init__(self, label: str, *, required: bool = True, zero: bool = False, **more: Any) -> None:
        super().__init__(label, **more)
        self.required, self.zero = required, zero
        self.signed = False
        self.unit: Unit = "mm"
        self.roughness = False
        self.typed: str | None = None
        self.data: Decimal | None
        self.doubt: Doubt | None = None

    @property
    def mm(self) -> Decimal:
        """The length of a valid field that has one [mm]."""
        assert self.data is not None
        return self.data

    def process_formdata(self, valuelist: Sequence[Any]) -> None:
        if valuelist:
            self.typed, self.data = str(valuelist[0]), None

    def length(self) -> Decimal | None:
        """Return the length as far as it can be read now [mm]; ``None`` when it cannot."""
        if self.typed is None:
            return self.data
        try:
            return self._parsed(self.typed) if self.typed.strip() else None
        except LengthError:
            return None

    def pre_validate(self, form: Form) -> None:
        if self.typed is None:
            if self.required and self.data is None:
                raise ValidationError("This is needed.")
            return
        if not self.typed.strip() and not self.required:
            self.data = None
            return
        try:
            self.data = self._parsed(self.typed)
        except LengthError as error:
            raise ValidationError(str(error)) from error
        if not self.signed and (self.data < 0 or (self.data == 0 and not self.zero)):
            least = "0 or more" if self.zero else "more than 0"
            raise ValidationError(f"This has to be {least}.")
        if abs(self.data) > LONGEST_MM:
            raise ValidationError(f"This has to be {LONGEST_MM:,} mm or less.")
        if self.data != round(self.data, KEPT_PLACES):
            raise ValidationError("This has more figures than are kept: a tenth of a nanometre is the finest.")

    def converted(self, unit: Unit) -> None:
        """Show the same length in another unit; what carries its own unit, or is no length, stays as typed."""
        exact, typed = self.length(), self.typed
        self.unit = unit
        if exact is not None and (typed is None or BARE.fullmatch(typed.strip())):
            self.typed, self.data = size_text(exact, unit), None

    def _parsed(self, typed: str) -> Decimal:
        return parse_roughness(typed, self.unit) / 1000 if self.roughness else parse_length(typed, self.unit)

    def _value(self) -> str:
        if self.typed is not None:
            return self.typed
        return "" if self.data is None else size_text(self.data, self.unit)


class DecimalText(Trimmed):
    """A plain exact number between two bounds, with no more decimals than are kept; ``number`` is a ``Decimal`` once
    validated."""

    def __init__(
        self, label: str, *, least: str, most: str, places: int = 2, required: bool = True, **more: Any
    ) -> None:
        super().__init__(label, **more)
        self.least, self.most, self.places, self.required = Decimal(least), Decimal(most), places, required
        self.number: Decimal | None = None

    def pre_validate(self, form: Form) -> None:
        typed = (self.data or "").strip()
        if not typed and not self.required:
            return
        number = plain_decimal(typed)
        if number is None or not self.least <= number <= self.most:
            raise ValidationError(f"This has to be a number from {self.least:f} to {self.most:f}.")
        if number != round(number, self.places):
            kept = f"{self.places} decimals are" if self.places > 1 else "one decimal is"
            raise ValidationError(f"Only {kept} kept: is {round(number, self.places):f} meant?")
        self.number = number


class AngleText(Trimmed):
    """An angle in any form people write; ``angle_deg`` once validated."""

    angle_deg: float | None = None

    def pre_validate(self, form: Any) -> None:
        if not (self.data or "").strip():
            return
        try:
            self.angle_deg = parse_angle(self.data or "")
        except InputError as error:
            raise ValidationError(str(error)) from error


class RoughnessField(Field):
    """A roughness Ra in µm or µin; ``data`` is exact micrometres once validated. A bare number is in the print's own,
    which ``unit`` says."""

    widget = TextInput()

    def __init__(self, label: str, *, least: str, most: str, **more: Any) -> None:
        super().__init__(label, **more)
        self.least, self.most = Decimal(least), Decimal(most)
        self.unit: Unit = "mm"
        self.typed: str | None = None
        self.data: Decimal | None

    def process_formdata(self, valuelist: Sequence[Any]) -> None:
        if valuelist:
            self.typed, self.data = str(valuelist[0]), None

    def pre_validate(self, form: Form) -> None:
        if self.typed is None or not self.typed.strip():
            return
        try:
            exact = parse_roughness(self.typed, self.unit)
        except LengthError as error:
            raise ValidationError(str(error)) from error
        if not self.least <= exact <= self.most:
            raise ValidationError(
                f"This has to be from {fine_text(float(self.least), self.unit)} to "
                f"{fine_text(float(self.most), self.unit)}."
            )
        if exact != round(exact, KEPT_ROUGHNESS):
            raise ValidationError("This has more figures than are kept: a tenth of a nanometre is the finest.")
        self.data = exact

    def converted(self, unit: Unit) -> None:
        """Show the same roughness in another unit; what carries its own unit, or is none, stays as typed."""
        before, self.unit = self.unit, unit
        if self.typed is None or not BARE.fullmatch(self.typed.strip()):
            return
        with suppress(LengthError):
            self.typed = fine_text(float(parse_roughness(self.typed, before)), unit)

    def _value(self) -> str:
        if self.typed is not None:
            return self.typed
        return "" if self.data is None else fine_text(float(self.data), self.unit)


def plain_decimal(typed: str) -> Decimal | None:
    """Read a finite decimal number; ``None`` when it is none."""
    try:
        number = Decimal(typed)
    except InvalidOperation:
        return None
    return number if number.is_finite() else None


def choice_list(pairs: Iterable[tuple[object, str]]) -> list[SelectChoice]:
    """Return the choices of a list from pairs of value and words."""
    return [SelectChoice(value, words) for value, words in pairs]


def set_units(form: Form, unit: Unit, *, but: Mapping[str, Unit] | None = None) -> None:
    """Tell a form's lengths which unit a bare number is in."""
    for name, field in form._fields.items():
        if isinstance(field, LengthField):
            field.unit = (but or {}).get(name, unit)


def question(field: LengthField, doubt: Doubt, why: str) -> None:
    """Put a question beside a length that cannot be meant; what was typed stays."""
    shown = size_text(field.data or Decimal(0), field.unit, with_unit=True)
    meant = ""
    if doubt.meant_mm is not None:
        meant = f" Did you mean {size_text(doubt.meant_mm, field.unit, with_unit=True)}?"
    field.doubt = doubt
    field.errors = [*field.errors, f"{shown}? {why}{meant}"]
