"""Every form and route with whatever can be sent: each answer is one of the application's own, never a fault."""

import html
import io
import json
import os
import random
import re
import zipfile
from typing import Any

import pytest
from flask import Flask
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from sqlalchemy.orm import Session
from werkzeug.datastructures import FileStorage

from tests.web.conftest import Browser
from tests.web.test_doors import routes
from zesty_lark.core.calc import CALCULATIONS

PAGES = (
    "/",
    "/me",
    "/people",
    "/shop",
    "/shop/machine/new",
    "/shop/machine/1",
    "/shop/wheel/1",
    "/shop/gauge/1",
    "/shop/chuck/1",
    "/shop/fixture/1",
    "/jobs/take-in",
    "/jobs/read-in",
    *(
        f"/jobs/{number}/{page}"
        for number in ("TR-101", "TR-114", "TR-120", "TR-133", "TR-140")
        for page in ("take-in", "pieces", "print", "faces", "plan?again=1", "grind", "measure", "record")
    ),
)
NASTY = (
    "",
    " ",
    "0",
    "-0",
    "-1",
    "1",
    "7",
    "0.00000001",
    "0.12345678",
    "1e-400",
    "1e309",
    "NaN",
    "Infinity",
    "999999",
    "9999999.9999999",
    "99999999999999999999",
    "1/0",
    "1/64",
    "½",
    "٣",
    "12 mm",
    "3 in",
    "0,5",
    "\x00",
    "\u202e",
    "𝟙",
    "é" * 200,
    "x" * 300,
    "x" * 5_000,
    "'; drop table job; --",
    "<b>x</b>",
    "{{ 7 * 7 }}",
    "=1+1",
    "[" * 3000,
    "[]",
    "{}",
    "null",
    "true",
    "on",
    "1\n2",
    "/jobs\r\nX: y",
    "../../x",
    "quickest",
    "custom",
    "2026-02-30",
    "0001-01-01",
    "9999-12-31",
    "17°30'",
    "grind",
)
FORM = re.compile(r"<form.*?</form>", re.S)
TARGET = re.compile(r"(?:formaction|action|hx-post)=\"([^\"]+)\"")
FIELD = re.compile(r"<(?:input|select|textarea|button)[^>]*\bname=\"([^\"]+)\"[^>]*>")
VALUE = re.compile(r"\bvalue=\"([^\"]*)\"")
ASKED = ("face", "piece", "of", "again", "margin", "method", "next", "page", "search", "show", "load", "q", "figure")
BROKEN = (b"[" * 100_000, b"\xff\xfe", b"at,by\n" * 1000, b"{}", b"null", b'{"format": "zesty-lark job 3"}')
LEAVES: tuple[Any, ...] = (
    None,
    True,
    -1,
    0,
    1e308,
    1e-310,
    10**400,
    "",
    "x" * 5_000,
    "NaN",
    "\x00",
    [],
    {},
    [[]],
    "TR-101",
)


class Forms:
    """The forms of all pages: where each is sent, and its fields as the page fills them in."""

    def __init__(self) -> None:
        self.all: list[tuple[str, dict[str, str]]] = []


@pytest.fixture
def forms(isa: Browser) -> Forms:
    """The forms of every page as a lead sees them, each once."""
    found = Forms()
    for page in PAGES:
        isa.get(page)
        for form in FORM.findall(isa.page):
            names = {
                field.group(1): html.unescape(value.group(1)) if (value := VALUE.search(field.group())) else ""
                for field in FIELD.finditer(form)
            }
            names.pop("csrf_token", None)
            targets = {html.unescape(each) for each in TARGET.findall(form) or [page]}
            found.all += [(target, names) for target in sorted(targets) if not any(each in target for each in ENDS_IT)]
    return found


ENDS_IT = ("/sign-out", "/me", "/sign-ins/")
"""Where whoever asks may sign themselves out: then nothing more is answered."""
FUZZ = settings(
    max_examples=int(os.environ.get("LARK_EXAMPLES", "60")),
    deadline=None,
    derandomize=False,
    suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow],
)


@FUZZ
@given(seed=st.integers(0, 2**32))
def test_whatever_a_form_sends_is_answered(isa: Browser, forms: Forms, demo: Session, seed: int) -> None:
    chance = random.Random(seed)
    action, fields = chance.choice(forms.all)
    sent = dict(fields)
    for name in chance.sample(sorted(fields), min(len(fields), chance.randrange(5))):
        sent[name] = chance.choice(NASTY)
        if chance.random() < 0.3:
            del sent[name]
    undone = demo.begin_nested()
    answer = isa.post(action, sent)  # type: ignore[arg-type]
    undone.rollback()
    assert answer.status_code in (200, 303, 302, 400, 403, 404, 405, 409, 413, 422), (action, sent)
    assert "Something broke" not in isa.page


@FUZZ
@given(data=st.data())
def test_whatever_an_address_asks_is_answered(app: Flask, isa: Browser, data: Any) -> None:
    paths = sorted({path for method, path, access in routes(app) if method == "GET"})
    path = data.draw(st.sampled_from(paths))
    names = (
        "face",
        "piece",
        "of",
        "again",
        "margin",
        "method",
        "next",
        "page",
        "search",
        "show",
        "version",
        "load",
        "q",
        "figure",
    )
    asked = data.draw(st.dictionaries(st.sampled_from(names), st.sampled_from(NASTY[:28] + NASTY[29:]), max_size=4))
    answer = isa.get(path, query_string=asked)
    answer.close()
    assert answer.status_code in (200, 302, 303, 400, 403, 404, 409, 422), (path, asked)


