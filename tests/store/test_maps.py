"""Maps in the store: reading by reading, each once; refused, withdrawn, never lost; in the job's file and back."""

import json
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from decimal import Decimal
from typing import Any
from uuid import uuid4

import pytest
from sqlalchemy import func, select, text
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from zesty_lark.core.measure.maps.layout import grid
from zesty_lark.core.measure.maps.surface_map import SurfaceMap
from zesty_lark.core.part.prints import Characteristic
from zesty_lark.core.part.sizes import Size
from zesty_lark.core.things.gauge import judged_zero
from zesty_lark.core.things.log import ThingEntry
from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.exchange.job_json import JobFileError, read_job, write_job
from zesty_lark.shopfloor import mapping
from zesty_lark.store import gauge_checks, job_files, job_states, jobs, maps, people, shop, shoplog
from zesty_lark.store.maps import Begun, MapReading
from zesty_lark.store.models import ChuckRow, InstrumentRow, Job, MapReadingRow, Person, SurfaceMapRow
from zesty_lark.store.models import maps as map_models
from zesty_lark.store.read_in import ReadIn
from zesty_lark.store.shoplog import Draft

NOW = datetime(2026, 11, 26, 9, tzinfo=UTC)
D = Decimal


def who(session: Session, name: str = "bryn") -> Person:
    found = people.by_sign_in_name(session, name)
    assert found is not None
    return found


def the_job(session: Session, number: str = "TR-133") -> Job:
    found = jobs.by_number(session, number)
    assert found is not None
    return found


def gauge(session: Session) -> InstrumentRow:
    found = shop.by_name(session, InstrumentRow, "Lever indicator L1")
    assert found is not None
    return found


def begun(session: Session, frame: str = "plate", **more: object) -> SurfaceMapRow:
    given: dict[str, object] = {"job": the_job(session), "piece": 1, "surface": 2, "instrument": gauge(session)}
    return maps.begin(
        session,
        Begun(frame, NOW, who(session), **(given | more)),  # type: ignore[arg-type]
        grid(length_mm=70, width_mm=40, columns=3, rows=2),
    )


def take(session: Session, row: SurfaceMapRow, values: list[str], first: int = 0) -> None:
    for number, value in enumerate(values, start=first):
        maps.read(session, row, MapReading(str(uuid4()), number, D(value)), who(session), at=NOW)


VALUES = ["0", "1", "2", "1", "0.5", "0.2"]


def test_a_map_is_in_use_once_its_first_place_was_read_again(demo: Session) -> None:
    row = begun(demo)
    take(demo, row, VALUES)
    assert row.state == "taking" and row.points is None
    take(demo, row, ["0.3"], first=6)
    assert row.state == "in use" and row.count == 6 and row.whole.closing_um == 0.3
    assert float(row.range_um or 0) == pytest.approx(row.whole.analysis.range_um, abs=1e-4)
    assert [z for _, _, z in row.whole.points] == [0, 1, 2, 1, 0.5, 0.2], "kept as it was read"
    with pytest.raises(ValueError, match="not being taken"):
        take(demo, row, ["9"])


def test_a_map_that_drifted_is_refused_and_its_readings_stay(demo: Session) -> None:
    row = begun(demo)
    take(demo, row, [*VALUES, "1.2"])
    assert row.state == "refused" and "+1.2 µm" in row.note and len(row.whole.points) == 6
    assert mapping.proves(row, job_states.state_of(demo, the_job(demo))) == []


def test_a_reading_holds_its_map_against_all_others(demo: Session, statements: Callable[[], object]) -> None:
    row = begun(demo)
    with statements() as sent:  # type: ignore[attr-defined]
        take(demo, row, ["0"])
    assert any("FROM surface_map" in each and each.endswith("FOR UPDATE") for each in sent)


def test_a_reading_that_is_sent_again_is_kept_once_and_a_place_read_again_counts_anew(demo: Session) -> None:
    row = begun(demo)
    reading = MapReading(str(uuid4()), 0, D("0.4"))
    assert maps.read(demo, row, reading, who(demo), at=NOW)
    assert not maps.read(demo, row, reading, who(demo), at=NOW + timedelta(seconds=9))
    assert row.taking.next == 1
    maps.read(demo, row, MapReading(str(uuid4()), 0, D("0.7")), who(demo), at=NOW)
    assert row.taking.readings[0] == D("0.7") and row.taking.next == 1
    kept = demo.scalar(select(func.count()).select_from(MapReadingRow).where(MapReadingRow.map_id == row.id))
    assert kept == 2
    with pytest.raises(ValueError, match="no such place"):
        take(demo, row, ["1"], first=7)


