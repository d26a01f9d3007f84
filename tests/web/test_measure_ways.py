"""The measuring station's other ways: comparison, squareness, angles, slots, and why a pair is out of parallel."""

import io
import re
from datetime import date
from decimal import Decimal
from uuid import uuid4

import pytest
from sqlalchemy import select
from sqlalchemy.orm import Session

from tests.web.conftest import SEEN, Browser
from zesty_lark.core.part.sizes import Size
from zesty_lark.store import jobs, log_rows, shop
from zesty_lark.store.models import BlockSetRow, CharacteristicRow, FixtureRow, InstrumentRow

PLACES = ("front left", "front right", "middle", "back left", "back right")


def gauge(demo: Session, name: str = "Lever indicator L1") -> InstrumentRow:
    row = shop.by_name(demo, InstrumentRow, name)
    assert row is not None
    return row


def seen(browser: Browser) -> str:
    found = SEEN.search(browser.page)
    assert found, browser.page
    return found[1]


def last(demo: Session, number: str) -> object:
    job = jobs.by_number(demo, number)
    assert job is not None
    demo.expire_all()
    return log_rows.entries_of(demo, job)[-1]


def compared(browser: Browser, demo: Session, *values: str, **more: object) -> int:
    browser.get(f"/jobs/TR-101/measure?of=thickness&instrument={gauge(demo).id}")
    blocks = shop.by_name(demo, BlockSetRow, "Metric blocks J1")
    assert blocks is not None
    fields: dict[str, object] = {
        "entry_id": str(uuid4()), "seen": seen(browser), "of": "thickness", "piece": "1", "back": "",
        "instrument": gauge(demo).id, "blocks": blocks.id, "tip_deg": "0", "stopped": "y",
    }  # fmt: skip
    readings = {f"reading{number}": value for number, value in enumerate(values, start=1)}
    return browser.post("/jobs/TR-101/measure", fields | readings | more).status_code


def test_a_size_is_compared_with_a_stack_of_the_shop_s_own(bryn: Browser, demo: Session) -> None:
    bryn.get(f"/jobs/TR-101/measure?of=thickness&instrument={gauge(demo).id}")
    assert "20 + 2 mm of Metric blocks J1" in bryn.page and "what it is made of" in bryn.page
    assert compared(bryn, demo, "0.1512", "-0.0003", tip_deg="0") == 303
    entry = last(demo, "TR-101")
    assert [reading.value_mm for reading in entry.readings] == [Decimal("22.1512"), Decimal("21.9997")]  # type: ignore[attr-defined]
    assert entry.how == "against 20 + 2 mm of Metric blocks J1"  # type: ignore[attr-defined]
    assert Decimal("0.0004") < entry.uncertainty_mm < Decimal("0.0012")  # type: ignore[attr-defined]
    bryn.get("/jobs/TR-101/measure")
    assert "against 20 + 2 mm" in bryn.page


def test_a_lever_at_an_angle_reads_too_much(bryn: Browser, demo: Session) -> None:
    assert compared(bryn, demo, "0.1", tip_deg="60") == 303
    entry = last(demo, "TR-101")
    assert entry.readings[0].value_mm == Decimal("22.05")  # type: ignore[attr-defined]
    assert "tip at 60°" in entry.how  # type: ignore[attr-defined]


@pytest.mark.parametrize(
    ("values", "more", "says"),
    [
        (("22.0012",), {}, "type what it shows over the stack"),
        (("0.001",), {"blocks": "0"}, "which blocks was it set to"),
        ((), {}, "At least one reading"),
    ],
)
def test_a_comparison_that_cannot_be_is_answered_beside_it(
    bryn: Browser, demo: Session, values: tuple[str, ...], more: dict[str, str], says: str
) -> None:
    assert compared(bryn, demo, *values, **more) == 422 and says in bryn.page


