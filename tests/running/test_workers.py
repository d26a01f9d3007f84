"""What the web server makes ready before its workers are forked."""

from pathlib import Path

import pytest
from flask import Flask

from zesty_lark.running import workers

PAGES = {"one.html": "{{ 1 + 1 }}", "two.html": "{% include 'one.html' %} {{ word }}"}


@pytest.fixture
def kept(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """Where compiled templates are kept."""
    made = tmp_path / "kept"
    made.mkdir()
    monkeypatch.setattr(workers, "folder", lambda: made)
    return made


@pytest.fixture
def pages(tmp_path: Path) -> Path:
    made = tmp_path / "pages"
    made.mkdir()
    for name, source in PAGES.items():
        (made / name).write_text(source)
    return made


def started(pages: Path) -> tuple[Flask, list[str]]:
    """An application with its templates loaded, and those that were compiled for it."""
    app, compiled = Flask("started", template_folder=str(pages)), []
    compile_one = app.jinja_env.compile

    def compiling(source: str, name: str, *more: object, **named: object) -> object:
        compiled.append(name)
        return compile_one(source, name, *more, **named)  # type: ignore[arg-type]

    app.jinja_env.compile = compiling  # type: ignore[method-assign,assignment]
    workers._load_templates(app)
    return app, compiled


def test_templates_are_compiled_by_the_first_start_only(pages: Path, kept: Path) -> None:
    _, compiled = started(pages)
    assert sorted(compiled) == ["one.html", "two.html"]
    app, compiled = started(pages)
    assert not compiled
    assert app.jinja_env.get_template("two.html").render(word="words") == "2 words"
    assert not compiled, "what a page is made of was loaded before it was asked for"
    (pages / "one.html").write_text("{{ 2 + 2 }}")
    app, compiled = started(pages)
    assert compiled == ["one.html"], "another version's is not taken"
    assert app.jinja_env.get_template("two.html").render(word="words") == "4 words"


def test_where_nothing_can_be_kept_templates_are_loaded_all_the_same(
    pages: Path, kept: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    kept.rmdir()
    kept.write_text("no folder")
    monkeypatch.setattr(workers, "warm_up", lambda: None)
    app = Flask("started", template_folder=str(pages))
    workers._get_ready(app)
    assert app.jinja_env.get_template("two.html").render(word="words") == "2 words"
    monkeypatch.setattr(workers, "folder", lambda: None)
    app, compiled = started(pages)
    assert sorted(compiled) == ["one.html", "two.html"]
