"""The stations of maps and gauges: from laying out to what it proves, and everything refused on the way."""

import io
import re
from decimal import Decimal
from uuid import uuid4

import pytest
from flask import Flask
from sqlalchemy import select
from sqlalchemy.orm import Session

from tests.web.conftest import Browser
from tests.web.test_take_in import fields_of
from zesty_lark.store import jobs, log_rows, maps, shop
from zesty_lark.store.models import ChuckRow, InstrumentRow, SensorRow, SurfaceMapRow, ThingEntryRow

HIDDEN = ("0", "0.4", "1.1", "0.6", "0.2", "0.9")


def key_of(demo: Session, name: str) -> int:
    row = shop.by_name(demo, InstrumentRow, name)
    assert row is not None
    return row.id


def lay_out(browser: Browser, demo: Session, job: str = "TR-133", **more: object) -> str:
    """Lay a map out; its address."""
    browser.get(f"/jobs/{job}/maps")
    fields: dict[str, object] = {
        "piece": "1", "surface": "2", "frame": "plate", "instrument": key_of(demo, "Lever indicator L1"),
        "plate_um": "0.5", "kind": "grid", "columns": "3", "rows": "2", "places": "",
    }  # fmt: skip
    answer = browser.post(f"/jobs/{job}/maps", fields | more)
    assert answer.status_code == 303, browser.page
    return str(answer.headers["Location"])


def read(browser: Browser, where: str, number: int, value: str, **more: object) -> int:
    fields: dict[str, object] = {
        "entry_id": str(uuid4()),
        "number": number,
        "value": value,
        "typed_in": "um",
        "source": "",
    }
    return browser.post(where, fields | more).status_code


def taken(
    browser: Browser, demo: Session, closing: str = "0.1", values: tuple[str, ...] = HIDDEN, **more: object
) -> str:
    where = lay_out(browser, demo, **more)
    for number, value in enumerate((*values, closing)):
        browser.get(where)
        assert read(browser, where, number, value) == 303, browser.page
    browser.get(where)
    return where


def test_a_map_is_laid_out_taken_looked_at_and_logged(bryn: Browser, demo: Session) -> None:
    bryn = Browser(bryn.client.application.test_client()).sign_in("nim")
    where = taken(bryn, demo)
    assert "Plate frame" in bryn.page and "1.07" in bryn.page and "held by" in bryn.page
    assert "Parallel: 0.0" in bryn.page and "Log parallel" in bryn.page
    seen = re.search(r'name="seen" value="(\d+)"', bryn.page)
    assert seen
    sent = {"entry_id": str(uuid4()), "seen": seen[1], "characteristic": "parallel"}
    assert bryn.post(f"{where}/log", sent).status_code == 303
    bryn.get(where)
    assert "It is in the log" in bryn.page
    job = jobs.by_number(demo, "TR-133")
    assert job is not None
    last = log_rows.entries_of(demo, job)[-1]
    assert last.map_key and last.how == "map of 6 points over the plate"  # type: ignore[attr-defined]
    assert (
        bryn.post(f"{where}/log", sent | {"entry_id": str(uuid4()), "characteristic": "thickness"}).status_code == 303
    )
    bryn.get(where)
    assert "proves nothing of the print" in bryn.page


def test_typed_readings_may_be_in_tenths_and_a_slip_is_asked_about(bryn: Browser, demo: Session) -> None:
    where = lay_out(bryn, demo, "TR-101")
    assert read(bryn, where, 0, "1", typed_in="tenths") == 303
    row = maps.by_key(demo, where.rpartition("/")[2])
    assert row is not None and row.taking.readings[0] == Decimal("2.54")
    bryn.get(where)
    assert "Place 2" in bryn.page and re.search(r'<option selected value="tenths"', bryn.page), "remembered"
    assert read(bryn, where, 1, "60") == 200 and "slip of ten" in bryn.page and "Nothing is kept yet" in bryn.page
    demo.expire_all()
    assert row.taking.next == 1
    assert read(bryn, where, 1, "60", sure="y") == 303
    assert read(bryn, where, 2, "far") == 200 and "has to be a number" in bryn.page
    for number in ("9999", "-3", "x"):
        assert read(bryn, where, number, "far") == 200 and "Place 3" in bryn.page, number  # type: ignore[arg-type]
    bryn.get(f"{where}?place=1")
    assert "Place 1" in bryn.page, "a place can be read again"


