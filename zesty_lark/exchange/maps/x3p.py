"""A map as X3P (ISO 25178-72): a zip of an XML head, the heights as doubles in metres, and their checksums.

A full even grid is written as a surface, anything else as a cloud of points. What the format has no place for - the
frame, the order of reading, the closing reading, patches - goes along in a part of our own, which also has the figures
as they were read: metres as doubles do not keep the last bit of a micrometre.
"""

import hashlib
import io
import zipfile
from dataclasses import replace
from datetime import UTC, datetime
from typing import Any
from xml.etree import ElementTree as Tree

import numpy as np
from numpy.typing import NDArray

from zesty_lark.core.measure.maps.bounds import MOST_POINTS
from zesty_lark.core.measure.maps.feather import grid_order
from zesty_lark.exchange.maps.as_json import read_json, write_json
from zesty_lark.exchange.maps.record import MapFileError, MapRecord, checked_map
from zesty_lark.exchange.packed import PackedError, check_packed, member
from zesty_lark.exchange.xml_parts import XmlError, XmlLimits, parsed

NAMESPACE = "http://www.opengps.eu/2008/ISO5436_2"
HEAD, DATA, SUMS, OWN = "main.xml", "bindata/data.bin", "md5checksum.hex", "zesty-lark/map.json"
REVISION = "ISO5436 - 2000"
EVEN = 1e-6
"""Steps of a grid this near to each other, as a share, count as even."""
SAME_UM = 1e-6
AXES = ("CX", "CY", "CZ")
TYPES: dict[str, np.dtype[Any]] = {
    "I": np.dtype("<i2"),
    "L": np.dtype("<i4"),
    "F": np.dtype("<f4"),
    "D": np.dtype("<f8"),
}
MOST_HEAD_BYTES = 1024 * 1024
HEAD_LIMITS = XmlLimits(elements=2_000, depth=20)
MM_A_METRE, UM_A_METRE = 1e3, 1e6
EPOCH = datetime(1980, 1, 1, tzinfo=UTC)
Floats = NDArray[np.float64]


def write_x3p(record: MapRecord) -> bytes:
    """Write a map as X3P."""
    table = np.asarray(record.whole.points, dtype=np.float64)
    grid = _even_grid(table)
    if grid is None:
        data = (table / [MM_A_METRE, MM_A_METRE, UM_A_METRE]).astype("<f8").tobytes()
    else:
        data = (table[grid.reshape(-1), 2] / UM_A_METRE).astype("<f8").tobytes()
    head = _head(record, table, grid, hashlib.md5(data, usedforsecurity=False).hexdigest())
    sums = f"{hashlib.md5(head, usedforsecurity=False).hexdigest()} *{HEAD}\n".encode()
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as packed:
        for name, part in ((HEAD, head), (DATA, data), (SUMS, sums), (OWN, write_json(record))):
            packed.writestr(zipfile.ZipInfo(name, EPOCH.timetuple()[:6]), part, zipfile.ZIP_DEFLATED)
    return out.getvalue()


def _even_grid(table: Floats) -> NDArray[np.intp] | None:
    """The points' numbers as rows of an even grid, where they fill one."""
    order = grid_order(table[:, 0], table[:, 1])
    if order is None:
        return None
    for along in (np.diff(table[order[0], 0]), np.diff(table[order[:, 0], 1])):
        if np.ptp(along) > EVEN * float(np.abs(along).max()):
            return None
    return order


def _head(record: MapRecord, table: Floats, grid: NDArray[np.intp] | None, digest: str) -> bytes:
    Tree.register_namespace("p", NAMESPACE)
    root = Tree.Element(f"{{{NAMESPACE}}}ISO5436_2")
    first = Tree.SubElement(root, "Record1")
    _say(first, "Revision", REVISION)
    _say(first, "FeatureType", "PCL" if grid is None else "SUR")
    axes = Tree.SubElement(first, "Axes")
    starts = [0.0, 0.0] if grid is None else [float(table[grid[0, 0], each]) / MM_A_METRE for each in (0, 1)]
    steps = [1.0, 1.0]
    if grid is not None:
        corner, far = table[grid[0, 0]], table[grid[-1, -1]]
        steps = [
            float((far[each] - corner[each]) / (count - 1)) / MM_A_METRE
            for each, count in ((0, grid.shape[1]), (1, grid.shape[0]))
        ]
    for name, kind, step, start in (
        ("CX", "A" if grid is None else "I", steps[0], starts[0]),
        ("CY", "A" if grid is None else "I", steps[1], starts[1]),
        ("CZ", "A", 1.0, 0.0),
    ):
        axis = Tree.SubElement(axes, name)
        for field, words in (("AxisType", kind), ("DataType", "D"), ("Increment", repr(step)), ("Offset", repr(start))):
            _say(axis, field, words)
    _about(root, record)
    third = Tree.SubElement(root, "Record3")
    if grid is None:
        _say(third, "ListDimension", str(len(table)))
    else:
        size = Tree.SubElement(third, "MatrixDimension")
        for name, count in (("SizeX", grid.shape[1]), ("SizeY", grid.shape[0]), ("SizeZ", 1)):
            _say(size, name, str(count))
    link = Tree.SubElement(third, "DataLink")
    _say(link, "PointDataLink", DATA)
    _say(link, "MD5ChecksumPointData", digest)
    _say(Tree.SubElement(root, "Record4"), "ChecksumFile", SUMS)
    written: bytes = Tree.tostring(root, encoding="UTF-8", xml_declaration=True)
    return written


