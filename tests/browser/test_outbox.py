"""Whatever is pressed while nobody answers is logged once, or shown as refused in words: counted, press by press."""

import contextlib
import json
import os
import random
import shutil
import signal
from collections.abc import Iterator
from functools import partial
from pathlib import Path

import pytest
from playwright.sync_api import Browser, BrowserContext, Page, Playwright

from tests.browser.conftest import ARGUMENTS, CHROMIUM, PAGE_SECONDS, Person, Running, until
from zesty_lark.demo.crew import PASSWORD

SEARCH = bool(os.environ.get("LARK_SEARCH"))
READ = """store => new Promise(done => {
  const asked = indexedDB.open("zesty-lark", 1);
  asked.onsuccess = () => {
    const all = asked.result.transaction(store).objectStore(store).getAll();
    all.onsuccess = () => { asked.result.close(); done(all.result); };
  };
})"""
FORMS = """() => [...document.querySelectorAll("#station form[data-outbox]")].flatMap(form => {
  const buttons = [...form.querySelectorAll("button:not([type=button])")];
  const own = form.elements.other_reading ? "own " : "";
  return buttons.map(button => [own + form.elements.act.value, form.elements.what?.value ?? "", button.value]);
})"""
POST = """fields => fetch(location.href, { method: "POST", body: new URLSearchParams(fields), headers: {
  "X-CSRFToken": document.querySelector("meta[name=csrf-token]").content, "X-Lark-Outbox": "1" }
}).then(answer => answer.status)"""
PRESS = """([act, what, side, words]) => {
  const own = each => (each.elements.other_reading ? "own " : "") + each.elements.act.value;
  const form = [...document.querySelectorAll("#station form[data-outbox]")].find(
    each => own(each) === act && (each.elements.what?.value ?? "") === what);
  if (!form) return false;
  for (const name of ["note", "reason"]) if (form.elements[name]) form.elements[name].value = words;
  for (const each of form.querySelectorAll("[type=checkbox]")) each.checked = true;
  if (form.elements.other_reading) form.elements.other_reading.value = "6.4";
  const button = [...form.querySelectorAll("button:not([type=button])")].find(each => each.value === side);
  form.closest("details")?.setAttribute("open", "");
  button.disabled = false;
  form.requestSubmit(button);
  return true;
}"""


@pytest.fixture
def shop(tmp_path: Path, demo_home: Path) -> Iterator[Running]:
    started = Running(Path(shutil.copytree(demo_home, tmp_path / "home")))
    yield started
    started.stop()


class Screen:
    """One screen at TR-101's machine; whatever is pressed on it is remembered by its id."""

    def __init__(self, page: Page, pressed: set[str]) -> None:
        self.page, self.pressed = page, pressed

    def kept(self) -> list[dict[str, object]]:
        found: list[dict[str, object]] = self.page.evaluate(READ, "acts")
        return found

    def press(self, act: str, what: str = "", side: str = "", words: str = "because") -> None:
        """Press until the browser has kept one press more: a second one too soon after the first is not taken."""
        before = {each["n"] for each in self.kept()}

        def taken() -> bool:
            assert self.page.evaluate(PRESS, [act, what, side, words]), f"{act} has no button"
            self.page.wait_for_function("() => !document.querySelector('#outbox-state').hidden")
            fresh = [each for each in self.kept() if each["n"] not in before]
            self.pressed.update(ids(fresh))
            return bool(fresh)

        until(taken)


def ids(acts: list[dict[str, object]]) -> list[str]:
    return [value for act in acts for name, value in act["fields"] if name == "entry_id"]  # type: ignore[attr-defined]


def entries(page: Page) -> list[dict[str, object]]:
    told = page.evaluate("() => fetch('/jobs/TR-101/record/job.json').then(answer => answer.text())")
    found: list[dict[str, object]] = json.loads(told)["entries"]
    return found


def logged(page: Page) -> list[str]:
    return [str(entry["entry_id"]) for entry in entries(page)]


def at_the_machine(person: Person) -> None:
    person.sign_in("bryn")
    person.page.goto("/jobs/TR-101/grind")
    person.sees("pass 6 of")
    person.take_over()
    person.page.wait_for_function("() => navigator.serviceWorker.controller !== null")
    until(lambda: knows_ahead(person.page))


def knows_ahead(page: Page) -> bool:
    """Whether the screen has what comes after the next presses."""
    seen = page.get_attribute("#station", "data-seen")
    return any(each["seen"] == seen for each in page.evaluate(READ, "ahead"))