@pytest.mark.parametrize("table", ["map_reading", "thing_entry"])
@pytest.mark.parametrize("act", ["update {} set by_id = 1", "delete from {}"])
def test_what_was_read_or_done_cannot_be_changed_even_with_sql(demo: Session, table: str, act: str) -> None:
    take(demo, begun(demo), ["1"])
    check = ThingEntry(entry_id=str(uuid4()), at=NOW, what=judged_zero(gauge(demo).to_core(), 0.0))
    gauge_checks.append(demo, gauge(demo), who(demo), check)
    with pytest.raises(DBAPIError, match="append-only"):
        demo.execute(text(act.format(table)))


def test_a_map_is_of_a_chuck_or_of_a_job_and_never_of_both(demo: Session) -> None:
    chuck = shop.by_name(demo, ChuckRow, "Chuck A")
    with pytest.raises(DBAPIError):
        begun(demo, chuck=chuck)


def test_a_map_given_up_or_withdrawn_stays_with_its_reason(demo: Session) -> None:
    row = begun(demo)
    take(demo, row, ["1", "2"])
    assert maps.withdraw(demo, row, "the stand was knocked") and row.state == "withdrawn"
    assert not maps.withdraw(demo, row, "again") and row.note == "the stand was knocked"


def test_flat_and_parallel_come_from_a_map_over_the_plate_and_from_no_other(demo: Session) -> None:
    job, row = the_job(demo), begun(demo, plate_um=D("0.5"))
    take(demo, row, [*VALUES, "0.1"])
    job_state = job_states.state_of(demo, job)
    told = mapping.proves(row, job_state)
    assert [each.asked.name for each in told] == ["parallel"] and not told[0].why_not
    assert float(told[0].value_mm) * 1000 == pytest.approx(row.whole.parallel_um, abs=1e-4)
    entry = mapping.measured_by(row, told[0], job_state, entry_id=str(uuid4()), at=NOW)
    shoplog.append(demo, job, who(demo, "nim"), Draft(entry, instrument=gauge(demo)))
    after = job_states.state_of(demo, job)
    assert after.pieces[1].verdicts["parallel"] == entry.verdict and after.history[-1].map_key == row.key  # type: ignore[attr-defined]
    stock = begun(demo, frame="machine")
    take(demo, stock, [*VALUES, "0.1"])
    assert all("no proof" in each.why_not for each in mapping.proves(stock, job_state))


def test_a_map_proves_that_the_surface_it_is_of_is_flat_and_no_other(demo: Session) -> None:
    row = begun(demo, plate_um=D("0.5"))
    take(demo, row, [*VALUES, "0.1"])
    job_state = job_states.state_of(demo, the_job(demo))
    flat = [Characteristic(f"flat {number}", "flat", (number,), Size(D(0), D(0), D("0.004"))) for number in (1, 2)]
    asked = replace(job_state.spec.wanted, characteristics=tuple(flat))
    told = mapping.proves(row, replace(job_state, spec=replace(job_state.spec, wanted=asked)))
    assert [each.asked.name for each in told] == ["flat 2"]
    assert 0 < float(told[0].value_mm) * 1000 - row.whole.analysis.minzone_flatness_um < 0.1001


def test_a_gauge_past_its_date_proves_nothing_with_a_map(demo: Session) -> None:
    gauge(demo).due_on = gauge(demo).calibrated_on
    row = begun(demo)
    take(demo, row, [*VALUES, "0.1"])
    job_state = job_states.state_of(demo, the_job(demo))
    entry = mapping.measured_by(row, mapping.proves(row, job_state)[0], job_state, entry_id=str(uuid4()), at=NOW)
    assert entry.verdict == "unsure"


def test_maps_travel_with_their_job_and_are_not_doubled(demo: Session) -> None:
    job, row = the_job(demo), begun(demo)
    take(demo, row, [*VALUES, "0.1"])
    open_map = begun(demo)
    written = write_job(job_files.write_out(demo, job))
    assert row.key in written and open_map.key not in written, "one that is being taken stays here"
    record = read_job(written)
    before = demo.scalar(select(func.count()).select_from(SurfaceMapRow))
    job_files.read_in(demo, record, ReadIn(who(demo, "isa"), NOW))
    assert demo.scalar(select(func.count()).select_from(SurfaceMapRow)) == before
    copy = read_job(written.replace('"number": "TR-133"', '"number": "TR-933"').replace(row.key, str(uuid4())))
    new, _ = job_files.read_in(demo, _fresh_ids(copy), ReadIn(who(demo, "isa"), NOW))
    assert [each.whole.points for each in maps.of_job(demo, new)][0] == row.whole.points


