"""Closed by default: strangers, roles, forged forms, headers."""

import html
import io
import re
import tomllib
from pathlib import Path
from urllib.parse import urlsplit

import pytest
from flask import Flask
from sqlalchemy import Engine, text
from sqlalchemy.orm import Session, sessionmaker

from tests.web.conftest import Browser, make_app
from zesty_lark.demo.crew import PASSWORD
from zesty_lark.running import http_server
from zesty_lark.store.models.people import Role
from zesty_lark.web.shared.guard import Access

FILLED = {
    "number": "TR-101",
    "name": "edge.break",
    "kind": "wheel",
    "key": "1",
    "form": "",
    "figure": "minutes",
    "version": "1",
    "chuck": "1",
    "other": "1",
    "suffix": "csv",
    "shape": "slot",
    "sign_in": "1",
    "wheel": "1",
    "work": "magnet",
}
ROOT = Path(__file__).parents[2]


def routes(app: Flask) -> list[tuple[str, str, Access | None]]:
    found = []
    for rule in app.url_map.iter_rules():
        if rule.endpoint.rpartition(".")[2] == "static":
            continue
        path = rule.rule
        for name in rule.arguments:
            path = "".join(
                part if index % 2 == 0 else FILLED[name] for index, part in enumerate(_split_argument(path, name))
            )
        access = getattr(app.view_functions[rule.endpoint], "lark_access", None)
        found += [(method, path, access) for method in (rule.methods or set()) & {"GET", "POST"}]
    return found


def _split_argument(path: str, name: str) -> list[str]:
    """Split a rule before and after its argument ``name``."""
    for start in range(len(path)):
        if path[start] == "<":
            end = path.index(">", start)
            if path[start + 1 : end].split(":")[-1] == name:
                return [path[:start], "", path[end + 1 :]]
    return [path]


def test_every_route_says_who_may_come_in(app: Flask) -> None:
    undeclared = [path for _, path, access in routes(app) if access is None]
    assert not undeclared and len(routes(app)) > 30


def test_a_stranger_gets_the_sign_in_page_and_nothing_else(app: Flask, stranger: Browser) -> None:
    for method, path, access in routes(app):
        if access and not access.public:
            answer = stranger.get(path) if method == "GET" else stranger.post(path)
            assert answer.status_code in (302, 401), (method, path)
            assert "Thrust" not in stranger.page and "thrust" not in stranger.page
    assert stranger.get("/nowhere").status_code == 302
    for name in ("css/theme.css", "grind/grind.css", "css/sheet.css"):
        with stranger.client.get(f"/static/{name}") as style:
            assert style.status_code == 200, name


def test_every_route_keeps_other_roles_out(app: Flask) -> None:
    for role, name in ((Role.APPRENTICE, "nim"), (Role.INSPECTOR, "pell"), (Role.MACHINIST, "odo")):
        client = app.test_client()
        browser = Browser(client).sign_in(name)
        for method, path, access in routes(app):
            if access and not access.public and role not in access.roles:
                answer = browser.get(path) if method == "GET" else browser.post(path)
                assert answer.status_code == 403, (name, method, path)


def test_every_job_route_says_when_there_is_no_such_job(app: Flask, isa: Browser) -> None:
    for method, path, access in routes(app):
        if access and access.job and "TR-101" in path:
            missing = path.replace("TR-101", "TR-999")
            answer = isa.get(missing) if method == "GET" else isa.post(missing)
            assert answer.status_code == 404 and "no job TR-999" in isa.page, (method, path)


def test_someone_elses_job_can_be_looked_at_but_not_logged_on(app: Flask, bryn: Browser) -> None:
    for method, path, access in routes(app):
        if access and access.job and Role.MACHINIST in access.roles and "TR-101" in path:
            theirs = path.replace("TR-101", "TR-114")
            if method == "GET":
                none = "versions" in theirs or "/maps/1" in theirs
                assert bryn.get(theirs).status_code == (404 if none else 200), theirs
            elif access.job != "look":
                sent = {"note": "mine", "act": "note", "entry_id": "x" * 12} if theirs.endswith("/grind") else {}
                answer = bryn.post(theirs, sent)
                assert answer.status_code == 403 and "Odo Marram’s job" in bryn.page, theirs
                assert not sent or "mine" in bryn.page, "what was typed is shown"
    assert bryn.post("/jobs/TR-114/take-in").status_code == 403


def test_an_inspector_measures_any_job_but_grinds_none(stranger: Browser) -> None:
    stranger.sign_in("pell")
    assert stranger.post("/jobs/TR-101/grind", {"act": "note"}).status_code == 403
    assert stranger.post("/jobs/TR-101/measure", {}).status_code == 422


