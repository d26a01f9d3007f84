"""Angles, radii, slots, squareness, tapers and what is on a surface: how they go into a job's log."""

from dataclasses import replace
from datetime import datetime, time, timedelta
from decimal import Decimal
from uuid import uuid4

import pytest
from sqlalchemy.orm import Session

from tests.shopfloor.test_as_it_stands import in_its_date, job_of
from tests.store.test_learning import LaidOut
from zesty_lark.core.measure.angles import SLOT_PLACES, MeasuredAngle, MeasuredRadius, SlotWidths, slot_widths
from zesty_lark.core.measure.budget import budget_of
from zesty_lark.core.measure.square import Lean
from zesty_lark.core.measure.tapers import Happened
from zesty_lark.core.part.faces import FaceState
from zesty_lark.core.part.sizes import Reading
from zesty_lark.core.work.entries import Measured
from zesty_lark.core.work.machine_acts import Dressed, PassFed, Prepared, SparkedOut
from zesty_lark.shopfloor import forming, squaring, tapers
from zesty_lark.shopfloor.forming import Shaped, shape_entry
from zesty_lark.shopfloor.measuring import Taken, measurement
from zesty_lark.shopfloor.squaring import Squared, square_entry
from zesty_lark.store import shop, shoplog
from zesty_lark.store.models import FixtureRow, InstrumentRow
from zesty_lark.store.shoplog import Draft

D = Decimal
GAUGE = "Bench comparator B1"


def shaped(demo: Session, gauge: InstrumentRow, number: str, name: str, found: object, **more: object) -> Measured:
    job, job_state = job_of(demo, number)
    asked = job_state.spec.wanted.named(name)
    assert asked is not None
    given = {"piece": 1, "how": "rolls", "at": in_its_date(gauge)} | more
    at = given.pop("at")
    made = Shaped(asked, found, gauge, **given)  # type: ignore[arg-type]
    return shape_entry(job, made, entry_id="shaped-001", at=at)  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("deg", "u", "word"),
    [
        (17.5, 0.001, "in"),
        (17.508, 0.004, "unsure"),
        (17.52, 0.001, "out"),
        (17.4849, 0.001, "out"),
        (17.49, 0.0, "in"),
    ],
)
def test_an_angle_is_judged_in_degrees(demo: Session, gauge: InstrumentRow, deg: float, u: float, word: str) -> None:
    made = shaped(demo, gauge, "TR-133", "wedge angle", MeasuredAngle(deg, u), how="x" * 300)
    assert (made.verdict, made.surface, made.readings) == (
        word,
        7,
        (Reading("angle", D(repr(deg)).quantize(D("1E-7"))),),
    )
    assert made.uncertainty_mm == D(repr(u)).quantize(D("1E-7")) and made.how == "x" * 200 and made.instrument == GAUGE
    late = shaped(demo, gauge, "TR-133", "wedge angle", MeasuredAngle(17.5, 0.001), at=after_its_date(gauge))
    assert late.verdict == "unsure"


def after_its_date(gauge: InstrumentRow) -> datetime:
    """Noon of the day after a gauge was due."""
    return datetime.combine(gauge.due_on + timedelta(days=1), time(12), tzinfo=in_its_date(gauge).tzinfo)


def test_a_gauge_is_good_on_the_day_it_is_due_and_no_longer(demo: Session, gauge: InstrumentRow) -> None:
    on_the_day = after_its_date(gauge) - timedelta(days=1)
    for at, word in ((on_the_day, "in"), (after_its_date(gauge), "unsure")):
        assert shaped(demo, gauge, "TR-133", "wedge angle", MeasuredAngle(17.5, 0.001), at=at).verdict == word
        job, job_state = job_of(demo, "TR-133")
        taken = Taken("width", 1, (Reading("middle", D(40)),))
        assert measurement(job, job_state, gauge, taken, entry_id="late-00001", at=at).verdict == word