def _fresh_ids(record: object) -> object:
    from dataclasses import replace

    fresh = {entry.entry_id: str(uuid4()) for entry in record.entries}  # type: ignore[attr-defined]
    maps_ = [dict(one_map) | {"key": str(uuid4())} for one_map in record.maps]  # type: ignore[attr-defined]
    entries = [
        replace(
            each, entry_id=fresh[each.entry_id], **({"supersedes": fresh[each.supersedes]} if each.takes_back else {})
        )
        for each in record.entries  # type: ignore[attr-defined]
    ]
    return replace(record, entries=entries, maps=maps_)  # type: ignore[type-var]


@pytest.mark.parametrize(
    ("old", "new", "says"),
    [
        ('"frame": "plate"', '"frame": "sky"', "maps"),
        ('"state": "in use"', '"state": "taking"', "maps"),
        ('"closing_um": "0.1', '"closing_um": "NaN', "maps"),
    ],
)
def test_a_file_with_a_map_that_cannot_be_is_refused(demo: Session, old: str, new: str, says: str) -> None:
    take(demo, begun(demo), [*VALUES, "0.1"])
    written = write_job(job_files.write_out(demo, the_job(demo)))
    assert old in written
    with pytest.raises(JobFileError, match=says):
        read_job(written.replace(old, new))


def test_a_file_whose_points_are_no_map_changes_nothing(demo: Session) -> None:
    row = begun(demo)
    take(demo, row, [*VALUES, "0.1"])
    record = read_job(write_job(job_files.write_out(demo, the_job(demo))))
    wrong = [
        dict(one_map) | {"key": str(uuid4()), "points": [(n, n, 1.0) for n in range(4)]} for one_map in record.maps
    ]
    object.__setattr__(record, "maps", wrong)
    with pytest.raises(LogError, match="cannot be"):
        job_files.read_in(demo, record, ReadIn(who(demo, "isa"), NOW))


def test_a_chuck_s_outlook_reads_no_points(demo: Session) -> None:
    chuck = shop.by_name(demo, ChuckRow, "Chuck B")
    assert chuck is not None
    found = mapping.chuck_outlook(demo, chuck, datetime.now(UTC))
    assert found is not None and found.due and found.um_a_year is not None and found.um_a_year > 2
    rows = maps.of_chuck(demo, chuck)
    assert all("points" not in vars(row) or row is chuck.newest_map for row in rows)


def test_a_big_map_is_kept_whole(demo: Session) -> None:
    points = tuple((float(x), float(y), (x * y % 13) / 7) for y in range(100) for x in range(100))
    chuck = shop.by_name(demo, ChuckRow, "Chuck A")
    assert chuck is not None
    row = maps.add_whole(demo, Begun("machine", NOW, chuck=chuck), SurfaceMap("machine", points, 0.0))
    demo.flush()
    demo.expire(row)
    assert row.whole.points == points


def test_the_newest_map_of_a_surface_is_the_last_one_in_use(demo: Session) -> None:
    job, rows = the_job(demo), {}
    for surface in (2, 1, 2):
        rows[surface] = begun(demo, surface=surface)
        take(demo, rows[surface], [*VALUES, "0.1"])
    take(demo, begun(demo), ["1", "2"])
    assert maps.newest_of(demo, job, 2) is rows[2] and maps.newest_of(demo, job, 1) is rows[1]
    assert maps.newest_of(demo, job, 5) is None and maps.newest_of(demo, the_job(demo, "TR-120"), 2) is None