def test_a_map_that_came_back_wrong_is_refused_with_read_again(bryn: Browser, demo: Session) -> None:
    taken(bryn, demo, closing="1.6", job="TR-101")
    assert "The first point came back +1.6 µm: the map is refused. Read it again." in bryn.page
    assert "Mark what is ground" not in bryn.page


@pytest.mark.parametrize(
    ("fields", "says"),
    [
        ({"piece": "4"}, "no piece 4"),
        ({"surface": "44"}, "no face 44"),
        ({"columns": "1"}, "From 2 to 100"),
        ({"kind": "points", "places": "1 2\n3"}, "Line 2"),
        ({"kind": "points", "places": "1 1\n2 2\n3 3"}, "in a line"),
        ({"kind": "patches", "places": "rail 0 0 80 4 5 1"}, "in a line"),
        ({"kind": "patches", "places": "rail 1 2 3"}, "not a patch"),
        ({"plate_um": "nan"}, "has to be a number"),
        ({"instrument": "999"}, "Not a valid choice"),
    ],
)
def test_a_layout_that_cannot_be_is_answered_beside_it(
    bryn: Browser, demo: Session, fields: dict[str, str], says: str
) -> None:
    bryn.get("/jobs/TR-101/maps")
    whole = {
        "piece": "1", "surface": "2", "frame": "plate", "instrument": key_of(demo, "Lever indicator L1"),
        "plate_um": "0.5", "kind": "grid", "columns": "3", "rows": "2", "places": "",
    }  # fmt: skip
    assert bryn.post("/jobs/TR-101/maps", whole | fields).status_code == 422 and says in bryn.page


def test_a_chuck_is_only_mapped_in_the_machine_s_frame(bryn: Browser, demo: Session) -> None:
    chuck = shop.by_name(demo, ChuckRow, "Chuck A")
    assert chuck is not None
    where = f"/shop/chucks/{chuck.id}/maps"
    bryn.get(where)
    sent = {
        "frame": "plate",
        "instrument": key_of(demo, "Lever indicator L1"),
        "kind": "grid",
        "columns": "3",
        "rows": "3",
    }
    assert bryn.post(where, sent | {"places": ""}).status_code == 422 and "mapped on its machine" in bryn.page
    assert bryn.post(where, sent | {"places": "", "frame": "machine"}).status_code == 303


def test_the_feather_line_walks_down_and_the_share_with_it(bryn: Browser, demo: Session) -> None:
    row = demo.scalars(
        select(SurfaceMapRow).where(SurfaceMapRow.surface == 2, SurfaceMapRow.frame == "machine")
    ).first()
    assert row is not None
    where, shares = f"/jobs/TR-101/maps/{row.key}", []
    for depth in (0, 5, 10, 100):
        bryn.get(f"{where}?depth={depth}")
        found = re.search(r"<strong>(\d+) %</strong> ground", bryn.page)
        assert found and ('class="feather"' in bryn.page) == (depth > 0)
        shares.append(int(found[1]))
    assert shares == sorted(shares) and shares[0] == 0 and shares[-1] == 100
    bryn.get(f"{where}?after=1")
    assert "Cleaned, pass by pass" in bryn.page and "aria-current" in bryn.page
    part = bryn.get(f"{where}?depth=5", headers={"HX-Request": "true"}).get_data(as_text=True)
    assert 'id="map-drawing"' in part and "<html" not in part
    assert bryn.get(f"{where}?depth=nan").status_code == 200 and bryn.get(f"{where}?depth=x").status_code == 200


def test_what_was_seen_is_compared_with_the_map(bryn: Browser, demo: Session) -> None:
    row = demo.scalars(
        select(SurfaceMapRow).where(SurfaceMapRow.surface == 2, SurfaceMapRow.frame == "machine")
    ).first()
    assert row is not None
    where = f"/jobs/TR-101/maps/{row.key}"
    high = max(z for _, _, z in row.whole.level)
    over = {number: z > high - 8.0 for number, (_, _, z) in enumerate(row.whole.level)}
    bryn.get(where)
    sent = {f"place{number}": "1" for number, ground in over.items() if ground}
    assert bryn.post(f"{where}/seen", {"depth": "8", **sent}).status_code == 303
    bryn.get(where)
    assert "Agrees" in bryn.page and "the map can be trusted" in bryn.page and "seen-ground" in bryn.page
    low = [f"place{number}" for number, (x, _, _) in enumerate(row.whole.level) if x < 20]
    assert bryn.post(f"{where}/seen", {"depth": "8", **sent, **dict.fromkeys(low, "1")}).status_code == 303
    bryn.get(where)
    assert "Differs" in bryn.page and "something lifts the part" in bryn.page and "seen-off" in bryn.page
    assert bryn.post(f"{where}/seen", {"depth": "deep"}).status_code == 303
    bryn.get(where)
    assert "Set the feather line there first" in bryn.page