def test_blocks_past_their_date_limit_the_verdict(bryn: Browser, demo: Session) -> None:
    blocks = shop.by_name(demo, BlockSetRow, "Metric blocks J1")
    assert blocks is not None
    blocks.due_on = blocks.calibrated_on
    demo.commit()
    assert compared(bryn, demo, "0.0001") == 303
    assert last(demo, "TR-101").verdict == "unsure"  # type: ignore[attr-defined]


def test_a_tight_size_asks_for_five_lifts_first_until_they_were_good(bryn: Browser, demo: Session) -> None:
    mic = gauge(demo, "Micrometer 0–25 M2")
    where = f"/jobs/TR-101/measure?of=thickness&instrument={mic.id}"
    bryn.get(where)
    assert "repeat first" in bryn.page
    lifts = {f"lift{number}": "1" for number in range(1, 6)}
    bryn.get(f"/gauges/{mic.id}")
    bryn.post(f"/gauges/{mic.id}/repeat", {"entry_id": str(uuid4()), "typed_in": "um", "back": "", **lifts})
    bryn.get(where)
    assert "repeat first" not in bryn.page


def test_a_taper_is_explained_with_the_act_that_tells(bryn: Browser, demo: Session) -> None:
    assert compared(bryn, demo, "0.100", "0.108", "0.104", "0.100", "0.108") == 303
    bryn.get("/jobs/TR-101/measure")
    assert "Tapers along the travel: 8.0 µm, right end thick" in bryn.page
    assert "turn the part end for end" in bryn.page and "Spark out twice more" in bryn.page


SQUARE = {"way": "reversal", "over_mm": "18", "front_um": "3.0", "back_um": "-1.0", "taper_um": "", "base_mm": "54"}


def square(browser: Browser, demo: Session, where: str = "/jobs/TR-101/measure/square", **more: object) -> int:
    browser.get(where)
    found = SEEN.search(browser.page)
    fields: dict[str, object] = {
        "entry_id": str(uuid4()), "seen": found[1] if found else "0", "of": "square", "piece": "1",
        "instrument": gauge(demo).id,
    }  # fmt: skip
    return browser.post(where, fields | SQUARE | more).status_code


def test_squareness_is_worked_out_drawn_and_shimmed_and_logged_side_by_side(bryn: Browser, demo: Session) -> None:
    assert square(bryn, demo, side="3") == 200
    assert "leans out at the top: +2.00 µm" in bryn.page and 'class="lean"' in bryn.page
    assert "foil of 0.01" in bryn.page, "2 µm over 18 under a base of 54 is a lift of 6 µm"
    assert "Over 22 mm, as the print asks" in bryn.page
    assert square(bryn, demo, side="3", keep="1") == 303
    entry = last(demo, "TR-101")
    assert entry.readings[0].place == "face 3" and entry.verdict == "unsure"  # type: ignore[attr-defined]
    assert "face 4, face 5, face 6 still to measure" in entry.how  # type: ignore[attr-defined]
    for side in ("4", "5", "6"):
        assert square(bryn, demo, side=side, front_um="0.5", back_um="0.1", keep="1") == 303
    entry = last(demo, "TR-101")
    assert [reading.place for reading in entry.readings] == ["face 3", "face 4", "face 5", "face 6"]  # type: ignore[attr-defined]
    assert entry.verdict == "in" and "still" not in entry.how  # type: ignore[attr-defined]
    assert entry.greatest_mm == Decimal("0.0024445")  # type: ignore[attr-defined]


@pytest.mark.parametrize(
    ("fields", "says"),
    [
        ({"front_um": ""}, "Which reading?"),
        ({"over_mm": "0"}, "has to be a number"),
        ({"way": "corners"}, "Which reading?"),
        ({"way": "light", "light": "top", "goes_um": "20", "refuses_um": "10"}, "has to be thicker"),
    ],
)
def test_a_squareness_that_lacks_something_says_what(
    bryn: Browser, demo: Session, fields: dict[str, str], says: str
) -> None:
    assert square(bryn, demo, **fields) == 422 and says in bryn.page


