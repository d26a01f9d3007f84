"""The rest of the print and the pieces, for parts that need it: characteristics between any surfaces, sizes piece by
piece."""

import re
from dataclasses import replace
from decimal import Decimal

from flask import redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue
from wtforms import TextAreaField

from zesty_lark.core.part.faces import ALL_FACES
from zesty_lark.core.part.prints import SIZES, ZONES
from zesty_lark.core.part.sizes import size_contradictions
from zesty_lark.core.part.taken_in import TO_ANOTHER, USUAL_NAMES, CharacteristicIn, TakeIn
from zesty_lark.core.quantities.angles import parse_angle
from zesty_lark.core.quantities.numbers import InputError
from zesty_lark.core.quantities.units import (
    LengthError,
    Unit,
    fine_text,
    micrometres,
    parse_length,
    parse_roughness,
    size_text,
)
from zesty_lark.shopfloor.acts import jobs as acts
from zesty_lark.shopfloor.rights import NotYours, may_work_on
from zesty_lark.shopfloor.units import as_unit
from zesty_lark.store import jobs
from zesty_lark.store.models import Job
from zesty_lark.store.models.jobs import MORE_KINDS
from zesty_lark.web.jobs.views import blueprint
from zesty_lark.web.shared import guard
from zesty_lark.web.shared.acting import acting
from zesty_lark.web.shared.fields import WholeNumber
from zesty_lark.web.shared.forms import PostedForm
from zesty_lark.web.shared.guard import access
from zesty_lark.web.shared.wording import plain

__all__: list[str] = []

EMPTY_ROWS = 3
MOST_ROWS = 40
CELLS = ("kind", "surface", "to", "nominal", "minus", "plus")
_ROW = re.compile(r"(kind|surface|to|nominal|minus|plus)\d{1,2}")
_BETWEEN = re.compile(r"\t|;| {2,}")
_KEPT = Decimal("0.0000001")


class WrongRow(ValueError):
    """A row or line that cannot be read; the message names it."""


class MoreForm(PostedForm):
    """Rows of characteristics, and a column of sizes."""

    PATTERNS = (_ROW.pattern,)

    version = WholeNumber(default=0)
    pieces = TextAreaField("Each piece’s own sizes, a line a piece: thickness, width, length")


@blueprint.route("/jobs/<number>/print", methods=["GET", "POST"])
@access(job="look", takes=MoreForm)
def more(number: str) -> ResponseReturnValue:
    """Show and change what the print asks beside the usual, and the pieces' own sizes."""
    job = guard.job()
    before = jobs.take_in_of(job)
    if request.method == "GET":
        return _more_page(job, _rows_of(before, job), _column_of(before, job)), 200
    if not may_work_on(guard.person(), job):
        raise NotYours(f"{job.number} is {job.owner.name}’s job; a change has to come from them or a lead.")
    rows, column = _rows_sent(), request.form.get("pieces", "")
    try:
        after = replace(
            before, more=_characteristics(rows, as_unit(job.print_unit)), pieces=_pieces(column, job, before)
        )
        version = request.form.get("version", 0, type=int)
        acts.change_job(acting(), after=after, version=version)
    except (WrongRow, jobs.JobChanged, acts.TakenInWrong) as error:
        return _more_page(job, rows, column, wrong=str(error)), 422
    return redirect(url_for("jobs.edit", number=number), 303)


def _more_page(job: Job, rows: list[dict[str, str]], column: str, wrong: str = "") -> str:
    empty = [dict.fromkeys(CELLS, "") for _ in range(EMPTY_ROWS)]
    return render_template(
        "jobs/more.html",
        rows=rows + empty,
        column=column,
        wrong=wrong,
        kinds=MORE_KINDS,
        faces=ALL_FACES,
        version=job.version,
        came=job.part.came(),
        may_change=may_work_on(guard.person(), job),
    )


def _rows_of(what: TakeIn, job: Job) -> list[dict[str, str]]:
    unit = as_unit(job.print_unit)

    def written(each: CharacteristicIn, value: Decimal) -> str:
        if each.kind == "angle":
            return plain(value)
        return fine_text(micrometres(value), unit) if each.kind == "finish" else size_text(value, unit)

    return [
        {
            "kind": each.kind,
            "surface": str(each.surface),
            "to": str(each.to_surface or ""),
            "nominal": "" if each.kind in ZONES else written(each, each.nominal),
            "minus": "" if each.kind in ZONES else written(each, each.tol_minus),
            "plus": written(each, each.tol_plus),
        }
        for each in what.more
    ]