def settled(page: Page) -> None:
    page.wait_for_function("() => document.body.dataset.waiting === '0'")
    until(lambda: not page.evaluate(READ, "acts"))


def counted(page: Page, pressed: set[str], shown: set[str] | None = None) -> tuple[int, int]:
    """Every press is in the log once or was shown as refused, none both; return how many are which."""
    settled(page)
    refused: list[dict[str, object]] = page.evaluate(READ, "refused")
    gone, there = ids(refused), logged(page)
    assert len(set(there)) == len(there) and len(gone) == len(set(gone))
    told = set() if shown is None else shown
    told.update(gone)
    assert not told & set(there)
    missing = pressed - told - set(there)
    assert not missing, f"{len(missing)} of {len(pressed)} presses are lost"
    assert all(str(each["why"]).count(" ") > 2 for each in refused), refused
    return len(pressed & set(there)), len(told)


def test_every_button_pressed_twice_offline_is_logged_once_a_press_or_shown(shop: Running, chromium: Browser) -> None:
    """Notes and spark-outs among them; with a reload in between, and a second tab of the same job."""
    person = Person(chromium, shop.address, 1280, 800)
    at_the_machine(person)
    pressed: set[str] = set()
    buttons = [tuple(each) for each in person.page.evaluate(FORMS)]
    acts = {button[0] for button in buttons}
    assert {"pass", "spark_out", "undo", "note", "observe", "halt", "touch_off", "dressed", "leave"} <= acts
    in_all, shown, stood = 0, set[str](), len(in_force(person.page))
    for act, what, side in buttons:
        screen = Screen(person.page, pressed)
        second = person.context.new_page()
        second.goto("/jobs/TR-101/grind")
        second.wait_for_selector("#station")
        person.context.set_offline(True)
        screen.press(act, what, side, words=f"{act} once")
        person.page.reload()
        Screen(second, pressed).press(act, what, side, words=f"{act} twice")
        in_all += 2
        assert len(pressed) == in_all
        person.context.set_offline(False)
        counted(person.page, pressed, shown)
        second.close()
        person.page.reload()
        undone_to(person.page, stood)
    there, gone = counted(person.page, pressed, shown)
    assert there + gone == 2 * len(buttons) and there > len(buttons), (there, gone)
    person.errors.clear()
    person.close()


def undone_to(page: Page, count: int) -> None:
    """Take back, one after the other, all that was logged since there were so many entries in force."""
    while len(stack := in_force(page)) > count:
        seen = page.get_attribute("#station", "data-seen")
        fields = {"act": "undo", "supersedes": stack[-1], "seen": seen, "entry_id": f"undo-{stack[-1]}"[:36]}
        status = page.evaluate(POST, fields)
        assert status == 200, status
        page.reload()


def in_force(page: Page) -> list[str]:
    """The ids of what is in force at TR-101, oldest first; what undo never takes back among them."""
    stack: list[str] = []
    for entry in entries(page):
        if entry["kind"] == "undone":
            assert stack.pop() == entry["supersedes"]
        else:
            stack.append(str(entry["entry_id"]))
    return stack


def test_undo_offline_takes_back_the_press_it_was_made_for(shop: Running, chromium: Browser) -> None:
    person = Person(chromium, shop.address, 1280, 800)
    at_the_machine(person)
    before, stood = len(logged(person.page)), in_force(person.page)
    pressed: set[str] = set()
    screen = Screen(person.page, pressed)
    person.context.set_offline(True)
    screen.press("pass")
    person.sees("pass 7 of")
    screen.press("undo")
    screen.press("note", words="kept")
    screen.press("undo")
    screen.press("undo")
    person.context.set_offline(False)
    assert counted(person.page, pressed) == (5, 0) and len(logged(person.page)) == before + 5
    assert in_force(person.page) == stood[:-1], "the last undo meant what was logged before any of it"
    person.errors.clear()
    person.close()


