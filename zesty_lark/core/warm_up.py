"""Getting the compiled calculations ready before somebody waits for them."""

QUESTION = {
    "part": {"length_mm": 88, "width_mm": 54, "height_mm": 22, "temper_c": 200},
    "stock_mm": "0.05",
    "tolerance_mm": "0.01",
    "flatness_um": 3,
    "ra_um": 1,
    "machine": {
        "downfeed_graduation_mm": "0.0025",
        "crossfeed_graduation_mm": "0.05",
        "crossfeed_min_mm": "0.5",
        "crossfeed_max_mm": "4",
        "table_min_mm_s": 200,
        "table_max_mm_s": 300,
        "reversal_s": 0.3,
        "spindle_w": 1100,
        "cut_ratio": 0.6,
    },
    "wheel": {"diameter_mm": 180, "width_mm": 12.7, "rpm": 3000, "grit": 46, "grade": "H"},
    "chuck": {},
    "coolant": "water",
    "with_curve": False,
}
MAP = {"points": [[0, 0, 0], [10, 0, 1], [0, 10, 2], [10, 10, 4]], "depths_um": [1]}

RUN = {
    "goal_mm": 22,
    "lower_mm": 21.995,
    "upper_mm": 22.005,
    "greatest_mm": 22.02,
    "least_mm": 22.02,
    "graduation_mm": 0.0025,
    "wheel_width_mm": 12.7,
    "rough": {"step_mm": 0.02, "crossfeed_mm": 4},
    "finish": {"step_mm": 0.005, "crossfeed_mm": 4},
    "measure_u_mm": 0.0005,
}


def warm_up() -> None:
    """Use each compiled calculation once: it is loaded from disk, or compiled and kept there."""
    from zesty_lark.core.calc import answer

    answer("pass.optimise", QUESTION)
    answer("map.feather", MAP)
    answer("run.next", RUN)
