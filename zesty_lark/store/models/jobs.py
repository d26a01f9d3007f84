"""Jobs, the part each is about, its print and its pieces."""

from dataclasses import replace
from datetime import date
from decimal import Decimal

from sqlalchemy import CheckConstraint, ForeignKey, Numeric, String, Text, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from zesty_lark.core.part.faces import (
    ALL_FACES,
    AS_IT_IS,
    AXIS,
    CORNERS,
    OPPOSITE,
    PURPOSES,
    Condition,
    FaceState,
    Purpose,
    corner_faces,
)
from zesty_lark.core.part.prints import SIZES, THICKNESS, Characteristic, CharacteristicKind, Print
from zesty_lark.core.part.sizes import Size
from zesty_lark.core.part.surfaces import kind_of, lying_of, surfaces_of
from zesty_lark.core.part.surfaces.features import Feature, loaded_features
from zesty_lark.core.part.surfaces.formed_face import formed_of, formed_stops, with_features
from zesty_lark.core.part.surfaces.part import Block, PairSize
from zesty_lark.core.process.materials import material_of
from zesty_lark.core.quantities.units import micrometres
from zesty_lark.core.squaring.choices import RouteChoices, loaded
from zesty_lark.core.squaring.order import route_steps, set_ups
from zesty_lark.core.wheel.mounting import mounting_stops
from zesty_lark.core.work.job_state import JobSpec
from zesty_lark.core.work.wheel_use import wheel_facts
from zesty_lark.store.models.base import TABLE_OPTIONS, Base, Length, Moment, ShortText, one_of
from zesty_lark.store.models.people import Person
from zesty_lark.store.models.set_up import SetUpRow
from zesty_lark.store.models.shop import MachineRow
from zesty_lark.store.models.wheels import WheelRow

AXES = ("length", "width", "thickness")
BOW_SHAPES = ("middle_up", "ends_up")
MORE_KINDS: tuple[CharacteristicKind, ...] = ("size", "parallel", "square", "flat", "angle", "position", "finish")
"""What a print can ask for between any surfaces, beside a block's sizes and the four that are usual."""


class Job(Base):
    """One job: a part to be ground, on a machine, with a wheel, by someone."""

    __tablename__ = "job"
    __table_args__ = (one_of("print_unit", ("mm", "in")), TABLE_OPTIONS)

    id: Mapped[int] = mapped_column(primary_key=True)
    number: Mapped[str] = mapped_column(String(20), unique=True)
    title: Mapped[ShortText]
    print_unit: Mapped[str] = mapped_column(String(2))
    due_on: Mapped[date | None]
    owner_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
    machine_id: Mapped[int] = mapped_column(ForeignKey("machine.id"))
    wheel_id: Mapped[int] = mapped_column(ForeignKey("wheel.id"))
    version: Mapped[int] = mapped_column(default=1)
    created_at: Mapped[Moment]

    owner: Mapped[Person] = relationship(lazy="joined", innerjoin=True)
    machine: Mapped[MachineRow] = relationship(lazy="joined", innerjoin=True)
    wheel: Mapped[WheelRow] = relationship(lazy="joined", innerjoin=True)
    set_ups: Mapped[list["SetUpRow"]] = relationship(lazy="selectin", order_by="SetUpRow.id")
    part: Mapped["Part"] = relationship(
        back_populates="job", lazy="joined", innerjoin=True, cascade="all, delete-orphan"
    )

    __mapper_args__ = {"version_id_col": version}


