"""What stands beside an act at the machine: the next dress, the meter's word, the share cleaned."""

from dataclasses import replace
from datetime import UTC, datetime
from decimal import Decimal
from types import SimpleNamespace
from typing import Any

import pytest
from sqlalchemy.orm import Session

from zesty_lark.core.measure.maps.surface_map import SurfaceMap
from zesty_lark.core.process.power_watch import PowerWatch
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.run import Run
from zesty_lark.shopfloor import companion
from zesty_lark.store import maps
from zesty_lark.store.maps import Begun
from zesty_lark.store.models import Job

D = Decimal
NOW = datetime.now(UTC)


@pytest.mark.parametrize(
    ("by_wheel", "by_meter", "strokes", "by_power"),
    [(50, 20, 20, True), (50, 50, 50, False), (50, 80, 50, False), (None, 80, 80, True), (50, None, 50, False)],
)
def test_a_dress_is_due_by_the_wheel_s_front_or_by_the_meter_whichever_is_sooner(
    demo: Session, at_work: tuple[Job, JobState, Run], monkeypatch: pytest.MonkeyPatch,
    by_wheel: int | None, by_meter: int | None, strokes: int, by_power: bool,
) -> None:  # fmt: skip
    job, job_state, run = at_work
    left = None if by_meter is None else float(by_meter)
    watch = PowerWatch(1.0, 1.0, 100.0, 200.0, left, "well")
    monkeypatch.setattr(companion, "_power", lambda _job, _state: watch)
    use = SimpleNamespace(
        strokes_to_dress=lambda _made, _wheel: by_wheel, strokes_to_volume=lambda volume, _made, _wheel: int(volume),
        share=lambda _wheel: 0.25, dress_mm=lambda graduation: graduation * 5,
    )  # fmt: skip
    beside = companion.companion(demo, job, replace(job_state, wheel_use=use), run)  # type: ignore[arg-type]
    assert (beside.strokes_to_dress, beside.by_power, beside.worn_share) == (strokes, by_power, 0.25)
    assert beside.dress_mm == job.machine.graduation_mm * 5 and beside.power is watch


def test_without_a_wheel_a_run_or_a_meter_nothing_of_them_stands_beside_the_act(
    demo: Session, at_work: tuple[Job, JobState, Run], monkeypatch: pytest.MonkeyPatch
) -> None:
    job, job_state, run = at_work
    bare = replace(job_state, spec=replace(job_state.spec, wheel=None))
    beside = companion.companion(demo, job, bare, run)
    assert (beside.strokes_to_dress, beside.worn_share, beside.power, beside.by_power) == (None, 0.0, None, False)
    none = companion.companion(demo, job, job_state, None)
    assert (none.left, none.strokes_to_dress, none.clean, none.power) == (None, None, None, None)
    assert companion.companion(demo, job, job_state, replace(run, plan=None)).left is None
    watch = PowerWatch(1.0, 1.0, 100.0, 200.0, 5.0, "well")
    monkeypatch.setattr(companion, "_power", lambda _job, _state: watch)
    for now, of in ((bare, run), (job_state, None), (job_state, replace(run, plan=None))):
        assert not companion.companion(demo, job, now, of).by_power


def test_a_pass_goes_over_the_whole_load_and_is_the_next_that_feeds(at_work: tuple[Job, JobState, Run]) -> None:
    _, job_state, run = at_work
    assert run.plan is not None
    made = companion.next_pass(job_state, run)
    assert made is not None and (made.along_mm, made.across_mm) == (88.0, 54.0)
    for pieces, along in (((1, 2, 3), 264.0), ((), 88.0)):
        of_load = companion.next_pass(job_state, replace(run, pieces=pieces))
        assert of_load is not None and of_load.along_mm == along
    over = companion.next_pass(job_state, replace(run, done=len(run.plan.steps)))
    nowhere = companion.next_pass(replace(job_state, spec=replace(job_state.spec, lying_mm={})), run)
    assert over is None and nowhere is None and companion.next_pass(job_state, replace(run, plan=None)) is None
    for name in ("crossfeed_mm", "table_mm_s"):
        steps = tuple(replace(step, **{name: None}) for step in run.plan.steps)
        assert companion.next_pass(job_state, replace(run, plan=replace(run.plan, steps=steps))) is None


