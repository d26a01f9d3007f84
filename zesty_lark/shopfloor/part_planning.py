"""A part's planning: what its plan is worked out from, the version that is worked from, and the pieces that go up
together."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from sqlalchemy.orm import Session

from zesty_lark.core.quantities.numbers import InputError
from zesty_lark.core.squaring.changes import Change, differences
from zesty_lark.core.squaring.choices import RouteChoices
from zesty_lark.core.squaring.nest import Nest, nest
from zesty_lark.core.squaring.planned import RoutePlan
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.next_act import next_act
from zesty_lark.shopfloor.basis import Basis, basis_of
from zesty_lark.shopfloor.loads import chuck_size, room_in
from zesty_lark.shopfloor.planning import Planning
from zesty_lark.store import part_plans
from zesty_lark.store.models import Job, PartPlanRow


@dataclass(frozen=True)
class PartPlanning:
    """The basis of a part's plan, the version worked from, all versions newest first, and what is chosen."""

    job: Job
    basis: Basis
    base: PartPlanRow | None
    versions: list[PartPlanRow]
    choices: RouteChoices

    @property
    def newest(self) -> PartPlanRow | None:
        """The newest version; ``None`` before the first."""
        return self.versions[0] if self.versions else None

    @property
    def released(self) -> PartPlanRow | None:
        """The version that is in force."""
        return part_plans.in_force(self.versions)

    @property
    def based_on(self) -> int:
        """The number of the version worked from, 0 before the first."""
        return self.base.number if self.base else 0

    def moved(self, route: RoutePlan) -> list[Change]:
        """What has moved since the version worked from was kept, with the same choices; but not what is being
        ground."""
        if self.base is None:
            return []
        job_state = self.basis.job_state
        at_work = route.about({*self.basis.done, *([job_state.surface] if job_state.surface else [])})
        return [
            change
            for change in differences(part_plans.figures_of(self.base), self.basis.figures(route))
            if change.of not in at_work
        ]

    def how_many(self, planning: Planning) -> int:
        """The pieces that go up together at the face at work; at one that is still to come all there are."""
        at_work = planning.face == self.basis.job_state.surface
        return len(self.basis.load) if at_work and self.basis.load else self.job.part.quantity

    def load_at(self, planning: Planning) -> tuple[int, ...]:
        """The pieces that go up together at the face at work, the highest first."""
        job_state = self.basis.job_state
        if planning.face != job_state.surface:
            return ()
        size = job_state.spec.wanted.surfaces[planning.face].size
        return tuple(sorted(self.basis.load, key=lambda number: -job_state.pieces[number].sizes[size].by_collar_mm))

    def too_many(self, face: int, gap_mm: float | None = None) -> str:
        """Why the pieces of the load do not go up together at a face, a gap apart [mm]; empty when they do."""
        job_state = self.basis.job_state
        if face != job_state.surface:
            return ""
        room, load = (
            room_in(self.job, job_state, face, self.choices.gap_mm if gap_mm is None else gap_mm),
            len(self.basis.load),
        )
        if load <= room:
            return ""
        on_magnet = job_state.on_magnet(job_state.runs[face])
        where_to = "lie on the chuck with their blocks" if on_magnet else "goes into the fixture"
        return f"{room} {where_to}, not {load}: untick some, they make the next load."

    def nested(self, planning: Planning, together: int | None = None) -> Nest:
        """Lay the pieces that go up together out on the chuck; ``together`` of them, where that is known better.

        Raises
        ------
        InputError
            If not one lies on it with its blocks, or the face has no plan.
        """
        problem, plan = planning.problem, planning.plan
        if problem is None or plan is None:
            raise InputError("plan", "This face has no plan.")
        length, width = chuck_size(self.job)
        return nest(
            length_mm=problem.part.length_mm,
            width_mm=problem.part.width_mm,
            height_mm=problem.part.height_mm,
            quantity=self.how_many(planning) if together is None else together,
            chuck_length_mm=length,
            chuck_width_mm=width,
            wheel_width_mm=problem.wheel.width_mm,
            rough_passes=plan.rough_passes,
            finish_passes=plan.finish_passes,
            spark_outs=plan.finish_spark_outs,
            crossfeed_mm=plan.crossfeed_mm,
            finish_crossfeed_mm=plan.finish_crossfeed_mm,
            table_mm_s=plan.table_mm_s,
            finish_table_mm_s=plan.finish_table_mm_s,
            reversal_s=problem.machine.reversal_s,
            worn_a_pass_mm=plan.worn_a_pass_mm,
            dress_minutes=problem.dress_minutes,
            gap_mm=self.choices.gap_mm,
            feed_every=problem.machine.feed_every,
        )


def part_planning(
    session: Session,
    job: Job,
    job_state: JobState,
    today: date,
    *,
    version: int | None = None,
    pieces: Sequence[int] = (),
    gap_mm: float | None = None,
) -> PartPlanning:
    """Lay out a part's planning, worked from a version, else from the newest; with the pieces that were named of those
    that come next, else with as many as lie on the chuck, a gap apart [mm]; the version's gap without one."""
    versions = part_plans.versions(session, job)
    base = next((each for each in versions if version is None or each.number == version), None)
    choices = part_plans.choices_of(base)
    apart = choices.gap_mm if gap_mm is None else gap_mm
    load = load_of(job, job_state, pieces, gap_mm=apart)
    basis = basis_of(session, job, job_state, today, load=load)
    return PartPlanning(job, basis, base, versions, choices)


def load_of(job: Job, job_state: JobState, named: Sequence[int], *, gap_mm: float) -> tuple[int, ...]:
    """The pieces that go up together: those named, of those that come next; as many as lie on the chuck when none
    is."""
    what = next_act(job_state)
    next_ones = what.pieces if what.act == "plan" else job_state.at.pieces if job_state.at is not None else ()
    fits = 1 if job_state.at is None else room_in(job, job_state, job_state.at.surface, gap_mm)
    return tuple(number for number in next_ones if number in named) or next_ones[:fits]
