"""What a part's plan is worked out from: the job's print, its machine and wheel, and the shop's own records."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from datetime import date
from decimal import Decimal

from sqlalchemy.orm import Session

from zesty_lark.core.measure.thickness import Gauge, expanded_uncertainty
from zesty_lark.core.part.faces import FINISHED, Axis, FaceState
from zesty_lark.core.part.surfaces import kind_of
from zesty_lark.core.part.surfaces.part import Block, Sharing
from zesty_lark.core.planning.means import LoadIn, MachineIn, WheelIn
from zesty_lark.core.process.holding import PULL_N_CM2
from zesty_lark.core.process.materials import material_of
from zesty_lark.core.quantities.units import micrometres
from zesty_lark.core.squaring.changes import Figure
from zesty_lark.core.squaring.choices import RouteChoices
from zesty_lark.core.squaring.face_plan import USUAL_FLAT_UM, USUAL_RA_UM, Means
from zesty_lark.core.squaring.figures import figures
from zesty_lark.core.squaring.handling import USUAL, Handling, learned_handling
from zesty_lark.core.squaring.planned import RoutePlan, plan_route
from zesty_lark.core.squaring.remaining import keeps_wheel_height
from zesty_lark.core.squaring.shop_facts import ShopFacts
from zesty_lark.core.things.shop import Chuck
from zesty_lark.core.work.entries import Measured
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.learned import CutRatio, Times
from zesty_lark.shopfloor import long_work
from zesty_lark.shopfloor.loads import load_in
from zesty_lark.shopfloor.stock import stock_of
from zesty_lark.store import learning, shop
from zesty_lark.store.models import AccessoryRow, FixtureRow, InstrumentRow, Job

UNKNOWN_PULL = Decimal(str(PULL_N_CM2))


@dataclass(frozen=True)
class Basis:
    """Everything a part's plan is worked out from, except what is chosen; ``load`` are the pieces that go up together,
    ``times`` how long hands take, by what they do."""

    job: Job
    job_state: JobState
    block: Block
    means: Means
    shop: ShopFacts
    done: tuple[int, ...]
    learned: CutRatio
    load: tuple[int, ...] = ()
    times: Mapping[str, Times] = field(default_factory=dict)

    @property
    def handling(self) -> Handling:
        """How long hands take."""
        return learned_handling(self.times)

    def sharing(self, choices: RouteChoices) -> dict[Axis, Sharing]:
        """How each pair's stock is shared."""
        return choices.sharing(self.job.part.min_skin_mm, self.job.part.first_share)

    def worked(self, choices: RouteChoices, *, only: int | None = None) -> RoutePlan:
        """Work a part's plan out, or only that of one face; of the face at work what is on it now."""
        sharing, face = self.sharing(choices), self.job_state.surface
        left = {} if face is None else {face: self._left(face, sharing)}
        goes_on = [] if face is None or not self.carries_on(face) else [face]
        return long_work.run(
            plan_route,
            self.block,
            choices,
            self.means,
            self.shop,
            sharing=sharing,
            done=self.done,
            left_mm=left,
            carries_on=goes_on,
            loads=self._loads(choices),
            only=only,
        )

    def _loads(self, choices: RouteChoices) -> dict[int, LoadIn]:
        """By face how many pieces are ground together: those of the load at the one at work, else as many of those to
        come as have room."""
        job_state, loads = self.job_state, dict[int, LoadIn]()
        if len(job_state.live) == 1:
            return loads
        for face, surface in job_state.spec.wanted.surfaces.items():
            if surface.is_height:
                waiting = [number for number in job_state.live if job_state.pieces[number].wants(surface)]
                together = len(self.load) if face == job_state.surface and self.load else len(waiting)
                loads[face] = load_in(self.job, job_state, face, together, gap_mm=choices.gap_mm)
        return loads

    def carries_on(self, face: int) -> bool:
        """Whether a new plan of a face goes on from the collar's last reading."""
        return face == self.job_state.surface and keeps_wheel_height(self.job_state.runs[face], self.job_state)

    def _left(self, face: int, sharing: Mapping[Axis, Sharing]) -> Decimal:
        pair = kind_of(self.block, face).stock(self.block, face, sharing)
        return max(stock_of(self.job, self.job_state, face, pair, pieces=self.load).on_mm, Decimal(0))

    def figures(self, route: RoutePlan) -> dict[str, dict[str, Figure]]:
        """The figures of a worked plan, and of what it stands on."""
        return figures(route, self.means, self.shop)


