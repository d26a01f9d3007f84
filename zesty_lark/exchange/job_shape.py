"""What a job's file may hold: each part of it as a checked shape, down to the last field.

Exact lengths travel as decimal strings in millimetres, times as ISO 8601 in UTC.
"""

from datetime import date
from decimal import Decimal
from typing import Annotated, Literal

from pydantic import AwareDatetime, BaseModel, ConfigDict, Field, field_validator, model_validator

from zesty_lark.core.measure.instruments import Instrument
from zesty_lark.core.measure.maps.bounds import FARTHEST_MM, HIGHEST_UM, MOST_MAPS, MOST_POINTS
from zesty_lark.core.part.faces import CORNERS, Purpose
from zesty_lark.core.part.prints import CharacteristicKind
from zesty_lark.core.part.sizes import size_contradictions
from zesty_lark.core.part.taken_in import MOST_PIECES, BowShape, Hardness, JobNumber, Quantity, Roughness, Share
from zesty_lark.core.quantities.kept_types import Amount, Name, UnitName
from zesty_lark.core.setup.layout import loaded
from zesty_lark.core.things.shop import Machine, Wheel
from zesty_lark.core.work.entries import PieceEnd, RouteChange
from zesty_lark.core.work.entry import ENTRY_ID, MOST_ENTRIES, Kind
from zesty_lark.core.work.plans import Method, StepKind

AnyLength = Annotated[Decimal, Field(max_digits=14, decimal_places=7, allow_inf_nan=False)]
Positive = Annotated[Decimal, Field(gt=0, max_digits=14, decimal_places=7)]
Degrees = Annotated[Decimal, Field(ge=-20, le=200, max_digits=5, decimal_places=2)]
Characteristic = Annotated[str, Field(min_length=1, max_length=20)]
FaceNumber = Annotated[int, Field(ge=1, le=6)]
SurfaceNumber = Annotated[int, Field(ge=1, le=999)]
PieceNumber = Quantity
SetUpKey = Annotated[str, Field(max_length=20)]


class _Strict(BaseModel):
    model_config = ConfigDict(extra="forbid", str_max_length=4000)


class JobShape(_Strict):
    """What a job goes by: number, print's unit, day it is due, owner, machine and wheel by name."""

    number: JobNumber
    title: Name
    print_unit: UnitName
    due_on: date | None
    owner: str
    machine: Name
    wheel: Name


class PartShape(_Strict):
    """The part as the print wants it and as it came in."""

    quantity: Quantity
    material: Name
    hardness_hrc: Hardness | None
    parallel_mm: Positive | None
    square_mm: Positive | None = None
    flat_mm: Positive | None = None
    ra_um: Roughness | None = None
    mark_corner: str
    reference_face: Literal[1, 2]
    min_skin_mm: Amount
    first_share: Share | None
    remarks: str
    bow_mm: Amount | None = None
    bow_shape: BowShape = "middle_up"
    leave_mm: Amount = Decimal(0)
    route: Annotated[str, Field(max_length=20_000)] | None = None
    features: Annotated[str, Field(max_length=20_000)] | None = None

    @field_validator("mark_corner")
    @classmethod
    def _is_a_corner(cls, corner: str) -> str:
        if corner not in CORNERS:
            raise ValueError("no corner of a block")
        return corner


class PieceShape(_Strict):
    """A piece with sizes of its own [mm]."""

    number: PieceNumber
    thickness_mm: Positive | None = None
    width_mm: Positive | None = None
    length_mm: Positive | None = None


def _check_size(target_mm: Decimal, tol_minus_mm: Decimal, tol_plus_mm: Decimal) -> None:
    for field, words in size_contradictions(target_mm, tol_minus_mm, tol_plus_mm).items():
        raise ValueError(f"{field}: {words}")


class CharacteristicShape(_Strict):
    """Something the print asks for between surfaces: nominal and tolerances [mm], of an angle [°]."""

    position: Annotated[int, Field(ge=1, le=200)]
    name: Characteristic
    kind: CharacteristicKind
    surface: SurfaceNumber
    to_surface: SurfaceNumber | None = None
    nominal: Amount
    tol_minus: Amount
    tol_plus: Amount

    @model_validator(mode="after")
    def _goes_together(self) -> "CharacteristicShape":
        _check_size(self.nominal, self.tol_minus, self.tol_plus)
        return self


