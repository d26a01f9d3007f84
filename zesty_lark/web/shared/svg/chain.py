"""An error chain as a bar against what the print allows: each link a length, the likely error a mark."""

from collections.abc import Sequence

from markupsafe import Markup

from zesty_lark.core.squaring.relations import Relation
from zesty_lark.web.shared.svg.element import drawing, line, polygon, rect

WIDTH, HEIGHT, BAR = 292.0, 30.0, 15.0
SHADES = 5


def chain_scale(relations: Sequence[Relation]) -> float:
    """The length [µm] that the bars of these relations share."""
    return (
        max(
            [relation.chain.worst_um for relation in relations] + [each.allowed_um or 0.0 for each in relations] + [1.0]
        )
        * 1.08
    )


def chain_bar(relation: Relation, scale_um: float) -> Markup:
    """Draw one relation's chain: links end to end to the worst, the likely error, and the tolerance."""
    made = relation.chain

    def x(micrometres: float) -> float:
        return micrometres / scale_um * WIDTH

    body, at = [], 0.0
    if relation.allowed_um is not None:
        body.append(rect(0, 2, x(relation.allowed_um), 26, class_="chain-allowed"))
    for index, (name, limit) in enumerate(sorted(made.links_um.items(), key=lambda each: -each[1])):
        look = "chain-biggest" if name == made.biggest else f"chain-link shade-{index % SHADES}"
        body.append(rect(x(at), 7, x(limit), BAR, class_=look))
        at += limit
    likely = x(made.likely_um)
    body += [
        line(likely, 2, likely, 27, class_="chain-likely"),
        polygon([(likely - 5, 1), (likely + 5, 1), (likely, 7)], "chain-flag"),
    ]
    if relation.allowed_um is not None:
        edge = x(relation.allowed_um)
        body.append(line(edge, 0, edge, HEIGHT, class_="chain-limit"))
    links = "; ".join(f"{name} {limit:.2f}" for name, limit in made.links_um.items())
    allowed = "" if relation.allowed_um is None else f" of {relation.allowed_um:g} allowed"
    return drawing(
        WIDTH,
        HEIGHT,
        f"{relation.name}: likely {made.likely_um:.1f}, worst {made.worst_um:.1f} µm{allowed}. {links}",
        *body,
        class_="chain",
    )
