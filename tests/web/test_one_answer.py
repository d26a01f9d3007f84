"""One answer on every page: a figure of the plan that runs is the same wherever it is shown."""

import re

import pytest
from sqlalchemy.orm import Session

from tests.web.conftest import Browser
from zesty_lark.core.planning.reasons import UNSURE
from zesty_lark.core.quantities.units import known_text
from zesty_lark.store import job_states, jobs
from zesty_lark.store.models import Job

HOLDS = re.compile(r"(?:holds? |magnet, )(?:<strong>)?(\d+(?:\.\d+)?)(?:</strong>)?")
PAGES = ("plan", "faces", "set-up", "set-up/sheet", "record/pass-sheet")


def running(session: Session, number: str) -> Job:
    found = jobs.by_number(session, number)
    assert found is not None
    return found


def step_of(page: str, face: int) -> str:
    """What the route says of a face."""
    return next(each for each in page.split('class="step-plan"')[1:] if f"Face {face}:" in each).split("</a>")[0]


@pytest.mark.parametrize("number", ["TR-101", "TR-133"])
def test_the_hold_of_a_run_is_one_figure_on_every_page(isa: Browser, demo: Session, number: str) -> None:
    at = job_states.state_of(demo, running(demo, number)).at
    assert at is not None and at.plan is not None and not at.proofs and at.plan.hold_safety is not None
    told = {}
    for page in PAGES:
        assert isa.get(f"/jobs/{number}/{page}?face={at.surface}").status_code == 200
        words = step_of(isa.page, at.surface) if page == "faces" else isa.page
        found = HOLDS.search(words) or re.search(r"(\d+(?:\.\d+)?) times what pushes it", words)
        assert found, (page, words)
        told[page] = found.group(1)
    assert set(told.values()) == {known_text(float(at.plan.hold_safety), UNSURE["hold"], down=True)}, told
    isa.get(f"/jobs/{number}/faces")
    done = f"{at.passes_done} of {len(at.plan.passes)} passes"
    assert done in step_of(isa.page, at.surface)
    isa.get(f"/jobs/{number}/plan")
    assert done in isa.page


def test_figures_of_no_plan_that_runs_say_so(isa: Browser) -> None:
    isa.get("/jobs/TR-101/set-up?face=2")
    assert "by the plan that runs" in isa.page
    isa.get("/jobs/TR-101/set-up?face=5")
    assert "as it is planned now" in isa.page and "by the plan that runs" not in isa.page


@pytest.mark.parametrize(
    ("number", "faces"), [("TR-101", (3, 4, 5, 6)), ("TR-114", (1, 3, 4, 5, 6)), ("TR-120", (1, 2, 3, 4, 5, 6))]
)
def test_the_hold_as_it_is_planned_is_that_of_the_set_up(isa: Browser, number: str, faces: tuple[int, ...]) -> None:
    isa.get(f"/jobs/{number}/faces")
    route = isa.page
    for face in faces:
        planned = re.search(r"hold (\d+(?:\.\d+)?)", step_of(route, face))
        isa.get(f"/jobs/{number}/set-up?face={face}")
        laid_out = HOLDS.search(isa.page)
        assert planned and laid_out, face
        assert planned[1] == laid_out[1], face


def test_a_bowed_strip_has_one_answer_on_faces_plan_and_set_up(isa: Browser) -> None:
    isa.get("/jobs/TR-120/faces")
    assert "magnet, shimmed" in step_of(isa.page, 1) and "springs back 110" not in isa.page
    chain = re.search(r"springs back (\d+\.\d+)", isa.page)
    isa.get("/jobs/TR-120/set-up?face=1")
    thin = re.search(r"setup-thin.*?</table>", isa.page)
    assert chain and thin and "Foil" in thin[0]
    assert float(chain[1]) < 1.0


@pytest.mark.parametrize(("number", "one"), [("TR-114", True), ("TR-120", False)])
def test_only_what_stays_clamped_is_said_to_be_in_the_same_clamping(isa: Browser, number: str, one: bool) -> None:
    isa.get(f"/jobs/{number}/plan?face=4")
    assert ("in the same clamping" in isa.page) is one and ("face 6 down" in isa.page) is not one
    assert ("clamped again for face 4" in isa.page) is not one