def basis_of(session: Session, job: Job, job_state: JobState, today: date, *, load: tuple[int, ...] = ()) -> Basis:
    """Gather what a job's plan is worked out from; without a load all pieces that are next go up together."""
    made = (each for each, state in job_state.states.items() if state in FINISHED and state is not FaceState.AS_IT_IS)
    done = tuple(each for each in made if each != job_state.surface)
    ratios = learning.cut_ratios(session, job.machine, job.wheel)
    learned, fixed = ratios["magnet"], ratios["fixture"]
    times = learning.times(session, job.machine, USUAL)
    dress = learned_handling(times).dress
    means = replace(means_of(job, learned), dress_minutes=dress, fixture_cut_ratio=fixed.eta if fixed.runs else None)
    facts = _shop(session, job, job_state, today)
    return Basis(job, job_state, job.part.block(), means, facts, done, learned, load, times)


def means_of(job: Job, learned: CutRatio) -> Means:
    """Return what a job is ground with: its machine, wheel and chuck, at a cut ratio."""
    machine, wheel, part = job.machine.to_core(), job.wheel.to_core(), job.part
    return Means(
        MachineIn.of(machine, learned.eta),
        WheelIn.of(wheel, machine.rpm),
        float(UNKNOWN_PULL if job.machine.chuck is None else job.machine.chuck.pull_n_cm2),
        machine.coolant,
        material_of(part.material),
        None if part.hardness_hrc is None else float(part.hardness_hrc),
        USUAL_FLAT_UM if part.flat_mm is None else micrometres(part.flat_mm),
        USUAL_RA_UM if part.ra_um is None else float(part.ra_um),
    )


def _shop(session: Session, job: Job, job_state: JobState, today: date) -> ShopFacts:
    chuck, machine = job.machine.chuck, job.machine
    newest = None if chuck is None else chuck.newest_map
    facts = ShopFacts(
        Chuck("the chuck", machine.travel_long_mm, machine.travel_cross_mm, UNKNOWN_PULL)
        if chuck is None
        else chuck.to_core(),
        [row.to_core() for row in shop.listed(session, FixtureRow)],
        () if newest is None else tuple((x, y, z) for x, y, z in newest.readings()),
        flat_measured_um=_flat_measured(job_state),
        accessories=tuple(row.to_core() for row in shop.listed(session, AccessoryRow)),
    )
    best = _least_u(session, job.part.size("thickness").target_mm, today)
    return facts if best is None else replace(facts, measuring_um=micrometres(best))


def _least_u(session: Session, thickness_mm: Decimal, today: date) -> Decimal | None:
    """The least U with which the shop can measure a thickness [mm]; ``None`` when nothing it has reaches there."""
    reach = [
        row.to_core() for row in shop.listed(session, InstrumentRow) if row.least_mm <= thickness_mm <= row.most_mm
    ]
    return min((expanded_uncertainty(Gauge.of(each, today), float(thickness_mm)) for each in reach), default=None)


def _flat_measured(job_state: JobState) -> Mapping[int, float]:
    """The flatness that was measured of each face, the newest."""
    return {
        entry.surface: micrometres(entry.greatest_mm)
        for entry in job_state.history
        if isinstance(entry, Measured) and entry.characteristic == "flat" and entry.surface is not None
    }
