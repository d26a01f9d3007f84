"""The main job as a machinist does it: keyboard only at 1280×800, and on the phone in the pocket."""

from pathlib import Path

from playwright.sync_api import Route

from tests.browser.conftest import ASKED, Person

AXE = (Path(__file__).parent / "vendor/axe.min.js").read_text()


DONE_HERE = (
    "Dressed",
    "Touched off",
    "Pass done",
    "Spark-out done",
    "Pass without feed done",
    "Turned",
    "Chamfered",
    "Blocks are placed",
    "Cool",
)


def follow(person: Person) -> list[str]:
    """Press what the page asks for until it is not done here; return what was pressed."""
    pressed: list[str] = []
    while True:
        person.look()
        asked = " ".join(person.page.locator(".grind-bar .btn-primary").inner_text().split()).removeprefix("D ")
        if not (asked in DONE_HERE or asked.endswith("is up")):
            return pressed
        assert person.page.locator(".station.here .station-state").inner_text(), "the frame follows"
        before = person.page.locator("[data-poll]").get_attribute("data-poll")
        if asked.endswith("is up"):
            person.no_scroll()
            person.tick_before_placing()
        if asked == "Dressed":
            person.fill("amount", "0.8 thou")
            person.press("Escape")
        person.press("d")
        person.page.wait_for_function(
            "before => document.querySelector('[data-poll]').dataset.poll !== before", arg=before
        )
        pressed.append(asked)
        assert len(pressed) < 90


def measure(person: Person, *values: str) -> None:
    person.press("m")
    person.page.wait_for_url("**/measure")
    for number, value in enumerate(values, start=1):
        person.fill(f"reading{number}", value)
    person.press("Escape", "v", "l")
    person.there(".verdict")


def test_from_sign_in_to_the_first_collar_reading_without_scrolling(machinist: Person) -> None:
    machinist.sign_in("bryn")
    machinist.no_scroll()
    machinist.to_the_sixth_pass()
    machinist.page.goto("/")
    machinist.press("g")
    machinist.sees("pass 6 of")
    machinist.no_scroll()
    assert machinist.page.locator(".now-reading").inner_text().startswith("6.0")


def test_a_block_from_take_in_to_signed_off_by_keyboard_alone(machinist: Person) -> None:
    machinist.sign_in("bryn")
    machinist.press("n")
    machinist.page.wait_for_url("**/take-in")
    for name, words in (
        ("number", "TR-160"),
        ("title", "Key plate"),
        ("length_target", "80"),
        ("length_minus", "0.1"),
        ("length_plus", "0.1"),
        ("width_target", "40"),
        ("width_minus", "0.1"),
        ("width_plus", "0.1"),
        ("thickness_target", "2000"),
        ("thickness_minus", "4 um"),
        ("thickness_plus", "4 um"),
        ("thickness_max", "20.12"),
        ("thickness_min", "20.09"),
        ("parallel_mm", "0.004"),
    ):
        machinist.fill(name, words)
    machinist.press("Escape", "s")
    machinist.sees("Did you mean 20.000 mm?")
    assert machinist.page.input_value("#thickness_target") == "2000"
    machinist.fill("thickness_target", "20")
    machinist.press("Escape", "s")
    machinist.page.wait_for_url("**/TR-160/plan")
    machinist.press_once_there("w")
    machinist.page.locator("input[value=sharp_wide]:checked").wait_for()
    machinist.page.wait_for_function("() => document.querySelector('[name=was]').value.length > 0")
    machinist.page.wait_for_function("() => !document.querySelector('#planning').matches('.htmx-request')")
    machinist.press("q")
    machinist.page.locator("input[value=quickest]:checked").wait_for()
    machinist.press("r")
    machinist.page.wait_for_url("**/grind")
    machinist.sees("Dress the wheel, rough")
    machinist.no_scroll()
    pressed = follow(machinist)
    assert pressed[:4] == ["Dressed", "Face 1 is up", "Touched off", "Pass without feed done"], pressed
    measure(machinist, "20.0953", "20.0949", "20.0951")
    machinist.no_scroll()
    machinist.press("d")
    machinist.page.wait_for_url("**/grind")
    machinist.press("p")
    machinist.page.wait_for_url("**/plan")
    machinist.sees("Face 2 up, face 1 down")
    machinist.press_once_there("r")
    machinist.page.wait_for_url("**/grind")
    follow(machinist)
    machinist.sees("the rest is planned again from what is read")
    measure(machinist, "20.0293", "20.0290")
    machinist.sees("Not there yet: 20.0293 mm")
    machinist.no_scroll()
    machinist.press("t")
    machinist.page.wait_for_url("**/grind")
    assert "Touched off" not in follow(machinist), "the wheel's height is kept"
    measure(machinist, "20.0011", "20.0008", "20.0009")
    machinist.sees("In: 20.0011 mm")
    machinist.press("d")
    machinist.page.wait_for_url("**/record")
    machinist.sees("An inspector or a lead signs off")
    inspector = Person(machinist.context.browser, machinist.page.url.split("/jobs")[0], 1280, 800)  # type: ignore[arg-type]
    inspector.be("pell")
    inspector.page.goto("/jobs/TR-160/record")
    inspector.press("m")
    for name, value in (("Width", "40.01"), ("Length", "80.02")):
        inspector.sees(f"{name}, in mm")
        inspector.fill("reading1", value)
        inspector.press("Escape", "v", "l")
        inspector.there(".verdict")
        inspector.press("n" if name == "Width" else "r")
    inspector.page.wait_for_url("**/record")
    inspector.press("s")
    inspector.sees("Signed the part off.")
    inspector.close()


