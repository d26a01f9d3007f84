"""Three jobs on two machines, worked by keyboard from three sign-ins at once: beside each machine stands a simulated
grinder that gets all the same acts, and its collar, wheel and load are what every screen says."""

import os
import re
import shutil
import signal
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser

from tests.browser.conftest import Person, Running, until
from tests.browser.test_outbox import knows_ahead
from tests.browser.test_wheel_mounting import step_by_step
from zesty_lark.exchange.instruments.simulated_grinder import GrinderServer, GrinderSettings

THOU = 0.0254
CLOSE_MM = 0.002
NOTHING = "nothing"
LOG = """([path, given]) => fetch(path, { method: "POST", body: JSON.stringify(given), headers: {
  "Content-Type": "application/json",
  "X-CSRFToken": document.querySelector("meta[name=csrf-token]").content } }).then(answer => answer.status)"""


class Hands:
    """A machine as it is, with what hands do at it: a simulated grinder, the wheel on it and the load on its chuck."""

    def __init__(self, machine: int, wheel: str, graduation_mm: float, load: str, collar_mm: float) -> None:
        self.machine, self.wheel, self.load = machine, wheel, load
        self.server = GrinderServer(GrinderSettings(seed=machine, graduation_mm=graduation_mm))
        self.good = True
        """Whether the collar's reading means where the wheel stands."""
        self.place(load, 2)
        self.server.grinder.rename(collar_mm)

    def do(self, line: str) -> str:
        told = self.server.answer(line).decode().strip()
        assert told.startswith("ok"), (line, told)
        return told.removeprefix("ok").strip()

    @property
    def collar_mm(self) -> float:
        return self.server.grinder.collar_mm

    @property
    def height_mm(self) -> float:
        """How high the wheel stands over the chuck [mm]."""
        return self.server.grinder.wheel_mm

    def place(self, load: str, face: int) -> None:
        self.do(f"part {load} 88.3 54.3 22.26")
        self.do(f"place {face}")
        self.load, self.good = load, False

    def touch(self) -> float:
        """Meet the high spot with the ring at 0, as a new zero is begun."""
        self.do("touch")
        self.do("ring 0")
        self.good = True
        return self.collar_mm

    def feed(self, collar_mm: float) -> None:
        self.do(f"collar {collar_mm}")
        self.do("pass 3 300")

    def dress(self, amount_mm: float) -> None:
        """The diamond takes so much; the collar is fed after it until the wheel stands as high as before."""
        before = self.height_mm
        self.do(f"dress {amount_mm} fine")
        self.do(f"collar {self.collar_mm + amount_mm}")
        assert self.height_mm == pytest.approx(before, abs=1e-6)


def agrees(who: Person, hands: Hands) -> None:
    """The machine's card says what the machine is."""
    page = who.context.request.get(f"/machines/{hands.machine}").text()
    card = " ".join(page[page.index("On the spindle") : page.index("What was done at it")].split())
    told = re.search(r"On the spindle</dt> <dd> (?:<a [^>]*>([^<]+)</a>|nothing)", card)
    load = re.search(r"On the chuck</dt> <dd> (?:<a [^>]*>([^<]+)</a>|nothing)", card)
    assert told and (told.group(1) or NOTHING) == hands.wheel, card
    assert load and (load.group(1) or NOTHING) == hands.load, card
    zero = re.search(r"the collar is at ([\d.]+) (thou|mm)", card)
    assert (zero is not None) is hands.good, card
    if zero is not None:
        collar = float(zero.group(1)) * (THOU if zero.group(2) == "thou" else 1.0)
        assert collar == pytest.approx(hands.collar_mm, abs=CLOSE_MM)


@pytest.fixture
def shop(tmp_path: Path, demo_home: Path) -> Iterator[Running]:
    started = Running(Path(shutil.copytree(demo_home, tmp_path / "home")))
    yield started
    started.stop()


def at(who: Person, number: str) -> None:
    who.page.goto(f"/jobs/{number}/grind")
    who.page.wait_for_function("() => navigator.serviceWorker.controller !== null")
    who.take_over()


def pass_made(who: Person, hands: Hands) -> None:
    """The collar goes to what the screen says, the pass is made and logged."""
    before = who.page.get_attribute("#station", "data-seen")
    asked = who.page.get_attribute(".grind-bar [name=reading]", "value")
    assert asked is not None
    hands.feed(float(asked.removesuffix(" mm")))
    who.press("d")
    logged(who, before)
    agrees(who, hands)


def logged(who: Person, before: str | None) -> None:
    """Wait until the page shows more than it had seen."""
    who.page.wait_for_function(
        "before => document.getElementById('station')?.dataset.seen !== before"
        " && document.body.dataset.waiting === '0'",
        arg=before,
    )


def put_up(who: Person, hands: Hands, number: str, face: int) -> None:
    before = who.page.get_attribute("#station", "data-seen")
    who.tick_before_placing()
    hands.place(number, face)
    who.press("d")
    logged(who, before)
    agrees(who, hands)


def touched_off(who: Person, hands: Hands) -> None:
    who.sees("Look at the set-up")
    who.look()
    before = who.page.get_attribute("#station", "data-seen")
    who.sees("Touch off on the high spot")
    who.fill("reading", f"{hands.touch():.4f} mm")
    who.press("Escape", "d")
    logged(who, before)
    agrees(who, hands)


