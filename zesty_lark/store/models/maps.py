"""Surface maps of chucks and of pieces, reading by reading, and the grinding of chucks."""

import json
from collections import OrderedDict
from datetime import datetime
from decimal import Decimal
from functools import cached_property

from sqlalchemy import CheckConstraint, ForeignKey, Index, Numeric, String, Text
from sqlalchemy.dialects.mysql import LONGTEXT, MEDIUMTEXT
from sqlalchemy.orm import Mapped, mapped_column, relationship

from zesty_lark.core.measure.maps.analysis import Frame
from zesty_lark.core.measure.maps.layout import Layout, Place
from zesty_lark.core.measure.maps.surface_map import SurfaceMap, Taking
from zesty_lark.store.models.base import TABLE_OPTIONS, Base, Moment, OnceRow, one_of
from zesty_lark.store.models.instruments import InstrumentRow
from zesty_lark.store.models.people import Person

TAKING = "taking"
MAP_STATES = (TAKING, "in use", "refused", "withdrawn")
FRAMES = ("machine", "plate")
KEPT = 24
_wholes: OrderedDict[tuple[str, datetime], SurfaceMap] = OrderedDict()


class SurfaceMapRow(Base):
    """A map: of a chuck, or of a surface of a piece of a job.

    Where it is to be read is laid out before; ``points`` has [[x mm, y mm, z µm], …] as they were read, once all are.
    ``closing_um`` is the first point read again at the end; ``plate_um`` what the plate it was read on is flat within.
    ``seen`` is what somebody saw the wheel leave: place by number → ground or not, ``seen_depth_um`` below the high
    point. ``count`` and ``range_um`` are what the whole map comes to, for lists. Nothing of a map is thrown away.
    """

    __tablename__ = "surface_map"
    __table_args__ = (
        one_of("state", MAP_STATES),
        one_of("frame", FRAMES),
        CheckConstraint("(chuck_id is null) <> (job_id is null)", name="of"),
        CheckConstraint("state = 'taking' or points is not null", name="points"),
        Index("ix_surface_map_job", "job_id", "id"),
        TABLE_OPTIONS,
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    key: Mapped[str] = mapped_column(String(36), unique=True)
    version: Mapped[int] = mapped_column(default=1, server_default="1")
    chuck_id: Mapped[int | None] = mapped_column(ForeignKey("chuck.id"))
    job_id: Mapped[int | None] = mapped_column(ForeignKey("job.id"))
    piece: Mapped[int | None]
    surface: Mapped[int | None]
    frame: Mapped[str] = mapped_column(String(10))
    layout: Mapped[str | None] = mapped_column(MEDIUMTEXT, deferred=True, deferred_group="whole")
    points: Mapped[str | None] = mapped_column(LONGTEXT, deferred=True, deferred_group="whole")
    closing_um: Mapped[Decimal | None] = mapped_column(Numeric(12, 4))
    plate_um: Mapped[Decimal] = mapped_column(Numeric(7, 3), default=Decimal(0), server_default="0")
    state: Mapped[str] = mapped_column(String(10))
    note: Mapped[str] = mapped_column(String(500), default="", server_default="")
    seen: Mapped[str] = mapped_column(Text, default="")
    seen_depth_um: Mapped[Decimal | None] = mapped_column(Numeric(9, 3))
    count: Mapped[int | None]
    range_um: Mapped[Decimal | None] = mapped_column(Numeric(12, 4))
    taken_at: Mapped[Moment]
    by_id: Mapped[int | None] = mapped_column(ForeignKey("person.id"))
    instrument_id: Mapped[int | None] = mapped_column(ForeignKey("instrument.id"))

    by: Mapped[Person | None] = relationship(lazy="joined")
    instrument: Mapped[InstrumentRow | None] = relationship(lazy="joined")
    taken: Mapped[list["MapReadingRow"]] = relationship(order_by="MapReadingRow.id")

    __mapper_args__ = {"version_id_col": version}

    def readings(self) -> list[list[float]]:
        """Return the points with the drift shared."""
        return self.whole.level

    @property
    def places(self) -> Layout:
        """Where it is read, and its patches."""
        kept = json.loads(self.layout or "{}")
        return Layout(tuple(Place(x, y, patch) for x, y, patch in kept["places"]), tuple(kept.get("patches", ())))

    @property
    def taking(self) -> Taking:
        """How far it is taken: the newest reading of each place."""
        return Taking(self.places, {each.number: each.value_um for each in self.taken})

    @cached_property
    def whole(self) -> SurfaceMap:
        """The whole map, once it is taken: what was read never changes, so it is read from the table once."""
        key = self.key, self.taken_at
        known = _wholes.get(key)
        if known is None:
            known = _wholes[key] = self._read()
            while len(_wholes) > KEPT:
                _wholes.popitem(last=False)
        return known

    def _read(self) -> SurfaceMap:
        frame: Frame = "plate" if self.frame == "plate" else "machine"
        points = tuple((float(x), float(y), float(z)) for x, y, z in json.loads(self.points or "[]"))
        kept = json.loads(self.layout or "{}")
        closing = None if self.closing_um is None else float(self.closing_um)
        patches = tuple(kept.get("patches", ()))
        patch_of = tuple(int(patch) for _, _, patch in kept["places"]) if patches else ()
        return SurfaceMap(frame, points, closing, patch_of, patches)

    @property
    def seen_places(self) -> dict[int, bool]:
        """What somebody saw, by place: ground or not."""
        return {int(place): bool(ground) for place, ground in json.loads(self.seen or "{}").items()}


class MapReadingRow(OnceRow, Base):
    """One reading of a map on its way; the newest of a place counts, those before it stay. ``entry_id`` is made by the
    sender: sending it again keeps nothing. ``source`` is empty for a typed one, else the line as the gauge sent it."""

    __tablename__ = "map_reading"
    __table_args__ = (
        Index("ix_map_reading_map", "map_id", "id"),
        CheckConstraint("number >= 0", name="number"),
        TABLE_OPTIONS,
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    map_id: Mapped[int] = mapped_column(ForeignKey("surface_map.id"))
    number: Mapped[int]
    value_um: Mapped[Decimal] = mapped_column(Numeric(12, 4))
    source: Mapped[str] = mapped_column(String(80), default="", server_default="")
    at: Mapped[Moment]
    by_id: Mapped[int] = mapped_column(ForeignKey("person.id"))
