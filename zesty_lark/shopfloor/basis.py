"""What a part's plan is worked out from: the job's print, its machine and wheel, and the shop's own records."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date
from decimal import Decimal

from sqlalchemy.orm import Session

from zesty_lark.core.faces import FINISHED, Axis
from zesty_lark.core.holding import PULL_N_CM2
from zesty_lark.core.materials import material_of
from zesty_lark.core.measure.thickness import expanded_uncertainty
from zesty_lark.core.planner.problem import MachineIn, WheelIn
from zesty_lark.core.route.block import Block, Sharing, pair_stock
from zesty_lark.core.route.changes import Figure
from zesty_lark.core.route.choices import RouteChoices
from zesty_lark.core.route.planned import USUAL_FLAT_UM, USUAL_RA_UM, Means, RoutePlan, figures, plan_route
from zesty_lark.core.route.relations import ChuckFacts, ShopFacts
from zesty_lark.core.route.remaining import keeps_wheel_height
from zesty_lark.core.units import micrometres
from zesty_lark.core.work.entries import Measured
from zesty_lark.core.work.learned import CutRatio
from zesty_lark.core.work.standing import Standing
from zesty_lark.shopfloor.stock import stock_of
from zesty_lark.store import shop, shoplog
from zesty_lark.store.models import Fixture, Instrument, Job

__all__ = ["Basis", "basis_of"]


@dataclass(frozen=True)
class Basis:
    """Everything a part's plan is worked out from, except what is chosen; ``load`` are the pieces that go up together."""

    job: Job
    standing: Standing
    block: Block
    means: Means
    shop: ShopFacts
    done: tuple[int, ...]
    learned: CutRatio
    load: tuple[int, ...] = ()

    def sharing(self, choices: RouteChoices) -> dict[Axis, Sharing]:
        """How each pair's stock is shared."""
        return choices.sharing(self.job.part.min_skin_mm, self.job.part.first_share)

    def worked(self, choices: RouteChoices, *, only: int | None = None) -> RoutePlan:
        """Work a part's plan out, or only that of one face; of the face at work what is on it now."""
        sharing, face = self.sharing(choices), self.standing.surface
        left = {} if face is None else {face: self._left(face, sharing[self.block.axis_of(face)])}
        goes_on = [] if face is None or not self.carries_on(face) else [face]
        return plan_route(self.block, choices, self.means, self.shop, sharing, done=self.done, left_mm=left,
                          carries_on=goes_on, only=only)

    def carries_on(self, face: int) -> bool:
        """Whether a new plan of a face goes on from the collar's last reading."""
        return face == self.standing.surface and keeps_wheel_height(self.standing.runs[face], self.standing)

    def _left(self, face: int, sharing: Sharing) -> Decimal:
        pair = pair_stock(self.block, self.block.axis_of(face), sharing)
        return max(stock_of(self.job, self.standing, face, pair, self.load).on_mm, Decimal(0))

    def figures(self, made: RoutePlan) -> dict[str, dict[str, Figure]]:
        """The figures of a worked plan, and of what it stands on."""
        return figures(made, self.means, self.shop)


def basis_of(session: Session, job: Job, standing: Standing, today: date, load: tuple[int, ...] = ()) -> Basis:
    """Gather what a job's plan is worked out from; without a load all pieces that are next go up together."""
    done = tuple(each for each, state in standing.states.items() if state in FINISHED and each != standing.surface)
    learned = shoplog.learned_cut_ratio(session, job)
    return Basis(job, standing, job.part.block(), _means(job, learned), _shop(session, job, standing, today), done, learned, load)


def _means(job: Job, learned: CutRatio) -> Means:
    machine, wheel, part = job.machine, job.wheel, job.part
    return Means(
        MachineIn(machine.graduation_mm, machine.crossfeed_graduation_mm, machine.crossfeed_min_mm, machine.crossfeed_max_mm,
                  float(machine.table_min_mm_s), float(machine.table_max_mm_s), float(machine.reversal_s),
                  float(machine.spindle_w), learned.eta, "pair" if machine.feed_every == "pair" else "stroke",
                  machine.downfeed_max_mm),
        WheelIn(float(wheel.diameter_mm), float(wheel.width_mm), float(machine.rpm), wheel.grit, wheel.grade,
                may_chamfer=True),
        PULL_N_CM2 if machine.chuck is None else float(machine.chuck.pull_n_cm2), machine.coolant,  # type: ignore[arg-type]
        material_of(part.material), None if part.hardness_hrc is None else float(part.hardness_hrc),
        USUAL_FLAT_UM if part.flat_mm is None else micrometres(part.flat_mm),
        USUAL_RA_UM if part.ra_um is None else float(part.ra_um))


def _shop(session: Session, job: Job, standing: Standing, today: date) -> ShopFacts:
    thickness = job.part.size("thickness").target_mm
    best = [expanded_uncertainty(each.to_core(today), float(thickness)) for each in shop.listed(session, Instrument)
            if each.least_mm <= thickness <= each.most_mm]
    facts = ShopFacts(_chuck(job), [each.to_core() for each in shop.listed(session, Fixture)],
                      flat_measured_um=_flat_measured(standing))
    return facts if not best else ShopFacts(facts.chuck, facts.fixtures, micrometres(min(best)),
                                            flat_measured_um=facts.flat_measured_um)


def _flat_measured(standing: Standing) -> Mapping[int, float]:
    """The flatness that was measured of each face, the newest."""
    return {entry.surface: micrometres(entry.greatest_mm) for entry in standing.history
            if isinstance(entry, Measured) and entry.characteristic == "flat" and entry.surface is not None}


def _chuck(job: Job) -> ChuckFacts:
    chuck = job.machine.chuck
    if chuck is None:
        return ChuckFacts("the chuck", float(job.machine.travel_long_mm))
    newest = chuck.newest_map
    points = () if newest is None else tuple((x, y, z) for x, y, z in newest.to_core())
    return ChuckFacts(chuck.name, float(chuck.length_mm), points)
