"""What is kept can leave and come back: one set of limits for forms, files in and files out; and what cannot be kept
gets a sentence."""

import io
import json
import random
import re

import pytest
from flask import Flask
from sqlalchemy.orm import Session

from tests.web.conftest import Browser
from tests.web.test_take_in import fields_of
from zesty_lark.core.measure.maps.bounds import HIGHEST_UM, MOST_POINTS_A_JOB
from zesty_lark.core.measure.maps.surface_map import SurfaceMap
from zesty_lark.core.work.entries import Noted
from zesty_lark.core.work.entry import MOST_ENTRIES
from zesty_lark.core.work.machine_rules import LogError
from zesty_lark.exchange.job_json import read_job, write_job
from zesty_lark.store import job_files, jobs, log_rows, maps, people, shoplog
from zesty_lark.store.maps import Begun
from zesty_lark.store.shoplog import Draft
from zesty_lark.web.shared.wording import now

BRING_IN = "/jobs/TR-101/maps/bring-in"


def bring_in(isa: Browser, points: list[list[float]], **more: str) -> int:
    told = {"format": "zesty-lark map 1", "frame": "machine", "points": points}
    isa.get(BRING_IN)
    sent = {"file": (io.BytesIO(json.dumps(told).encode()), "map.json"), "sure": "y", "piece": "1", "surface": "1"}
    return isa.post(BRING_IN, sent | {"frame": "machine", "plate_um": "0"} | more).status_code


def again(isa: Browser, number: str) -> str:
    """The job's file, read in as another's; a second round has to change nothing more."""
    told = isa.get("/jobs/TR-101/record/job.json").data.decode()
    told = re.sub(r'("(?:entry_id|supersedes|key)": ").', r"\g<1>q", told.replace('"TR-101"', f'"{number}"'))
    isa.get("/jobs/read-in")
    answer = isa.post("/jobs/read-in", {"file": (io.BytesIO(told.encode()), "job.json")})
    assert answer.status_code == 303, isa.page
    return told


@pytest.mark.parametrize("height", [HIGHEST_UM, -HIGHEST_UM, 5e-324, -1e-310, 0.1 + 0.2, 999_999.9999])
def test_whatever_height_is_kept_leaves_and_comes_back(isa: Browser, height: float) -> None:
    points = [[0.0, 0.0, height], [10.0, 0.0, 0.0], [0.0, 10.0, 1.0], [10.0, 10.0, 5e-324]]
    assert bring_in(isa, points) == 303, isa.page
    first = again(isa, "TR-971")
    second = isa.get("/jobs/TR-971/record/job.json").data.decode()
    assert json.loads(second)["maps"] == json.loads(first)["maps"]


@pytest.mark.parametrize("height", [1.0001e6, -1e7, 1e300, float("1e308")])
def test_a_height_beyond_any_surface_is_kept_by_no_path(isa: Browser, height: float) -> None:
    points = [[0.0, 0.0, height], [10.0, 0.0, 0.0], [0.0, 10.0, 1.0]]
    assert bring_in(isa, points) == 422 and "beyond any surface" in isa.page
    isa.get(BRING_IN)
    pasted = "\n".join(" ".join(repr(value) for value in point) for point in points)
    told = {"pasted": pasted, "closing_um": "0", "piece": "1", "surface": "1", "frame": "machine", "sure": "y"}
    assert isa.post(BRING_IN, told | {"plate_um": "0"}).status_code == 422 and "beyond any surface" in isa.page
    file = isa.get("/jobs/TR-101/record/job.json").data.decode()
    held = json.loads(file.replace('"TR-101"', '"TR-972"'))
    held["maps"] = held["maps"][:1]
    held["maps"][0] |= {"points": points, "patches": [], "patch_of": [], "seen": {}}
    isa.get("/jobs/read-in")
    answer = isa.post("/jobs/read-in", {"file": (io.BytesIO(json.dumps(held).encode()), "job.json")})
    assert answer.status_code == 422 and "maps.0.points" in isa.page


def test_no_more_is_kept_of_maps_than_a_file_can_hold(demo: Session) -> None:
    job, isa = jobs.by_number(demo, "TR-101"), people.by_sign_in_name(demo, "isa")
    assert job is not None and isa is not None
    grid = tuple((float(x), float(y), 0.0) for x in range(400) for y in range(375))
    begun = Begun("machine", now(), isa, None, job, 1, 1)
    assert 2 * len(grid) == MOST_POINTS_A_JOB
    maps.add_whole(demo, begun, SurfaceMap("machine", grid))
    with pytest.raises(ValueError, match="points already"):
        maps.add_whole(demo, begun, SurfaceMap("machine", (*grid, (500.0, 0.0, 0.0))))


