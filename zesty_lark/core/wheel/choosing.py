"""Choosing a wheel: advice with its reasons; the person decides.

A hard work wants a soft wheel, whose dull grains break out before they rub; more contact wants it softer, more open and
coarser; an edge that must stay, harder and finer. The figures are the usual ones for vitrified wheels (ISO 525
letters).
"""

from dataclasses import dataclass, replace
from typing import Literal

from zesty_lark.core.process.materials import SOFT_BELOW_HRC, materials
from zesty_lark.core.quantities.numbers import Hardness, InputError

Work = Literal["flat", "finish", "side", "slot", "form"]
Contact = Literal["narrow", "usual", "wide"]

VERY_HARD_HRC = 63.0
SOFT_STEEL = ("tool steel, soft", "mild steel", "martensitic stainless", "austenitic stainless")


@dataclass(frozen=True)
class FinishMethod:
    """One way to a fine finish: its grit and dress, what it costs and what it saves."""

    method: Literal["fine wheel", "coarse wheel dressed fine"]
    grit_from: int
    grit_to: int
    dress: Literal["general", "fine"]
    cost: str
    saves: str


@dataclass(frozen=True)
class WheelAdvice:
    """What kind of wheel, its range of grit and grade (softest to hardest), structure and bond, and why.

    ``declined`` says why the material is not planned here and who to ask; then there is no wheel. ``finishes`` lists
    the ways to a fine finish where practice differs.
    """

    abrasive: Literal["alumina", "silicon carbide", "diamond"] | None
    grit_from: int | None
    grit_to: int | None
    grade_from: str | None
    grade_to: str | None
    structure: int | None
    bond: Literal["vitrified", "resin"] | None
    reasons: list[str]
    cautions: list[str]
    finishes: list[FinishMethod]
    declined: str


FINISHES = [
    FinishMethod(
        "fine wheel",
        60,
        80,
        "general",
        "It loads and glazes sooner and takes less at a time: more dresses, more heat from a cut too deep.",
        "The finish comes without nursing the dress.",
    ),
    FinishMethod(
        "coarse wheel dressed fine",
        46,
        46,
        "fine",
        "A fine dress is a dull dress: lighter cuts, and it must be renewed before the last passes.",
        "One wheel roughs and finishes; no second mounting, truing and balance.",
    ),
]

_FOR_WORK: dict[Work, WheelAdvice] = {
    "flat": WheelAdvice(
        "alumina",
        46,
        46,
        "H",
        "I",
        8,
        "vitrified",
        [
            "Flat work on hardened steel: a soft wheel lets dull grains break out before they rub; an open one has "
            "room for chips and coolant."
        ],
        [],
        [],
        "",
    ),
    "finish": WheelAdvice(
        "alumina",
        46,
        80,
        "H",
        "I",
        8,
        "vitrified",
        ["A finish comes from a finer grain or a finer dress."],
        [],
        FINISHES,
        "",
    ),
    "side": WheelAdvice(
        "alumina",
        60,
        60,
        "J",
        "K",
        8,
        "vitrified",
        ["The corner does the work and has to stay: harder and finer."],
        ["Only a wheel whose maker allows work on its side; relieve it to a land of 0.5 to 1.5 mm."],
        [],
        "",
    ),
    "slot": WheelAdvice(
        "alumina",
        60,
        60,
        "J",
        "K",
        8,
        "vitrified",
        ["Floor and walls meet in the wheel's corner: harder and finer."],
        ["Walls are work on the wheel's side: only where its maker allows it."],
        [],
        "",
    ),
    "form": WheelAdvice(
        "alumina",
        80,
        150,
        "K",
        "K",
        6,
        "vitrified",
        ["The grain limits the smallest radius; a small form needs a fine, hard wheel."],
        ["A hard, fine wheel heats: small infeeds and plenty of coolant."],
        [],
        "",
    ),
}


