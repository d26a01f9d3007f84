"""A plan's figures and those of what it stands on, for comparing two of them."""

from zesty_lark.core.planning.plan import Plan
from zesty_lark.core.squaring.changes import Figure
from zesty_lark.core.squaring.face_plan import Means
from zesty_lark.core.squaring.planned import RoutePlan, set_up_name
from zesty_lark.core.squaring.shop_facts import ShopFacts
from zesty_lark.core.work.plans import METHODS


def figures(route: RoutePlan, means: Means, shop: ShopFacts) -> dict[str, dict[str, Figure]]:
    """Return what a worked plan comes to, and what of machine, wheel and chuck it stands on, by what they are about."""
    wheel, machine = means.wheel, means.machine
    told: dict[str, dict[str, Figure]] = {
        shop.chuck.name: {"map's range, µm": shop.chuck_range_um, "pull, N/cm²": means.pull_n_cm2},
        "the wheel": {
            "diameter, mm": wheel.diameter_mm,
            "width, mm": wheel.width_mm,
            "grit": float(wheel.grit),
            "grade": wheel.grade,
        },
        "the machine": {
            "spindle, W": machine.spindle_w,
            "cut ratio": machine.cut_ratio,
            "coolant": means.coolant,
            "rpm": wheel.rpm,
        },
    }
    for step in route.steps:
        told[set_up_name(step)] = {
            "place": float(step.number),
            "held by": " and ".join(dict.fromkeys(route.faces[face].held.words for face in step.step.up)),
            "skipped": "yes" if step.skip else "no",
        }
    for face, each in route.faces.items():
        told[f"face {face}"] = {
            "to take, mm": float(each.stock_mm),
            "method": METHODS[each.choice.method],
            "margin kept": each.choice.margin,
            "turned, °": each.choice.skew_deg,
            **(_plan_figures(each.plan) if each.plan else {}),
        }
    for relation in route.relations:
        told[relation.name] = {
            "worst, µm": relation.chain.worst_um,
            "likely, µm": relation.chain.likely_um,
            "state": relation.state,
        }
    return told


def _plan_figures(plan: Plan) -> dict[str, Figure]:
    return {
        "minutes": plan.minutes,
        "passes": float(plan.passes),
        "downfeed, mm": plan.downfeed_mm,
        "crossfeed, mm": plan.crossfeed_mm,
        "table, mm/s": plan.table_mm_s,
        "hottest, °C": plan.peak_temperature_c,
        "power, W": plan.power_w,
        "hold": plan.hold_safety,
        "hollow, µm": plan.hollow_um,
        "finish Ra, µm": plan.ra_um,
    }