def test_all_six_faces_from_the_print_to_a_released_plan_by_keyboard(machinist: Person) -> None:
    machinist.be("bryn")
    machinist.page.goto("/jobs/TR-120/faces")
    machinist.sees("Squareness by")
    machinist.page.focus("select[name=squareness]")
    machinist.page.keyboard.type("Square b")
    machinist.page.locator("input[name=step][value='3']").wait_for(state="attached")
    machinist.press("Escape", "r")
    machinist.sees("is released to No. 2, metric dial. Face 1 is next: put it up.")
    machinist.press("v")
    machinist.page.wait_for_url("**/plan/versions/1")
    machinist.sees("released by Bryn Tallow")


def test_sliders_replan_by_arrow_keys_and_the_curve_stays(machinist: Person) -> None:
    machinist.be("bryn")
    machinist.page.goto("/jobs/TR-101/plan?again=1&method=quickest")
    machinist.page.locator(".curve-best").wait_for(state="attached")
    shown = machinist.page.locator("output[for=crossfeed]").inner_text()
    machinist.page.focus("#crossfeed")
    for _ in range(6):
        machinist.page.keyboard.press("ArrowLeft")
    machinist.page.locator("input[value=custom]:checked").wait_for()
    machinist.page.wait_for_function(
        "before => document.querySelector('output[for=crossfeed]').innerText !== before", arg=shown
    )
    assert machinist.page.evaluate("document.activeElement.id") == "crossfeed", "the slider keeps the focus"
    machinist.page.locator(".curve-best").wait_for(state="attached")
    machinist.page.locator(".curve-point.chosen .curve-name", has_text="Custom").wait_for()
    machinist.press("Escape", "q")
    machinist.page.locator("input[value=quickest]:checked").wait_for()
    machinist.page.wait_for_function(
        "before => document.querySelector('output[for=crossfeed]').innerText === before", arg=shown
    )
    machinist.press("h")
    machinist.sees("What heat leaves on face 2")
    machinist.page.locator("button:has-text('Power')").click()
    machinist.sees("What would change it most")


def test_a_plan_on_the_limit_asks_its_reason_where_the_keys_are(machinist: Person) -> None:
    machinist.be("bryn")
    machinist.page.goto("/jobs/TR-120/plan?face=1&margin=0&method=quickest&again=1")
    machinist.press_once_there("r")
    machinist.sees("Why is it released all the same?")
    machinist.page.wait_for_function("() => document.activeElement.name === 'reason'")
    assert machinist.page.locator("#reason").bounding_box()["y"] < 700  # type: ignore[index]


def test_choosing_a_method_on_the_curve(machinist: Person) -> None:
    machinist.be("bryn")
    machinist.page.goto("/jobs/TR-101/plan?face=5")
    machinist.page.locator(".curve-best").wait_for(state="attached")
    machinist.page.locator(".curve-point", has_text="Light").focus()
    machinist.page.keyboard.press("Enter")
    machinist.page.wait_for_url("**method=light*")
    assert machinist.page.locator("input[value=light]").is_checked()