@FUZZ
@given(data=st.data())
def test_whatever_the_calculations_are_asked_over_http_is_answered(isa: Browser, data: Any) -> None:
    isa.get("/")
    name = data.draw(st.sampled_from(sorted(CALCULATIONS)))
    leaf = st.none() | st.booleans() | st.integers() | st.floats() | st.sampled_from(NASTY[:20])
    body = data.draw(
        st.dictionaries(
            st.sampled_from(("part", "stock_mm", "passes", "points", "blocks", "x")), leaf | st.lists(leaf, max_size=3)
        )
    )
    answer = isa.client.post(f"/api/calc/{name}", json=body, headers={"X-CSRFToken": isa.token})
    assert answer.status_code in (200, 422)


@pytest.mark.parametrize("name", ["job.json", "log.csv"])
@given(content=st.binary(max_size=400) | st.sampled_from(BROKEN))
@FUZZ
def test_whatever_a_file_holds_is_answered(isa: Browser, name: str, content: bytes) -> None:
    path = "/jobs/read-in" if name == "job.json" else "/jobs/TR-101/record/log.csv"
    isa.get("/")
    answer = isa.post(path, {"file": FileStorage(io.BytesIO(content), name)}, content_type="multipart/form-data")
    assert answer.status_code in (303, 404, 409, 422), path


class Files:
    """The files the shop hands out, by where they may be sent back to, with what is sent beside them."""

    def __init__(self) -> None:
        self.all: list[tuple[str, str, bytes, dict[str, str]]] = []


@pytest.fixture
def files(isa: Browser) -> Files:
    """Every job and every map of the demonstration, as the shop writes it."""
    found = Files()
    beside = {"piece": "1", "surface": "1", "frame": "machine", "plate_um": "0"}
    for number in ("TR-101", "TR-133", "TR-140"):
        found.all.append(("/jobs/read-in", "job.json", isa.get(f"/jobs/{number}/record/job.json").data, {}))
    isa.get("/shop")
    maps = sorted(set(re.findall(r'href="(/[\w/-]*maps/[\w-]+)"', isa.page)))
    isa.get("/jobs/TR-101/maps")
    maps += sorted(set(re.findall(r'href="(/[\w/-]*maps/[\w-]+)"', isa.page)))
    for page in maps:
        isa.get(page)
        for path in sorted(set(re.findall(rf'href="({page}[^"]*\.(?:x3p|xlsx|csv|json))"', isa.page))):
            into = "/jobs/TR-101/maps/bring-in"
            found.all.append((into, path.rpartition("/")[2], isa.get(path).data, beside))
    assert {name.rpartition(".")[2] for _, name, _, _ in found.all} == {"json", "csv", "x3p", "xlsx"}
    return found


def spoilt(data: bytes, name: str, chance: random.Random) -> bytes:
    """A file with one to four faults in it, of the kinds that its own format can carry."""
    for _ in range(chance.randint(1, 4)):
        kind = name.rpartition(".")[2]
        if kind == "json":
            data = spoilt_json(data, chance)
        elif kind in ("x3p", "xlsx") and zipfile.is_zipfile(io.BytesIO(data)):
            data = spoilt_parts(data, chance)
        else:
            data = spoilt_bytes(data, chance)
    return data


def spoilt_bytes(data: bytes, chance: random.Random) -> bytes:
    at, many = chance.randrange(len(data) + 1), chance.randint(1, 40)
    put = chance.choice((b"", bytes(chance.randrange(256) for _ in range(many)), data[at : at + many] * 2, b"9" * 400))
    return data[:at] + put + data[at + chance.choice((0, 1, many)) :]


def spoilt_json(data: bytes, chance: random.Random) -> bytes:
    """One value, anywhere in it, is something else, is not there, or is there twice."""
    try:
        whole = json.loads(data)
    except (ValueError, RecursionError):
        return spoilt_bytes(data, chance)
    at = whole
    while isinstance(at, dict | list) and at:
        keys: list[Any] = list(at) if isinstance(at, dict) else list(range(len(at)))
        key = chance.choice(keys)
        if not isinstance(at[key], dict | list) or not at[key] or chance.random() < 0.15:
            how = chance.randrange(4)
            if how == 0:
                del at[key]
            elif how == 1 and isinstance(at, list):
                at.append(at[key])
            else:
                at[key] = chance.choice((*LEAVES, *NASTY))
            break
        at = at[key]
    return json.dumps(whole).encode()


def spoilt_parts(data: bytes, chance: random.Random) -> bytes:
    """One of the packed files is spoilt, or is not there."""
    with zipfile.ZipFile(io.BytesIO(data)) as packed:
        members = {each: packed.read(each) for each in packed.namelist()}
    if not members:
        return data
    name = chance.choice(sorted(members))
    part = members.pop(name)
    if chance.random() < 0.9:
        members[name] = spoilt_bytes(part, chance)
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as packed:
        for each, held in members.items():
            packed.writestr(each, held)
    return out.getvalue()


@FUZZ
@given(seed=st.integers(0, 2**32))
def test_whatever_of_its_own_files_comes_back_spoilt_is_answered(
    isa: Browser, files: Files, demo: Session, seed: int
) -> None:
    chance = random.Random(seed)
    path, name, data, beside = chance.choice(files.all)
    isa.get("/")
    undone = demo.begin_nested()
    sent = {"file": FileStorage(io.BytesIO(spoilt(data, name, chance)), name), **beside}
    answer = isa.post(path, sent, content_type="multipart/form-data")
    undone.rollback()
    assert answer.status_code in (200, 303, 409, 413, 422), (path, name)
    assert "Something broke" not in isa.page