def test_a_map_travels_with_its_patches_and_what_was_seen_of_it(demo: Session) -> None:
    points = ((0.0, 0.0, 1.0), (30.0, 0.0, 2.0), (30.0, 20.0, 2.5), (60.0, 0.0, 1.0), (60.0, 20.0, 3.0))
    whole = SurfaceMap("machine", points, 0.25, (0, 0, 0, 1, 1), ("left pad", "right pad"))
    job = the_job(demo)
    row = maps.add_whole(demo, Begun("machine", NOW, job=job, surface=2, piece=1, note="Two pads."), whole)
    maps.mark_seen(demo, row, {3: True, 0: False}, D("1.5"))
    assert (row.by, row.instrument, row.taken_at) == (None, None, NOW)
    text = write_job(job_files.write_out(demo, job)).replace(row.key, str(uuid4()))
    copy = read_job(text.replace('"number": "TR-133"', '"number": "TR-933"'))
    new, _ = job_files.read_in(demo, _fresh_ids(copy), ReadIn(who(demo, "isa"), NOW))
    demo.expire_all()
    again = maps.of_job(demo, new)[0]
    assert again.whole == whole and again.seen_places == {0: False, 3: True} and again.seen_depth_um == D("1.5")
    assert (again.by, again.instrument, again.note, again.state) == (None, None, "Two pads.", "in use")
    assert again.range_um == row.range_um == D("2.6") and again.count == 5


@pytest.mark.parametrize(
    ("more", "says"),
    [
        ({"patches": ["a"], "patch_of": [0, 0]}, "patches do not fit"),
        ({"patches": ["a"], "patch_of": [1] * 6}, "patches do not fit"),
        ({"patches": ["a"], "patch_of": [-1] * 6}, "patch_of"),
        ({"patch_of": [0] * 6}, "patches do not fit"),
        ({"seen": {"6": True}}, "where there is no point"),
        ({"seen": {"-1": True}}, "where there is no point"),
        ({"seen_depth_um": "-1"}, "seen_depth_um"),
    ],
)
def test_a_file_s_patches_and_what_was_seen_fit_its_points(demo: Session, more: dict[str, Any], says: str) -> None:
    row = begun(demo)
    take(demo, row, [*VALUES, "0.1"])
    told = json.loads(write_job(job_files.write_out(demo, the_job(demo))))
    mine = next(each for each in told["maps"] if each["key"] == row.key)
    assert len(mine["points"]) == 6 and read_job(json.dumps(told))
    mine.update(more)
    with pytest.raises(JobFileError, match=says):
        read_job(json.dumps(told))


def test_a_map_says_when_its_last_place_was_read_and_in_which_frame(demo: Session) -> None:
    for frame in ("plate", "machine"):
        row = begun(demo, frame)
        take(demo, row, VALUES)
        later = NOW + timedelta(minutes=3)
        maps.read(demo, row, MapReading(str(uuid4()), 6, D("0.1")), who(demo), at=later)
        assert row.taken_at == later and row.state == "in use"
        demo.expire_all()
        assert row.whole.frame == frame and maps.by_key(demo, row.key) is row
        assert row.range_um == D(repr(round(row.whole.analysis.range_um, 4)))
    assert maps.by_key(demo, str(uuid4())) is None


def test_a_map_given_up_has_no_points_and_one_withdrawn_keeps_them(demo: Session) -> None:
    whole, open_map = begun(demo), begun(demo)
    take(demo, whole, [*VALUES, "0.1"])
    take(demo, open_map, VALUES[:2])
    why = "Bumped. " * 100
    for row, points in ((whole, 6), (open_map, 0)):
        assert maps.withdraw(demo, row, why) and not maps.withdraw(demo, row, "Again.")
        assert (row.state, row.note) == ("withdrawn", why[:500]) and len(json.loads(row.points or "[]")) == points


def test_whole_maps_are_read_once_and_those_used_longest_ago_go(demo: Session, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(map_models, "KEPT", 2)
    kept = OrderedDict[Any, SurfaceMap]()
    monkeypatch.setattr(map_models, "_wholes", kept)
    rows = []
    for _ in range(3):
        rows.append(begun(demo))
        take(demo, rows[-1], [*VALUES, "0.1"])
    keys = [(row.key, row.taken_at) for row in rows]
    wholes = [row.whole for row in rows]
    assert list(kept) == keys[1:]
    demo.flush()
    demo.expunge_all()
    again = maps.by_key(demo, keys[2][0])
    assert again is not None and again.whole is wholes[2] and list(kept) == keys[1:]


def test_a_refused_map_says_so_before_its_note_as_far_as_there_is_room(demo: Session) -> None:
    row = begun(demo, note="n" * 500)
    take(demo, row, [*VALUES, "9"])
    assert row.state == "refused" and len(row.note) == 500
    assert row.note.startswith("The first point came back +9.0 µm: the map is refused. Read it again. nnn")