class Part(Base):
    """The part of a job, as the print and the eye have it at take-in."""

    __tablename__ = "part"
    __table_args__ = (
        one_of("mark_corner", CORNERS),
        CheckConstraint("reference_face in (1, 2)", name="reference_face"),
        CheckConstraint("quantity >= 1", name="quantity"),
        CheckConstraint("first_share is null or first_share between 0 and 1", name="first_share"),
        CheckConstraint("min_skin_mm >= 0", name="min_skin"),
        CheckConstraint("parallel_mm is null or parallel_mm > 0", name="parallel"),
        CheckConstraint(
            "(square_mm is null or square_mm > 0) and (flat_mm is null or flat_mm > 0) "
            "and (ra_um is null or ra_um > 0)",
            name="relations",
        ),
        CheckConstraint("(bow_mm is null or bow_mm >= 0) and leave_mm >= 0", name="bow"),
        one_of("bow_shape", BOW_SHAPES),
        TABLE_OPTIONS,
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("job.id"), unique=True)
    quantity: Mapped[int] = mapped_column(default=1)
    material: Mapped[ShortText]
    hardness_hrc: Mapped[Decimal | None] = mapped_column(Numeric(5, 2))
    parallel_mm: Mapped[Length | None]
    square_mm: Mapped[Length | None]
    flat_mm: Mapped[Length | None]
    ra_um: Mapped[Decimal | None] = mapped_column(Numeric(7, 4))
    mark_corner: Mapped[str] = mapped_column(String(5))
    reference_face: Mapped[int]
    min_skin_mm: Mapped[Length]
    first_share: Mapped[Decimal | None] = mapped_column(Numeric(5, 4))
    bow_mm: Mapped[Length | None]
    bow_shape: Mapped[str] = mapped_column(String(10), default="middle_up", server_default="middle_up")
    leave_mm: Mapped[Length] = mapped_column(default=Decimal(0), server_default="0")
    remarks: Mapped[str] = mapped_column(Text, default="")
    route: Mapped[str | None] = mapped_column(Text)
    features: Mapped[str | None] = mapped_column(Text)

    job: Mapped[Job] = relationship(back_populates="part")
    sizes: Mapped[list["PartSize"]] = relationship(lazy="selectin", cascade="all, delete-orphan")
    faces: Mapped[list["PartFace"]] = relationship(
        lazy="selectin", cascade="all, delete-orphan", order_by="PartFace.face"
    )
    pieces: Mapped[list["Piece"]] = relationship(lazy="selectin", cascade="all, delete-orphan", order_by="Piece.number")
    more: Mapped[list["CharacteristicRow"]] = relationship(
        lazy="selectin", cascade="all, delete-orphan", order_by="CharacteristicRow.position"
    )

    def size(self, axis: str) -> "PartSize":
        """Return the size along an axis."""
        return next(size for size in self.sizes if size.axis == axis)

    def face(self, number: int) -> "PartFace":
        """Return a face by its number."""
        return next(face for face in self.faces if face.face == number)

    @property
    def references(self) -> tuple[int, int, int]:
        """The references of the three pairs: the chosen one, and the marked corner's sides; where only the other stays
        as it is, that is what the part stands on."""
        _, *sides = corner_faces(self.mark_corner)
        left = self.as_it_is
        first, second, third = (
            OPPOSITE[face] if face not in left and OPPOSITE[face] in left else face
            for face in (self.reference_face, *sides)
        )
        return first, second, third

    @property
    def as_it_is(self) -> frozenset[int]:
        """The faces that nobody wants ground."""
        return frozenset(face.face for face in self.faces if face.purpose == AS_IT_IS)

    def is_left(self, axis: str) -> bool:
        """Whether both faces that bound a size stay as they are."""
        return {face for face in ALL_FACES if AXIS[face] == axis} <= self.as_it_is

    @property
    def route_choices(self) -> RouteChoices:
        """The route in force: what was released, else the usual one."""
        return RouteChoices() if self.route is None else loaded(self.route)

    def block(self) -> Block:
        """The part as the print wants it and as it came in, its pieces taken together."""
        sizes: dict[str, PairSize] = {axis: self._pair(axis) for axis in SIZES}
        plain = Block(
            sizes,
            {face.face: face.cleanup_mm for face in self.faces},
            self.references,
            parallel_um=_um(self.parallel_mm),
            square_um=_um(self.square_mm),
            flat_um=_um(self.flat_mm),
            conditions={face.face: Condition(face.condition) for face in self.faces},
            bow_mm=None if self.bow_mm is None else float(self.bow_mm),
            bow_shape=self.bow_shape,  # type: ignore[arg-type]
            as_it_is=self.as_it_is,
        )
        return with_features(plain, self.shapes)

    @property
    def shapes(self) -> tuple[Feature, ...]:
        """The slots, inclined faces, chamfers and edges of the print."""
        return loaded_features(self.features)

    def _pair(self, axis: str) -> PairSize:
        size = self.size(axis)
        own = [piece.came_mm(axis) for piece in self.pieces]
        most = max((each for each in own if each is not None), default=size.measured_max_mm)
        if len([each for each in own if each is not None]) < self.quantity:
            most = max(most, size.measured_max_mm)
        return PairSize(
            size.target_mm,
            size.tol_minus_mm,
            size.tol_plus_mm,
            most,
            min(size.measured_min_mm, most),
            self.leave_mm if axis == THICKNESS else Decimal(0),
        )

    def wanted(self) -> Print:
        """The print: the block's faces, its sizes, and what else is asked."""
        return self._wanted(self.block())

    def _wanted(self, block: Block) -> Print:
        more = (*(row.to_core() for row in self.more), *_of_features(block))
        return Print(surfaces_of(block), (*self._sizes(), *self._usual(), *more))

    def _sizes(self) -> list[Characteristic]:
        first, second, third = self.references
        return [
            Characteristic(axis, "size", (OPPOSITE[face], face), self.size(axis).to_core())
            for axis, face in zip(SIZES, (first, second, third), strict=True)
            if not {face, OPPOSITE[face]} <= self.as_it_is
        ]

    def _usual(self) -> list[Characteristic]:
        """The four relations that are asked of a block as a whole; none of a face that stays as it is."""
        first, left = self.references[0], self.as_it_is
        pair: tuple[int, ...] = () if {first, OPPOSITE[first]} <= left else (OPPOSITE[first], first)
        sides = tuple(face for face in (3, 4, 5, 6) if face not in left)
        sides = (*sides, first) if sides else ()
        asked: list[tuple[CharacteristicKind, tuple[int, ...], Decimal | None]] = [
            ("parallel", pair, self.parallel_mm),
            ("square", sides, self.square_mm),
            ("flat", pair, self.flat_mm),
            ("finish", pair, None if self.ra_um is None else self.ra_um / 1000),
        ]
        return [
            Characteristic(kind, kind, surfaces, Size(Decimal(0), Decimal(0), allowed))
            for kind, surfaces, allowed in asked
            if allowed is not None and surfaces
        ]

    def came(self) -> dict[int, dict[str, Decimal]]:
        """The greatest of each size of each piece as it was taken in [mm]."""
        return self._came(self.block())

    def _came(self, block: Block) -> dict[int, dict[str, Decimal]]:
        usual = {axis: self.size(axis).measured_max_mm for axis in SIZES}
        formed = {each.surface.size: each.size.measured_max_mm for each in formed_of(block).values()}
        own = {piece.number: piece for piece in self.pieces}
        return {
            number: {axis: (own[number].came_mm(axis) if number in own else None) or mm for axis, mm in usual.items()}
            | formed
            for number in range(1, self.quantity + 1)
        }

    def spec(self) -> JobSpec:
        """Return what the log's fold needs to know."""
        machine, wheel, block, route = self.job.machine, self.job.wheel, self.block(), self.route_choices
        formed = formed_of(block)
        return JobSpec(
            wanted=self._wanted(block),
            pieces=self._came(block),
            start_states={face.face: face.state for face in self.faces}
            | {number: FaceState.TO_SIZE if each.left_alone else FaceState.STABLE for number, each in formed.items()},
            setups=set_ups(block, route_steps(block, route.squareness, route.steps)),
            cut_ratio=float(machine.cut_ratio),
            wheel_width_mm=float(wheel.width_mm),
            stops=tuple(mounting_stops(wheel.mounted(), machine.rpm, self.material)),
            pulled=material_of(self.material).magnetic,
            set_up_stops=formed_stops(block, wheel.name, side_work=wheel.side_work)
            | {row.setup: row.stop for row in self.job.set_ups if row.stop},
            spare_mm=self._spare(block, route),
            wheel=wheel_facts(replace(wheel.to_core(), diameter_mm=wheel.measured_mm), machine.rpm),
            lying_mm={face: _lying(block, face) for face in (*ALL_FACES, *formed)},
        )

    def _spare(self, block: Block, route: RouteChoices) -> dict[int, Decimal]:
        """How much more than its share each reference may give until it is clean: what its opposite has over its own
        skin [mm]."""
        sharing = route.sharing(self.min_skin_mm, self.first_share)
        skin = self.min_skin_mm
        return {
            face: max(kind_of(block, face).stock(block, face, sharing).split.second_face_mm - skin, Decimal(0))
            for face in block.references
        }


