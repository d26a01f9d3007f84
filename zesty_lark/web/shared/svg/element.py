"""Writing SVG elements safely."""

from markupsafe import Markup, escape


def _number(value: object) -> str:
    return f"{value:.2f}".rstrip("0").rstrip(".") if isinstance(value, float) else str(value)


def tag(name: str, *children: Markup | str, **attributes: object) -> Markup:
    """Return an element; ``class_`` and ``stroke_width`` lose their underscores, text is escaped."""
    written = "".join(
        f' {key.rstrip("_").replace("_", "-")}="{escape(_number(value))}"'
        for key, value in attributes.items()
        if value is not None
    )
    inside = "".join(str(escape(child)) for child in children)
    return Markup(f"<{name}{written}>{inside}</{name}>")


def rect(x: float, y: float, width: float, height: float, *, class_: str, **more: object) -> Markup:
    """Return a rectangle."""
    return tag("rect", x=x, y=y, width=max(width, 0.0), height=max(height, 0.0), class_=class_, **more)


def line(x1: float, y1: float, x2: float, y2: float, *, class_: str) -> Markup:
    """Return a line."""
    return tag("line", x1=x1, y1=y1, x2=x2, y2=y2, class_=class_)


def text(x: float, y: float, words: str, class_: str, *, anchor: str = "start") -> Markup:
    """Return a text with its baseline at (x, y)."""
    return tag("text", words, x=x, y=y, class_=class_, text_anchor=anchor)


def polygon(points: list[tuple[float, float]], class_: str) -> Markup:
    """Return a closed polygon."""
    return tag("polygon", points=" ".join(f"{_number(x)},{_number(y)}" for x, y in points), class_=class_)


def group(*children: Markup, **attributes: object) -> Markup:
    """Return a group."""
    return tag("g", *children, **attributes)


def drawing(width: float, height: float, title: str, *children: Markup, class_: str, role: str = "img") -> Markup:
    """Return a whole drawing with a title for those who cannot see it; one with links in it is a group."""
    return tag(
        "svg",
        tag("title", title),
        *children,
        xmlns="http://www.w3.org/2000/svg",
        viewBox=f"0 0 {_number(float(width))} {_number(float(height))}",
        role=role,
        class_=class_,
    )
