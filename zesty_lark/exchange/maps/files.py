"""A map's file by its kind."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from zesty_lark.exchange.maps.as_json import read_json, write_json
from zesty_lark.exchange.maps.record import MapFileError, MapRecord
from zesty_lark.exchange.maps.tables import read_csv, read_xlsx, write_csv, write_xlsx
from zesty_lark.exchange.maps.x3p import read_x3p, write_x3p


@dataclass(frozen=True)
class Format:
    """How a kind of file is written and read, and its media type."""

    write: Callable[[MapRecord], bytes]
    read: Callable[[bytes], MapRecord]
    media: str


FORMATS: Mapping[str, Format] = {
    "csv": Format(write_csv, read_csv, "text/csv; charset=utf-8"),
    "json": Format(write_json, read_json, "application/json"),
    "xlsx": Format(write_xlsx, read_xlsx, "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"),
    "x3p": Format(write_x3p, read_x3p, "application/x-x3p"),
}


def read_map(name: str, data: bytes) -> MapRecord:
    """Read a map from a file of one of the known kinds, by the end of its name.

    Raises
    ------
    MapFileError
        If it is of no such kind, or no map.
    """
    kind = FORMATS.get(name.rpartition(".")[2].lower())
    if kind is None:
        raise MapFileError("A map is read from a file whose name ends in .csv, .json, .xlsx or .x3p.")
    if not data:
        raise MapFileError("The file is empty.")
    return kind.read(data)
