"""A connection that reads what the columns of a result are only once: the server tells it anew with every answer, in a
packet a column, which takes longer to read than a short answer's rows."""

from functools import lru_cache
from typing import Any

from pymysql.connections import Connection
from pymysql.protocol import FieldDescriptorPacket, MysqlPacket

MOST_COLUMNS = 4096


@lru_cache(maxsize=MOST_COLUMNS)
def _column(told: bytes, encoding: str) -> FieldDescriptorPacket:
    """What a packet tells of a column; nobody changes it."""
    return FieldDescriptorPacket(told, encoding)


class QuickConnection(Connection):
    """PyMySQL's own, but for what it reads of columns."""

    def _read_packet(self, packet_type: Any = MysqlPacket) -> Any:
        read = _column if packet_type is FieldDescriptorPacket else packet_type
        return super()._read_packet(read)  # type: ignore[no-untyped-call]
