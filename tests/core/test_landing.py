"""``run.next``: hidden machines that do only what it says, what is asked again, and what cannot be."""

import os
import random
from typing import Any

import pytest

from tests.core.hidden_machine import job
from zesty_lark.core.calc import answer
from zesty_lark.core.quantities.numbers import InputError

RUNS = int(os.environ.get("LARK_RUNS", "80"))
ASKED: dict[str, Any] = {
    "goal_mm": 22.0,
    "lower_mm": 21.995,
    "upper_mm": 22.005,
    "greatest_mm": 22.12,
    "least_mm": 22.119,
    "graduation_mm": 0.00254,
    "setting_mm": 0.00127,
    "wheel_width_mm": 12.7,
    "rough": {"step_mm": 0.0254, "crossfeed_mm": 4, "rise_c": 1.0, "wear_mm": 0.0005},
    "finish": {"step_mm": 0.00508, "crossfeed_mm": 3, "rise_c": 0.4, "wear_mm": 0.0001},
    "measure_u_mm": 0.0005,
}


def told(*acts: dict[str, Any], **more: Any) -> dict[str, Any]:
    return answer("run.next", ASKED | more | {"acts": list(acts)})


def fed(to: float, kind: str = "finish") -> dict[str, Any]:
    return {"act": "pass", "kind": kind, "to_mm": to}


def read(greatest: float, least: float | None = None) -> dict[str, Any]:
    return {"act": "measured", "greatest_mm": greatest, "least_mm": greatest - 0.001 if least is None else least}