def test_undo_note_dress_and_the_list_of_keys(machinist: Person) -> None:
    at_its_sixth_pass(machinist)
    machinist.press("d")
    machinist.sees("pass 7 of")
    machinist.press("u")
    machinist.sees("pass 6 of")
    machinist.press("n")
    machinist.type("Coolant moved closer.")
    machinist.press("Enter")
    machinist.sees("Note: Coolant moved closer.")
    machinist.press("u")
    machinist.page.get_by_text("Coolant moved closer.").wait_for(state="detached")
    machinist.press("w")
    machinist.type("0.8 thou")
    machinist.press("Enter")
    machinist.sees("down to")
    machinist.page.wait_for_function("() => document.querySelector('.now-reading').textContent.startsWith('6.8')")
    machinist.press("u")
    machinist.page.wait_for_function("() => document.querySelector('.now-reading').textContent.startsWith('6.0')")
    machinist.press("?")
    machinist.sees("Keys on this page")
    listed = machinist.page.locator("#keys dl").inner_text()
    assert "Pass done" in listed and "Undo the last" in listed


def test_the_tenth_characteristic_and_those_after_it_have_keys_too(machinist: Person) -> None:
    """⇧1 and then ⇧1 is the eleventh; ⇧1 alone is the first."""
    machinist.be("bryn")
    machinist.page.goto("/jobs/TR-133/measure")
    chosen = machinist.page.locator(".characteristics [aria-current=true]")
    eleventh = machinist.page.locator(".characteristics [data-key='shift+11']")
    assert eleventh.count() == 1, "a wedge with lead-ins asks for more than ten things"
    machinist.press("Shift+1", "Shift+1")
    machinist.page.locator(".characteristics [aria-current=true][data-key='shift+11']").wait_for()
    machinist.press("Shift+1")
    machinist.page.locator(".characteristics [aria-current=true][data-key='shift+1']").wait_for()
    assert chosen.count() == 1


def at_its_sixth_pass(person: Person) -> None:
    """Sign in and work the run of TR-101 from here."""
    person.be("bryn")
    person.to_the_sixth_pass()


def test_another_screen_follows_by_itself(machinist: Person) -> None:
    at_its_sixth_pass(machinist)
    other = machinist.context.new_page()
    other.goto("/jobs/TR-101/grind")
    machinist.press("d")
    machinist.sees("pass 7 of")
    other.get_by_text("pass 7 of").wait_for()
    machinist.press("u")
    machinist.sees("pass 6 of")


def test_a_press_that_another_screen_of_the_browser_sends_is_shown_where_it_was_made(machinist: Person) -> None:
    """The screens of one browser share the queue of what waits: whichever has its turn sends it."""
    at_its_sixth_pass(machinist)
    holder, other = machinist.context.new_page(), machinist.context.new_page()
    holder.goto("/jobs/TR-101/record")
    holder.evaluate(
        "() => new Promise(held => navigator.locks.request('zesty-lark-outbox', () => new Promise(end => {"
        " window.letGo = end; held(); })))"
    )
    other.goto("/jobs/TR-101/grind")
    turns = "async many => (await navigator.locks.query()).pending.length >= many"
    holder.wait_for_function(turns, arg=1)
    machinist.press("d")
    holder.wait_for_function(turns, arg=2)
    holder.evaluate("() => window.letGo()")
    other.get_by_text("pass 7 of").wait_for()
    machinist.sees("pass 7 of")
    machinist.press("u")
    machinist.sees("pass 6 of")


def test_a_screen_opened_while_another_sends_a_press_follows_all_the_same(machinist: Person) -> None:
    """It looked at what waits just when that was on its way, and is told when it is gone."""
    at_its_sixth_pass(machinist)
    other = machinist.context.new_page()
    other.add_init_script(
        "const ask = navigator.locks.request.bind(navigator.locks);"
        "navigator.locks.request = async (...all) => {"
        " const said = await ask(...all); await new Promise(end => { window.goOn = end; }); return said; };"
    )
    other.goto("/jobs/TR-101/grind")
    other.wait_for_function("() => window.goOn")
    held: list[Route] = []
    machinist.bar_the_way(lambda route: route.continue_() if held else held.append(route))
    with machinist.page.expect_request(lambda request: request.method == "POST"):
        machinist.press("d")
    other.evaluate("() => window.goOn()")
    other.wait_for_function("() => document.body.dataset.waiting === '1'")
    held[0].continue_()
    machinist.sees("pass 7 of")
    other.get_by_text("pass 7 of").wait_for()
    machinist.press("u")
    machinist.sees("pass 6 of")


