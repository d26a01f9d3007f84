"""The machine on the pages: one load, one wheel, a crash; taken over by a machinist; what a gauge in doubt says."""

import re
from dataclasses import replace
from decimal import Decimal

import pytest
from sqlalchemy.orm import Session

from tests.web.conftest import Browser
from tests.web.test_acts import ask
from zesty_lark.core.work.entries import HandedOver
from zesty_lark.core.work.folding import Folding
from zesty_lark.core.work.machine_acts import Planned
from zesty_lark.shopfloor.acts.acting import InShop
from zesty_lark.shopfloor.acts.gauges import check_repeat
from zesty_lark.shopfloor.acts.jobs import may_take_over
from zesty_lark.store import job_states, jobs, log_rows, machines, people, shop
from zesty_lark.store.models import InstrumentRow, Job, MachineRow

D = Decimal


def job_of(demo: Session, number: str) -> Job:
    demo.expire_all()
    found = jobs.by_number(demo, number)
    assert found is not None
    return found


def machine_of(demo: Session, name: str = "No. 1, inch dial") -> MachineRow:
    demo.expire_all()
    found = shop.by_name(demo, MachineRow, name)
    assert found is not None
    return found


def test_another_load_is_asked_about_and_the_first_screen_says_who_took_it_off(
    stranger: Browser, demo: Session
) -> None:
    nim = stranger.be("nim")
    nim.get("/jobs/TR-133/grind")
    assert "TR-101 is off the chuck" in nim.page and ">TR-101 up</span>" in nim.page
    assert nim.press("TR-133", "place", stopped="1", takes_off="").status_code == 422
    assert "TR-101 is up on No. 1, inch dial. Putting this up takes it off" in nim.page
    assert nim.press("TR-133", "place", stopped="1").status_code == 303
    bryn = stranger.be("bryn")
    bryn.get("/jobs/TR-101/grind")
    assert (
        "taken off for TR-133 on No. 1, inch dial, by Nim Sedge" in bryn.page and "TR-133 is off the chuck" in bryn.page
    )
    assert machine_of(demo).on_chuck == "TR-133"
    bryn.get(f"/machines/{machine_of(demo).id}")
    assert "The zero is lost: TR-133 was put up." in bryn.page and "TR-133 put up, Nim Sedge" in bryn.page


def test_a_job_whose_wheel_is_not_on_is_to_mount_it_or_to_change_it(bryn: Browser, demo: Session) -> None:
    bryn.get("/jobs/take-in")
    offered = re.search(r'<select[^>]*id="wheel_id".*?<option selected value="\d+">([^<]+)', bryn.page)
    assert offered is not None and offered[1] == machine_of(demo).spindle, "what is mounted is offered first"
    wheel = job_of(demo, "TR-101").wheel
    bryn.get(f"/wheels/{wheel.id}")
    entry = re.findall(r'name="entry_id"[^>]*value="([\w-]+)"', bryn.page)[0]
    assert bryn.post(f"/wheels/{wheel.id}/take-down", {"entry_id": entry}).status_code == 303
    bryn.get("/jobs/TR-101/grind")
    assert "Mount W3 open white" in bryn.page and "W3 open white was taken off" in bryn.page
    assert bryn.press("TR-101", "touch_off", reading="0").status_code == 422
    assert "W3 open white is not on No. 1, inch dial" in bryn.page
    bryn.get(f"/machines/{machine_of(demo).id}")
    assert "No wheel is on the spindle." in bryn.page


