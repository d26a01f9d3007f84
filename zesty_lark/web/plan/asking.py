"""What the plan station asks the core with: the job's print, its machine and wheel, and the shop's own records."""

from dataclasses import dataclass
from datetime import date
from decimal import Decimal

from sqlalchemy.orm import Session

from zesty_lark.core.faces import FINISHED, Axis
from zesty_lark.core.holding import PULL_N_CM2
from zesty_lark.core.materials import Material, materials
from zesty_lark.core.measure.maps import map_analyse
from zesty_lark.core.measure.thickness import expanded_uncertainty
from zesty_lark.core.process.plan_input import MachineIn, WheelIn
from zesty_lark.core.route.block import Block, PairSize, Sharing, pair_stock
from zesty_lark.core.route.changes import Figure
from zesty_lark.core.route.choices import RouteChoices
from zesty_lark.core.route.planned import USUAL_FLAT_UM, USUAL_RA_UM, Means, RoutePlan, figures, plan_route
from zesty_lark.core.route.relations import ChuckFacts, ShopFacts
from zesty_lark.core.shoplog.standing import Standing
from zesty_lark.core.units import micrometres
from zesty_lark.store import shop
from zesty_lark.store.models import Fixture, Instrument, Job
from zesty_lark.web.shared.work import stock_of

__all__ = ["Asking", "asking"]


@dataclass(frozen=True)
class Asking:
    """Everything a part's plan is worked out from, except what is chosen."""

    job: Job
    standing: Standing
    block: Block
    means: Means
    shop: ShopFacts
    done: tuple[int, ...]

    def sharing(self, choices: RouteChoices) -> dict[Axis, Sharing]:
        """How each pair's stock is shared."""
        return choices.sharing(self.job.part.min_skin_mm, self.job.part.first_share)

    def worked(self, choices: RouteChoices) -> RoutePlan:
        """Work a part's plan out; of the face at work what is on it now."""
        sharing, face = self.sharing(choices), self.standing.face
        left = {} if face is None else {face: self._left(face, sharing["thickness"])}
        return plan_route(self.block, choices, self.means, self.shop, sharing, self.done, left)

    def _left(self, face: int, sharing: Sharing) -> Decimal:
        shared = pair_stock(self.block, "thickness", sharing).split
        return max(stock_of(self.job, self.standing, face, shared).on_mm, Decimal(0))

    def figures(self, made: RoutePlan) -> dict[str, dict[str, Figure]]:
        """The figures of a worked plan, and of what it stands on."""
        return figures(made, self.means, self.shop)


def asking(session: Session, job: Job, standing: Standing, today: date) -> Asking:
    """Gather what a job's plan is worked out from."""
    done = tuple(each for each, where in standing.faces.items() if where.state in FINISHED and each != standing.face)
    return Asking(job, standing, _block(job), _means(job), _shop(session, job, today), done)


def _block(job: Job) -> Block:
    part = job.part
    sides = [int(face) for face in part.mark_corner.split("-")[1:]]
    references = (part.reference_face, sides[0], sides[1])
    sizes: dict[Axis, PairSize] = {size.axis: PairSize(  # type: ignore[misc]
        size.target_mm, size.tol_minus_mm, size.tol_plus_mm, size.measured_max_mm, size.measured_min_mm)
        for size in part.sizes}
    return Block(sizes, {face.face: face.cleanup_mm for face in part.faces}, references,
                 *(None if each is None else micrometres(each) for each in (part.parallel_mm, part.square_mm, part.flat_mm)))


def _means(job: Job) -> Means:
    machine, wheel, part = job.machine, job.wheel, job.part
    material = materials().get(part.material, Material(part.material, magnetic=True, declined=""))
    return Means(
        MachineIn(machine.graduation_mm, machine.crossfeed_graduation_mm, machine.crossfeed_min_mm, machine.crossfeed_max_mm,
                  float(machine.table_min_mm_s), float(machine.table_max_mm_s), float(machine.reversal_s),
                  float(machine.spindle_w), float(machine.cut_ratio), "pair" if machine.feed_every == "pair" else "stroke"),
        WheelIn(float(wheel.diameter_mm), float(wheel.width_mm), float(machine.rpm), wheel.grit, wheel.grade,
                may_chamfer=True),
        PULL_N_CM2 if machine.chuck is None else float(machine.chuck.pull_n_cm2), machine.coolant,  # type: ignore[arg-type]
        material.temper_c, USUAL_FLAT_UM if part.flat_mm is None else micrometres(part.flat_mm),
        USUAL_RA_UM if part.ra_um is None else float(part.ra_um))


def _shop(session: Session, job: Job, today: date) -> ShopFacts:
    thickness = float(job.part.size("thickness").target_mm)
    best = [expanded_uncertainty(each.to_core(today), thickness) for each in shop.listed(session, Instrument)
            if each.least_mm <= job.part.size("thickness").target_mm <= each.most_mm]
    facts = ShopFacts(_chuck(job), [each.to_core() for each in shop.listed(session, Fixture)])
    return facts if not best else ShopFacts(facts.chuck, facts.fixtures, micrometres(min(best)))


def _chuck(job: Job) -> ChuckFacts:
    chuck = job.machine.chuck
    if chuck is None:
        return ChuckFacts("the chuck", None, float(job.machine.travel_long_mm))
    newest = chuck.newest_map
    flat = None if newest is None else map_analyse(points=newest.to_core(), frame="machine").range_um
    return ChuckFacts(chuck.name, flat, float(chuck.length_mm))