def test_a_radius_that_is_still_to_be_ground_is_not_yet_what_it_has_to_be(demo: Session, gauge: InstrumentRow) -> None:
    for mm, word in ((1.5, "in"), (1.6, "not yet"), (1.4, "out"), (1.51, "unsure")):
        made = shaped(demo, gauge, "TR-133", "nose radius", MeasuredRadius(mm, 0.001))
        assert made.verdict == word and made.readings[0].place == "radius" and made.uncertainty_mm == D("0.001")


def slot(width: str) -> SlotWidths:
    return slot_widths(goes_mm=dict.fromkeys(SLOT_PLACES, D(width)), step_mm=D("0.002"), block_u_mm=D("0.0005"))


def test_a_slot_is_told_by_its_four_widths_and_its_middle_from_its_left_wall(
    demo: Session, gauge: InstrumentRow
) -> None:
    found = slot("18.008")
    width = shaped(demo, gauge, "TR-114", "keyway width", found)
    assert [reading.place for reading in width.readings] == list(SLOT_PLACES)
    assert width.uncertainty_mm == found.u_mm and width.verdict == "in"
    for mm, word in (("17.9", "not yet"), ("18.1", "out"), ("18", "unsure")):
        assert shaped(demo, gauge, "TR-114", "keyway width", slot(mm)).verdict == word, "a slot grows"
    middle = shaped(demo, gauge, "TR-114", "keyway position", found, left_mm=D("20.9905"))
    assert middle.readings == (Reading("middle", D("20.9905") + found.mean_mm / 2),) and middle.verdict == "in"
    off = shaped(demo, gauge, "TR-114", "keyway position", found, left_mm=D("21.1"))
    assert off.verdict == "out"


def test_a_slot_s_left_wall_is_where_it_was_measured_last(demo: Session, gauge: InstrumentRow) -> None:
    job, job_state = job_of(demo, "TR-114")
    position = job_state.spec.wanted.named("keyway position")
    assert position is not None and forming.left_wall_mm(job_state, position) is None
    told = []
    for number, value in enumerate(("20.99", "20.995"), start=1):
        readings = (Reading("a", D(value)), Reading("b", D(value) + D("0.002")))
        told.append(
            Measured(
                entry_id=f"wall-00{number}", at=in_its_date(gauge), characteristic="keyway left", readings=readings
            )
        )
    other = replace(told[0], entry_id="wall-003", characteristic="width")
    now = replace(job_state, history=(*job_state.history, *told, other))
    assert forming.left_wall_mm(now, position) == D("20.996")


def lean(um: float, over: float = 50.0, u_um: float = 0.5) -> Lean:
    return Lean("reversal", um, over, budget_of([("resolution", u_um)]))


def squared(demo: Session, gauge: InstrumentRow, side: int, um: float, **more: object) -> Squared:
    _, job_state = job_of(demo, "TR-101")
    asked = job_state.spec.wanted.named("square")
    assert asked is not None
    return Squared(asked, side, 1, lean(um), gauge, str(more.get("how", "reversal")))


