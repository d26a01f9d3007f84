"""The computing core against its limits: each line is timed beside what it is compared with, in the same run.

``./lark bench bench/test_core.py`` prints the table of pytest-benchmark; ``-s`` also prints the ratios.
"""

import json
import subprocess
import sys
from decimal import Decimal
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from pytest_benchmark.fixture import BenchmarkFixture
from scipy.optimize import linprog

from bench import quickest
from tests.core.test_heat_and_plan import ASKED
from zesty_lark.core.angles_slots.blocks import gauge_stack
from zesty_lark.core.calc import answer
from zesty_lark.core.measure.maps.feather import cleaned, triangles
from zesty_lark.core.measure.maps.flatness import minimum_zone
from zesty_lark.core.measure.maps.surface_map import SurfaceMap
from zesty_lark.core.measure.maps.view import plate_of
from zesty_lark.core.planning import best, methods
from zesty_lark.core.process.heat import heatmap
from zesty_lark.core.simulated.hidden import HiddenSurface
from zesty_lark.core.wheel.balance import ring
from zesty_lark.web.shared.svg.surface import Shown, surface_plate

ROOT = Path(__file__).parents[1]
RANDOM = np.random.default_rng(3)


def rough(count: int) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    x, y = RANDOM.uniform(0, 300, count), RANDOM.uniform(0, 200, count)
    return x, y, 0.01 * x + 0.005 * y + RANDOM.normal(0, 2, count)


def test_minimum_zone_of_a_million_points(benchmark: BenchmarkFixture) -> None:
    """At most 0.4 s."""
    points = rough(1_000_000)
    assert benchmark(lambda: minimum_zone(*points)).width > 15


def test_minimum_zone_beside_a_linear_program(benchmark: BenchmarkFixture) -> None:
    """At least 30 times faster than HiGHS at 20,000 points."""
    x, y, z = rough(20_000)
    plane, one = np.column_stack((x, y, np.ones(z.size))), np.ones((z.size, 1))

    def program() -> float:
        return 2 * float(
            linprog(
                [0, 0, 0, 1],
                A_ub=np.block([[plane, -one], [-plane, -one]]),
                b_ub=np.concatenate((z, -z)),
                bounds=[(None, None)] * 3 + [(0, None)],
                method="highs",
            ).fun
        )

    zone = benchmark(lambda: minimum_zone(x, y, z))
    assert abs(program() - zone.width) < 1e-8
    print(
        f"\nlinear program over minimum zone: {quickest(program, 2) / quickest(lambda: minimum_zone(x, y, z), 5):.0f}"
    )


def test_feather_line_of_a_million_points_at_200_depths(benchmark: BenchmarkFixture) -> None:
    """At most 0.5 s."""
    x, y = (each.ravel() for each in np.meshgrid(np.arange(1000.0), np.arange(1000.0)))
    z = RANDOM.normal(0, 2, x.size)
    share, _ = benchmark(lambda: cleaned(x, y, z, np.linspace(0, np.ptp(z), 200)))
    assert share[-1] == pytest.approx(1)


def test_heat_map_of_a_thousand_strokes(benchmark: BenchmarkFixture) -> None:
    """160 × 70 mm in 1 mm cells: at most 1 s."""
    made = benchmark(
        lambda: heatmap(
            length_mm=160,
            width_mm=70,
            height_mm=20,
            wheel_width_mm=12.7,
            crossfeed_mm=0.4137,
            table_mm_s=300,
            energy_j_mm=1,
            coolant="water",
            passes=5,
            cell_mm=1,
        )
    )
    assert made.strokes == 1000


def asked_anew(name: str, **more: object) -> dict[str, Any]:
    """Ask the planner; nothing is kept from one time to the next but the compiled code."""
    best.forget()
    methods.methods_of.cache_clear()
    return answer(name, ASKED | more)


