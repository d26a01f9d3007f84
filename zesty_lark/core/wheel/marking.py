"""Reading a wheel's marking (ISO 525, ANSI B74.13): parse what is there, say what is missing."""

import re
from dataclasses import dataclass
from typing import Annotated, Literal

from annotated_types import MaxLen, MinLen

from zesty_lark.core.quantities.numbers import InputError

ABRASIVES = {"A": "alumina", "C": "silicon carbide", "B": "cubic boron nitride", "D": "diamond"}
BONDS = {
    "BF": "resin, reinforced",
    "RF": "rubber, reinforced",
    "MG": "magnesite",
    "PL": "plastic",
    "V": "vitrified",
    "B": "resin",
    "R": "rubber",
    "E": "shellac",
    "M": "metal",
}
FIELDS = ("abrasive", "grit", "grade", "structure", "bond")
OPEN_STRUCTURE = 8

_CONVENTIONAL = re.compile(
    r"^(?P<prefix>\d{1,3})?(?P<abrasive>[AC])(?P<variant>[A-Z])?(?P<grit>\d{1,4})?"
    r"(?P<grade>[A-Z](?![A-Z]|$)|[A-Z](?=\d|$)|[A-Z](?=(?:BF|RF|MG|PL|V|B|R|E|M)(?:[A-Z0-9]*)$))?"
    r"(?P<structure>\d{1,2})?(?P<bond>BF|RF|MG|PL|V|B|R|E|M)?(?P<suffix>[A-Z0-9]*)$"
)
_SUPER = re.compile(
    r"^(?P<prefix>\d{1,3})?(?P<abrasive>CBN|B|D)(?P<size>\d{1,4})(?P<grade>[A-Z](?=\d|$))?"
    r"(?:C?(?P<concentration>\d{2,3}))?(?P<bond>BF|RF|MG|PL|V|B|R|E|M)?(?P<suffix>[A-Z0-9]*)$"
)


@dataclass(frozen=True)
class Marking:
    """What a marking says; ``None`` where it does not, and ``missing`` names those."""

    abrasive: str | None
    abrasive_name: str | None
    grit: int | None
    grain_um: int | None
    grit_band: Literal["coarse", "medium", "fine", "very fine"] | None
    grade: str | None
    grade_band: Literal["soft", "medium", "hard"] | None
    structure: int | None
    open: bool | None
    bond: str | None
    bond_name: str | None
    concentration: int | None
    prefix: str
    suffix: str
    missing: tuple[str, ...]


def marking(*, text: Annotated[str, MinLen(1), MaxLen(40)]) -> Marking:
    """Parse a marking such as ``9A60-J8V``, ``A 46 H 8 V``, ``C80 K V`` or ``B126``.

    Raises
    ------
    InputError
        If it is no marking.
    """
    packed = re.sub(r"[\s/,._-]+", "", text.upper())
    found = _SUPER.match(packed)
    if found:
        return _super(found)
    found = _CONVENTIONAL.match(packed)
    if found is None:
        raise InputError("text", f"“{text}” is not a wheel's marking; one reads like A 46 H 8 V")
    return _conventional(found)


def grade_band(grade: str) -> Literal["soft", "medium", "hard"]:
    """Return the band of a grade letter: A-H soft, I-P medium, Q-Z hard."""
    return "soft" if grade <= "H" else "medium" if grade <= "P" else "hard"


def _grit_band(grit: int) -> Literal["coarse", "medium", "fine", "very fine"]:
    return "coarse" if grit < 30 else "medium" if grit <= 60 else "fine" if grit < 220 else "very fine"


def _conventional(found: re.Match[str]) -> Marking:
    grade, bond = found["grade"], found["bond"]
    grit = int(found["grit"]) if found["grit"] else None
    structure = int(found["structure"]) if found["structure"] else None
    said = {"abrasive": found["abrasive"], "grit": grit, "grade": grade, "structure": structure, "bond": bond}
    return Marking(
        abrasive=found["abrasive"] + (found["variant"] or ""),
        abrasive_name=ABRASIVES[found["abrasive"]],
        grit=grit,
        grain_um=None,
        grit_band=None if grit is None else _grit_band(grit),
        grade=grade,
        grade_band=None if grade is None else grade_band(grade),
        structure=structure,
        open=None if structure is None else structure >= OPEN_STRUCTURE,
        bond=bond,
        bond_name=BONDS[bond] if bond else None,
        concentration=None,
        prefix=found["prefix"] or "",
        suffix=found["suffix"] or "",
        missing=tuple(name for name in FIELDS if said[name] is None),
    )


def _super(found: re.Match[str]) -> Marking:
    letter = found["abrasive"][0] if found["abrasive"] != "CBN" else "B"
    grade, bond = found["grade"], found["bond"]
    concentration = int(found["concentration"]) if found["concentration"] else None
    said = {"concentration": concentration, "bond": bond}
    return Marking(
        abrasive=found["abrasive"],
        abrasive_name=ABRASIVES[letter],
        grit=None,
        grain_um=int(found["size"]),
        grit_band=None,
        grade=grade,
        grade_band=None if grade is None else grade_band(grade),
        structure=None,
        open=None,
        bond=bond,
        bond_name=BONDS[bond] if bond else None,
        concentration=concentration,
        prefix=found["prefix"] or "",
        suffix=found["suffix"] or "",
        missing=tuple(name for name, value in said.items() if value is None),
    )