def test_headers_close_the_browser_too(bryn: Browser) -> None:
    headers = bryn.get("/").headers
    policy = headers["Content-Security-Policy"]
    assert "unsafe" not in policy and "default-src 'none'" in policy and "frame-ancestors 'none'" in policy
    assert headers["X-Content-Type-Options"] == "nosniff" and headers["Cache-Control"] == "no-store"
    assert " style=" not in bryn.page and "<script>" not in bryn.page and "onclick" not in bryn.page


def test_what_ships_is_kept_by_its_address_and_asked_for_anew_without(stranger: Browser) -> None:
    stranger.get("/sign-in")
    (theme,) = re.findall(r'href="(/static/v-[0-9a-f]{12}/css/theme.css)"', stranger.page)
    for address, kept in (
        (theme, "public, max-age=31536000, immutable"),
        (theme.replace("css/theme.css", "js/keep.js"), "public, max-age=31536000, immutable"),
        (re.sub("v-[0-9a-f]+", "v-0123456789ab", theme), "no-cache"),
        ("/static/css/theme.css", "no-cache"),
    ):
        with stranger.client.get(address) as answer:
            assert answer.status_code == 200 and answer.headers["Cache-Control"] == kept, address
            assert "Set-Cookie" not in answer.headers
    assert stranger.client.get(theme.replace("css/theme.css", "../factory.py")).status_code != 200


def test_the_session_cookie_is_closed(stranger: Browser) -> None:
    stranger.get("/sign-in")
    answer = stranger.post("/sign-in", {"sign_in_name": "bryn", "password": PASSWORD})
    cookie = answer.headers["Set-Cookie"]
    assert "HttpOnly" in cookie and "SameSite=Lax" in cookie


def test_a_wrong_password_keeps_the_name_and_five_are_enough(stranger: Browser) -> None:
    for _ in range(5):
        stranger.get("/sign-in")
        answer = stranger.post("/sign-in", {"sign_in_name": "bryn", "password": "guess"})
        assert answer.status_code == 403 and 'value="bryn"' in stranger.page and "guess" not in stranger.page
    answer = stranger.post("/sign-in", {"sign_in_name": "bryn", "password": PASSWORD})
    assert answer.status_code == 429 and "Wait 2 seconds" in stranger.page


@pytest.mark.parametrize(
    "target", ["https://elsewhere.example/", "//elsewhere.example", "/\\elsewhere", "javascript:x", "/jobs\nx"]
)
def test_signing_in_leads_nowhere_else(stranger: Browser, target: str) -> None:
    stranger.get("/sign-in")
    answer = stranger.client.post(
        "/sign-in",
        query_string={"next": target},
        data={"csrf_token": stranger.token, "sign_in_name": "bryn", "password": PASSWORD},
    )
    assert answer.headers["Location"] == "/"


def test_a_forged_form_changes_nothing_and_a_stale_one_is_offered_again(bryn: Browser) -> None:
    bryn.token = "forged"
    answer = bryn.post("/jobs/TR-101/grind", {"act": "note", "note": "kept words", "entry_id": "stale-000001"})
    assert answer.status_code == 400 and "kept words" in bryn.page and "Send it" in bryn.page
    bryn.get("/jobs/TR-101/record")
    assert "kept words" not in bryn.page
    bryn.post("/jobs/TR-101/grind", {"act": "note", "note": "kept words", "entry_id": "stale-000001"})
    bryn.get("/jobs/TR-101/record")
    assert bryn.page.count("Note: kept words") == 1


NOTE = {"act": "note", "note": "kept words", "entry_id": "gone-0000001"}
OWN_PAGE = {"Origin": "http://localhost", "Sec-Fetch-Site": "same-origin"}


def end_sign_ins(demo: Session) -> None:
    demo.execute(text("delete from signed_in"))
    demo.commit()


def test_a_form_sent_after_the_sign_in_ended_is_sent_at_the_first_press_after_signing_in(
    bryn: Browser, demo: Session
) -> None:
    end_sign_ins(demo)
    answer = bryn.post("/jobs/TR-101/grind", NOTE, headers=OWN_PAGE)
    assert answer.status_code == 401
    kept = bryn.page.split('name="kept" value="')[1].split('"')[0]
    bryn.post("/sign-in", {"sign_in_name": "bryn", "password": PASSWORD, "kept": kept})
    assert "kept words" in bryn.page and 'action="/jobs/TR-101/grind"' in bryn.page
    assert bryn.post("/jobs/TR-101/grind", NOTE).status_code < 400, "the token in that page is a fresh one"
    bryn.get("/jobs/TR-101/record")
    assert bryn.page.count("Note: kept words") == 1


