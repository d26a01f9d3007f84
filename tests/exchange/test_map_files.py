"""Maps as files: what is written reads back bit by bit, and what is no map gets a sentence."""

import hashlib
import io
import json
import random
import zipfile
from collections.abc import Callable
from datetime import UTC, datetime
from xml.etree import ElementTree

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from openpyxl import Workbook, load_workbook

from zesty_lark.core.measure.maps.surface_map import SurfaceMap
from zesty_lark.exchange.maps.files import FORMATS, read_map
from zesty_lark.exchange.maps.record import MapFileError, MapRecord
from zesty_lark.exchange.maps.x3p import DATA, HEAD, OWN, SUMS, read_x3p, write_x3p
from zesty_lark.exchange.xml_parts import XmlError, XmlLimits, check_elements, parsed

draw = random.Random(5)
GRID = tuple((7.25 * x, 4.5 * y, draw.uniform(-9, 9)) for y in range(4) for x in range(5))
WALKED = tuple(GRID[row * 5 + (x if row % 2 == 0 else 4 - x)] for row in range(4) for x in range(5))
SCATTERED = tuple((draw.uniform(0, 88), draw.uniform(0, 54), draw.uniform(-5, 5)) for _ in range(30))
PATCHED = SurfaceMap("plate", SCATTERED, None, tuple(number % 2 for number in range(30)), ("left, rail", "=right"))
AT = datetime(2026, 11, 26, 9, 30, tzinfo=UTC)


def record(whole: SurfaceMap) -> MapRecord:
    return MapRecord(whole, "TR-101 face 2", AT, "Bryn Tallow", "Lever indicator L1")


MAPS = {
    "grid": SurfaceMap("plate", GRID, 0.1),
    "walked to and fro": SurfaceMap("machine", WALKED, -0.30000000000000004),
    "scattered": SurfaceMap("machine", SCATTERED),
    "patches": PATCHED,
}


EXACT = sorted(set(FORMATS) - {"xlsx"})
"""A workbook keeps sixteen figures of a number."""


@pytest.mark.parametrize("kind", EXACT)
@pytest.mark.parametrize("name", MAPS)
def test_a_map_comes_back_from_every_kind_of_file_bit_by_bit(kind: str, name: str) -> None:
    whole = MAPS[name]
    back = read_map(f"map.{kind}", FORMATS[kind].write(record(whole)))
    assert back.whole == whole and back.frame_known
    assert np.asarray(back.whole.points).tobytes() == np.asarray(whole.points).tobytes()
    if kind in ("json", "x3p"):
        assert back.taken_at == AT and back.by == "Bryn Tallow"


@settings(max_examples=60, deadline=None)
@given(st.lists(st.floats(-1e6, 1e6, allow_subnormal=False), min_size=4, max_size=4), st.sampled_from(EXACT))
def test_no_height_loses_its_last_bit(heights: list[float], kind: str) -> None:
    points = tuple(
        (x, y, z) for (x, y), z in zip(((0.0, 0.0), (1 / 3, 0.0), (0.0, 0.7), (1 / 3, 0.7)), heights, strict=True)
    )
    back = read_map(f"m.{kind}", FORMATS[kind].write(record(SurfaceMap("plate", points))))
    assert [repr(z) for _, _, z in back.whole.points] == [repr(z) for _, _, z in points]


@pytest.mark.parametrize("name", MAPS)
def test_a_workbook_keeps_all_that_a_gauge_can_show(name: str) -> None:
    whole = MAPS[name]
    back = read_map("map.xlsx", FORMATS["xlsx"].write(record(whole))).whole
    assert back.frame == whole.frame and back.patches == whole.patches and back.patch_of == whole.patch_of
    assert np.asarray(back.points) == pytest.approx(np.asarray(whole.points), rel=1e-15, abs=1e-15)
    assert back.closing_um == pytest.approx(whole.closing_um)


def parts(data: bytes) -> dict[str, bytes]:
    with zipfile.ZipFile(io.BytesIO(data)) as packed:
        return {name: packed.read(name) for name in packed.namelist()}


def packed(**members: bytes) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, part in members.items():
            archive.writestr(name.replace("__", "/").replace("_dot_", "."), part)
    return out.getvalue()