def _of_features(block: Block) -> list[Characteristic]:
    """What the print asks of slots, inclined faces, chamfers and edges."""
    return [
        Characteristic(each.name, each.kind, each.surfaces, Size(each.nominal, each.minus, each.plus))
        for formed in formed_of(block).values()
        for each in formed.asked
    ]


def _um(length: Decimal | None) -> float | None:
    return None if length is None else micrometres(length)


def _lying(block: Block, face: int) -> tuple[float, float]:
    lies = lying_of(block, face)
    return lies.along_mm, lies.across_mm


class PartSize(Base):
    """One size of a part: what the print asks and what was measured at take-in."""

    __tablename__ = "part_size"
    __table_args__ = (
        UniqueConstraint("part_id", "axis", name="uq_part_size_axis"),
        one_of("axis", AXES),
        CheckConstraint(
            "target_mm > 0 and tol_minus_mm >= 0 and tol_plus_mm >= 0 "
            "and tol_minus_mm + tol_plus_mm > 0 and tol_minus_mm < target_mm",
            name="print",
        ),
        CheckConstraint("measured_min_mm > 0 and measured_max_mm >= measured_min_mm", name="measured"),
        TABLE_OPTIONS,
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    part_id: Mapped[int] = mapped_column(ForeignKey("part.id"))
    axis: Mapped[str] = mapped_column(String(10))
    target_mm: Mapped[Length]
    tol_minus_mm: Mapped[Length]
    tol_plus_mm: Mapped[Length]
    measured_max_mm: Mapped[Length]
    measured_min_mm: Mapped[Length]

    def to_core(self) -> Size:
        """Return the size as measuring sees it."""
        return Size(self.target_mm, self.tol_minus_mm, self.tol_plus_mm)


class PartFace(Base):
    """One of the six faces as it came in."""

    __tablename__ = "part_face"
    __table_args__ = (
        UniqueConstraint("part_id", "face", name="uq_part_face_face"),
        CheckConstraint(f"face between {ALL_FACES[0]} and {ALL_FACES[-1]}", name="face"),
        one_of("condition", Condition),
        one_of("purpose", PURPOSES),
        CheckConstraint("cleanup_mm >= 0", name="cleanup"),
        TABLE_OPTIONS,
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    part_id: Mapped[int] = mapped_column(ForeignKey("part.id"))
    face: Mapped[int]
    condition: Mapped[str] = mapped_column(String(40))
    cleanup_mm: Mapped[Length]
    purpose: Mapped[Purpose] = mapped_column(String(10))

    @property
    def state(self) -> FaceState:
        """The state it starts in."""
        return FaceState.AS_IT_IS if self.purpose == AS_IT_IS else Condition(self.condition).state


class Piece(Base):
    """A piece that has sizes of its own, as it came in; the others came as the part did."""

    __tablename__ = "piece"
    __table_args__ = (
        UniqueConstraint("part_id", "number", name="uq_piece_number"),
        CheckConstraint("number >= 1", name="number"),
        CheckConstraint(
            "(thickness_mm is null or thickness_mm > 0) and (width_mm is null or width_mm > 0) "
            "and (length_mm is null or length_mm > 0)",
            name="sizes",
        ),
        TABLE_OPTIONS,
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    part_id: Mapped[int] = mapped_column(ForeignKey("part.id"))
    number: Mapped[int]
    thickness_mm: Mapped[Length | None]
    width_mm: Mapped[Length | None]
    length_mm: Mapped[Length | None]

    def came_mm(self, axis: str) -> Decimal | None:
        """Return its own size along an axis [mm]; ``None`` when it came as the part did."""
        own: Decimal | None = {"thickness": self.thickness_mm, "width": self.width_mm, "length": self.length_mm}[axis]
        return own


class CharacteristicRow(Base):
    """Something the print asks for between any surfaces, beside the block's sizes and the usual four."""

    __tablename__ = "characteristic"
    __table_args__ = (
        UniqueConstraint("part_id", "name", name="uq_characteristic_name"),
        one_of("kind", MORE_KINDS),
        CheckConstraint("surface >= 1 and (to_surface is null or to_surface >= 1)", name="surfaces"),
        CheckConstraint(
            "nominal >= 0 and tol_minus >= 0 and tol_plus >= 0 and tol_minus + tol_plus > 0", name="limits"
        ),
        TABLE_OPTIONS,
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    part_id: Mapped[int] = mapped_column(ForeignKey("part.id"))
    position: Mapped[int]
    name: Mapped[str] = mapped_column(String(20))
    kind: Mapped[str] = mapped_column(String(10))
    surface: Mapped[int]
    to_surface: Mapped[int | None]
    nominal: Mapped[Length]
    tol_minus: Mapped[Length]
    tol_plus: Mapped[Length]

    def to_core(self) -> Characteristic:
        """Return it as the print has it."""
        surfaces = (self.surface,) if self.to_surface is None else (self.surface, self.to_surface)
        return Characteristic(
            self.name,
            self.kind,  # type: ignore[arg-type]
            surfaces,
            Size(self.nominal, self.tol_minus, self.tol_plus),
        )