def test_the_meter_tells_of_a_wheel_that_has_cut_with_it(
    demo: Session, at_work: tuple[Job, JobState, Run], monkeypatch: pytest.MonkeyPatch
) -> None:
    job, job_state, run = at_work
    limits: list[tuple[object, ...]] = []
    monkeypatch.setattr(
        companion, "watch_power", lambda powers, spindle, **more: limits.append((powers, spindle, more))
    )
    cut = replace(job_state, powers=(1, 2), idle_w=90.0)  # type: ignore[arg-type]
    for hardness in (D(60), None):
        with demo.no_autoflush:
            job.part.hardness_hrc = hardness
            companion._power(job, cut)
            demo.expire(job.part)
    wheel = job_state.spec.wheel
    assert wheel is not None and [limit[0] for limit in limits] == [(1, 2)] * 2
    spindle: Any = limits[0][1]
    assert (spindle.wheel_diameter_mm, spindle.wheel_rpm, spindle.idle_w) == (wheel.diameter_mm, wheel.rpm, 90.0)
    flips: list[bool] = []
    monkeypatch.setattr(companion, "time_left", lambda _run, _times, *, is_flip: flips.append(is_flip))
    for now in (job_state, replace(job_state, up=None)):
        companion.companion(demo, job, now, run)
    assert flips == [True, False], "what is up has only to be turned over"
    assert companion._power(job, replace(job_state, powers=())) is None
    bare = replace(job_state, spec=replace(job_state.spec, wheel=None), powers=(1,) * 5)  # type: ignore[arg-type]
    assert companion._power(job, bare) is None


def test_the_share_cleaned_is_what_lies_above_the_depth_that_was_fed_and_not_held_back(
    demo: Session, at_work: tuple[Job, JobState, Run]
) -> None:
    job, _, run = at_work
    points = ((0.0, 0.0, 0.0), (60.0, 0.0, -10.0), (60.0, 30.0, -20.0), (0.0, 30.0, -10.0))
    maps.add_whole(demo, Begun("machine", NOW, job=job, surface=2, piece=1), SurfaceMap("machine", points, 0.0))

    def share(depth: str, held: str = "0") -> float:
        found = companion.share_cleaned(demo, job, replace(run, depth_mm=D(depth), held_back_mm=D(held)))
        assert found is not None
        return found

    assert share("0.03") == 1.0 and share("0") < 0.05 and share("0.005", "0.02") == share("0")
    assert share("0.01") < share("0.015") == share("0.02", "0.005") < share("0.02")
    assert companion.share_cleaned(demo, job, replace(run, plan=None)) is None
    assert companion.share_cleaned(demo, job, replace(run, surface=5)) is None


def test_a_share_is_told_of_no_map_too_small_or_too_large(
    demo: Session, at_work: tuple[Job, JobState, Run], monkeypatch: pytest.MonkeyPatch
) -> None:
    job, _, run = at_work
    points = ((0.0, 0.0, 0.0), (60.0, 0.0, -10.0), (60.0, 30.0, -20.0), (0.0, 30.0, -10.0))
    maps.add_whole(demo, Begun("machine", NOW, job=job, surface=2, piece=1), SurfaceMap("machine", points, 0.0))
    three = SurfaceMap("machine", points[:3], 0.0)
    maps.add_whole(demo, Begun("machine", NOW, job=job, surface=3, piece=1), three)
    assert companion.share_cleaned(demo, job, replace(run, surface=3)) is not None
    for most, told in ((4, True), (3, False)):
        monkeypatch.setattr(companion, "MOST_POINTS", most)
        assert (companion.share_cleaned(demo, job, run) is not None) is told