def test_two_maps_of_a_chuck_are_compared(bryn: Browser, demo: Session) -> None:
    chuck = shop.by_name(demo, ChuckRow, "Chuck B")
    assert chuck is not None
    newest, before = maps.of_chuck(demo, chuck)[:2]
    bryn.get(f"/shop/chucks/{chuck.id}/maps/{newest.key}")
    assert f"/against/{before.key}" in bryn.page
    for one, other in ((newest, before), (before, newest)):
        assert bryn.get(f"/shop/chucks/{chuck.id}/maps/{one.key}/against/{other.key}").status_code == 200
        assert "Changed by" in bryn.page and "mean change is taken out" in bryn.page
    assert bryn.get(f"/shop/chucks/{chuck.id}/maps/{newest.key}/against/nothing").status_code == 303


def test_a_chuck_is_due_and_is_ground_with_the_fence_last(bryn: Browser, demo: Session) -> None:
    chuck = shop.by_name(demo, ChuckRow, "Chuck B")
    assert chuck is not None
    bryn.post(f"/shop/chucks/{chuck.id}/grinding", {"entry_id": str(uuid4()), "step": "fence off", "passes": "1"})
    bryn.get(f"/shop/chucks/{chuck.id}/maps")
    assert "TR-140 is up on Chuck B. Take it off first." in bryn.page
    chuck.machine.on_chuck = None
    demo.commit()
    where = f"/shop/chucks/{chuck.id}/maps"
    bryn.get(where)
    assert "It is due for grinding" in bryn.page and "4 light cuts" in bryn.page

    def done(step: str, **more: str) -> str:
        bryn.post(f"/shop/chucks/{chuck.id}/grinding", {"entry_id": str(uuid4()), "step": step, "passes": "1", **more})
        bryn.get(where)
        return bryn.page

    assert "Clean the chuck" in done("fence off")
    assert "First: Clean the chuck" in done("pass")
    done("cleaned")
    found = re.search(r'name="supersedes" value="([\w-]+)"', done("reseated"))
    assert found is not None
    for wrong in ("not-the-last-one", found[1], found[1]):
        undone = {"entry_id": str(uuid4()), "supersedes": wrong}
        assert bryn.post(f"/shop/chucks/{chuck.id}/grinding/undo", undone).status_code == 303
    bryn.get(where)
    assert "Only the last entry is taken back" in bryn.page and "Seat the chuck again" in bryn.page
    done("reseated")
    assert "full contact under all" in done("film").lower()
    assert "part contact only" in done("film", answer="partly")
    for step in ("cleaned", "reseated"):
        done(step)
    done("film", answer="full")
    done("magnet on")
    assert "One light cut" in done("dress")
    done("pass")
    done("spark-out")
    assert "Take the new map first" in done("mapped")
    sent = {"frame": "machine", "pasted": "0 0 0\n600 0 1\n0 200 1\n600 200 0.5", "closing_um": "0"}
    assert bryn.post(f"{where}/bring-in", sent).status_code == 303
    assert "Fit the fence" in done("mapped")
    done("fence on")
    assert "fence ground" in done("fence ground")
    assert "It is due" not in bryn.page


def test_an_apprentice_maps_no_chuck_and_nobody_another_s_job(stranger: Browser, demo: Session) -> None:
    chuck = shop.by_name(demo, ChuckRow, "Chuck B")
    assert chuck is not None
    nim = stranger.sign_in("nim")
    nim.get(f"/shop/chucks/{chuck.id}/maps")
    assert "Lay it out" not in nim.page
    key = maps.of_chuck(demo, chuck)[0].key
    for path in ("", f"/{key}", f"/{key}/withdraw", f"/{key}/seen", "/bring-in"):
        assert nim.post(f"/shop/chucks/{chuck.id}/maps{path}").status_code == 403, path
    assert nim.post(f"/shop/chucks/{chuck.id}/grinding", {"step": "fence off"}).status_code == 403
    assert nim.post(f"/shop/chucks/{chuck.id}/grinding/undo", {}).status_code == 403
    assert "The fence is off: begin" not in nim.page
    assert nim.get(f"/jobs/TR-101/maps/{key}").status_code == 404, "a chuck's map is none of a job's"
    assert nim.post("/jobs/TR-101/maps", {}).status_code == 403


