"""Our own style sheets and templates: laid out by their formatters, nothing dead in them, nothing forced."""

import re
from pathlib import Path

import cssbeautifier
import pytest
from flask import Flask

WEB = Path(__file__).parents[2] / "zesty_lark" / "web"
SHEETS = [each for each in sorted(WEB.rglob("*.css")) if "lib" not in each.parts]
SOURCES = [each for suffix in ("*.html", "*.py", "*.js") for each in WEB.rglob(suffix) if "lib" not in each.parts]
KINDS = WEB.parent / "core" / "work" / "entry.py"


def beautified(text: str) -> str:
    options = cssbeautifier.default_options()
    options.indent_size, options.end_with_newline = 2, True
    return str(cssbeautifier.beautify(text, options))


@pytest.mark.parametrize("sheet", SHEETS, ids=lambda each: each.stem)
def test_a_style_sheet_is_as_its_formatter_lays_it_out(sheet: Path) -> None:
    text = sheet.read_text(encoding="utf-8")
    assert beautified(text) == text, f"css-beautify -s 2 -n -r {sheet}"
    assert len(text.splitlines()) <= 450


@pytest.mark.parametrize(
    "source", [*SHEETS, *WEB.rglob("*.html"), *WEB.glob("static/js/*.js")], ids=lambda each: each.name
)
def test_no_line_is_over_120(source: Path) -> None:
    assert [line for line in source.read_text(encoding="utf-8").splitlines() if len(line) > 120] == []


def test_every_class_of_ours_is_used_somewhere() -> None:
    used = "\n".join(each.read_text(encoding="utf-8") for each in (*SOURCES, KINDS))
    words = set(re.findall(r"[\w-]+", used))
    for sheet in SHEETS:
        for name in set(re.findall(r"\.([a-z][\w-]*)(?=[^{}]*\{)", sheet.read_text(encoding="utf-8"))):
            assert name in words or made_of_words(name, used), f"{sheet.name}: nothing has the class {name}"


def made_of_words(name: str, used: str) -> bool:
    """Some names are put together of a state's words, or of a start and a number."""
    start, _, end = name.rpartition("-")
    return name.replace("-", " ") in used or end.isdigit() and f"{start}-" in used or f"{start}-{{" in used


def test_nothing_of_ours_fights_the_framework_with_force() -> None:
    for sheet in SHEETS:
        assert "!important" not in sheet.read_text(encoding="utf-8"), sheet.name


def test_every_style_sheet_of_a_station_is_on_its_pages(loaded: Flask) -> None:
    """Those that bear the station's name are on all of them; any other is named by a template."""
    templates = "".join(path.read_text("utf-8") for path in WEB.rglob("*.html"))
    for name, station in loaded.blueprints.items():
        for sheet in Path(station.static_folder or "/none").glob("*.css"):
            assert sheet.name.startswith(name) or f"asset('{name}/{sheet.name}')" in templates, sheet