def test_a_crash_is_gone_on_from_when_it_was_looked_at_and_stands_on_the_report(bryn: Browser, demo: Session) -> None:
    assert bryn.press("TR-101", "halt", what="other").status_code == 303
    assert bryn.press("TR-101", "go_on", reason="The wheel ran into the block, a piece broke off").status_code == 422
    assert "That sounds like a crash" in bryn.page and "It was no crash" in bryn.page
    assert bryn.press("TR-101", "halt", what="crash").status_code == 303
    assert "Nobody reaches in until it stands still" in bryn.get("/jobs/TR-101/grind").text
    assert bryn.press("TR-101", "go_on", reason="All looked at").status_code == 422
    assert "chuck, guard and spindle are looked at" in bryn.page
    assert bryn.press("TR-101", "go_on", reason="All looked at", looked="1").status_code == 303
    bryn.get("/jobs/TR-101/grind")
    assert machine_of(demo).on_chuck is None and "not ready: look comes first" in bryn.page
    bryn.get("/jobs/TR-101/record/inspection")
    assert "The wheel struck something" in bryn.page.replace("the wheel struck", "The wheel struck")
    bryn.get(f"/machines/{machine_of(demo).id}")
    assert "W3 open white is not ready: look comes first." in bryn.page


def test_after_a_crash_who_is_learning_waits_for_a_lead(stranger: Browser, demo: Session) -> None:
    nim = stranger.be("nim")
    assert nim.press("TR-133", "place", stopped="1").status_code == 303
    assert nim.press("TR-133", "halt", what="crash").status_code == 303
    assert nim.press("TR-133", "go_on", reason="Looked", looked="1").status_code == 422
    assert "a lead looks first" in nim.page
    isa = stranger.be("isa")
    isa.press("TR-133", "take_over")
    assert isa.press("TR-133", "go_on", reason="Looked", looked="1").status_code == 303, isa.page


def test_what_only_sounds_like_a_crash_goes_on_when_somebody_says_so(bryn: Browser, demo: Session) -> None:
    assert bryn.press("TR-101", "halt", what="other").status_code == 303
    said = {"reason": "A rag hit the guard", "no_crash": "1"}
    assert bryn.press("TR-101", "go_on", **said).status_code == 303
    assert machines.state_of(demo, machine_of(demo)).zero is not None


def test_a_pass_at_idle_is_asked_about_before_it_counts(bryn: Browser, demo: Session) -> None:
    assert bryn.press("TR-101", "spark_out", power_w="61").status_code == 303
    before = job_states.state_of(demo, job_of(demo, "TR-101")).runs[2].reading_mm
    assert bryn.press("TR-101", "pass", power_w="63").status_code == 422
    assert "did it cut, or was it air?" in bryn.page and "It is so: log it" in bryn.page
    assert job_states.state_of(demo, job_of(demo, "TR-101")).runs[2].reading_mm == before
    assert bryn.press("TR-101", "pass", power_w="387").status_code == 303
    assert bryn.press("TR-101", "pass", power_w="62", sure=["quick", "air"]).status_code == 303
    assert job_states.state_of(demo, job_of(demo, "TR-101")).runs[2].passes_done == 7


def test_a_pass_faster_than_the_table_is_asked_about_before_it_counts(bryn: Browser, demo: Session) -> None:
    def passes() -> int:
        return job_states.state_of(demo, job_of(demo, "TR-101")).runs[2].passes_done

    assert bryn.press("TR-101", "pass").status_code == 303
    assert bryn.press("TR-101", "pass", sure="").status_code == 422 and passes() == 6
    assert "the press before was less than half of that ago" in bryn.page and "It was made" in bryn.page
    assert bryn.press("TR-101", "spark_out", sure="").status_code == 303, "a spark-out of one's own is not the plan's"
    state = job_states.state_of(demo, job_of(demo, "TR-101"))
    given = {"surface": 2, "reading_mm": str(state.runs[2].next_reading_mm), "seen": state.last_seq}
    asked = ask(bryn, "feed", **given, entry_id="quick-by-name-1")
    assert (
        (asked.status_code, asked.json["sure"]) == (422, "quick")
        and "Was it made?" in asked.json["error"]
        and passes() == 6
    )
    assert ask(bryn, "feed", **given, entry_id="quick-by-name-1", sure=["quick"]).status_code == 200 and passes() == 7


