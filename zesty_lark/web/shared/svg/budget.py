"""An uncertainty budget as bars, the largest first."""

from markupsafe import Markup

from zesty_lark.core.measure.budget import Budget
from zesty_lark.web.shared.svg.element import drawing, rect, text

WIDTH, ROW, LEFT, RIGHT = 420.0, 22.0, 120.0, 70.0


def budget_bars(budget: Budget) -> Markup:
    """Draw each contribution's standard uncertainty as a bar, beside the largest."""
    most = budget.largest.u_um
    body = []
    for number, each in enumerate(budget.contributions):
        y = number * ROW
        long = (WIDTH - LEFT - RIGHT) * each.u_um / most
        body += [
            text(LEFT - 8, y + 15, each.source, "budget-word", anchor="end"),
            rect(LEFT, y + 4, long, ROW - 8, class_="budget-bar"),
            text(LEFT + long + 6, y + 15, f"{each.u_um:.2f} µm", "budget-number"),
        ]
    words = ", ".join(f"{contribution.source} {contribution.u_um:.2f}" for contribution in budget.contributions)
    return drawing(
        WIDTH,
        ROW * len(budget.contributions) + 4,
        f"Standard uncertainties in micrometres: {words}",
        *body,
        class_="budget",
    )
