"""Materials: what a magnet pulls of them, what their temper bears, which wheel they want, and which are not ground
here."""

import json
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from importlib import resources

from zesty_lark.core.process.warmth import heat_temper

SOFT_BELOW_HRC = 45.0
"""Softer than this can be milled: a good deal of stock belongs there first [HRC]."""


@dataclass(frozen=True)
class Material:
    """One material.

    Attributes
    ----------
    key : str
        Its name in the trade.
    pull_factor : float
        f_mat: what the magnet pulls of it, against mild steel; 0 where it does not pull at all.
    declined : str
        Why it is not planned here and who to ask; empty when it is.
    temper_c : float
        What it was usually tempered at last, or bears as well as if it had been [°C]; an own estimate.
    soft : bool
        Whether it is soft when nobody took its hardness.
    secondary_hardening : bool
        It hardens again when it is tempered: high-alloy cold-work and high-speed steels.
    density_kg_m3 : float
        Its density [kg/m³].
    abrasive : str
        The abrasive it needs, where an alumina wheel is refused for it.
    """

    key: str
    pull_factor: float
    declined: str
    temper_c: float = 200.0
    soft: bool = False
    secondary_hardening: bool = False
    density_kg_m3: float = 7800.0
    abrasive: str = ""

    @property
    def magnetic(self) -> bool:
        """Whether a magnetic chuck holds it."""
        return self.pull_factor > 0

    def temper(self, hardness_hrc: float | None) -> float:
        """Return the temper it has had, by its hardness where that is known [°C]; the lower one in doubt."""
        if hardness_hrc is None or self.soft or self.abrasive:
            return self.temper_c
        return heat_temper(hardness_hrc=hardness_hrc, secondary_hardening=self.secondary_hardening).temper_c

    def is_soft(self, hardness_hrc: float | None) -> bool:
        """Tell whether a part of it can be milled."""
        return self.soft if hardness_hrc is None else hardness_hrc < SOFT_BELOW_HRC and not self.abrasive


@cache
def materials() -> Mapping[str, Material]:
    """Return all materials by name, from ``materials.json`` beside this module."""
    rows = json.loads(resources.files("zesty_lark.core.process").joinpath("materials.json").read_text("utf-8"))
    return {row["key"]: Material(**row) for row in rows}


def material_of(key: str) -> Material:
    """Return a material by name; of one that is not known a hardened steel's figures."""
    return materials().get(key, Material(key, 0.8, ""))