@pytest.mark.parametrize(
    "headers",
    [
        {},
        {"Origin": "https://elsewhere.example"},
        {"Origin": "https://elsewhere.example", "Sec-Fetch-Site": "cross-site"},
        {"Origin": "http://localhost", "Sec-Fetch-Site": "cross-site"},
        {"Origin": "null"},
    ],
)
def test_what_comes_from_another_page_is_never_offered(bryn: Browser, demo: Session, headers: dict[str, str]) -> None:
    end_sign_ins(demo)
    assert bryn.post("/jobs/TR-101/grind", NOTE, headers=headers).status_code == 401
    assert 'name="kept"' not in bryn.page


def test_what_one_person_typed_is_not_offered_to_another(bryn: Browser, demo: Session) -> None:
    end_sign_ins(demo)
    bryn.post("/jobs/TR-101/grind", NOTE, headers=OWN_PAGE)
    kept = bryn.page.split('name="kept" value="')[1].split('"')[0]
    answer = bryn.post("/sign-in", {"sign_in_name": "odo", "password": PASSWORD, "kept": kept})
    assert answer.status_code == 303 and "kept words" not in bryn.page


def test_a_stranger_who_was_never_signed_in_has_nothing_kept(stranger: Browser) -> None:
    stranger.get("/sign-in")
    stranger.post("/jobs/TR-101/grind", NOTE, headers=OWN_PAGE)
    assert 'name="kept"' not in stranger.page


def test_a_copied_cookie_is_dead_after_signing_out(app: Flask, bryn: Browser) -> None:
    copied = bryn.client.get_cookie("lark_session")
    assert copied is not None
    thief = app.test_client()
    thief.set_cookie("lark_session", copied.value)
    assert thief.get("/").status_code == 200
    bryn.get("/")
    assert bryn.post("/sign-out").status_code == 303
    assert thief.get("/").status_code == 302


def test_sign_ins_are_listed_and_can_be_ended(app: Flask, bryn: Browser) -> None:
    elsewhere = Browser(app.test_client()).sign_in("bryn")
    bryn.get("/me")
    ends = re.findall(r'action="(/me/sign-ins/\d+/end)"', bryn.page)
    assert len(ends) == 2 and bryn.page.count("Here, now") == 1
    other = next(each for each in ends if "End it" in bryn.page.split(each)[1].split("</form>")[0])
    assert Browser(app.test_client()).sign_in("odo").post(other).status_code == 303
    assert elsewhere.get("/").status_code == 200, "only one's own"
    bryn.post(other)
    assert elsewhere.get("/").status_code == 302 and bryn.get("/").status_code == 200


def test_people_change_their_own_password(app: Flask, bryn: Browser) -> None:
    elsewhere = Browser(app.test_client()).sign_in("bryn")
    bryn.get("/me")
    assert bryn.post("/me", {"old_password": "a guess", "new_password": "four small words"}).status_code == 422
    assert "not your password of now" in bryn.page
    assert bryn.post("/me", {"old_password": PASSWORD, "new_password": "four small words"}).status_code == 303
    assert bryn.get("/").status_code == 200 and elsewhere.get("/").status_code == 302
    assert Browser(app.test_client()).sign_in("bryn", "four small words").get("/").status_code == 200


def test_letting_in_again_revives_no_old_cookie(app: Flask, bryn: Browser) -> None:
    isa = Browser(app.test_client()).sign_in("isa")
    isa.get("/people")
    key = isa.page.split("Bryn Tallow</td>")[1].split("/people/")[1].split("/")[0]
    isa.post(f"/people/{key}/active")
    isa.post(f"/people/{key}/password", {"new_password": "a brand new one"})
    assert bryn.get("/").status_code == 302
    stranger = Browser(app.test_client())
    stranger.get("/sign-in")
    again = {"sign_in_name": "bryn", "password": "a brand new one"}
    assert stranger.post("/sign-in", again).status_code == 403, "a password does not let in"
    isa.post(f"/people/{key}/active")
    assert bryn.get("/").status_code == 302 and stranger.post("/sign-in", again).status_code == 303


def test_a_new_password_ends_the_old_sign_in(app: Flask, bryn: Browser) -> None:
    client = app.test_client()
    isa = Browser(client).sign_in("isa")
    isa.get("/people")
    isa.post("/people/1/password", {"new_password": "short"})
    assert "At least 10" in isa.page
    key = isa.page.split("Bryn Tallow</td>")[1].split("/people/")[1].split("/")[0]
    assert isa.post(f"/people/{key}/password", {"new_password": "a brand new one"}).status_code == 303
    assert bryn.get("/").status_code == 302


