"""How the part is held: the magnet, a tall or thin part, its seat, blocks and clamps."""

from zesty_lark.core.process.holding import BLOCK_SAFETY, STOP_SAFETY, thin_bow
from zesty_lark.core.setup.rulebook.data import Finding, SetUpData, finding, wrong_or_well

LEAD_IN_LOW_MM, LEAD_IN_HIGH_MM = 0.1, 0.3
THIN_MM = 6.0


def _hold(s: SetUpData) -> list[Finding]:
    if not s.part.magnetic:
        return finding(
            "magnet hold",
            "part",
            "stop",
            "A magnet does not hold this material.",
            remedy="vise, screwed or clamped to an angle plate, transfer blocks, vacuum, wax on a steel carrier",
            number=0.0,
        )
    known = [each for each in (s.slide_safety, s.tip_safety) if each is not None]
    if not known:
        return finding("magnet hold", "part", "caution", "The hold is not known yet.", remedy="check the hold first")
    least = min(known)
    note = "" if s.pull_calibrated else " Uncalibrated: no pull test of this chuck."
    if least < STOP_SAFETY:
        return finding(
            "magnet hold",
            "part",
            "stop",
            f"Safety {least:.1f}, under {STOP_SAFETY:g}.{note}",
            remedy="blocks, a fixture, a lighter cut, or the pull test",
            number=least,
        )
    blocked = any(block.kind == "backing" for block in s.blocks) if s.blocked is None else s.blocked
    if least < BLOCK_SAFETY and not blocked:
        return finding(
            "magnet hold",
            "part",
            "caution",
            f"Safety {least:.1f}, under {BLOCK_SAFETY:g}.{note}",
            remedy="block it",
            number=least,
        )
    return finding("magnet hold", "part", "pass", f"Safety {least:.1f}.{note}", remedy="", number=least)


def _tall(s: SetUpData) -> list[Finding]:
    ratio = s.part.height_mm / min(s.part.length_mm, s.part.width_mm)
    counted = sum(block.kind == "support" and block.top_mm < s.part.height_mm for block in s.blocks) >= 2
    supported = counted if s.supported is None else s.supported
    return wrong_or_well(
        "tall part unsupported",
        "part",
        ratio > 1 and not supported,
        "Taller than its footprint and not supported.",
        remedy="support blocks close under the face, on the side the wheel pushes to and behind",
        well="It stands safely.",
        number=ratio,
    )


def _contact(s: SetUpData) -> list[Finding]:
    if s.part.contact_mm2 is None:
        return []
    share = s.part.contact_mm2 / (s.part.length_mm * s.part.width_mm)
    corner = {block.side for block in s.blocks if block.kind == "backing"}
    return wrong_or_well(
        "small contact",
        "part",
        share < 0.5 and len(corner) < 2,
        "Only feet or a frame touch the magnet.",
        remedy="backing blocks in a corner of two, on the end the wheel pushes to; span the most poles",
        well="It has contact or is blocked.",
        level="caution",
        number=share,
    )


def _seat(s: SetUpData) -> list[Finding]:
    return [
        *wrong_or_well(
            "burr under the part",
            "part",
            s.part.burrs,
            "There is a burr under the part.",
            remedy="stone it off, wipe, feel",
            well="No burrs.",
        ),
        *wrong_or_well(
            "part rocks",
            "part",
            s.part.rocks,
            "It rocks: it stands on a hump or a diagonal.",
            remedy="find the hump and knock it down, or shim",
            well="It does not rock.",
        ),
        *wrong_or_well(
            "chuck not clean",
            "chuck",
            not s.chuck_clean,
            "The chuck was not wiped and felt.",
            remedy="stone, wipe and feel it, the wheel stopped",
            well="The chuck is clean.",
            level="caution",
        ),
        *wrong_or_well(
            "reference face up",
            "part",
            s.part.reference_up,
            "A finished reference is up: it would be ground.",
            remedy="turn it over; the reference stays down",
            well="The reference is not up.",
        ),
        *wrong_or_well(
            "starts on the low side",
            "feeds",
            not s.part.starts_from_high,
            "It starts on the low side and feeds into rising metal.",
            remedy="map or sweep, and start from the high side",
            well="It starts from the high side.",
        ),
    ]


def _thin(s: SetUpData) -> list[Finding]:
    if s.part.bow_mm == 0:
        return []
    bow = thin_bow(
        length_mm=max(s.part.length_mm, s.part.width_mm),
        thickness_mm=s.part.height_mm,
        bow_mm=s.part.bow_mm,
        pull_n_mm2=s.pull_n_mm2,
    )
    wrong = bow.flattened_share > 0.1 and s.part.height_mm <= THIN_MM
    return wrong_or_well(
        "thin bowed part on full magnet",
        "part",
        wrong,
        f"The magnet pulls it flat; {bow.spring_back_mm:.3f} mm springs back when it is let go.",
        remedy="shim under the hollow, or magnet low and the ends blocked; alternate sides",
        well="The bow is not pulled out.",
        level="caution",
        number=bow.spring_back_mm,
    )


def _blocks(s: SetUpData) -> list[Finding]:
    found: list[Finding] = []
    top = s.final_height_mm or s.part.height_mm
    for block in s.blocks:
        if block.kind == "lead_in":
            below = top - block.top_mm
            if below < 0:
                found += finding(
                    "lead-in block too high",
                    block.name or "blocks",
                    "stop",
                    "The lead-in block stands above the final face.",
                    remedy="grind it to 0.1 to 0.3 mm below the final face",
                    number=below,
                )
            elif not LEAD_IN_LOW_MM <= below <= LEAD_IN_HIGH_MM or block.length_mm < s.wheel.diameter_mm / 4:
                found += finding(
                    "lead-in block",
                    block.name or "blocks",
                    "caution",
                    "Its top is not 0.1 to 0.3 mm below the final face, or it is shorter than a quarter of the "
                    "wheel's diameter.",
                    remedy="make it so, as wide as the part",
                    number=below,
                )
        elif block.top_mm >= top:
            found += finding(
                "block too high",
                block.name or "blocks",
                "stop",
                "A block stands as high as the face: the wheel would strike it.",
                remedy="a lower block",
                number=block.top_mm - top,
            )
        if block.kind == "parallel" and not block.overhangs_edge:
            found += finding(
                "parallel flush with the edge",
                block.name or "blocks",
                "caution",
                "It cannot be lifted, only dragged over grit.",
                remedy="let it overhang the chuck's edge a little",
            )
    return found or finding("blocks", "blocks", "pass", "Blocks are as they should be.")


def _clamps(s: SetUpData) -> list[Finding]:
    found: list[Finding] = []
    for clamp in s.clamps:
        safety = clamp.block_moment_nmm / clamp.clamp_moment_nmm if clamp.clamp_moment_nmm else float("inf")
        found += wrong_or_well(
            "clamp overhang",
            clamp.name or "clamps",
            clamp.overhang_mm > 0 and safety < STOP_SAFETY,
            "The clamp can lever its block off the magnet.",
            remedy="move the clamp over the block, or a heavier block",
            well="The block holds the clamp.",
            number=None if safety == float("inf") else safety,
        )
    return found


RULES = (_hold, _tall, _contact, _seat, _thin, _blocks, _clamps)