def test_on_a_phone_the_next_reading_and_its_button_are_on_the_screen(phone: Person) -> None:
    phone.sign_in("bryn")
    phone.to_the_sixth_pass()
    phone.page.goto("/")
    phone.page.locator(".strip-go .btn-primary").first.click()
    phone.sees("pass 6 of")
    phone.take_over()
    size = phone.page.viewport_size
    assert size
    for what in (".now-reading", "button:has-text('Pass done')", "button:has-text('Undo')"):
        box = phone.page.locator(what).bounding_box()
        assert box and box["y"] >= 0 and box["y"] + box["height"] <= size["height"], what
        assert box["x"] >= 0 and box["x"] + box["width"] <= size["width"], what
    assert phone.page.evaluate("document.documentElement.scrollWidth") <= 390
    phone.page.locator("button:has-text('Pass done')").click()
    if phone.page.evaluate(ASKED):
        phone.page.locator("#tick-quick").check()
        phone.page.locator("button:has-text('Pass done')").click()
    phone.sees("pass 7 of")
    phone.page.locator("button:has-text('Undo')").click()
    phone.sees("pass 6 of")
    for page in ("take-in", "faces", "plan", "measure", "record"):
        phone.page.goto(f"/jobs/TR-101/{page}")
        assert phone.page.evaluate("document.documentElement.scrollWidth") <= 390, page


VIEWS = (
    "/",
    "/jobs/take-in",
    "/jobs/TR-101/take-in",
    "/jobs/TR-101/faces",
    "/jobs/TR-101/plan",
    "/jobs/TR-101/set-up",
    "/jobs/TR-120/set-up?face=1&ways=1&chosen=p1",
    "/jobs/TR-133/set-up/before",
    "/jobs/TR-101/set-up/sheet",
    "/jobs/TR-101/grind",
    "/jobs/TR-101/measure",
    "/jobs/TR-101/record",
    "/jobs/TR-140/measure",
    "/jobs/TR-101/record/pass-sheet",
    "/jobs/TR-140/record/inspection",
    "/shop",
    "/shop/machine/1",
    "/jobs/TR-101/maps",
    "/jobs/TR-101/maps/bring-in",
    "/jobs/TR-101/measure/square",
    "/jobs/TR-101/measure/slot",
    "/shop/chucks/2/maps",
    "/gauges/2",
    "/machines/1/wall",
    "/machines/1/learned",
    "/shop/sensor/1",
    "/wheels",
    "/wheels/1",
    "/wheels/4/mount?machine=1",
    "/wheels/1/balance",
    "/wheels/2/balance?way=ways",
    "/wheels/1/dress",
    "/wheels/4/shape?machine=1&shape=relief&slot_depth_mm=9&undercut_mm=0.6&land_mm=1",
    "/wheels/1/face",
    "/wheels/advice?work=slot",
    "/machines/1/chatter?pitch_mm=6.2&table_mm_s=150",
    "/answers",
    "/answers/slot?right_mm=39.2",
    "/answers/two-angles",
    "/answers/fence",
    "/jobs/TR-114/take-in",
    "/jobs/TR-114/set-up?face=8",
    "/jobs/TR-133/set-up?face=8",
    "/jobs/TR-133/measure/angle?of=wedge+angle",
)


def test_every_main_view_is_accessible(machinist: Person) -> None:
    machinist.page.goto("/sign-in")
    found = [("/sign-in", violation) for violation in violations(machinist)]
    machinist.be("bryn")
    machinist.page.goto("/jobs/TR-101/maps")
    a_map = machinist.page.locator("tbody a").last.get_attribute("href") or ""
    for view in (*VIEWS, f"{a_map}?depth=8"):
        machinist.page.goto(view)
        found += [(view, each) for each in violations(machinist)]
    assert not found, "\n".join(map(str, found))


def violations(person: Person) -> list[str]:
    """What is wrong with a page in the light, and with its colours in the dark: nothing else differs there."""
    person.page.evaluate(AXE)
    found = []
    for scheme, rules in (("light", ""), ("dark", ", runOnly: ['color-contrast']")):
        person.page.emulate_media(color_scheme=scheme, reduced_motion="reduce")  # type: ignore[arg-type]
        result = person.page.evaluate("axe.run(document, {resultTypes: ['violations']" + rules + "})")
        found += [
            f"{scheme}: {each['id']}: {[node['html'][:120] for node in each['nodes'][:3]]}"
            for each in result["violations"]
        ]
    person.page.emulate_media(color_scheme="light")
    return found
