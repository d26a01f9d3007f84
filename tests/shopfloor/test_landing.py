"""The next cut by a run's estimate: from the log, as the measuring page and the grind page say it."""

from dataclasses import replace

import pytest

from tests.shopfloor.hands import D, Hands, job_of
from tests.shopfloor.test_simulated_runs import EVEN, PRINTS
from zesty_lark.core.landing.landed import landed
from zesty_lark.core.measure.estimated_cut import cut_of_landing
from zesty_lark.core.measure.next_cut import NextCut
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.landing_run import ahead
from zesty_lark.core.work.next_act import Next
from zesty_lark.shopfloor import landing, stock
from zesty_lark.shopfloor.companion import expected


class Stopping(Hands):
    """Work until the first measurement of face 2 that asks for more, and stand there."""

    stopped: JobState | None = None

    def act(self, what: Next, job_state: JobState) -> None:
        if self.stopped is None and what.act == "plan" and what.surface == 2 and job_state.runs[2].proofs:
            self.stopped = job_state
        super().act(what, job_state)


@pytest.fixture(scope="module")
def stopping() -> Stopping:
    hands = Stopping(job_of(PRINTS[0], came="22.2"), 5, truth=EVEN)
    hands.work((1, 2))
    return hands


def of(hands: Stopping) -> tuple[JobState, "landing.LandingRun"]:
    job_state = hands.stopped
    assert job_state is not None
    run, goal = job_state.runs[2], stock.goal_of(hands.job, job_state, job_state.runs[2])
    made = landing.landing_run(hands.job, job_state, run, goal_mm=goal, graduation_mm=stock.graduation_of(hands.job, 2))
    assert made is not None
    return job_state, made


def test_a_run_of_the_log_has_its_acts_with_each_pass_s_own_figures(stopping: Stopping) -> None:
    job_state, made = of(stopping)
    names = [act.act for act in made.acts]
    assert names[-1] == "measured" and names[-2] == "cool", "its warmth is taken out of what was read"
    passes = [act for act in made.acts if act.act == "pass"]
    depths = [act.to_mm for act in passes]
    assert passes and depths == sorted(depths) and depths[-1] == pytest.approx(float(job_state.runs[2].reading_mm))
    plan = job_state.runs[2].plan
    assert plan is not None
    crossfeeds = {float(step.crossfeed_mm) for step in plan.passes if step.crossfeed_mm is not None}
    assert {act.figures.crossfeed_mm for act in passes if act.figures} <= crossfeeds
    assert made.lower_mm == pytest.approx(21.997) and made.upper_mm == pytest.approx(22.003)
    assert made.measure_u_mm == pytest.approx(float(job_state.runs[2].proofs[1].uncertainty_mm) / 2)
    assert made.pieces[0].greatest_mm == pytest.approx(22.2, abs=0.15)


def test_the_page_s_cut_is_the_estimate_s_and_whole_graduations(stopping: Stopping) -> None:
    job_state, made = of(stopping)
    found = stock.stock_of(stopping.job, job_state, 2)
    graduation = stock.graduation_of(stopping.job, 2)
    assert found.cut == cut_of_landing(made, graduation) and found.cut.what == "take"
    assert found.on_mm == found.cut.amount_mm and found.on_mm % graduation == 0
    assert float(found.on_mm) == pytest.approx(landed(made).to_mm - landed(made).depth_mm, abs=1e-6)
    assert found.cut.chance_in is not None and found.cut.chance_under <= 0.001


def test_what_surprises_is_read_again_and_confirmed_moves_the_zero(stopping: Stopping) -> None:
    """The wheel was not there: what was read is 50 µm more than it should be."""
    _, made = of(stopping)
    last = made.acts[-1]
    assert last.greatest_mm is not None and last.least_mm is not None
    off = replace(last, greatest_mm=last.greatest_mm + 0.05, least_mm=last.least_mm + 0.05)
    once = replace(made, acts=(*made.acts[:-1], off))
    assert cut_of_landing(once, D("0.00254")) == NextCut("read again", surprised=True)
    twice = cut_of_landing(replace(once, acts=(*once.acts, off)), D("0.00254"))
    assert twice.what == "take" and twice.zero_anew
    clean = cut_of_landing(replace(once, acts=(*once.acts, last)), D("0.00254"))
    assert clean.what == "take" and not clean.zero_anew
    assert abs(twice.amount_mm - clean.amount_mm - D("0.05")) < D("0.012")


def test_grind_says_how_the_next_stop_will_likely_read(stopping: Stopping) -> None:
    job_state, made = of(stopping)
    run = job_state.runs[2]
    assert ahead(made, job_state, replace(run, plan=None)) is None
    assert run.plan is not None
    deep = replace(run.plan.passes[-1], depth_mm=run.depth_mm + D("0.2"), step_mm=D("0.2"), number=1)
    blind = replace(run, plan=replace(run.plan, steps=(deep,)), done=0)
    found = ahead(made, job_state, blind)
    assert found is not None and found.risky and found.under > 0.9, "0.2 mm blind is under the size"
    none = replace(run, touched_off=False)
    assert expected(stopping.job, job_state, none) is None