def test_a_log_has_no_more_entries_than_a_file_can_hold(demo: Session, monkeypatch: pytest.MonkeyPatch) -> None:
    job, isa = jobs.by_number(demo, "TR-101"), people.by_sign_in_name(demo, "isa")
    assert job is not None and isa is not None
    monkeypatch.setattr(shoplog, "MOST_ENTRIES", len(log_rows.entries_of(demo, job)) + 1)
    for number, good in ((1, True), (2, False)):
        draft = Draft(Noted(entry_id=f"one-more-{number}", at=now(), note="One."))
        if good:
            shoplog.append(demo, job, isa, draft)
        else:
            with pytest.raises(LogError, match="as many as its file can hold"):
                shoplog.append(demo, job, isa, draft)


def test_the_file_of_a_full_log_can_be_read_in(demo: Session, app: Flask) -> None:
    """As long as it may be, with the longest remarks that a page takes; a file is no longer than an upload may be."""
    job = jobs.by_number(demo, "TR-101")
    assert job is not None
    record = job_files.write_out(demo, job)
    note = Noted(entry_id="x" * 36, at=now(), by="bryn", note="é" * 400)
    more = MOST_ENTRIES - len(record.entries)
    text = write_job(job_files.JobRecord(**record.__dict__ | {"entries": [*record.entries, *[note] * more]}))
    assert len(text.encode()) < app.config["MAX_CONTENT_LENGTH"]
    assert len(read_job(text).entries) == MOST_ENTRIES


@pytest.mark.parametrize("typed", ["9" * 5000, "0." + "1" * 3000, "1e9999", "-" * 40, "1/0", "9" * 39, "1e-400"])
def test_a_size_that_is_none_gets_words(isa: Browser, typed: str) -> None:
    isa.get("/jobs/TR-120/take-in")
    fields = fields_of(isa.page)
    for name in ("thickness_max", "width_target", "bow"):
        if name in fields:
            answer = isa.post("/jobs/TR-120/take-in", fields | {name: typed})
            assert answer.status_code == 422, (name, typed)


@pytest.mark.parametrize("field", ["route", "features"])
@pytest.mark.parametrize("text", ["[" * 5000, "{" * 5000, '{"a":' * 4000, "", "null", "9" * 5000])
def test_a_text_that_is_none_in_a_job_s_file_gets_words(isa: Browser, field: str, text: str) -> None:
    told = json.loads(isa.get("/jobs/TR-133/record/job.json").data)
    told["job"]["number"] = "TR-973"
    told["part"][field] = text
    told["entries"], told["maps"] = [], []
    isa.get("/jobs/read-in")
    answer = isa.post("/jobs/read-in", {"file": (io.BytesIO(json.dumps(told).encode()), "job.json")})
    assert answer.status_code in (303, 422)


@pytest.mark.parametrize("shape", ["", "none", "9" * 300])
def test_a_shape_that_is_none_gets_words(isa: Browser, shape: str) -> None:
    isa.get("/wheels/1/shape")
    for sent in ({"shape": shape}, {}):
        assert isa.post("/wheels/1/shape", sent).status_code in (200, 303, 422)


def test_what_is_accepted_goes_out_and_comes_in_the_same(isa: Browser, demo: Session) -> None:
    """Maps and notes at random, as far as the forms take them: read in elsewhere, a second round changes nothing."""
    draw = random.Random(8)
    for number in range(6):
        points = [[draw.uniform(-9e3, 9e3), draw.uniform(-9e3, 9e3), draw.uniform(-1e6, 1e6)] for _ in range(20)]
        assert bring_in(isa, points, surface=str(draw.randint(1, 6))) == 303
        note = "".join(draw.choice("aé°µ\u2028\u200b\"'\\<&=+-@\t ") for _ in range(draw.randint(1, 900))) + "."
        sent = {"act": "note", "entry_id": f"random-{number:04d}", "note": note}
        assert isa.post("/jobs/TR-101/grind", sent).status_code == 303
    first = again(isa, "TR-974")
    second = isa.get("/jobs/TR-974/record/job.json").data.decode()
    one, other = json.loads(first), json.loads(second)
    for gauge in one["instruments"]:
        gauge |= {"port": None, "simulated": False}
    for gauge in other["instruments"]:
        gauge |= {"port": None, "simulated": False}
    assert one == other