def _say(parent: Tree.Element, name: str, words: str) -> None:
    Tree.SubElement(parent, name).text = words


def _about(root: Tree.Element, record: MapRecord) -> None:
    second = Tree.SubElement(root, "Record2")
    when = (record.taken_at or EPOCH).isoformat()
    _say(second, "Date", when)
    if record.by:
        _say(second, "Creator", record.by)
    instrument = Tree.SubElement(second, "Instrument")
    for name, words in (
        ("Manufacturer", "not said"),
        ("Model", record.instrument or "not said"),
        ("Serial", "not said"),
        ("Version", "not said"),
    ):
        _say(instrument, name, words)
    _say(second, "CalibrationDate", when)
    probing = Tree.SubElement(second, "ProbingSystem")
    _say(probing, "Type", "Contacting")
    _say(probing, "Identification", record.instrument or "indicator")
    _say(second, "Comment", record.title)


def read_x3p(data: bytes) -> MapRecord:
    """Read a map from X3P.

    Raises
    ------
    MapFileError
        If it is no such file, its sums do not agree, its axes are no surface's, a height is missing, or it is too big.
    """
    try:
        return _read(data)
    except PackedError as error:
        raise MapFileError(str(error)) from error


def _read(data: bytes) -> MapRecord:
    names = {each.filename for each in check_packed(data)}
    if HEAD not in names:
        raise MapFileError(f"This is no X3P file: it has no {HEAD}.")
    points, title = _points(data)
    if OWN in names:
        return _as_written(read_json(member(data, OWN)), points)
    return MapRecord(checked_map(points, "plate"), title=title, frame_known=False)


def _as_written(record: MapRecord, points: list[list[float]]) -> MapRecord:
    """Our own part counts only where the heights in the standard part are the same."""
    own = sorted(map(tuple, record.whole.points))
    other = sorted(map(tuple, points))
    same = len(own) == len(other) and np.allclose(np.asarray(own), np.asarray(other), rtol=1e-9, atol=SAME_UM)
    if not same:
        raise MapFileError(
            "The two parts of this file do not agree: it was changed by something that did not know both."
        )
    return replace(record, frame_known=True)


def _points(data: bytes) -> tuple[list[list[float]], str]:
    root = _parsed(member(data, HEAD))
    kind = _word(root, "Record1/FeatureType")
    if kind not in ("SUR", "PCL"):
        raise MapFileError(f"This file holds “{kind[:10]}”, not a surface: a surface or a cloud of points is read.")
    axes = [_axis(root, name) for name in AXES]
    shape = _shape(root, kind)
    count = shape[0] * shape[1]
    body = member(data, _word(root, "Record3/DataLink/PointDataLink"))
    digest = _word(root, "Record3/DataLink/MD5ChecksumPointData").strip()
    if digest.lower() != hashlib.md5(body, usedforsecurity=False).hexdigest():
        raise MapFileError("The heights in this file do not agree with their checksum: it is damaged.")
    _refuse_invalid(data, root, count)
    title = root.findtext("Record2/Comment") or ""
    if kind == "PCL":
        return _cloud(body, axes, count), title[:200]
    return _surface(body, axes, shape), title[:200]


def _refuse_invalid(data: bytes, root: Tree.Element, count: int) -> None:
    """A part of its own may say which points were never measured: a bit each."""
    link = root.findtext("Record3/DataLink/ValidPointsLink")
    if link is None or not link.strip():
        return
    bits = np.unpackbits(np.frombuffer(member(data, link.strip()), dtype=np.uint8), bitorder="little")[:count]
    missing = count - int(bits.sum())
    if missing:
        raise MapFileError(f"{missing:,} points of this file have no height: fill them, or leave them out.")