@pytest.mark.parametrize(("curve", "times"), [(False, 3), (True, 8)])
def test_the_best_plan(benchmark: BenchmarkFixture, curve: bool, times: int) -> None:
    """Wanted: at most 3 times all methods in the same run, and 8 times with its curve."""
    assert benchmark(lambda: asked_anew("pass.optimise", with_curve=curve))["plan"]["within_limits"]
    once = [
        quickest(lambda: asked_anew("pass.optimise", with_curve=curve), 1)
        / quickest(lambda: asked_anew("pass.schools"), 1)
        for _ in range(9)
    ]
    print(f"\nbest plan over all methods: {sorted(once)[4]:.1f}, {times} wanted")


def test_all_methods(benchmark: BenchmarkFixture) -> None:
    """At most 100 ms."""
    assert len(benchmark(lambda: asked_anew("pass.schools"))["schools"]) == 5


@pytest.mark.parametrize("target", ["299.9995", "123.4565", "317.4865"])
def test_five_gauge_blocks(benchmark: BenchmarkFixture, target: str) -> None:
    """At most 50 ms."""
    assert benchmark(lambda: gauge_stack(target=Decimal(target), unit="mm", set="metric88")).count <= 5


@pytest.mark.parametrize("masses", [[5, 5, 3, 3, 2, 2, 1, 1], [5] * 8])
def test_a_ring_of_24_holes(benchmark: BenchmarkFixture, masses: list[float]) -> None:
    """Under a second."""
    assert (
        benchmark(lambda: ring(unbalance_gmm=777, heavy_deg=33, holes=24, radius_mm=40, masses_g=masses)).residual_gmm
        < 5
    )


@pytest.mark.parametrize("name", ["edge.break", "pass.evaluate"])
def test_from_start_to_answer(benchmark: BenchmarkFixture, name: str) -> None:
    """Wanted: 400 ms."""
    given = (
        next(
            json.loads(line)["input"]
            for line in (ROOT / "tests/core/vectors/cases.jsonl").read_text().splitlines()
            if json.loads(line)["name"] == "pass.evaluate"
        )
        if name == "pass.evaluate"
        else {"downfeed_mm": 0.1}
    )
    run = [sys.executable, "-m", "zesty_lark.door", name]
    assert (
        benchmark(lambda: subprocess.run(run, input=json.dumps(given), text=True, capture_output=True)).returncode == 0
    )


def test_a_batch_of_ten_thousand(benchmark: BenchmarkFixture) -> None:
    """At most 5 s."""
    lines = (
        '{"name": "edge.break", "input": {"downfeed_mm": 0.1}}\n{"name": "thin.bow", "input": {"length_mm": 200, '
        '"thickness_mm": 5, "bow_mm": 0.1, "pull_n_mm2": 0.5}}\n'
    )
    run = [sys.executable, "-m", "zesty_lark.door", "--batch"]
    made = benchmark.pedantic(lambda: subprocess.run(run, input=lines * 5000, text=True, capture_output=True), rounds=1)
    assert made.stdout.count("output") == 10_000


@pytest.mark.parametrize("kind", ["grid", "scattered"])
def test_a_map_of_a_hundred_thousand_points_is_analysed_and_drawn(benchmark: BenchmarkFixture, kind: str) -> None:
    """Under a second; beside laying as many scattered points over, which it does without."""
    surface = HiddenSurface(400, 250)
    x, y, noise = rough(100_000)
    if kind == "grid":
        x, y = (each.ravel() for each in np.meshgrid(np.arange(400.0), np.arange(250.0)))
    points = tuple(
        (a, b, surface.height_um(a, b) + c / 50) for a, b, c in zip(x.tolist(), y.tolist(), noise, strict=True)
    )

    def drawn() -> int:
        taken = SurfaceMap("machine", points, points[0][2])
        return len(surface_plate(plate_of(taken), Shown(slopes=(taken.analysis.slope_x_um_per_100, 0.0))))

    assert benchmark(drawn) > 10_000
    over = quickest(lambda: triangles(*rough(100_000)[:2]), 2)
    print(f"\na map of 100,000 {kind} points over one triangulation: {quickest(drawn, 3) / over:.2f}")