def choose_wheel(
    *,
    material: str,
    work: Work = "flat",
    contact: Contact = "usual",
    hardness_hrc: Hardness | None = None,
    coolant: Literal["dry", "mist", "water", "oil"] | None = None,
) -> WheelAdvice:
    """Advise on a wheel.

    Parameters
    ----------
    material : str
        One of the materials known here.
    work : {"flat", "finish", "side", "slot", "form"}
        What it is for; ``finish`` is the last passes on a flat.
    contact : {"narrow", "usual", "wide"}
        How much of the wheel is in contact: an edge, or a deep cut, wide crossfeed and large flat.
    hardness_hrc : float, optional
        As it was measured: very hard work wants a letter softer, steel that is still soft a letter harder.
    coolant : {"dry", "mist", "water", "oil"}, optional
        Dry work wants a letter softer, for what dulls there heats.

    Raises
    ------
    InputError
        If the material is not known here.
    """
    known = materials().get(material)
    if known is None:
        raise InputError("material", f"material must be one of: {'; '.join(materials())}")
    if known.declined:
        return WheelAdvice(None, None, None, None, None, None, None, [], [], [], known.declined)
    if material == "carbide":
        return WheelAdvice(
            "diamond",
            120,
            220,
            None,
            None,
            None,
            "resin",
            ["Carbide is harder than alumina: only diamond cuts it."],
            ["Its dust harms the lungs: wet, with extraction, by the site's rules."],
            FINISHES[:0],
            "",
        )
    known_soft = material in SOFT_STEEL
    advice = _by_hardness(_by_material(_FOR_WORK[work], material), None if known_soft else hardness_hrc)
    return _by_coolant(_by_contact(advice, contact), coolant)


def _by_material(advice: WheelAdvice, material: str) -> WheelAdvice:
    if material in SOFT_STEEL:
        harder = _harder(advice, 1)
        return replace(
            harder,
            reasons=[
                *advice.reasons,
                "Soft work, harder wheel: its grains dull slowly, and a soft wheel would only wear away.",
            ],
            cautions=[
                *advice.cautions,
                "Soft steel loads an alumina wheel: an open one, "
                "lubrication, and a dress at the first sign. A loaded wheel is dangerous.",
            ],
        )
    if material == "cast iron":
        return replace(
            advice,
            abrasive="silicon carbide",
            reasons=[
                *advice.reasons,
                "Cast iron loads wheels: silicon carbide, or an alumina whose grains wear harder, dressed each pass.",
            ],
            cautions=[*advice.cautions, "Light cuts; its fine black dust gets into the ways: wipe them."],
        )
    return advice


def _by_hardness(advice: WheelAdvice, hardness_hrc: float | None) -> WheelAdvice:
    if hardness_hrc is None or SOFT_BELOW_HRC <= hardness_hrc < VERY_HARD_HRC:
        return advice
    if hardness_hrc >= VERY_HARD_HRC:
        words = f"{hardness_hrc:.0f} HRC dulls grains fast: a letter softer, so that they break out in time."
        return replace(_harder(advice, -1), reasons=[*advice.reasons, words])
    words = f"{hardness_hrc:.0f} HRC is soft work: a letter harder."
    return replace(_harder(advice, 1), reasons=[*advice.reasons, words])


def _by_coolant(advice: WheelAdvice, coolant: str | None) -> WheelAdvice:
    if coolant != "dry":
        return advice
    words = "Dry: a letter softer, for a grain that rubs heats and nothing carries that off."
    return replace(
        _harder(advice, -1),
        reasons=[*advice.reasons, words],
        cautions=[*advice.cautions, "Dry dust: extraction, and light cuts."],
    )


def _by_contact(advice: WheelAdvice, contact: Contact) -> WheelAdvice:
    if contact == "wide":
        softer = _harder(advice, -1)
        return replace(
            softer,
            structure=None if advice.structure is None else advice.structure + 2,
            grit_to=advice.grit_to if advice.finishes else advice.grit_from,
            reasons=[*advice.reasons, "More contact: softer, more open, coarser rather than finer."],
        )
    if contact == "narrow":
        return replace(
            _harder(advice, 1), reasons=[*advice.reasons, "Little contact: harder, so that the edge keeps its corner."]
        )
    return advice


def _harder(advice: WheelAdvice, letters: int) -> WheelAdvice:
    """The same advice some letters harder, or softer."""
    assert advice.grade_from is not None and advice.grade_to is not None
    return replace(
        advice, grade_from=chr(ord(advice.grade_from) + letters), grade_to=chr(ord(advice.grade_to) + letters)
    )
