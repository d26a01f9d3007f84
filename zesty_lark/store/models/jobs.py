"""Jobs and the part each is about."""

from datetime import date
from decimal import Decimal

from sqlalchemy import CheckConstraint, ForeignKey, Numeric, String, Text, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from zesty_lark.core.faces import ALL_FACES, CORNERS, Condition
from zesty_lark.core.materials import material_of
from zesty_lark.core.measure.thickness import Size
from zesty_lark.core.shoplog.standing import Brief
from zesty_lark.core.wheel.mounting import mounting_stops
from zesty_lark.store.models.base import TABLE_OPTIONS, Base, Length, Moment, ShortText, one_of
from zesty_lark.store.models.people import Person
from zesty_lark.store.models.shop import MachineRow, WheelRow

__all__ = ["AXES", "BOW_SHAPES", "PURPOSES", "Job", "Part", "PartFace", "PartSize"]

AXES = ("length", "width", "thickness")
PURPOSES = ("bearing", "plain")
BOW_SHAPES = ("middle_up", "ends_up")


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
    part: Mapped["Part"] = relationship(back_populates="job", lazy="joined", innerjoin=True,
                                        cascade="all, delete-orphan")

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
        CheckConstraint("(square_mm is null or square_mm > 0) and (flat_mm is null or flat_mm > 0) "
                        "and (ra_um is null or ra_um > 0)", name="relations"),
        CheckConstraint("(bow_mm is null or bow_mm >= 0) and leave_mm >= 0", name="bow"),
        one_of("bow_shape", BOW_SHAPES),
        TABLE_OPTIONS,
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("job.id"), unique=True)
    quantity: Mapped[int] = mapped_column(default=1)
    material: Mapped[ShortText]
    hardness_hrc: Mapped[Decimal | None] = mapped_column(Numeric(4, 1))
    parallel_mm: Mapped[Length | None]
    square_mm: Mapped[Length | None]
    flat_mm: Mapped[Length | None]
    ra_um: Mapped[Decimal | None] = mapped_column(Numeric(5, 2))
    mark_corner: Mapped[str] = mapped_column(String(5))
    reference_face: Mapped[int]
    min_skin_mm: Mapped[Length]
    first_share: Mapped[Decimal | None] = mapped_column(Numeric(5, 4))
    bow_mm: Mapped[Length | None]
    bow_shape: Mapped[str] = mapped_column(String(10), default="middle_up", server_default="middle_up")
    leave_mm: Mapped[Length] = mapped_column(default=Decimal(0), server_default="0")
    remarks: Mapped[str] = mapped_column(Text, default="")

    job: Mapped[Job] = relationship(back_populates="part")
    sizes: Mapped[list["PartSize"]] = relationship(lazy="selectin", cascade="all, delete-orphan")
    faces: Mapped[list["PartFace"]] = relationship(lazy="selectin", cascade="all, delete-orphan",
                                                   order_by="PartFace.face")

    def allowed_mm(self, characteristic: str) -> Decimal:
        """Return what the print allows of a characteristic that only has an upper limit [mm]; of a finish its roughness."""
        allowed = {"parallel": self.parallel_mm, "square": self.square_mm, "flat": self.flat_mm,
                   "finish": None if self.ra_um is None else self.ra_um / 1000}[characteristic]
        assert allowed is not None
        return allowed

    def size(self, axis: str) -> "PartSize":
        """Return the size along an axis."""
        return next(size for size in self.sizes if size.axis == axis)

    def face(self, number: int) -> "PartFace":
        """Return a face by its number."""
        return next(face for face in self.faces if face.face == number)

    def brief(self) -> Brief:
        """Return what the log's fold needs to know."""
        machine, wheel, size = self.job.machine, self.job.wheel, self.size("thickness")
        return Brief(
            reference=self.reference_face,
            start_states={face.face: Condition(face.condition).state for face in self.faces},
            measured_max_mm=size.measured_max_mm, size=size.to_core(), parallel_mm=self.parallel_mm,
            cut_ratio=float(machine.cut_ratio), wheel_width_mm=float(wheel.width_mm), characteristics=self.characteristics,
            stops=tuple(mounting_stops(wheel.mounted(), machine.rpm, self.material)),
            pulled=material_of(self.material).magnetic,
        )

    @property
    def characteristics(self) -> tuple[str, ...]:
        """Everything the print asks for."""
        asked = {"parallel": self.parallel_mm, "square": self.square_mm, "flat": self.flat_mm, "finish": self.ra_um}
        return ("thickness", "width", "length", *(name for name, value in asked.items() if value is not None))


class PartSize(Base):
    """One size of a part: what the print asks and what was measured at take-in."""

    __tablename__ = "part_size"
    __table_args__ = (
        UniqueConstraint("part_id", "axis", name="uq_part_size_axis"),
        one_of("axis", AXES),
        CheckConstraint("target_mm > 0 and tol_minus_mm >= 0 and tol_plus_mm >= 0 "
                        "and tol_minus_mm + tol_plus_mm > 0 and tol_minus_mm < target_mm", name="print"),
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
        one_of("`condition`", Condition),
        one_of("purpose", PURPOSES),
        CheckConstraint("cleanup_mm >= 0", name="cleanup"),
        TABLE_OPTIONS,
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    part_id: Mapped[int] = mapped_column(ForeignKey("part.id"))
    face: Mapped[int]
    condition: Mapped[str] = mapped_column(String(40))
    cleanup_mm: Mapped[Length]
    purpose: Mapped[str] = mapped_column(String(10))