@pytest.mark.parametrize("kind", ["csv", "json", "xlsx", "x3p"])
def test_a_map_goes_out_as_a_file_and_comes_in_again(bryn: Browser, demo: Session, kind: str) -> None:
    row = demo.scalars(
        select(SurfaceMapRow).where(SurfaceMapRow.surface == 2, SurfaceMapRow.frame == "machine")
    ).first()
    assert row is not None
    answer = bryn.get(f"/jobs/TR-101/maps/{row.key}/file.{kind}")
    assert answer.status_code == 200 and f".{kind}" in answer.headers["Content-Disposition"]
    bryn.get("/jobs/TR-101/maps/bring-in")
    sent = {
        "piece": "1",
        "surface": "2",
        "frame": "plate",
        "plate_um": "1",
        "file": (io.BytesIO(answer.data), f"m.{kind}"),
    }
    back = bryn.post("/jobs/TR-101/maps/bring-in", sent, content_type="multipart/form-data")
    assert back.status_code == 303, bryn.page
    new = maps.by_key(demo, str(back.headers["Location"]).rpartition("/")[2])
    assert new is not None and new.frame == "machine" and new.whole.closing_um == row.whole.closing_um
    assert new.whole.points == row.whole.points


@pytest.mark.parametrize(
    ("name", "data", "says"),
    [("m.x3p", b"PK\x03\x04", "cannot be read"), ("m.doc", b"x", "ends in"), ("m.csv", b"a,b", "first row")],
)
def test_a_file_that_is_no_map_changes_nothing(bryn: Browser, demo: Session, name: str, data: bytes, says: str) -> None:
    before = len(demo.scalars(select(SurfaceMapRow.id)).all())
    bryn.get("/jobs/TR-101/maps/bring-in")
    sent = {"piece": "1", "surface": "2", "frame": "plate", "plate_um": "1", "file": (io.BytesIO(data), name)}
    assert bryn.post("/jobs/TR-101/maps/bring-in", sent, content_type="multipart/form-data").status_code == 422
    assert (
        says in bryn.page.replace("can be read", "cannot be read")
        and len(demo.scalars(select(SurfaceMapRow.id)).all()) == before
    )


def test_five_lifts_are_judged_and_the_way_back_is_kept(bryn: Browser, demo: Session) -> None:
    key = key_of(demo, "Lever indicator L1")
    back = "/jobs/TR-101/measure"
    bryn.get(f"/gauges/{key}?back={back}")
    lifts = {f"lift{number}": value for number, value in enumerate(("1", "1.5", "1", "0.5", "1"), start=1)}
    sent = {"entry_id": str(uuid4()), "typed_in": "um", "back": back}
    assert bryn.post(f"/gauges/{key}/repeat", sent | lifts).headers["Location"].endswith(back)
    wild = {"entry_id": str(uuid4())} | {"typed_in": "um", "back": back} | lifts | {"lift5": "9"}
    assert f"/gauges/{key}" in bryn.post(f"/gauges/{key}/repeat", wild).headers["Location"]
    bryn.get(f"/gauges/{key}")
    assert "clean granite" in bryn.page and "it can be measured" in bryn.page
    assert bryn.post(f"/gauges/{key}/repeat", sent | lifts | {"lift3": "x"}).status_code == 422
    evil = sent | lifts | {"entry_id": str(uuid4()), "back": "//evil.example/jobs/"}
    assert bryn.post(f"/gauges/{key}/repeat", evil).headers["Location"].startswith(f"/gauges/{key}")
    assert len(demo.scalars(select(ThingEntryRow).where(ThingEntryRow.thing == "gauge")).all()) == 3


def test_a_zero_is_kept_with_its_gauge(bryn: Browser, demo: Session) -> None:
    key = key_of(demo, "Micrometer 0–25 M2")
    bryn.get(f"/gauges/{key}")
    for shown, status in (("1.5", 303), ("4", 303), ("x", 422)):
        assert bryn.post(f"/gauges/{key}/zero", {"entry_id": str(uuid4()), "shown_um": shown}).status_code == status
    bryn.get(f"/gauges/{key}")
    assert "Zero within +1.50 µm, 2.00 allowed" in bryn.page and "It shows +4.00 µm at zero" in bryn.page