def test_every_way_of_squareness_has_its_page_and_its_answer(bryn: Browser, demo: Session) -> None:
    for way, fields, says in (
        ("corners", {f"corner{number}_um": value for number, value in enumerate(("4", "0", "0", "0"), 1)}, "+3.00 µm"),
        ("master", {"part_um": "5", "master_um": "2", "certificate_um": "0.5", "certificate_u_um": "0.4"}, "+3.50 µm"),
        ("light", {"light": "none", "square_um": "1"}, "stands up"),
    ):
        bryn.get(f"/jobs/TR-101/measure/square?way={way}")
        assert all(f'name="{name}"' in bryn.page for name in fields)
        assert square(bryn, demo, way=way, **fields) == 200 and says in bryn.page


def test_a_fixture_s_squareness_goes_into_its_record_and_so_into_the_chain(bryn: Browser, demo: Session) -> None:
    plate = shop.by_name(demo, FixtureRow, "Angle plate P1")
    assert plate is not None
    where = f"/shop/fixtures/{plate.id}/square"
    assert square(bryn, demo, where) == 200 and "Keep it in the record" in bryn.page
    assert square(bryn, demo, where, over_mm="80", front_um="14", back_um="-10", keep="1") == 303
    demo.expire_all()
    assert plate.over_mm == 80 and Decimal("0.012") < plate.square_mm < Decimal("0.013")
    assert plate.checked_on is not None and plate.checked_on >= date(2026, 1, 1)
    bryn.get("/jobs/TR-101/faces")
    assert "what it stands on has changed" in bryn.page
    gauge(demo).due_on = gauge(demo).calibrated_on
    demo.commit()
    assert square(bryn, demo, where, keep="1") == 422 and "past its date" in bryn.page


def asks_for(demo: Session, name: str, kind: str, size: Size) -> None:
    job = jobs.by_number(demo, "TR-101")
    assert job is not None
    demo.add(
        CharacteristicRow(
            part_id=job.part.id,
            position=1,
            name=name,
            kind=kind,
            surface=3,
            to_surface=1,
            nominal=size.target_mm,
            tol_minus=size.tol_minus_mm,
            tol_plus=size.tol_plus_mm,
        )  # fmt: skip
    )
    demo.commit()
    demo.expire_all()


def shape(browser: Browser, demo: Session, kind: str, **more: object) -> int:
    browser.get(f"/jobs/TR-101/measure/{kind}")
    base = {"entry_id": str(uuid4()), "seen": seen(browser), "piece": "1", "of": "", "instrument": gauge(demo).id}
    return browser.post(f"/jobs/TR-101/measure/{kind}", base | more).status_code


ROLLS = {"way": "corner", "small_mm": "6", "large_mm": "12", "over_small_mm": "50", "over_large_mm": "60.2426"}


def test_an_angle_is_read_with_two_rolls_and_logged_in_degrees(bryn: Browser, demo: Session) -> None:
    assert shape(bryn, demo, "angle", **ROLLS) == 200 and "45°00'" in bryn.page.replace("&#39;", "'")
    assert "only worked out" in bryn.page
    asks_for(demo, "tilt", "angle", Size(Decimal(45), Decimal("0.2"), Decimal("0.2")))
    assert shape(bryn, demo, "angle", of="tilt", keep="1", **ROLLS) == 303
    entry = last(demo, "TR-101")
    assert entry.verdict == "in" and abs(entry.greatest_mm - 45) < Decimal("0.01")  # type: ignore[attr-defined]
    assert "two rolls in a corner" in entry.how  # type: ignore[attr-defined]
    bryn.get("/jobs/TR-101/record/inspection")
    assert re.search(r"45°00'|44°59'", bryn.page.replace("&#39;", "'"))


@pytest.mark.parametrize(
    ("kind", "fields", "says"),
    [
        ("angle", ROLLS | {"over_large_mm": "51"}, "no angle reads so"),
        ("angle", ROLLS | {"small_mm": ""}, "Which reading?"),
        ("radius", {"way": "rolls", "roll_mm": "10", "over_rolls_mm": "11"}, "would meet"),
        ("slot", {"front_top_mm": "18"}, "Which reading?"),
    ],
)
def test_a_shape_that_cannot_be_says_why(
    bryn: Browser, demo: Session, kind: str, fields: dict[str, str], says: str
) -> None:
    assert shape(bryn, demo, kind, **fields) == 422 and says in bryn.page