class SizeShape(_Strict):
    """A size of the block: what the print asks, and what was measured at take-in [mm]."""

    axis: Literal["length", "width", "thickness"]
    target_mm: Positive
    tol_minus_mm: Amount
    tol_plus_mm: Amount
    measured_max_mm: Positive
    measured_min_mm: Positive

    @model_validator(mode="after")
    def _goes_together(self) -> "SizeShape":
        _check_size(self.target_mm, self.tol_minus_mm, self.tol_plus_mm)
        if self.measured_max_mm < self.measured_min_mm:
            raise ValueError("the greatest that was measured is less than the least")
        return self


class FaceShape(_Strict):
    """A face as it came in, and what has to come off to clean it [mm]."""

    face: FaceNumber
    condition: str
    cleanup_mm: Amount
    purpose: Purpose


class PersonShape(_Strict):
    """Somebody the log names; a file brings no way to sign in."""

    sign_in_name: Annotated[str, Field(pattern=r"^[a-z0-9][a-z0-9._-]{0,39}$")]
    name: Name
    role: Literal["machinist", "lead", "inspector", "apprentice"]


class StepShape(_Strict):
    """One thing a released plan asks for: lengths [mm], the table's speed [mm/s], the time [min]."""

    number: Annotated[int, Field(ge=1, le=10_000)]
    kind: StepKind
    step_mm: Amount
    depth_mm: Amount
    crossfeed_mm: Positive | None = None
    table_mm_s: Positive | None = None
    what: Annotated[str, Field(max_length=120)] = ""
    amount: AnyLength | None = None
    minutes: Annotated[float, Field(ge=0, le=100_000, allow_inf_nan=False)] = 0.0

    @model_validator(mode="after")
    def _goes_together(self) -> "StepShape":
        if (self.kind in ("rough", "finish")) != (self.step_mm > 0):
            raise ValueError("what is fed down goes with a rough or finish pass, and with nothing else")
        if self.depth_mm < self.step_mm:
            raise ValueError("all that was fed down so far is less than what is fed down now")
        return self


class PlanShape(_Strict):
    """A released plan of a surface: stock [mm], the part's rise [K], its steps in order."""

    surface: SurfaceNumber
    method: Method
    stock_mm: Amount
    left_on_mm: Amount
    keeps_wheel_height: bool
    holder: Name = "magnet"
    hold_safety: Annotated[Decimal, Field(ge=0, max_digits=8, decimal_places=2)] | None = None
    rise_c: Annotated[Decimal, Field(ge=0, max_digits=6, decimal_places=2)] = Decimal(0)
    reason: Annotated[str, Field(max_length=500)] = ""
    until_clean: bool = False
    push_n: Annotated[Decimal, Field(ge=0, max_digits=11, decimal_places=4)] | None = None
    steps: Annotated[list[StepShape], Field(max_length=10_000)]

    @model_validator(mode="after")
    def _has_each_step_once(self) -> "PlanShape":
        if len({step.number for step in self.steps}) < len(self.steps):
            raise ValueError("a step is there twice")
        return self


class ReadingShape(_Strict):
    """One reading at a named place [mm]."""

    place: Name
    value_mm: AnyLength


class EntryShape(_Strict):
    """An entry of the log: every field that any kind of entry has; which ones a kind has is checked on reading."""

    entry_id: Annotated[str, Field(pattern=f"^{ENTRY_ID.pattern}$")]
    kind: Kind
    at: AwareDatetime
    by: str
    surface: SurfaceNumber | None = None
    setup: SetUpKey = ""
    load: Annotated[int, Field(ge=0, le=9999)] = 0
    pieces: Annotated[list[PieceNumber], Field(max_length=MOST_PIECES)] = []
    piece: PieceNumber | None = None
    change: RouteChange | None = None
    end: PieceEnd | None = None
    machine: str | None = None
    plan: PlanShape | None = None
    reading_mm: AnyLength | None = None
    amount_mm: AnyLength | None = None
    count: Annotated[int, Field(ge=1, le=50)] | None = None
    note: str = ""
    step: Annotated[int, Field(ge=1, le=10_000)] | None = None
    item: Annotated[str, Field(min_length=1, max_length=80)] | None = None
    answer: Annotated[str, Field(max_length=20)] | None = None
    asks: Annotated[list[Annotated[str, Field(min_length=1, max_length=20)]], Field(max_length=50)] = []
    seen: Annotated[str, Field(min_length=1, max_length=20)] | None = None
    side: Annotated[str, Field(max_length=20)] | None = None
    power_w: Annotated[Decimal, Field(ge=0, max_digits=9, decimal_places=1, allow_inf_nan=False)] | None = None
    characteristic: Characteristic | None = None
    supersedes: str | None = None
    instrument: str | None = None
    part_c: Degrees | None = None
    gauge_c: Degrees | None = None
    room_c: Degrees | None = None
    readings: Annotated[list[ReadingShape], Field(max_length=200)] = []
    uncertainty_mm: Amount | None = None
    verdict: Literal["in", "not yet", "unsure", "out"] | None = None
    asked_mm: AnyLength | None = None
    got_mm: AnyLength | None = None
    how: Annotated[str, Field(max_length=200)] | None = None
    map_key: Annotated[str, Field(pattern=f"^{ENTRY_ID.pattern}$")] | None = None

    @model_validator(mode="after")
    def _says_with_what(self) -> "EntryShape":
        if self.kind == Kind.MEASURED and (not self.instrument or self.uncertainty_mm is None or self.piece is None):
            raise ValueError("a measurement says of which piece, with which instrument and how sure it is")
        return self