def _parsed(text: bytes) -> Tree.Element:
    if len(text) > MOST_HEAD_BYTES:
        raise MapFileError(f"The head of this file is over {MOST_HEAD_BYTES // 1024} kB: it is not read.")
    try:
        return parsed(text, HEAD_LIMITS)
    except XmlError as error:
        raise MapFileError(f"The head of this file is not read: {error}") from error


def _word(root: Tree.Element, path: str) -> str:
    found = root.findtext(path)
    if found is None or not found.strip():
        raise MapFileError(f"The head of this file lacks {path}.")
    return found.strip()


def _axis(root: Tree.Element, name: str) -> tuple[str, np.dtype[Any], float, float]:
    """An axis: incremental or absolute, its numbers' type, its step and start [m]."""
    path = f"Record1/Axes/{name}"
    kind = _word(root, f"{path}/AxisType")
    type_ = (root.findtext(f"{path}/DataType") or "D").strip()
    if kind not in ("I", "A") or type_ not in TYPES or (name == "CZ" and kind != "A"):
        raise MapFileError(f"The axis {name} of this file is of a kind that is not read.")
    step, start = (
        _number(root.findtext(f"{path}/{field}"), default) for field, default in (("Increment", 1.0), ("Offset", 0.0))
    )
    if not np.isfinite(step) or not np.isfinite(start) or (kind == "I" and step <= 0):
        raise MapFileError(f"The axis {name} of this file has no usable step.")
    return kind, TYPES[type_], step, start


def _number(words: str | None, default: float) -> float:
    if words is None or not words.strip():
        return default
    try:
        return float(words)
    except ValueError:
        return float("nan")


def _shape(root: Tree.Element, kind: str) -> tuple[int, int]:
    """Columns and rows; of a cloud its points and 1."""
    paths = ["Record3/ListDimension"] if kind == "PCL" else [f"Record3/MatrixDimension/Size{axis}" for axis in "XYZ"]
    try:
        counts = [int(_word(root, path)) for path in paths]
    except ValueError as error:
        raise MapFileError("The head of this file gives no usable number of points.") from error
    if any(each < 1 for each in counts) or (kind == "SUR" and counts[2] != 1):
        raise MapFileError("This file has no single surface.")
    columns, rows = (counts[0], 1) if kind == "PCL" else (counts[0], counts[1])
    if columns * rows > MOST_POINTS:
        raise MapFileError(f"This map has {columns * rows:,} points; {MOST_POINTS:,} at most are read.")
    return columns, rows


def _values(body: bytes, axis: tuple[str, np.dtype[Any], float, float], count: int, *, stride: int, at: int) -> Floats:
    """One axis's numbers out of records of ``stride`` bytes, in metres."""
    _, type_, step, start = axis
    whole = np.frombuffer(body, dtype=np.uint8).reshape(count, stride)
    raw = np.ascontiguousarray(whole[:, at : at + type_.itemsize]).view(type_).reshape(count).astype(np.float64)
    scaled: Floats = raw * step + start
    return scaled


def _cloud(body: bytes, axes: list[tuple[str, np.dtype[Any], float, float]], count: int) -> list[list[float]]:
    if any(axis[0] != "A" for axis in axes):
        raise MapFileError("The axes of this cloud of points are not absolute ones.")
    stride = sum(axis[1].itemsize for axis in axes)
    if len(body) != count * stride:
        raise MapFileError("This file has not as many heights as it says.")
    places, at = [], 0
    for axis in axes:
        places.append(_values(body, axis, count, stride=stride, at=at))
        at += axis[1].itemsize
    table = np.column_stack([places[0] * MM_A_METRE, places[1] * MM_A_METRE, places[2] * UM_A_METRE])
    return _whole(table)


def _surface(
    body: bytes, axes: list[tuple[str, np.dtype[Any], float, float]], shape: tuple[int, int]
) -> list[list[float]]:
    (x_kind, _, x_step, x_start), (y_kind, _, y_step, y_start), z = axes
    columns, rows = shape
    if x_kind != "I" or y_kind != "I":
        raise MapFileError("The axes of this surface are not even ones.")
    if len(body) != columns * rows * z[1].itemsize:
        raise MapFileError("This file has not as many heights as it says.")
    heights = _values(body, z, columns * rows, stride=z[1].itemsize, at=0)
    x = np.tile(x_start + x_step * np.arange(columns), rows)
    y = np.repeat(y_start + y_step * np.arange(rows), columns)
    return _whole(np.column_stack([x * MM_A_METRE, y * MM_A_METRE, heights * UM_A_METRE]))


def _whole(table: Floats) -> list[list[float]]:
    missing = int((~np.isfinite(table).all(axis=1)).sum())
    if missing:
        raise MapFileError(f"{missing:,} points of this file have no height: fill them, or leave them out.")
    points: list[list[float]] = table.tolist()
    return points