SLOT = {
    "front_top_mm": "18.002", "front_bottom_mm": "18.002", "back_top_mm": "18.008", "back_bottom_mm": "18.007",
    "step_mm": "0.001", "block_u_um": "0.3",
}  # fmt: skip


def test_a_slot_tells_its_taper_and_a_radius_its_size(bryn: Browser, demo: Session) -> None:
    assert shape(bryn, demo, "slot", **SLOT) == 200 and "It tapers: the back is wider" in bryn.page
    asks_for(demo, "keyway", "size", Size(Decimal(18), Decimal(0), Decimal("0.018")))
    assert shape(bryn, demo, "slot", of="keyway", keep="1", **SLOT) == 303
    entry = last(demo, "TR-101")
    assert entry.verdict == "in" and len(entry.readings) == 4  # type: ignore[attr-defined]
    over = 4 * (20 * 5) ** 0.5 + 10
    assert shape(bryn, demo, "radius", way="rolls", roll_mm="10", over_rolls_mm=f"{over:.5f}") == 200
    assert "20.0000 mm" in bryn.page


def test_a_radius_lies_between_two_leaves_of_a_gauge(bryn: Browser, demo: Session) -> None:
    leaves = {"way": "leaves", "under_mm": "5", "over_mm": "5.5", "leaf_um": "20"}
    assert shape(bryn, demo, "radius", **leaves) == 200 and "5.2500 mm ± 0.2896" in bryn.page
    assert shape(bryn, demo, "radius", **leaves | {"over_mm": "5"}) == 422


def test_a_log_goes_out_as_a_workbook_and_comes_in_again(stranger: Browser) -> None:
    isa = stranger.sign_in("isa")
    book = isa.get("/jobs/TR-101/record/log.xlsx")
    assert book.status_code == 200
    isa.get("/jobs/TR-101/record")
    sent = {"file": (io.BytesIO(book.data), "log.xlsx")}
    assert isa.post("/jobs/TR-101/record/log.csv", sent, content_type="multipart/form-data").status_code == 303
    isa.get("/jobs/TR-101/record")
    assert "was here already; nothing was added" in isa.page
    wrong = {"file": (io.BytesIO(b"PK\x03\x04 no"), "log.xlsx")}
    assert isa.post("/jobs/TR-101/record/log.csv", wrong, content_type="multipart/form-data").status_code == 422
    assert "not a packed file that can be read" in isa.page


def test_an_angle_is_not_judged_from_readings_of_length(bryn: Browser, demo: Session) -> None:
    asks_for(demo, "tilt", "angle", Size(Decimal(45), Decimal("0.2"), Decimal("0.2")))
    bryn.get("/jobs/TR-101/measure/angle?of=tilt")
    fields = {
        "entry_id": str(uuid4()), "seen": seen(bryn), "of": "tilt", "piece": "1", "back": "",
        "instrument": gauge(demo, "Bench comparator B1").id, "blocks": "0", "reading1": "45", "stopped": "y",
    }  # fmt: skip
    assert bryn.post("/jobs/TR-101/measure", fields).status_code == 409 and "no verdict on an angle" in bryn.page


def test_the_report_names_its_gauges_their_dates_and_how(bryn: Browser, demo: Session) -> None:
    assert compared(bryn, demo, "0.1512") == 303
    bryn.get("/jobs/TR-101/record/inspection")
    assert "Lever indicator L1" in bryn.page and "within its dates" in bryn.page and "against 20 + 2 mm" in bryn.page
    assert "a stock map and no proof" in bryn.page and 'class="surface"' in bryn.page
    demo.scalars(select(InstrumentRow)).all()
    gauge(demo).due_on = gauge(demo).calibrated_on
    demo.commit()
    bryn.get("/jobs/TR-101/record/inspection")
    assert "overdue: no verdict above" in bryn.page
