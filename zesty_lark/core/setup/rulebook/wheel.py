"""What a set-up needs of the wheel, its guard and its diamond."""

from zesty_lark.core.setup.rulebook.data import Finding, SetUpData, wrong_or_well
from zesty_lark.core.wheel.speed import wheel_speed


def _over_speed(s: SetUpData) -> list[Finding]:
    speed = wheel_speed(
        wheel_diameter_mm=s.wheel.diameter_mm, wheel_rpm=s.wheel.rpm, marked_max_rpm=s.wheel.marked_max_rpm
    )
    return wrong_or_well(
        "wheel over speed",
        "wheel",
        not speed.may_run,
        speed.why,
        remedy="another wheel or another spindle speed",
        well=speed.why,
        number=speed.share,
    )


def _guard(s: SetUpData) -> list[Finding]:
    return wrong_or_well(
        "guard open",
        "wheel",
        not s.wheel.guard_closed,
        "The guard is open.",
        remedy="close it before the wheel starts",
        well="The guard is closed.",
    )


def _hands(s: SetUpData) -> list[Finding]:
    return wrong_or_well(
        "hand near the wheel",
        "wheel",
        not s.hands_clear or not s.wheel_stopped,
        "A hand is near a wheel that is not seen to be stopped. Coasting counts as running.",
        remedy="stop the wheel and see it stop",
        well="Hands are clear.",
    )


def _side_work(s: SetUpData) -> list[Finding]:
    if not s.wheel.side_work:
        return []
    return wrong_or_well(
        "side work",
        "wheel",
        not s.wheel.side_work_allowed,
        "This wheel is not made for work on its side.",
        remedy="a wheel whose maker allows it; nobody can release this",
        well="Its maker allows work on its side.",
    )


def _dull(s: SetUpData) -> list[Finding]:
    return wrong_or_well(
        "dull wheel",
        "wheel",
        s.wheel.dull,
        "The wheel is dull: it rubs and heats.",
        remedy="dress it",
        well="The wheel is sharp.",
        level="caution",
    )


def _diamond(s: SetUpData) -> list[Finding]:
    beyond = s.wheel.diamond_beyond_centre_mm
    if beyond is None:
        return []
    return wrong_or_well(
        "diamond on the wrong side",
        "wheel",
        beyond <= 0,
        "The diamond stands before the centre line: if it catches, it is pulled in.",
        remedy="past the centre line in the direction the wheel turns, 6 to 12 mm",
        well="The diamond is past the centre line.",
        number=beyond,
    )


RULES = (_over_speed, _guard, _hands, _side_work, _dull, _diamond)