def test_an_x3p_is_what_the_standard_says_a_reader_of_its_own_finds_in_it() -> None:
    """Read by hand, from the standard's own words: no part of ours is asked."""
    made = parts(write_x3p(record(MAPS["walked to and fro"])))
    root = ElementTree.fromstring(made[HEAD])
    assert root.tag == "{http://www.opengps.eu/2008/ISO5436_2}ISO5436_2"
    assert root.findtext("Record1/FeatureType") == "SUR"
    columns, rows = (int(root.findtext(f"Record3/MatrixDimension/Size{axis}") or 0) for axis in "XY")
    heights = np.frombuffer(made[root.findtext("Record3/DataLink/PointDataLink") or ""], "<f8").reshape(rows, columns)
    step = float(root.findtext("Record1/Axes/CX/Increment") or 0)
    assert (columns, rows) == (5, 4) and step == pytest.approx(7.25e-3)
    wanted = np.array([z for _, _, z in GRID]).reshape(4, 5) * 1e-6
    assert heights == pytest.approx(wanted, rel=1e-12), "metres, a row each y, the front row first"
    assert root.findtext("Record3/DataLink/MD5ChecksumPointData") == hashlib.md5(made[DATA]).hexdigest()
    assert made[SUMS].decode() == f"{hashlib.md5(made[HEAD]).hexdigest()} *{HEAD}\n"
    cloud = ElementTree.fromstring(parts(write_x3p(record(MAPS["scattered"])))[HEAD])
    assert cloud.findtext("Record1/FeatureType") == "PCL" and cloud.findtext("Record3/ListDimension") == "30"


def test_an_x3p_of_another_maker_is_read_without_our_part() -> None:
    made = parts(write_x3p(record(MAPS["grid"])))
    back = read_x3p(packed(**{HEAD.replace(".", "_dot_"): made[HEAD], "bindata__data_dot_bin": made[DATA]}))
    assert not back.frame_known and back.whole.closing_um is None
    assert np.asarray(back.whole.points) == pytest.approx(np.asarray(GRID), rel=1e-9)


def changed(old: bytes, new: bytes, part: str = HEAD) -> Callable[[dict[str, bytes]], dict[str, bytes]]:
    def change(made: dict[str, bytes]) -> dict[str, bytes]:
        assert old in made[part], old
        return made | {part: made[part].replace(old, new)}

    return change


def with_heights(values: list[float]) -> Callable[[dict[str, bytes]], dict[str, bytes]]:
    def change(made: dict[str, bytes]) -> dict[str, bytes]:
        data = np.array(values).astype("<f8").tobytes()
        digest = hashlib.md5(data).hexdigest().encode()
        head = made[HEAD].replace(hashlib.md5(made[DATA]).hexdigest().encode(), digest)
        return {name: part for name, part in made.items() if name != OWN} | {DATA: data, HEAD: head}

    return change


def invalid(made: dict[str, bytes]) -> dict[str, bytes]:
    link = b"</PointDataLink><ValidPointsLink>bindata/valid.bin</ValidPointsLink>"
    return made | {HEAD: made[HEAD].replace(b"</PointDataLink>", link), "bindata/valid.bin": b"\xff\xfd\x0f"}


LAUGHS = (
    b'<?xml version="1.0"?><!DOCTYPE x [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;&a;&a;">'
    b'<!ENTITY c "&b;&b;&b;&b;&b;">]><x>&c;</x>'
)
OUTSIDE = b'<?xml version="1.0"?><!DOCTYPE x [<!ENTITY a SYSTEM "file:///etc/passwd">]><x>&a;</x>'


