"""What reads a machine while it works: a digital readout, a power meter."""

from typing import ClassVar

from sqlalchemy import ForeignKey, String, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from zesty_lark.core.measure.sensors import SENSOR_KINDS, SENSOR_UNITS, Sensor
from zesty_lark.store.models.base import TABLE_OPTIONS, Base, ShortText, described, one_of
from zesty_lark.store.models.shop import MachineRow


class SensorRow(Base):
    """A sensor on a machine and how it is connected: of each kind one a machine."""

    describes: ClassVar[type[Sensor]] = Sensor
    __tablename__ = "sensor"
    __table_args__ = (
        UniqueConstraint("machine_id", "kind", name="uq_sensor_machine_kind"),
        one_of("kind", SENSOR_KINDS),
        one_of("sends", SENSOR_UNITS),
        TABLE_OPTIONS,
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    version: Mapped[int] = mapped_column(default=1, server_default="1")
    name: Mapped[ShortText] = mapped_column(String(80), unique=True)
    machine_id: Mapped[int] = mapped_column(ForeignKey("machine.id"))
    kind: Mapped[str] = mapped_column(String(10))
    port: Mapped[str] = mapped_column(String(200))
    baud: Mapped[int] = mapped_column(default=9600, server_default="9600")
    sends: Mapped[str] = mapped_column(String(2))
    asks: Mapped[str] = mapped_column(String(20), default="", server_default="")
    rises: Mapped[bool] = mapped_column(default=True, server_default="1")
    simulated: Mapped[bool] = mapped_column(default=False, server_default="0")

    machine: Mapped[MachineRow] = relationship(lazy="joined", innerjoin=True)

    __mapper_args__ = {"version_id_col": version}

    def to_core(self) -> Sensor:
        """Return the sensor as everything else knows it."""
        return described(self, Sensor)
