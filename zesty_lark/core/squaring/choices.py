"""What people choose of a part's plan: the one thing that is kept; all else follows from it and the shop's records."""

from dataclasses import dataclass, field, replace
from decimal import Decimal
from typing import Annotated, Literal

from annotated_types import Ge, Le, MaxLen
from pydantic import ConfigDict, TypeAdapter, ValidationError
from pydantic.dataclasses import dataclass as checked

from zesty_lark.core.part.faces import Axis
from zesty_lark.core.part.sequence import SquarenessMethod
from zesty_lark.core.part.surfaces.part import AXES, Sharing
from zesty_lark.core.planning.means import Margin
from zesty_lark.core.planning.problem import RESERVE, RESERVE_POWER
from zesty_lark.core.quantities.numbers import ExactNonNegative, ExactShare, NonNegative, Positive
from zesty_lark.core.squaring.order import StepChoice
from zesty_lark.core.work.plans import Method

_STRICT = ConfigDict(extra="forbid", allow_inf_nan=False)


@checked(frozen=True, config=_STRICT)
class FaceChoice:
    """How a face is ground; settings only count when the method is ``own`` [mm], [mm/s]; turned to the travel [°]; and
    the temperature margin that is kept: the estimate's own error unless somebody takes less on purpose; whether
    roughing has no fixed end but a clean face."""

    method: Method = "quickest"
    margin: Margin = RESERVE
    skew_deg: Annotated[float, Ge(-90), Le(90)] = 0.0
    downfeed_mm: Positive | None = None
    crossfeed_mm: Positive | None = None
    table_mm_s: Positive | None = None
    leading_chamfer_mm: NonNegative | None = None
    rough_dress: Literal["rough", "general", "fine"] = "rough"
    until_clean: bool = False

    def custom(
        self,
        skew_deg: float,
        downfeed: int,
        graduation_mm: Decimal,
        crossfeed: int,
        *,
        crossfeed_graduation_mm: Decimal,
        table_mm_s: float,
    ) -> "FaceChoice":
        """One's own settings, downfeed and crossfeed in graduations."""
        return replace(
            self,
            method="custom",
            skew_deg=skew_deg,
            downfeed_mm=float(downfeed * graduation_mm),
            crossfeed_mm=float(crossfeed * crossfeed_graduation_mm),
            table_mm_s=table_mm_s,
        )

    def under(self, method: Method, skew_deg: float, margin: float) -> "FaceChoice":
        """Another method, one's own settings kept for later."""
        return replace(self, method=method, skew_deg=skew_deg, margin=margin)

    @property
    def power_share(self) -> float:
        """The share of the spindle's power that may be used: heat and power are estimated equally well."""
        return max(RESERVE_POWER, round(1 - self.margin, 9))


@checked(frozen=True, config=_STRICT)
class PairChoice:
    """How a pair's stock is shared: skin for each face [mm] and the reference's share, ``None`` as taken in; or where a
    hole or slot is now and is wanted, from the reference [mm]; and in how many turns both sides of a thin part are
    taken."""

    skin_mm: ExactNonNegative | None = None
    first_share: ExactShare | None = None
    position_now_mm: ExactNonNegative | None = None
    position_wanted_mm: ExactNonNegative | None = None
    turns: Annotated[int, Ge(1), Le(6)] = 1

    @property
    def first_mm(self) -> Decimal | None:
        """What has to come off the reference for the position [mm]; negative when it is too near already."""
        if self.position_now_mm is None or self.position_wanted_mm is None:
            return None
        return self.position_now_mm - self.position_wanted_mm


@checked(frozen=True, config=_STRICT)
class RouteChoices:
    """Everything chosen for a part."""

    squareness: SquarenessMethod = "angle_plate"
    steps: Annotated[tuple[StepChoice, ...], MaxLen(24)] = ()
    faces: dict[int, FaceChoice] = field(default_factory=dict)
    pairs: dict[Axis, PairChoice] = field(default_factory=dict)
    gap_mm: Annotated[float, Ge(0), Le(100)] = 2.0

    def face(self, number: int) -> FaceChoice:
        """The choice for a face; the quickest plan where nobody has chosen."""
        return self.faces.get(number, FaceChoice())

    def sharing(self, skin_mm: Decimal, first_share: Decimal | None) -> dict[Axis, Sharing]:
        """How each pair's stock is shared: as chosen here, else with the take-in's skin and (for the thickness) its
        share."""
        made: dict[Axis, Sharing] = {}
        for axis in AXES:
            pair = self.pairs.get(axis, PairChoice())
            share = pair.first_share if pair.first_share is not None else first_share if axis == "thickness" else None
            made[axis] = Sharing(skin_mm if pair.skin_mm is None else pair.skin_mm, share, pair.first_mm, pair.turns)
        return made

    def with_face(self, number: int, choice: FaceChoice) -> "RouteChoices":
        """The same with another choice for a face."""
        return replace(self, faces={**self.faces, number: choice})


@dataclass(frozen=True)
class _Kept:
    format: Literal["part plan 3"]
    choices: RouteChoices


_ADAPTER = TypeAdapter(_Kept)


def dumped(choices: RouteChoices) -> str:
    """Return choices as JSON text."""
    return _ADAPTER.dump_json(_Kept("part plan 3", choices)).decode()


def loaded(text: str) -> RouteChoices:
    """Read choices from JSON text.

    Raises
    ------
    ValueError
        If it holds no choices of this form.
    """
    try:
        return _ADAPTER.validate_json(text).choices
    except ValidationError as error:
        raise ValueError(f"this is no part plan: {error}") from error