def _rows_sent() -> list[dict[str, str]]:
    count = min(
        1 + max((int(name[4:]) for name in request.form if re.fullmatch(r"kind\d{1,2}", name)), default=-1), MOST_ROWS
    )
    rows = [{cell: request.form.get(f"{cell}{number}", "").strip() for cell in CELLS} for number in range(count)]
    return [row for row in rows if row["kind"]]


def _characteristics(rows: list[dict[str, str]], unit: Unit) -> tuple[CharacteristicIn, ...]:
    made = [_characteristic(number, row, unit) for number, row in enumerate(rows, start=1)]
    names = [each.name for each in made]
    for number, name in enumerate(names, start=1):
        if name in names[: number - 1] or name in USUAL_NAMES:
            raise WrongRow(f"Row {number}: the print asks for {name} already.")
    return tuple(made)


def _characteristic(number: int, row: dict[str, str], unit: Unit) -> CharacteristicIn:
    kind = next((each for each in MORE_KINDS if each == row["kind"]), None)
    if kind is None:
        raise WrongRow(f"Row {number}: there is no such characteristic.")
    surface, to = _surface(number, row["surface"]), _surface(number, row["to"]) if row["to"] else None
    if kind in TO_ANOTHER and to is None:
        raise WrongRow(f"Row {number}: {kind} to which other face?")
    if surface == to:
        raise WrongRow(f"Row {number}: a face has no {kind} to itself.")
    zone = kind in ZONES
    nominal, minus = (
        (Decimal(0), Decimal(0))
        if zone
        else (_value(number, kind, row["nominal"], unit), _value(number, kind, row["minus"] or "0", unit))
    )
    plus = _value(number, kind, row["plus"] or "0", unit)
    for value in (nominal, minus, plus):
        if value < 0:
            raise WrongRow(f"Row {number}: a size or a tolerance is never under 0.")
    for words in size_contradictions(nominal, minus, plus).values():
        raise WrongRow(f"Row {number}: {'how much is allowed?' if zone else words}")
    return CharacteristicIn(f"{kind} {surface}" + (f"-{to}" if to else ""), kind, surface, to, nominal, minus, plus)


def _surface(number: int, text: str) -> int:
    if text not in {str(face) for face in ALL_FACES}:
        raise WrongRow(f"Row {number}: which face is meant? A block has faces 1 to 6.")
    return int(text)


def _value(number: int, kind: str, text: str, unit: Unit) -> Decimal:
    try:
        if kind == "angle":
            return Decimal(repr(parse_angle(text))).quantize(_KEPT)
        return parse_roughness(text, unit) / 1000 if kind == "finish" else parse_length(text, unit)
    except (LengthError, InputError) as error:
        raise WrongRow(f"Row {number}: {error}") from error


def _column_of(what: TakeIn, job: Job) -> str:
    if not what.pieces:
        return ""
    unit, axes = as_unit(job.print_unit), [axis for axis in SIZES if any(axis in own for own in what.pieces.values())]
    wide = SIZES[: 1 + max(SIZES.index(axis) for axis in axes)]
    lines = [
        [size_text(own[axis], unit) if axis in (own := what.pieces.get(number, {})) else "" for axis in wide]
        for number in range(1, what.quantity + 1)
    ]
    return "\n".join("\t".join(line).rstrip("\t") for line in lines)


def _pieces(column: str, job: Job, before: TakeIn) -> dict[int, dict[str, Decimal]]:
    """Read a pasted column: a line a piece, up to three sizes in it; an empty place came as the part did."""
    lines = column.replace("\r", "").rstrip("\n").split("\n") if column.strip() else []
    if len(lines) > job.part.quantity:
        raise WrongRow(f"There are {len(lines)} lines, and {job.part.quantity} pieces in this job.")
    made: dict[int, dict[str, Decimal]] = {}
    for number, line in enumerate(lines, start=1):
        cells = _BETWEEN.split(line.strip(" ").rstrip("\t; "))  # a tab before a size leaves its column empty
        if len(cells) > len(SIZES):
            raise WrongRow(f"Piece {number}: a piece has three sizes, thickness, width and length.")
        known = before.pieces.get(number, {})
        own: dict[str, Decimal] = {
            axis: _size(number, cell, job, known.get(axis))
            for axis, cell in zip(SIZES, cells, strict=False)
            if cell.strip()
        }
        if own:
            made[number] = own
    return made


def _size(number: int, cell: str, job: Job, known: Decimal | None) -> Decimal:
    """Read one size; what stands as it was shown is the size that is known, to its last figure."""
    if known is not None and cell.strip() == size_text(known, as_unit(job.print_unit)):
        return known
    try:
        length = parse_length(cell, as_unit(job.print_unit))
    except LengthError as error:
        raise WrongRow(f"Piece {number}: {error}") from error
    if length <= 0:
        raise WrongRow(f"Piece {number}: a size is more than 0.")
    return length