def test_a_lead_lets_people_in_and_out(app: Flask, isa: Browser) -> None:
    isa.get("/people")
    isa.post("/people", {"sign_in_name": "Tam!", "name": "", "role": "lead", "new_password": "short"})
    assert "Small letters" in isa.page and "At least 10" in isa.page and 'value="Tam!"' in isa.page
    assert (
        isa.post(
            "/people", {"sign_in_name": "tam", "name": "Tam Reed", "role": "apprentice", "new_password": "ten letters"}
        ).status_code
        == 303
    )
    isa.post("/people", {"sign_in_name": "tam", "name": "T", "role": "lead", "new_password": "ten letters"})
    assert "already" in isa.page
    client = app.test_client()
    tam = Browser(client).sign_in("tam", "ten letters")
    isa.get("/people")
    key = isa.page.split("Tam Reed</td>")[1].split("/people/")[1].split("/")[0]
    isa.post(f"/people/{key}/active")
    assert tam.get("/").status_code == 302


def test_the_first_user_needs_the_code_from_the_terminal(
    engine: Engine, maker: sessionmaker[Session], tmp_path: Path
) -> None:
    app = make_app(engine, maker, tmp_path)
    client = app.test_client()
    browser = Browser(client)
    assert browser.get("/sign-in").headers["Location"] == "/first-user"
    browser.get("/first-user")
    fields = {"sign_in_name": "first", "name": "First Lead", "new_password": "ten letters", "code": "no"}
    assert browser.post("/first-user", fields).status_code == 422 and "terminal" in browser.page
    code = (tmp_path / "first-user.code").read_text()
    assert browser.post("/first-user", fields | {"code": code}).status_code == 303
    assert browser.get("/").status_code == 200 and "No jobs yet" in browser.page
    assert browser.get("/first-user").status_code == 404


def test_uploads_are_bounded(isa: Browser, app: Flask, monkeypatch: pytest.MonkeyPatch) -> None:
    """By the application, and by the server before it."""
    assert app.config["MAX_CONTENT_LENGTH"] == 32 * 1024**2 < http_server.MOST_BODY_BYTES < 40 * 1024**2
    monkeypatch.setitem(app.config, "MAX_CONTENT_LENGTH", 3_000)
    isa.get("/jobs/read-in")
    answer = isa.post("/jobs/read-in", {"file": (io.BytesIO(b"x" * 4_000), "job.json")})
    assert answer.status_code == 413


def test_the_list_of_stations_in_the_floors_contract_is_the_folder() -> None:
    contracts = tomllib.loads((ROOT / "pyproject.toml").read_text())["tool"]["importlinter"]["contracts"]
    listed = next(contract["modules"] for contract in contracts if contract["type"] == "independence")
    folders = {path.parent.name for path in (ROOT / "zesty_lark/web").glob("*/views.py")}
    assert {name.rsplit(".", 1)[1] for name in listed} == folders


FORM = re.compile(r"<form\b(.*?)</form>", re.S)
NAMED = re.compile(r'\bname="([^"]+)"')


def test_every_name_a_page_posts_is_in_the_form_that_takes_it(app: Flask, stranger: Browser) -> None:
    """Walk every form of every page, as a lead: each posted name is one that its view's form knows."""
    stranger.sign_in("isa")
    pages = [path for method, path, access in routes(app) if method == "GET" and access and not access.public]
    pages += [
        "/jobs/TR-101/plan?again=1",
        "/jobs/TR-101/plan?face=5",
        "/jobs/TR-140/record",
        "/jobs/TR-114/plan",
        "/shop/chuck/2",
        "/jobs/TR-101/measure?of=flat",
        "/jobs/TR-114/grind",
    ]
    adapter, seen = app.url_map.bind("localhost"), set()
    for page in pages:
        stranger.get(page)
        for form in FORM.findall(stranger.page):
            if 'method="post"' not in form and "formaction" not in form:
                continue
            targets = re.findall(r'(?<![\w-])(?:formaction|action|hx-post)="([^"]+)"', form) or [page]
            names = set(NAMED.findall(form))
            for target in targets:
                endpoint, _ = adapter.match(urlsplit(html.unescape(target)).path, method="POST")
                taken = app.view_functions[endpoint].lark_access.takes  # type: ignore[attr-defined]
                unknown = {name for name in names if not any(each.takes(html.unescape(name)) for each in taken)}
                assert not unknown, (page, target, unknown)
                seen.add(endpoint)
    assert len(seen) > 18, seen


def test_a_name_that_no_form_takes_is_refused_and_nothing_is_changed(bryn: Browser) -> None:
    bryn.get("/jobs/TR-101/grind")
    for path, fields in (
        ("/jobs/TR-101/grind", {"act": "note", "note": "hello", "entry_id": "note-00001", "habit": "light"}),
        ("/jobs/TR-101/plan", {"was_method": "light"}),
        ("/jobs/TR-101/route", {"skip-999": "yes"}),
    ):
        assert bryn.post(path, fields).status_code == 400, path
        assert "nothing here takes" in bryn.page
    bryn.get("/jobs/TR-101/record")
    assert "hello" not in bryn.page