@pytest.mark.parametrize(
    ("change", "says"),
    [
        (lambda made: made | {HEAD: LAUGHS}, "entities"),
        (lambda made: made | {HEAD: OUTSIDE}, "entities"),
        (lambda made: made | {HEAD: b"<x"}, "no XML"),
        (lambda made: made | {HEAD: b"<x/>"}, "lacks Record1/FeatureType"),
        (lambda made: {name: part for name, part in made.items() if name != HEAD}, "no main.xml"),
        (lambda made: {name: part for name, part in made.items() if name != DATA}, "no bindata/data.bin"),
        (changed(b"<SizeX>5<", b"<SizeX>500000000<"), "at most are read"),
        (changed(b"<SizeX>5<", b"<SizeX>-5<"), "no single surface"),
        (changed(b"<SizeX>5<", b"<SizeX>many<"), "number of points"),
        (changed(b"<SizeX>5<", b"<SizeX>6<"), "as many heights"),
        (changed(b"<SizeZ>1<", b"<SizeZ>3<"), "no single surface"),
        (changed(b"SUR", b"PRF"), "not a surface"),
        (changed(b"<AxisType>I<", b"<AxisType>Z<"), "kind that is not read"),
        (changed(b"<AxisType>A<", b"<AxisType>I<"), "CZ"),
        (changed(b"<Increment>0.00725<", b"<Increment>-1<"), "usable step"),
        (changed(b"<Increment>0.00725<", b"<Increment>nan<"), "usable step"),
        (changed(b"bindata/data.bin", b"../../etc/passwd"), "no ../../etc/passwd"),
        (lambda made: made | {DATA: made[DATA][:-8] + b"\0" * 8}, "checksum"),
        (with_heights([float("nan")] * 3 + [0.0] * 17), "3 points of this file have no height"),
        (with_heights([float("inf")] + [0.0] * 19), "no height"),
        (with_heights([9e9] + [0.0] * 19), "beyond any surface"),
        (invalid, "1 points of this file have no height"),
        (changed(b'"closing_um": 0.1', b'"closing_um": NaN', OWN), "no map file"),
        (changed(b'"frame": "plate"', b'"frame": "sky"', OWN), "no map file"),
    ],
)
def test_an_x3p_that_is_none_gets_a_sentence(change: Callable[[dict[str, bytes]], dict[str, bytes]], says: str) -> None:
    made = change(parts(write_x3p(record(MAPS["grid"]))))
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, part in made.items():
            archive.writestr(name, part)
    with pytest.raises(MapFileError, match=says):
        read_map("map.x3p", out.getvalue())


def test_an_x3p_whose_parts_do_not_agree_is_refused() -> None:
    made = parts(write_x3p(record(MAPS["grid"])))
    own = json.loads(made[OWN])
    own["points"][3][2] += 1.0
    made[OWN] = json.dumps(own).encode()
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        for name, part in made.items():
            archive.writestr(name, part)
    with pytest.raises(MapFileError, match="do not agree"):
        read_x3p(out.getvalue())


def bomb(name: str) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr(name, b"\0" * (64 * 1024 * 1024))
    return out.getvalue()


def lying_bomb() -> bytes:
    """Says that it is small, and is not."""
    data = bytearray(bomb("xl/workbook.xml"))
    size = (64 * 1024 * 1024).to_bytes(4, "little")
    at = data.index(size)
    while at != -1:
        data[at : at + 4] = (1000).to_bytes(4, "little")
        at = data.find(size)
    return bytes(data)


@pytest.mark.parametrize("kind", ["x3p", "xlsx"])
@pytest.mark.parametrize(
    "make",
    [
        lambda: bomb("main.xml"),
        lambda: bomb("xl/workbook.xml"),
        lying_bomb,
        lambda: b"PK\x03\x04",
        lambda: b"hello",
        lambda: b"\0" * 400,
    ],
)
def test_a_packed_file_that_grows_beyond_measure_or_is_none_is_not_read(kind: str, make: Callable[[], bytes]) -> None:
    with pytest.raises(MapFileError):
        read_map(f"map.{kind}", make())


ROW = "frame,patch,kind,x_mm,y_mm,z_um"


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("x,y,z\n1,2,3", "first row"),
        (f"{ROW}\nplate,,point,0,0,nan", "no number"),
        (f"{ROW}\nplate,,point,0,0,1e999", "no number"),
        (f"{ROW}\nplate,,point,0,0", "5 cells"),
        (f"{ROW}\nplate,,spot,0,0,1", "neither a point"),
        (f"{ROW}\nplate,,point,0,0,1\nmachine,,point,1,0,1", "one frame"),
        (f"{ROW}\nplate,,point,0,0,1\nplate,,point,1,0,1", "no map"),
        (f"{ROW}\n" + "\n".join(f"plate,,point,{n},{n},1" for n in range(4)), "no map"),
        (f"{ROW}\nplate,,point,0,0,99999999", "beyond"),
        (f'{ROW}\nplate,,point,"{"9" * 500}",0,1', "CSV"),
    ],
)
def test_a_table_that_is_no_map_names_what_is_wrong(text: str, says: str) -> None:
    with pytest.raises(MapFileError, match=says):
        read_map("map.csv", text.encode())
    book = Workbook()
    for row in text.splitlines():
        book.active.append([float(cell) if cell.replace(".", "").isdigit() else cell for cell in row.split(",")])  # type: ignore[union-attr]
    out = io.BytesIO()
    book.save(out)
    if says != "CSV":
        with pytest.raises(MapFileError):
            read_map("map.xlsx", out.getvalue())