def test_squareness_is_scaled_to_the_print_s_height_and_unsure_while_a_side_is_missing(
    demo: Session, gauge: InstrumentRow
) -> None:
    job, job_state = job_of(demo, "TR-101")
    asked = job_state.spec.wanted.named("square")
    assert asked is not None
    assert squaring.sides_of(asked) == (3, 4, 5, 6) and squaring.height_of(job, asked) == 22.0
    assert [squaring.usual_height(each) for each in (22.0, 10.0, 1.0)] == [18, 8, 1]
    flat = job_state.spec.wanted.named("flat")
    assert flat is not None and squaring.sides_of(replace(flat, surfaces=(1,))) == (1,)
    at, known = in_its_date(gauge), job_state
    for number, (side, um) in enumerate(((3, 2.0), (4, -3.0), (5, 1.0), (6, 0.5)), start=1):
        made = square_entry(known, squared(demo, gauge, side, um), 25.0, entry_id=f"square-00{number}", at=at)
        sides = [3, 4, 5, 6][:number]
        assert [reading.place for reading in made.readings] == [f"face {each}" for each in sides]
        assert made.readings[-1].value_mm == D(repr(abs(um) / 2000)).quantize(D("1E-7"))
        assert made.uncertainty_mm == D("0.0005") and made.surface == side and made.piece == 1
        missing = [each for each in (3, 4, 5, 6) if each not in sides]
        assert ("still to measure" in made.how) is bool(missing) and all(f"face {each}" in made.how for each in missing)
        assert made.verdict == ("unsure" if missing else "in")
        pieces = {**known.pieces, 1: replace(known.pieces[1], verdicts={"square": made.verdict})}
        known = replace(known, history=(*known.history, made), pieces=pieces)
    again = square_entry(known, squared(demo, gauge, 4, 40.0), 25.0, entry_id="square-005", at=at)
    assert again.verdict == "out" and len(again.readings) == 4
    long = replace(squared(demo, gauge, 4, 3.0), how="w" * 300)
    assert square_entry(known, long, 25.0, entry_id="square-008", at=at).how == "w" * 200
    rough = replace(squared(demo, gauge, 4, 3.0), lean=lean(3.0, u_um=4.0))
    assert square_entry(known, rough, 25.0, entry_id="square-006", at=at).uncertainty_mm == D("0.004")
    late = square_entry(known, squared(demo, gauge, 4, 3.0), 25.0, entry_id="square-007", at=after_its_date(gauge))
    assert late.verdict == "unsure"
    on_the_day = after_its_date(gauge) - timedelta(days=1)
    good = square_entry(known, squared(demo, gauge, 4, 3.0), 25.0, entry_id="square-009", at=on_the_day)
    assert good.verdict == "in"


def test_what_was_cut_since_or_read_by_an_indicator_alone_goes_along_with_no_squareness(
    demo: Session, gauge: InstrumentRow
) -> None:
    _, job_state = job_of(demo, "TR-101")
    first = square_entry(job_state, squared(demo, gauge, 3, 2.0), 25.0, entry_id="square-001", at=in_its_date(gauge))
    cut = replace(job_state, history=(*job_state.history, first))
    assert len(square_entry(cut, squared(demo, gauge, 4, 2.0), 25.0, entry_id="b", at=first.at).readings) == 1
    for change in ({"how": ""}, {"piece": 2}, {"characteristic": "flat"}):
        pieces = {1: replace(job_state.pieces[1], verdicts={"square": "unsure"})}
        known = replace(job_state, history=(*job_state.history, replace(first, **change)), pieces=pieces)  # type: ignore[arg-type]
        made = square_entry(known, squared(demo, gauge, 4, 2.0), 25.0, entry_id="b", at=first.at)
        assert len(made.readings) == 1 and made.uncertainty_mm == D("0.0005"), change


def test_what_a_fixture_was_found_to_be_out_is_kept_with_u_over_its_height(demo: Session, gauge: InstrumentRow) -> None:
    fixture = shop.by_name(demo, FixtureRow, "Angle plate P1")
    assert fixture is not None
    today = in_its_date(gauge).date()
    squaring.keep_in_fixture(demo, fixture, lean(-3.25, over=60.0), today)
    assert fixture.square_mm == D("0.00425") and (fixture.over_mm, fixture.checked_on) == (60, today)
    foils = squaring.foils_of(demo)
    assert [foil.kind for foil in foils] == ["foil"] * 4 and [each.height_mm for each in foils] == sorted(
        each.height_mm for each in foils
    )
    lift = squaring.shim_for(lean(20.0, over=50.0), 25.0, foils)
    assert lift.shim_mm == pytest.approx(0.02 / 50 * 25) and lift.offered_mm == 0.01
    assert lift == squaring.shim_for(lean(20.0, over=50.0), 25.0, [*foils, *foils])
    assert squaring.shim_for(lean(20.0, over=50.0), 25.0, []) != lift