def test_the_readout_is_a_witness_against_the_collar(bryn: Browser, demo: Session) -> None:
    """TR-101 goes down to 6.0 thou; a backlash and two graduations of it are the readout's to differ."""
    assert bryn.press("TR-101", "pass", readout_mm="0.54356").status_code == 422
    assert "The readout says 21.4 thou and the collar is to be at 6.0 thou: which is right?" in bryn.page
    assert job_states.state_of(demo, job_of(demo, "TR-101")).runs[2].passes_done == 5
    sure = bryn.press("TR-101", "pass", readout_mm="9", sure=["quick", "readout"])
    assert sure.status_code == 303 and bryn.press("TR-101", "undo").status_code == 303
    machine, goes_to = machine_of(demo), job_states.state_of(demo, job_of(demo, "TR-101")).runs[2].next_reading_mm
    assert goes_to is not None
    near = goes_to + machine.backlash_mm + 2 * machine.graduation_mm
    assert bryn.press("TR-101", "pass", readout_mm=f"{near + D('0.0001'):f}").status_code == 422
    assert bryn.press("TR-101", "pass", readout_mm=f"{near:f}").status_code == 303
    unread = {"readout_mm": "no figure"}
    assert bryn.press("TR-101", "pass", **unread).status_code == 303, "what nobody can read is no witness"


def test_a_job_is_taken_over_by_a_machinist_with_a_reason_and_by_no_apprentice(
    stranger: Browser, demo: Session
) -> None:
    odo = stranger.be("odo")
    odo.get("/jobs/TR-101/grind")
    assert "Take the job over" in odo.page
    path = "/jobs/TR-101/grind/take-over"
    assert odo.post(path, {"entry_id": "take-over-1", "reason": " "}).status_code == 422
    assert odo.post(path, {"entry_id": "take-over-1", "reason": "Second shift."}).status_code == 303
    job = job_of(demo, "TR-101")
    last = log_rows.entries_of(demo, job)[-1]
    assert job.owner.name == "Odo Marl" or job.owner.sign_in_name == "odo"
    assert isinstance(last, HandedOver) and last.by == "odo" and last.note.endswith("from Bryn Tallow: Second shift.")
    nim = stranger.be("nim")
    nim.get("/jobs/TR-101/grind")
    assert "Take the job over" not in nim.page
    assert nim.post(path, {"entry_id": "take-over-2", "reason": "I want it."}).status_code == 403
    apprentice, entries = people.by_sign_in_name(demo, "nim"), log_rows.entries_of(demo, job)
    assert apprentice is not None
    own = [replace(entry, by="nim") if isinstance(entry, Planned) else entry for entry in entries]
    assert may_take_over(apprentice, Folding(job.part.spec(), own).state())
    assert not may_take_over(apprentice, Folding(job.part.spec(), entries).state())
    assert not may_take_over(apprentice, Folding(job.part.spec(), []).state()), "nothing is planned"


@pytest.mark.parametrize("good", [True, False])
def test_what_a_gauge_that_did_not_repeat_says_is_unsure_and_it_maps_nothing(
    stranger: Browser, demo: Session, good: bool
) -> None:
    gauge, lead = shop.by_name(demo, InstrumentRow, "Simulated gauge"), people.by_sign_in_name(demo, "isa")
    assert gauge is not None and lead is not None
    lifts = [0.0] * 5 if good else [0.0, 90.0, 0.0, 90.0, 0.0]
    check_repeat(InShop(demo, lead, log_rows.entries_of(demo, job_of(demo, "TR-101"))[-1].at, "five-lifts-1"),
                 gauge=gauge.name, readings_um=lifts)  # fmt: skip
    demo.commit()
    isa = stranger.be("isa")
    form = {"frame": "machine", "instrument": str(gauge.id), "kind": "grid", "columns": "3", "rows": "3", "piece": "1",
            "surface": "2", "plate_um": "1"}  # fmt: skip
    answer = isa.post("/jobs/TR-101/maps", form)
    assert answer.status_code == (303 if good else 422), isa.page
    assert ("did not repeat" in isa.page) is not good