@pytest.mark.parametrize("more", [False, True], ids=["as in the handbook", "with faults beside those"])
def test_hidden_machines_come_in(more: bool) -> None:
    """Doing only what it says: hardly any is not in, none under or wrongly called in; its chances are true."""
    runs = [job(random.Random(seed + 10_000 * more), more=more) for seed in range(RUNS)]
    ends = [(machine, machine.run()) for machine in runs]
    assert sum(end["end"] == "in" for _, end in ends) >= 0.97 * RUNS
    assert not any(machine.under for machine, _ in ends)
    assert all(machine.is_in for machine, end in ends if end["end"] == "in")
    stops = sorted(machine.stops for machine in runs)
    assert stops[RUNS // 2] <= 2 and stops[int(0.9 * RUNS)] <= 3
    chances = [each for _, end in ends for each in end["told"]]
    for low, high in ((0.0, 0.2), (0.2, 0.6), (0.6, 0.9), (0.9, 1.01)):
        these = [each for each in chances if low <= each[0] < high]
        off = sum(each[2] - each[0] for each in these)
        spread = sum(each[0] * (1 - each[0]) for each in these) ** 0.5
        assert abs(off) <= 3.5 * spread + 0.03 * len(these) + 1, (low, off, len(these))


def test_it_roughs_cools_dresses_and_ends_with_the_two_readings_of_a_stop() -> None:
    acts = told(rough=ASKED["rough"] | {"rise_c": 6.0})["acts"]
    names = [each["act"] for each in acts]
    assert names[-3:] == ["cool", "measured", "measured"]
    assert names.index("cool") + 1 == names.index("dress"), "warm from roughing, it cools before the dress"
    assert names[: names.index("cool")] == ["pass"] * names.index("cool")
    assert names.count("approach") == 1 and names[names.index("approach") + 1] == "spark_out"
    depths = [each["to_mm"] for each in acts if "to_mm" in each]
    assert depths == sorted(depths)
    assert all(abs(each / 0.00127 - round(each / 0.00127)) < 1e-6 for each in depths), "whole settings"
    rough = [0.0] + [each["to_mm"] for each in acts if each.get("kind") == "rough"]
    assert all(b - a <= 0.0254 + 1e-9 for a, b in zip(rough, rough[1:], strict=False))
    assert rough[-1] <= 0.12 - 3 * 0.00508 + 1e-9, "three finish steps are left"


def test_the_same_asked_is_the_same_answered() -> None:
    assert told(fed(0.0254, "rough")) == told(fed(0.0254, "rough"))


def test_a_reading_in_the_guarded_zone_ends_it() -> None:
    stop = [fed(0.1143), read(22.0005), read(22.0004)]
    assert told(*stop)["end"] == "in"
    assert told(*stop)["acts"] == []
    assert told(*stop[:2])["acts"] == [{"act": "measured"}], "a stop is read twice"


def test_dirt_in_one_reading_of_a_stop_does_not_count() -> None:
    assert told(fed(0.1143), read(22.0072), read(22.0004))["end"] == "in"


def test_what_fits_nothing_is_read_again_and_never_absorbed() -> None:
    """Asked 57 µm, got nothing: was the wheel there?"""
    first = told(fed(0.0254, "rough"), fed(0.0508, "rough"), {"act": "cool"}, read(22.12), read(22.12))
    assert not first["agrees"] and first["end"] is None
    assert first["acts"] == [{"act": "measured"}, {"act": "measured"}]
    assert "Was the wheel there" in first["why"]


def test_a_repeat_that_fits_drops_the_first() -> None:
    begun = [fed(0.0254, "rough"), fed(0.0508, "rough"), {"act": "cool"}]
    clean = told(*begun, read(22.0712), read(22.0712))
    assert clean["agrees"]
    again = told(*begun, read(22.12), read(22.12), read(22.0712), read(22.0712))
    assert again["agrees"] and again["size_mm"] == pytest.approx(clean["size_mm"], abs=3e-4)


def test_a_repeat_that_confirms_takes_the_zero_anew() -> None:
    begun = [fed(0.0254, "rough"), fed(0.0508, "rough"), {"act": "cool"}, read(22.12), read(22.12)]
    anew = told(*begun, read(22.1201), read(22.12))
    assert not anew["agrees"] and anew["size_mm"] == pytest.approx(22.12, abs=0.001)
    assert anew["acts"] and "zero is taken anew" in anew["why"] and anew["chance_under"] <= 0.001
    deepest = max(each["to_mm"] for each in anew["acts"] if "to_mm" in each)
    assert deepest > 0.12, "the wheel stands higher over the part than the collar says"


def test_a_part_under_its_limit_is_out() -> None:
    under = told(fed(0.1143), fed(0.12192), read(21.993, 21.9925), read(21.993, 21.9925))
    assert under["end"] == "out" and not under["acts"]


def test_between_the_lines_of_uncertainty_two_more_readings_decide() -> None:
    """Nothing can be cut off it and it is not proved: the mean of four decides, with its own U."""
    stop = [fed(0.1143), {"act": "cool"}, read(21.9967, 21.9959), read(21.9967, 21.9959)]
    asked = told(*stop)
    assert asked["end"] is None and [each["act"] for each in asked["acts"]] == ["cool", "measured", "measured"]
    assert told(*stop, read(21.9967, 21.9958), read(21.9967, 21.9958))["end"] == "in"
    assert told(*stop, read(21.9965, 21.9955), read(21.9965, 21.9955))["end"] == "unsure"


def test_sparks_tell_how_much_is_still_coming_off() -> None:
    wide = {"finish": ASKED["finish"] | {"crossfeed_mm": 6.0}}
    passes = [fed(0.1143), *[{"act": "spark_out", "kind": "finish", "to_mm": 0.1143}] * 3]
    none, dying = (told(*passes, {"act": "seen", "sparks": each}, **wide) for each in ("none", "dying"))
    assert none["agrees"] and dying["agrees"]
    assert none["cut_ratio"] > dying["cut_ratio"], "what has come off already does not spark any more"


def test_no_sparks_where_there_must_be_some_are_asked_about() -> None:
    passes = [fed(0.0254, "rough"), fed(0.0508, "rough")]
    assert told(*passes, {"act": "seen", "sparks": "even"})["agrees"]
    none = told(*passes, {"act": "seen", "sparks": "none"})
    assert not none["agrees"] and "sparks" in none["why"]
    assert [each["act"] for each in none["acts"]] == ["cool", "measured", "measured"]


def test_a_low_cut_ratio_is_learned_from_what_was_got() -> None:
    """Half of a single pass came off: the springs hold the rest."""
    wide = {"finish": ASKED["finish"] | {"crossfeed_mm": 12.0}, "rough": ASKED["rough"] | {"crossfeed_mm": 12.0}}
    passes = [fed(0.0254 * each, "rough") for each in (1, 2, 3)]
    low = told(*passes, {"act": "cool"}, read(22.08), read(22.08), **wide)
    high = told(*passes, {"act": "cool"}, read(22.05), read(22.05), **wide)
    assert low["cut_ratio"] < 0.5 < high["cut_ratio"]
    assert low["cut_ratio_u"] < 0.12


def test_a_coarse_setting_is_said_before_the_first_cut() -> None:
    assert "coarse" in told(setting_mm=0.0127, graduation_mm=0.0127)["why"]
    assert "coarse" not in told()["why"]


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"lower_mm": 22.01}, "upper_mm"),
        ({"goal_mm": 22.2}, "goal_mm"),
        ({"least_mm": 22.2}, "greatest_mm"),
        ({"setting_mm": 0.01}, "setting_mm"),
        ({"setting_mm": 1e-9}, "setting_mm"),
        ({"acts": [{"act": "pass", "kind": "rough"}]}, "acts.0.to_mm"),
        ({"acts": [fed(0.00127), fed(0.0)]}, "acts.1.to_mm"),
        ({"acts": [fed(0.001)]}, "acts.0.to_mm"),
        ({"acts": [{"act": "measured"}]}, "acts.0.greatest_mm"),
        ({"acts": [read(22.0, 22.1)]}, "acts.0.greatest_mm"),
        ({"acts": [{"act": "hit"}]}, "acts.0.act"),
        ({"measure_u_mm": 0}, "measure_u_mm"),
    ],
)
def test_what_cannot_be_names_its_field(change: dict[str, Any], field: str) -> None:
    with pytest.raises(InputError) as refused:
        answer("run.next", ASKED | change)
    assert refused.value.field == field
