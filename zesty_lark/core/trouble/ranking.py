"""From what is seen to what it probably is, and the cheapest telling test (naive Bayes over ``knowledge.json``)."""

import json
import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from functools import cache
from importlib import resources
from typing import Annotated, Any

from annotated_types import MaxLen

from zesty_lark.core.quantities.numbers import InputError, Whole

SHOP_WEIGHT = 20.0
"""The built-in priors count as this many cases of the shop's own."""
SHOWN = 8
Names = Annotated[list[str], MaxLen(100)]


@dataclass(frozen=True)
class Cause:
    """A cause with its share of belief, and what each piece of evidence did to it (its factor over the background)."""

    cause: str
    words: str
    share: float
    evidence: dict[str, float]
    remedy: str


@dataclass(frozen=True)
class Test:
    """A test, its minutes, and how far it is expected to narrow things down [bits] and per minute."""

    test: str
    words: str
    minutes: float
    narrowing_bits: float
    per_minute: float


@dataclass(frozen=True)
class Ranking:
    """Causes, most likely first; tests, most telling per minute first."""

    causes: list[Cause]
    tests: list[Test]


@cache
def knowledge() -> Mapping[str, Any]:
    """Return the trade's knowledge from ``knowledge.json`` beside this module, checked.

    Raises
    ------
    ValueError
        If a cause or test speaks of something that is not in the file, or a number is no probability.
    """
    table: dict[str, Any] = json.loads(
        resources.files("zesty_lark.core.trouble").joinpath("knowledge.json").read_text("utf-8")
    )
    for name, cause in table["causes"].items():
        unknown = set(cause["seen"]) - set(table["evidence"])
        if unknown or not all(0 < each < 1 for each in (cause["prior"], *cause["seen"].values())):
            raise ValueError(f"knowledge of the cause {name} is not usable: {unknown}")
    for name, test in table["tests"].items():
        unknown = set(test["yes"]) - set(table["causes"])
        if unknown or not all(0 < each < 1 for each in (test["background"], *test["yes"].values())):
            raise ValueError(f"knowledge of the test {name} is not usable: {unknown}")
    return table


def rank(*, seen: Names, not_seen: Names | None = None, shop_counts: dict[str, Whole] | None = None) -> Ranking:
    """Rank causes by what is seen, and tests by what they would tell.

    Parameters
    ----------
    seen, not_seen : sequence of str
        Evidence by its key, also what is known from the job without asking.
    shop_counts : mapping of str to int, optional
        How often each cause turned out to be it in this shop; updates the priors.

    Raises
    ------
    InputError
        If a piece of evidence or a cause is not known, or one is both seen and not seen.

    Notes
    -----
    Belief ∝ prior · Π likelihood; evidence that a cause does not speak of keeps its background likelihood. A test's
    narrowing is the expected fall of entropy.
    """
    table, absent = knowledge(), not_seen or []
    for field, names in (("seen", seen), ("not_seen", absent)):
        for name in names:
            if name not in table["evidence"]:
                raise InputError(field, f"{field} must be of the known evidence; “{name}” is not")
    if set(seen) & set(absent):
        raise InputError("not_seen", "not_seen must not hold what is also seen")
    belief = _priors(table, shop_counts or {})
    factors: dict[str, dict[str, float]] = {cause: {} for cause in belief}
    for name in dict.fromkeys(seen):
        _weigh(table, belief, factors, name, present=True)
    for name in dict.fromkeys(absent):
        _weigh(table, belief, factors, name, present=False)
    total = sum(belief.values())
    share = {cause: weight / total for cause, weight in belief.items()}
    order = sorted(share, key=lambda cause: (-share[cause], cause))
    causes = [
        Cause(cause, table["causes"][cause]["words"], share[cause], factors[cause], table["causes"][cause]["remedy"])
        for cause in order
    ]
    return Ranking(causes, _tests(table, share))


def _priors(table: Mapping[str, Any], counts: Mapping[str, int]) -> dict[str, float]:
    unknown = set(counts) - set(table["causes"])
    if unknown:
        raise InputError("shop_counts", f"shop_counts must be of the known causes; “{min(unknown)}” is not")
    built_in = sum(cause["prior"] for cause in table["causes"].values())
    return {
        name: cause["prior"] / built_in * SHOP_WEIGHT + counts.get(name, 0) for name, cause in table["causes"].items()
    }


def _weigh(
    table: Mapping[str, Any],
    belief: dict[str, float],
    factors: dict[str, dict[str, float]],
    name: str,
    *,
    present: bool,
) -> None:
    background = table["evidence"][name]["background"]
    for cause in belief:
        likely = table["causes"][cause]["seen"].get(name, background)
        factor = likely / background if present else (1 - likely) / (1 - background)
        belief[cause] *= factor
        factors[cause][name] = factor


def _tests(table: Mapping[str, Any], share: Mapping[str, float]) -> list[Test]:
    before = _entropy(share.values())
    tests = []
    for name, test in table["tests"].items():
        yes = {cause: share[cause] * test["yes"].get(cause, test["background"]) for cause in share}
        chance = sum(yes.values())
        no = {cause: share[cause] - yes[cause] for cause in share}
        after = chance * _entropy(each / chance for each in yes.values()) + (1 - chance) * _entropy(
            each / (1 - chance) for each in no.values()
        )
        narrowing = max(before - after, 0.0)
        tests.append(Test(name, test["words"], test["minutes"], narrowing, narrowing / test["minutes"]))
    return sorted(tests, key=lambda each: (-each.per_minute, each.test))[:SHOWN]


def _entropy(shares: Iterable[float]) -> float:
    return -sum(share * math.log2(share) for share in shares if share > 0)