class SetUpShape(_Strict):
    """How a set-up is laid out on its chuck."""

    setup: SetUpKey
    layout: Annotated[str, Field(max_length=60_000)]

    @model_validator(mode="after")
    def _is_one(self) -> "SetUpShape":
        loaded(self.layout)
        return self


Place = Annotated[float, Field(ge=-FARTHEST_MM, le=FARTHEST_MM, allow_inf_nan=False)]
Height = Annotated[float, Field(ge=-HIGHEST_UM, le=HIGHEST_UM, allow_inf_nan=False)]
Closing = Annotated[Decimal, Field(ge=int(-HIGHEST_UM), le=int(HIGHEST_UM), decimal_places=4, allow_inf_nan=False)]


class MapShape(_Strict):
    """A map: points as x [mm], y [mm], height [µm], the patch each lies on, and what was seen of it at a depth [µm]."""

    key: Annotated[str, Field(pattern=f"^{ENTRY_ID.pattern}$")]
    piece: PieceNumber | None = None
    surface: SurfaceNumber | None = None
    frame: Literal["machine", "plate"]
    points: Annotated[list[tuple[Place, Place, Height]], Field(min_length=3, max_length=MOST_POINTS)]
    closing_um: Closing | None = None
    plate_um: Annotated[Decimal, Field(ge=0, le=9999, decimal_places=3, allow_inf_nan=False)] = Decimal(0)
    state: Literal["in use", "refused", "withdrawn"]
    note: Annotated[str, Field(max_length=500)] = ""
    taken_at: AwareDatetime
    by: str | None = None
    instrument: str | None = None
    patches: Annotated[list[Annotated[str, Field(max_length=30)]], Field(max_length=40)] = []
    patch_of: Annotated[list[Annotated[int, Field(ge=0)]], Field(max_length=MOST_POINTS)] = []
    seen: Annotated[dict[int, bool], Field(max_length=MOST_POINTS)] = {}
    seen_depth_um: Annotated[Decimal, Field(ge=0, le=99_999, decimal_places=3, allow_inf_nan=False)] | None = None

    @model_validator(mode="after")
    def _is_one(self) -> "MapShape":
        number = len(self.points)
        if len(self.patch_of) != (number if self.patches else 0) or max(self.patch_of, default=-1) >= len(self.patches):
            raise ValueError("the patches do not fit the points")
        if any(not 0 <= place < number for place in self.seen):
            raise ValueError("something was seen where there is no point")
        return self


class JobFile(_Strict):
    """A whole file."""

    format: Literal["zesty-lark job 10"]
    job: JobShape
    part: PartShape
    sizes: Annotated[list[SizeShape], Field(min_length=3, max_length=3)]
    faces: Annotated[list[FaceShape], Field(min_length=6, max_length=6)]
    machine: Machine
    wheel: Wheel
    instruments: Annotated[list[Instrument], Field(max_length=200)]
    people: Annotated[list[PersonShape], Field(max_length=200)]
    pieces: Annotated[list[PieceShape], Field(max_length=MOST_PIECES)] = []
    characteristics: Annotated[list[CharacteristicShape], Field(max_length=200)] = []
    set_ups: Annotated[list[SetUpShape], Field(max_length=200)] = []
    maps: Annotated[list[MapShape], Field(max_length=MOST_MAPS)] = []
    entries: Annotated[list[EntryShape], Field(max_length=MOST_ENTRIES)]
