"""A wheel from the rack onto its machine, by keyboard: every step, balanced on level ways, dressed to the beat."""

import math

from tests.browser.conftest import Person, until

HEAVY_DEG, NEEDS = 130.0, 0.46
"""Where the wheel hangs down, and the share of both weights that balances it: nobody at the screen is told."""
CLOSE = 0.015
STEPS = ("Speed", "Look", "Ring test", "Bore", "Blotters", "Flanges", "Guard", "Run-up", "True")


def test_a_wheel_is_mounted_balanced_and_dressed_by_keyboard(machinist: Person) -> None:
    page = machinist.page
    machinist.sign_in("bryn")
    machinist.press("8")
    page.wait_for_url("**/shop")
    machinist.press("t")
    page.wait_for_url("**/wheels")
    page.get_by_role("link", name="W4 open white").press("Enter")
    machinist.sees("TR-140’s zero is lost")
    machinist.press("t")
    machinist.sees("Taken off its machine")
    page.goto("/wheels")
    page.get_by_role("link", name="W5 finishing").press("Enter")
    machinist.sees("Taken off its machine")
    machinist.press("m")
    machinist.sees("Its marked maximum")
    machinist.press("2")
    page.wait_for_url("**machine=2")
    step_by_step(machinist)
    page.get_by_role("heading", name="Balance", exact=True).wait_for()
    machinist.press_once_there("g")
    machinist.sees("Let it settle on the ways")
    machinist.fill("heavy_deg", f"{HEAVY_DEG:g}")
    machinist.press("Enter")
    machinist.sees("Both weights to the light side")
    _balance(machinist)
    machinist.sees("It stays wherever it is put")
    machinist.press("g")
    page.get_by_role("heading", name="Dress", exact=True).wait_for()
    machinist.press_once_there("g")
    machinist.sees("s across")
    before = page.locator(".beat-count").inner_text()
    machinist.press("t")
    page.wait_for_function("() => Number(document.querySelector('[data-beat]').dataset.way ?? 0) >= 2")
    assert before != page.locator(".beat-count").inner_text()
    machinist.press("3")
    page.locator("a[aria-current=true]", has_text="fine").wait_for()
    machinist.press("g")
    page.get_by_role("heading", name="What happened to it").wait_for()
    machinist.sees("Dressed, fine, ")
    machinist.press("m")
    machinist.sees("Every step is done on No. 2")


def step_by_step(machinist: Person) -> None:
    """Every step of mounting up to balancing, the minute at full speed by the clock among them."""
    for step in STEPS:
        machinist.page.get_by_role("heading", name=step, exact=True).wait_for()
        machinist.no_scroll()
        machinist.press_once_there("g")
        if step == "Run-up":
            machinist.sees("The minute at full speed is not over")
            until(lambda: _has_run(machinist))


def _has_run(machinist: Person) -> bool:
    """Whether the minute at full speed is over: it is asked again until it is."""
    machinist.page.reload()
    if machinist.page.get_by_text("still to run").count() == 0:
        machinist.press_once_there("g")
        machinist.page.get_by_role("heading", name="True", exact=True).wait_for()
        return True
    return False


def _balance(machinist: Person) -> None:
    """Let it hang again and again, and say what hangs down, until it hangs nowhere."""
    drawn = machinist.page.locator(".balance-say")
    for _ in range(16):
        words = drawn.inner_text()
        spread = _spread(words)
        reach = math.cos(math.radians(spread))
        if abs(reach - NEEDS) < CLOSE:
            machinist.press("3")
            return
        machinist.press("1" if reach < NEEDS else "2")
        machinist.page.wait_for_function(
            "words => document.querySelector('.balance-say').innerText !== words", arg=words
        )
    raise AssertionError("it never came to rest")


def _spread(words: str) -> float:
    """Half the spread of the weights that the screen asks for [°]."""
    told = [float(part.strip("°.,")) for part in words.split() if part.strip(".,").endswith("°")]
    return 0.0 if len(told) < 2 else ((told[1] - told[0]) % 360) / 2
