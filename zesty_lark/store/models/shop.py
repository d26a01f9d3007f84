"""What stands in the shop: machines with their chucks, wheels, fixtures, instruments."""

from datetime import date
from decimal import Decimal
from typing import TYPE_CHECKING, Any, ClassVar

from sqlalchemy import CheckConstraint, ForeignKey, Numeric, String, Text
from sqlalchemy.orm import Mapped, mapped_column, relationship

from zesty_lark.core.angles_slots.block_sets import BLOCK_SETS, BlockSet
from zesty_lark.core.part.sequence import METHODS_OF_SQUARENESS
from zesty_lark.core.things.shop import ACCESSORY_KINDS, FIXTURE_FORMS, Accessory, Chuck, Fixture, Machine
from zesty_lark.store.models.base import TABLE_OPTIONS, Base, Length, ShortText, described, one_of

if TYPE_CHECKING:
    from zesty_lark.store.models.maps import SurfaceMapRow

IN_USE = "in use"


class MachineRow(Base):
    """A surface grinder. ``downfeed_max_mm`` is its largest downfeed a pass, where the shop has set one; ``spindle``
    the wheel that its log has on it, ``on_chuck`` the job whose load is up: kept with the entries that say so."""

    describes: ClassVar[type[Machine]] = Machine
    __tablename__ = "machine"
    __table_args__ = (
        one_of("dial_unit", ("mm", "in")),
        one_of("wheel_turns", ("clockwise", "counter-clockwise")),
        one_of("feed_every", ("stroke", "pair")),
        one_of("coolant", ("dry", "mist", "water", "oil")),
        CheckConstraint("graduation_mm > 0 and per_rev_mm >= graduation_mm", name="collar"),
        CheckConstraint(
            "crossfeed_graduation_mm > 0 and crossfeed_min_mm > 0 and crossfeed_max_mm >= crossfeed_min_mm",
            name="crossfeed",
        ),
        CheckConstraint("table_min_mm_s > 0 and table_max_mm_s >= table_min_mm_s", name="table_speed"),
        CheckConstraint("cut_ratio > 0 and cut_ratio <= 1", name="cut_ratio"),
        CheckConstraint("downfeed_max_mm is null or downfeed_max_mm >= graduation_mm", name="downfeed_max"),
        CheckConstraint("cross_dial_mm is null or cross_dial_mm > 0", name="cross_dial"),
        TABLE_OPTIONS,
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    version: Mapped[int] = mapped_column(default=1, server_default="1")
    name: Mapped[ShortText] = mapped_column(String(80), unique=True)
    dial_unit: Mapped[str] = mapped_column(String(2))
    graduation_mm: Mapped[Length]
    per_rev_mm: Mapped[Length]
    backlash_mm: Mapped[Length]
    crossfeed_graduation_mm: Mapped[Length]
    crossfeed_min_mm: Mapped[Length]
    crossfeed_max_mm: Mapped[Length]
    table_min_mm_s: Mapped[Length]
    table_max_mm_s: Mapped[Length]
    reversal_s: Mapped[Decimal] = mapped_column(Numeric(6, 3))
    travel_long_mm: Mapped[Length]
    travel_cross_mm: Mapped[Length]
    height_mm: Mapped[Length]
    spindle_w: Mapped[int]
    rpm: Mapped[int]
    wheel_turns: Mapped[str] = mapped_column(String(20))
    feed_every: Mapped[str] = mapped_column(String(10))
    coolant: Mapped[str] = mapped_column(String(10))
    cut_ratio: Mapped[Decimal] = mapped_column(Numeric(5, 4))
    downfeed_max_mm: Mapped[Length | None]
    hums: Mapped[str] = mapped_column(String(600), default="", server_default="")
    cross_dial_mm: Mapped[Length | None]
    crossfeeds: Mapped[str] = mapped_column(String(600), default="", server_default="")
    spindle: Mapped[str | None] = mapped_column(String(80))
    on_chuck: Mapped[str | None] = mapped_column(String(20))

    chuck: Mapped["ChuckRow | None"] = relationship(back_populates="machine")

    __mapper_args__ = {"version_id_col": version}

    def __init__(self, **given: Any) -> None:
        super().__init__(**{"hums": "", "crossfeeds": ""} | given)

    def to_core(self) -> Machine:
        """Return the machine as everything else knows it."""
        return described(self, Machine)


class BlockSetRow(Base):
    """A set of gauge blocks, with what of it is missing or worn."""

    describes: ClassVar[type[BlockSet]] = BlockSet
    __tablename__ = "block_set"
    __table_args__ = (one_of("set_name", BLOCK_SETS), CheckConstraint("u_um > 0", name="u"), TABLE_OPTIONS)

    id: Mapped[int] = mapped_column(primary_key=True)
    version: Mapped[int] = mapped_column(default=1, server_default="1")
    name: Mapped[ShortText] = mapped_column(String(80), unique=True)
    unit: Mapped[str] = mapped_column(String(2))
    set_name: Mapped[str] = mapped_column(String(10))
    u_um: Mapped[Decimal] = mapped_column(Numeric(6, 3))
    calibrated_on: Mapped[date]
    due_on: Mapped[date]
    blocks: Mapped[str] = mapped_column(Text, default="")
    missing: Mapped[str] = mapped_column(Text, default="")
    worn: Mapped[str] = mapped_column(Text, default="")

    __mapper_args__ = {"version_id_col": version}

    def to_core(self) -> BlockSet:
        """Return the set as everything else knows it."""
        return described(self, BlockSet)


class ChuckRow(Base):
    """The magnetic chuck on a machine: its size, its pull, whether a pull test of the shop's own has shown that, what
    its lowest setting leaves, and its fence."""

    describes: ClassVar[type[Chuck]] = Chuck
    __tablename__ = "chuck"
    __table_args__ = (
        CheckConstraint("length_mm > 0 and width_mm > 0 and pull_n_cm2 >= 0", name="figures"),
        CheckConstraint("low_share > 0 and low_share <= 1 and (fence_mm is null or fence_mm > 0)", name="more"),
        CheckConstraint("flat_limit_um > 0", name="flat_limit"),
        TABLE_OPTIONS,
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    version: Mapped[int] = mapped_column(default=1, server_default="1")
    name: Mapped[ShortText] = mapped_column(String(80), unique=True)
    machine_id: Mapped[int] = mapped_column(ForeignKey("machine.id"), unique=True)
    length_mm: Mapped[Length]
    width_mm: Mapped[Length]
    pull_n_cm2: Mapped[Decimal] = mapped_column(Numeric(7, 2))
    pull_tested: Mapped[bool] = mapped_column(default=False)
    low_share: Mapped[Decimal] = mapped_column(Numeric(4, 3), default=Decimal(1), server_default="1")
    fence_mm: Mapped[Length | None]
    fence_out_um: Mapped[Decimal | None] = mapped_column(Numeric(7, 2))
    fence_ground: Mapped[bool] = mapped_column(default=False, server_default="0")
    flat_limit_um: Mapped[Decimal] = mapped_column(Numeric(7, 2), default=Decimal(5), server_default="5")

    machine: Mapped[MachineRow] = relationship(back_populates="chuck", lazy="joined", innerjoin=True)
    maps: Mapped[list["SurfaceMapRow"]] = relationship(
        "SurfaceMapRow", lazy="selectin", order_by="SurfaceMapRow.id", cascade="all, delete-orphan"
    )

    __mapper_args__ = {"version_id_col": version}

    def to_core(self) -> Chuck:
        """Return the chuck as everything else knows it."""
        return described(self, Chuck)

    @property
    def newest_map(self) -> "SurfaceMapRow | None":
        """The last map taken of it that is in use."""
        return next((one_map for one_map in reversed(self.maps) if one_map.state == IN_USE), None)


class FixtureRow(Base):
    """A fixture: what it is, how far out of square over which length, how it seats, and its base on the magnet."""

    describes: ClassVar[type[Fixture]] = Fixture
    __tablename__ = "fixture"
    __table_args__ = (
        one_of("kind", METHODS_OF_SQUARENESS),
        one_of("form", FIXTURE_FORMS),
        CheckConstraint("height_mm > 0 and seat_mm >= 0", name="heights"),
        CheckConstraint(
            "(centres_mm is null or centres_mm > 0) and (top_centres_mm is null or top_centres_mm > 0)", name="centres"
        ),
        CheckConstraint(
            "square_mm >= 0 and over_mm > 0 and seating_mm >= 0 and base_length_mm > 0 and base_width_mm > 0 "
            "and clamps > 0 and clamp_n > 0",
            name="figures",
        ),
        TABLE_OPTIONS,
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    version: Mapped[int] = mapped_column(default=1, server_default="1")
    name: Mapped[ShortText] = mapped_column(String(80), unique=True)
    kind: Mapped[str] = mapped_column(String(20))
    square_mm: Mapped[Length]
    over_mm: Mapped[Length]
    seating_mm: Mapped[Length]
    base_length_mm: Mapped[Length]
    base_width_mm: Mapped[Length]
    clamps: Mapped[int] = mapped_column(default=2, server_default="2")
    clamp_n: Mapped[Decimal] = mapped_column(Numeric(8, 1), default=Decimal(1500), server_default="1500")
    checked_on: Mapped[date | None]
    form: Mapped[str] = mapped_column(String(20), default="angle_plate", server_default="angle_plate")
    height_mm: Mapped[Length] = mapped_column(default=Decimal(75), server_default="75")
    seat_mm: Mapped[Length] = mapped_column(default=Decimal(0), server_default="0")
    centres_mm: Mapped[Length | None]
    top_centres_mm: Mapped[Length | None]

    __mapper_args__ = {"version_id_col": version}

    def to_core(self) -> Fixture:
        """Return the fixture as everything else knows it."""
        return described(self, Fixture)


class AccessoryRow(Base):
    """Something small that set-ups are built with: blocks, parallels, pins, clamps, foils, by kind and size."""

    describes: ClassVar[type[Accessory]] = Accessory
    __tablename__ = "accessory"
    __table_args__ = (
        one_of("kind", ACCESSORY_KINDS),
        CheckConstraint(
            "length_mm > 0 and width_mm > 0 and height_mm > 0 and `count` > 0 and square_mm >= 0 "
            "and (clamp_n is null or clamp_n > 0)",
            name="figures",
        ),
        TABLE_OPTIONS,
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    version: Mapped[int] = mapped_column(default=1, server_default="1")
    name: Mapped[ShortText] = mapped_column(String(80), unique=True)
    kind: Mapped[str] = mapped_column(String(10))
    length_mm: Mapped[Length]
    width_mm: Mapped[Length]
    height_mm: Mapped[Length]
    count: Mapped[int] = mapped_column(default=1, server_default="1")
    magnetic: Mapped[bool] = mapped_column(default=True, server_default="1")
    square_mm: Mapped[Length] = mapped_column(default=Decimal(0), server_default="0")
    clamp_n: Mapped[Decimal | None] = mapped_column(Numeric(8, 1))
    checked_on: Mapped[date | None]

    __mapper_args__ = {"version_id_col": version}

    def to_core(self) -> Accessory:
        """Return it as everything else knows it."""
        return described(self, Accessory)