def test_which_way_a_gauge_reads_is_tried(bryn: Browser, demo: Session) -> None:
    key = key_of(demo, "Simulated gauge")
    bryn.get(f"/gauges/{key}")
    for before, lifted, status in (("1", "1.2", 422), ("1", "9", 303), ("9", "1", 303)):
        sent = {"entry_id": str(uuid4()), "before_um": before, "lifted_um": lifted}
        assert bryn.post(f"/gauges/{key}/direction", sent).status_code == status
    bryn.get(f"/gauges/{key}")
    assert "It falls when the probe is lifted" in bryn.page and "It rises" in bryn.page


def test_a_gauge_that_is_typed_has_no_live_readings(bryn: Browser, demo: Session) -> None:
    assert bryn.get(f"/gauges/{key_of(demo, 'Lever indicator L1')}/live").status_code == 404
    assert bryn.get("/gauges/999").status_code == 404


def test_an_unplugged_gauge_is_told_of_and_lets_its_place_go(bryn: Browser, demo: Session) -> None:
    from zesty_lark.running.mariadb import free_port

    gauge = shop.by_name(demo, InstrumentRow, "Simulated gauge")
    assert gauge is not None
    gauge.port = f"socket://127.0.0.1:{free_port()}"
    demo.commit()
    for _ in range(12):
        told = bryn.client.get(f"/gauges/{gauge.id}/live").get_data(as_text=True)
        assert '"fault": "unplugged"' in told and "cannot be reached" in told


@pytest.mark.parametrize(
    ("kind", "values", "says"),
    [
        ("gauge", {"port": "spy://x?file=/tmp/x"}, "no address readings come from"),
        ("gauge", {"port": "socket://192.0.2.1:9", "simulated": "y"}, "listens on this machine"),
        ("blocks", {"missing": "1.0055"}, "no block of 1.0055"),
        ("blocks", {"set_name": "own"}, "Which blocks"),
    ],
)
def test_what_a_gauge_or_block_set_cannot_be_is_said_beside_it(
    bryn: Browser, kind: str, values: dict[str, str], says: str
) -> None:
    dates = {"name": "New one", "unit": "mm", "calibrated_on": "2026-01-01", "due_on": "2027-01-01"}
    lengths = {
        "least_mm": "0", "most_mm": "0.2", "resolution_mm": "0.001", "error_limit_mm": "0.001",
        "calibration_u_mm": "0.001", "repeatability_mm": "0.001", "reads": "deviations", "baud": "9600", "sends": "mm",
        "asks": "", "port": "",
    }  # fmt: skip
    blocks = {"set_name": "metric88", "u_um": "0.1", "missing": "", "worn": "", "blocks": ""}
    bryn.get(f"/shop/{kind}/new")
    whole = dates | (lengths if kind == "gauge" else blocks)
    assert bryn.post(f"/shop/{kind}/new", whole | values).status_code == 422 and says in bryn.page
    assert bryn.post(f"/shop/{kind}/new", whole).status_code == 303


@pytest.mark.parametrize(("shelf", "kind"), [("gauge", "Bench comparator B1"), ("sensor", "Readout R1")])
def test_only_a_lead_sets_where_readings_come_from(app: Flask, demo: Session, shelf: str, kind: str) -> None:
    """And a lead only to what the server's settings name; a machinist changes everything else."""
    row = shop.by_name(demo, InstrumentRow if shelf == "gauge" else SensorRow, kind)  # type: ignore[type-var]
    assert row is not None
    path, before = f"/shop/{shelf}/{row.id}", row.port
    for name, port, status, says in (
        ("bryn", "socket://127.0.0.1:3306", 422, "Only a lead sets where readings come from"),
        ("bryn", before or "", 303, ""),
        ("isa", "socket://192.0.2.7:80", 422, "LARK_GAUGE_HOSTS"),
        ("isa", "/dev/pts/0", 422, "no address readings come from"),
        ("isa", "socket://127.0.0.1:8422", 303, ""),
    ):
        browser = Browser(app.test_client()).be(name)
        browser.get(path)
        fields = fields_of(browser.page, 'name="port"') | {"port": port}
        assert browser.post(path, fields).status_code == status and says in browser.page, (name, port)
    demo.expire_all()
    assert row.port == "socket://127.0.0.1:8422"