def test_two_browsers_offline_at_once_lose_nothing_and_the_later_is_told(shop: Running, chromium: Browser) -> None:
    first, other = (Person(chromium, shop.address, 1280, 800) for _ in range(2))
    at_the_machine(first)
    pressed: list[set[str]] = [set(), set()]
    other.sign_in("bryn")
    other.page.goto("/jobs/TR-101/grind")
    for person in (first, other):
        person.context.set_offline(True)
    for act in ("pass", "pass", "dressed"):
        Screen(first.page, pressed[0]).press(act)
        Screen(other.page, pressed[1]).press("note", words=f"from the other, {act}")
    for person in (other, first):
        person.context.set_offline(False)
        settled(person.page)
    assert counted(other.page, pressed[1]) == (3, 0)
    there, gone = counted(first.page, pressed[0])
    assert (there, gone) == (0, 3), "what was pressed without having seen the notes is looked at first"
    line = first.page.locator("#outbox-refused summary").inner_text()
    assert line.startswith("Pass not logged: Something was logged on this job") or "press before it" in line
    first.press("d")
    first.sees("pass 7 of")
    first.page.wait_for_function("() => document.getElementById('outbox-refused').hidden")
    first.press("n", "Enter")
    first.sees("There is nothing in the note yet.")
    assert not first.page.evaluate(READ, "acts"), "what the page can see to be wrong is not sent"
    first.page.reload()
    first.page.wait_for_selector("#station")
    first.context.set_offline(True)
    Screen(first.page, pressed[0]).press("spark_out")
    said = {"act": "note", "note": "before it", "entry_id": "said-before-it"}
    assert other.page.evaluate(POST, said) == 200
    first.context.set_offline(False)
    settled(first.page)
    assert len(first.page.evaluate(READ, "refused")) == 1
    first.page.click("[data-action=drop-refused]")
    first.page.wait_for_function("() => document.getElementById('outbox-refused').hidden")
    until(lambda: not first.page.evaluate(READ, "refused"))
    for person in (first, other):
        person.errors.clear()
        person.close()


@pytest.mark.parametrize("seed", range(5) if SEARCH else [4])
def test_the_browser_killed_and_the_server_killed_lose_and_double_nothing(
    shop: Running, playwright: Playwright, tmp_path: Path, request: pytest.FixtureRequest, seed: int
) -> None:
    """In a profile on the disk: killed with presses waiting, it comes back and sends them, once; with ``LARK_SEARCH``
    two thousand."""
    draw = random.Random(seed)
    pressed: set[str] = set()
    profile = tmp_path / "profile"
    request.addfinalizer(lambda: killed(profile))
    context = in_profile(playwright, profile, shop.address)
    page = context.pages[0]
    signed_in(page)
    for _ in range(10 if SEARCH else 2):
        page.goto("/jobs/TR-101/grind")
        page.wait_for_function("() => navigator.serviceWorker.controller !== null")
        if page.evaluate(PRESS, ["take_over", "", "", ""]):
            page.wait_for_selector("[data-outbox] .btn-primary:has-text('done'), .btn-primary:has-text('Dressed')")
        context.set_offline(True)
        screen = Screen(page, pressed)
        for _ in range(40 if SEARCH else draw.randint(2, 5)):
            screen.press(draw.choice(["spark_out", "note", "note"]), words=f"{draw.random()}")
        killed(profile)
        until(lambda: not processes_of(profile))
        (worker,) = shop.children("running.worker")
        os.kill(worker, signal.SIGKILL)
        context = in_profile(playwright, profile, shop.address)
        page = context.pages[0]
        until(partial(reached, page))
        if "/sign-in" in page.url:  # the cookie had not been written down
            page.wait_for_function("() => document.getElementById('outbox-state').innerText.includes('Bryn Tallow')")
            signed_in(page)
            page.goto("/jobs/TR-101/grind")
        counted(page, pressed)
    there, gone = counted(page, pressed)
    assert there + gone == len(pressed) and there >= gone, (there, gone)
    context.close()


def signed_in(page: Page) -> None:
    page.goto("/sign-in")
    page.fill("[name=sign_in_name]", "bryn")
    page.fill("[name=password]", PASSWORD)
    page.keyboard.press("Enter")
    page.wait_for_url("**/")


def in_profile(playwright: Playwright, profile: Path, address: str) -> BrowserContext:
    context = playwright.chromium.launch_persistent_context(
        str(profile), executable_path=CHROMIUM, args=ARGUMENTS, base_url=address
    )
    context.set_default_timeout(1000 * PAGE_SECONDS)
    return context


def killed(profile: Path) -> None:
    """Kill the browser in that profile."""
    for process in processes_of(profile):
        with contextlib.suppress(ProcessLookupError):
            os.kill(process, signal.SIGKILL)


def processes_of(profile: Path) -> list[int]:
    """The browser's processes in that profile."""
    found = []
    for entry in Path("/proc").iterdir():
        if entry.name.isdigit():
            try:
                told = (entry / "cmdline").read_bytes().decode(errors="replace")
            except OSError:
                continue
            if f"--user-data-dir={profile}" in told:
                found.append(int(entry.name))
    return found


def reached(page: Page) -> bool:
    answer = page.goto("/jobs/TR-101/grind")
    return answer is not None and answer.ok