def test_three_jobs_on_two_machines_by_three_people_at_once(shop: Running, chromium: Browser) -> None:
    bryn, isa, odo = (Person(chromium, shop.address, 1280, 800) for _ in range(3))
    for who, name in ((bryn, "bryn"), (isa, "isa"), (odo, "odo")):
        who.sign_in(name)
    first = Hands(1, "W3 open white", 0.00254, "TR-101", 5.5 * THOU)
    second = Hands(2, "W4 open white", 0.002, "TR-140", 0.17632)
    at(bryn, "TR-101")
    first.good = second.good = True
    agrees(bryn, first)
    agrees(odo, second)
    pass_made(bryn, first)

    odo.page.goto("/jobs/TR-140/grind")
    odo.fill("reason", "Second shift.")
    odo.press("Escape", "d")
    odo.page.get_by_text("Undo the last").wait_for()
    dressed_for(odo, second, 0.01)
    before = bryn.page.inner_text(".now-reading")
    dressed_by_name(isa, first, "W3 open white", 0.0254)
    until(lambda: bryn.page.inner_text(".now-reading") != before)
    agrees(bryn, first)

    until(lambda: knows_ahead(bryn.page))
    bryn.context.set_offline(True)
    bryn.press("d")
    bryn.page.wait_for_function("() => Number(document.body.dataset.waiting) > 0")
    at(isa, "TR-133")
    put_up(isa, first, "TR-133", 4)
    bryn.context.set_offline(False)
    bryn.page.wait_for_function("() => !document.getElementById('outbox-refused').hidden")
    bryn.sees("taken off for TR-133")
    agrees(bryn, first)

    touched_off(isa, first)
    (worker,) = shop.children("running.worker")[:1]
    os.kill(worker, signal.SIGKILL)
    made = until_a_pass(isa, first)
    assert made >= 1

    crashed(isa, first)
    agrees(odo, second)
    mounted_anew(isa, first)
    at(bryn, "TR-101")
    put_up(bryn, first, "TR-101", 2)
    touched_off(bryn, first)
    pass_made(bryn, first)
    agrees(isa, second)
    for who in (bryn, isa, odo):
        who.errors.clear()
        who.close()


def dressed_for(who: Person, hands: Hands, amount_mm: float) -> None:
    """A dress that the plan does not ask for, by the side's own key."""
    before = who.page.get_attribute("#station", "data-seen")
    who.press("w")
    hands.dress(amount_mm)
    who.type(f"{amount_mm} mm")
    who.press("Enter")
    logged(who, before)
    agrees(who, hands)


def dressed_by_name(who: Person, hands: Hands, wheel: str, amount_mm: float) -> None:
    """A dress on the wheel's own log, by name."""
    hands.dress(amount_mm)
    given = {"wheel": wheel, "kind": "dressed", "said": {"dress": "fine", "amount_mm": f"{amount_mm}"}}
    given |= {"machine": "No. 1, inch dial", "entry_id": "dress-from-the-rack"}
    assert who.page.evaluate(LOG, ["/api/acts/log_on_wheel", given]) == 200
    agrees(who, hands)


def until_a_pass(who: Person, hands: Hands) -> int:
    """Do what comes until two passes are made, with and without feed."""
    made = 0
    while made < 2:
        before = who.page.get_attribute("#station", "data-seen")
        if who.page.locator(".grind-bar [name=reading]").count():
            pass_made(who, hands)
        else:
            hands.do("pass 3 300")
            who.press("d")
            logged(who, before)
            agrees(who, hands)
        made += 1
    return made


def crashed(who: Person, hands: Hands) -> None:
    """The wheel strikes: the load is down, the zero lost, and nothing goes on with that wheel."""
    before = who.page.get_attribute("#station", "data-seen")
    hands.good = False
    who.press("Shift+6")
    logged(who, before)
    agrees(who, hands)
    who.press("j")
    who.fill("reason", "The clamp stood too high.")
    who.press("Escape", "d")
    who.sees("not ready: look comes first")
    hands.load = NOTHING
    agrees(who, hands)


def mounted_anew(who: Person, hands: Hands) -> None:
    """Off, and on again through its steps, the minute at full speed by the clock among them."""
    page = who.page
    page.goto("/wheels")
    page.get_by_role("link", name=hands.wheel).press("Enter")
    who.there("[data-key=t]")
    who.press("t")
    who.sees("Taken off its machine")
    hands.wheel = NOTHING
    agrees(who, hands)
    who.press("m")
    who.sees("Its marked maximum")
    who.press("1")
    page.wait_for_url("**machine=1")
    step_by_step(who)
    hands.wheel = "W3 open white"
    page.get_by_role("heading", name="Balance", exact=True).wait_for()
    who.press("o")
    page.locator("details[open] [name=note]").fill("As it was before.")
    page.keyboard.press("Enter")
    page.get_by_role("heading", name="Dress", exact=True).wait_for()
    who.press_once_there("g")
    who.sees("s across")
    who.press_once_there("g")
    page.get_by_role("heading", name="What happened to it").wait_for()
    agrees(who, hands)