@pytest.mark.parametrize(
    ("name", "data", "says"),
    [
        ("map.exe", b"x", "ends in"),
        ("map", b"x", "ends in"),
        ("map.csv", b"", "empty"),
        ("map.csv", b"\xff\xfe\x00", "CSV"),
        ("map.json", b"{", "no map file"),
        ("map.json", b'{"format": "zesty-lark map 1", "frame": "plate", "points": [[0,0,NaN]]}', "no map file"),
        ("map.json", b'{"format": "zesty-lark map 1", "frame": "plate", "points": [[0,0,1e999]]}', "no map file"),
    ],
)
def test_a_file_that_is_no_map_gets_a_sentence(name: str, data: bytes, says: str) -> None:
    with pytest.raises(MapFileError, match=says):
        read_map(name, data)


def test_a_workbook_has_no_formula_whatever_a_patch_is_called() -> None:
    book = load_workbook(io.BytesIO(FORMATS["xlsx"].write(record(PATCHED))))
    cells = [cell for row in book["map"].iter_rows() for cell in row]
    assert all(cell.data_type != "f" for cell in cells) and "'=right" in {cell.value for cell in cells}


def test_hundred_thousand_points_go_out_and_come_back() -> None:
    points = tuple((float(x), float(y), ((x * y) % 97) / 10) for y in range(250) for x in range(400))
    whole = SurfaceMap("machine", points)
    assert read_x3p(write_x3p(record(whole))).whole.points == points


@pytest.mark.parametrize(
    ("head", "says"),
    [
        (b"<a>" + b"<b/>" * 300_000 + b"</a>", "over 1024 kB"),
        (b"<a>" + b"<b/>" * 3_000 + b"</a>", "more than 2,000 elements"),
        (b"<a>" * 500 + b"</a>" * 500, "more than 20 deep"),
        (b'<!DOCTYPE a [<!ENTITY b "c">]><a>&b;</a>', "entities of its own"),
        (b"<a", "no XML"),
        (b'<?xml version="1.0" encoding="none"?><a/>', "no XML"),
        (b"\x00\x01\x02", "no XML"),
    ],
)
def test_a_head_of_nothing_but_elements_is_refused_before_it_is_a_tree(head: bytes, says: str) -> None:
    with pytest.raises(MapFileError, match=says):
        read_x3p(packed(main_dot_xml=head, bindata__data_dot_bin=b""))


@pytest.mark.parametrize(
    ("part", "text", "says"),
    [
        ("xl/styles.xml", b"<styleSheet>" + b"<xf/>" * 200_000 + b"</styleSheet>", "more than 10,000 elements"),
        ("xl/workbook.xml", b"<workbook>" + b"<definedName/>" * 50_000 + b"</workbook>", "more than 10,000 elements"),
        ("xl/worksheets/sheet1.xml", b"<a>" * 40 + b"</a>" * 40, "more than 12 deep"),
        ("xl/worksheets/sheet1.xml", b'<!DOCTYPE a [<!ENTITY b "c">]><a>&b;</a>', "entities"),
        ("xl/_rels/workbook.xml.rels", b"<no", "no XML"),
    ],
)
def test_a_workbook_of_nothing_but_elements_is_refused_before_it_is_opened(part: str, text: bytes, says: str) -> None:
    whole = FORMATS["xlsx"].write(record(MAPS["grid"]))
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(whole)) as told, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as made:
        for name in told.namelist():
            made.writestr(name, text if name == part else told.read(name))
    with pytest.raises(MapFileError, match=says):
        read_map("map.xlsx", out.getvalue())


def test_elements_are_counted_as_they_come() -> None:
    """The limit is met before the whole text is: what comes after is not looked at."""
    limits = XmlLimits(elements=3, depth=2)
    check_elements(b"<a><b/><b/></a>", limits)
    assert [each.tag for each in parsed(b"<a><b/><b/></a>", limits)] == ["b", "b"]
    for text in (b"<a><b/><b/><b/>broken", b"<a><b><c/>broken"):
        for reads in (check_elements, parsed):
            with pytest.raises(XmlError, match="more than"):
                reads(text, limits)