def test_a_taper_is_explained_by_what_the_log_knows_of_its_surface_since_the_last_dress_and_pass(
    demo: Session, gauge: InstrumentRow
) -> None:
    _, job_state = job_of(demo, "TR-101")
    at = in_its_date(gauge)
    given = {"at": at, "surface": 2}
    story = [
        PassFed(entry_id="taper-001", reading_mm=D(1), **given),
        Dressed(entry_id="taper-002", **given),
        Prepared(entry_id="taper-003", item="wiped", answer="", **given),
        PassFed(entry_id="taper-004", reading_mm=D(1), **given),
        SparkedOut(entry_id="taper-005", count=2, **given),
        PassFed(entry_id="taper-006", reading_mm=D(1), **given),
        PassFed(entry_id="taper-007", reading_mm=D(1), at=at, surface=1),
        SparkedOut(entry_id="taper-008", count=2, **given),
        SparkedOut(entry_id="taper-009", count=1, **given),
    ]
    size = Measured(entry_id="taper-010", at=at, surface=2, note="part still warm")
    later = SparkedOut(entry_id="taper-011", count=9, **given)
    now = replace(job_state, history=(*story, size, later))
    assert tapers._happened(now, size) == Happened(3, 2, True, False)
    rocked = Prepared(entry_id="taper-012", item="rock", answer="pivots", **given)
    plain = replace(size, note="")
    assert tapers._happened(replace(now, history=(rocked, story[2], *story[3:], plain)), plain) == Happened(
        3, 2, False, True
    )


def test_over_a_face_that_is_not_ground_yet_nothing_is_out_of_parallel(demo: Session, gauge: InstrumentRow) -> None:
    job, job_state = job_of(demo, "TR-101")
    piece = job_state.pieces[1]
    places = {"left": (0.0, 0.5), "right": (1.0, 0.5), "back": (0.5, 0.0), "front": (0.5, 1.0)}
    readings = tuple(Reading(place, D("22.2") + D(number) / 50) for number, place in enumerate(places))
    entry = Measured(
        entry_id="lies-on-01", at=in_its_date(gauge), surface=2, readings=readings, uncertainty_mm=D("0.001"),
        characteristic="thickness",
    )  # fmt: skip
    assert tapers.lies_on(job_state, entry) is None, "face 1 is ground"
    assert tapers.explained(job, job_state, entry, places) is not None
    raw = replace(piece, states={**piece.states, 1: FaceState.STABLE})
    over_it = replace(job_state, pieces={1: raw})
    assert tapers.lies_on(over_it, entry) == 1 and tapers.explained(job, over_it, entry, places) is None
    assert tapers.lies_on(over_it, replace(entry, characteristic="width")) is None


def test_places_of_a_face_are_shares_of_its_length_from_the_left_and_of_its_width_from_the_front(
    demo: Session, gauge: InstrumentRow, monkeypatch: pytest.MonkeyPatch
) -> None:
    job, job_state = job_of(demo, "TR-101")
    seen: list[object] = []
    monkeypatch.setattr(tapers, "explain", lambda *given: seen.append(given))
    places = {"left back": (0.1, 0.0), "right front": (0.75, 0.9)}
    readings = tuple(Reading(place, D("22.001")) for place in (*places, "elsewhere"))
    entry = Measured(
        entry_id="taper-001", at=in_its_date(gauge), surface=2, readings=readings, uncertainty_mm=D("0.001")
    )
    tapers.explained(job, job_state, entry, places)
    ((read, u_um, _),) = seen  # type: ignore[misc]
    assert [(round(each.x_mm, 6), round(each.y_mm, 6), each.um) for each in read] == [  # type: ignore[attr-defined]
        (8.8, 54.0, 22001.0), (66.0, 5.4, 22001.0)
    ]  # fmt: skip
    assert (
        u_um == pytest.approx(0.7072) and tapers.explained(job, job_state, replace(entry, surface=None), places) is None
    )


def test_an_entry_of_a_measured_way_is_logged_as_any_other(demo: Session, gauge: InstrumentRow) -> None:
    laid_out = LaidOut(demo)
    entry = shaped(demo, gauge, "TR-101", "width", MeasuredRadius(54.2, 0.001))
    entry = replace(entry, entry_id=str(uuid4()), at=laid_out.at)
    after = shoplog.append(demo, laid_out.job, laid_out.who, Draft(entry, None, gauge)).job_state
    assert after.pieces[1].sizes["width"].mm == D("54.2")
