"""Several pieces and more of the print, by the screens: taken in, put up together, measured one a press, ended,
reported."""

import re

from tests.web.conftest import Browser
from tests.web.test_story import release, sliders, take_in


def named(name: str, page: str) -> list[str]:
    return re.findall(rf'name="{name}"[^>]*value="([^"]+)"', page)


def sent(browser: Browser, job: str = "TR-150", **fields: str) -> int:
    browser.get(f"/jobs/{job}/print")
    version = re.search(r'name="version" value="(\d+)"', browser.page)
    assert version is not None
    return browser.post(f"/jobs/{job}/print", {"version": version.group(1), "pieces": ""} | fields).status_code


def test_more_of_the_print_is_taken_in_and_asked_for_at_the_sign_off(bryn: Browser) -> None:
    assert take_in(bryn) == 303
    rows = {
        "kind0": "angle",
        "surface0": "3",
        "to0": "1",
        "nominal0": "17°30'",
        "minus0": "0.1",
        "plus0": "0.1",
        "kind1": "square",
        "surface1": "4",
        "to1": "1",
        "plus1": "4 µm",
        "kind2": "finish",
        "surface2": "2",
        "plus2": "0.4",
    }
    assert sent(bryn, **rows) == 303
    bryn.get("/jobs/TR-150/print")
    assert 'value="17.5"' in bryn.page and 'value="0.004"' in bryn.page
    bryn.get("/jobs/TR-150/record")
    for name in ("angle 3-1", "square 4-1", "finish 2"):
        assert name in bryn.page
    bryn.get("/jobs/TR-150/measure?of=square 4-1")
    assert "square 4-1, in mm" in bryn.page.lower()


def test_what_cannot_be_asked_is_said_in_words_and_kept_as_typed(bryn: Browser) -> None:
    assert take_in(bryn, quantity="2") == 303
    wrong: tuple[tuple[dict[str, str], str], ...] = (
        ({"kind0": "square", "surface0": "4", "plus0": "0.004"}, "square to which other face"),
        ({"kind0": "square", "surface0": "4", "to0": "4", "plus0": "0.004"}, "to itself"),
        ({"kind0": "flat", "surface0": "9", "plus0": "0.004"}, "which face is meant"),
        ({"kind0": "flat", "surface0": "1"}, "how much is allowed"),
        ({"kind0": "size", "surface0": "3", "to0": "1", "nominal0": "ten", "plus0": "0.1"}, "Row 1"),
        ({"kind0": "beauty", "surface0": "3"}, "no such characteristic"),
        (
            {"kind0": "flat", "surface0": "1", "plus0": "0.004", "kind1": "flat", "surface1": "1", "plus1": "0.002"},
            "already",
        ),
        ({"pieces": "20.1\n20.2\n20.3"}, "3 lines, and 2 pieces"),
        ({"pieces": "20.1\tx"}, "Piece 1"),
        ({"pieces": "-1"}, "Piece 1"),
        ({"pieces": "1;2;3;4"}, "three sizes"),
    )
    for fields, says in wrong:
        assert sent(bryn, **fields) == 422 and says in bryn.page, says
    assert "1;2;3;4" in bryn.page


def batch(browser: Browser, column: str = "20.11\n20.10\n20.12") -> None:
    """Three pieces taken in with thicknesses of their own."""
    assert take_in(browser, quantity="3", face1_condition="ground", face1_cleanup="0") == 303
    assert sent(browser, pieces=column) == 303


def test_a_pasted_column_gives_each_piece_its_size_and_the_highest_is_planned_for(bryn: Browser) -> None:
    batch(bryn)
    bryn.get("/jobs/TR-150/print")
    assert "20.11\n20.10\n20.12" in bryn.page.replace("\r", "") or "20.110" in bryn.page
    bryn.get("/jobs/TR-150/plan")
    assert bryn.page.count('name="pieces"') == 3 and "off the highest" in bryn.page
    assert "0.120" in bryn.page or "0.12 mm" in bryn.page or "4.72 thou" in bryn.page
    bryn.get("/jobs/TR-150/plan?pieces=1&pieces=2")
    assert bryn.page.count("checked") >= 2


def follow(browser: Browser) -> None:
    """Press what the grind page asks for until it asks for a measurement."""
    for _ in range(200):
        browser.look("TR-150")
        browser.get("/jobs/TR-150/grind")
        main = re.search(
            r'name="act" type="hidden" value="(pass|spark_out|dressed|done|touch_off|place)"',
            browser.page.split('class="bar grind-bar"')[1],
        )
        if main is None:
            return
        more = {"dressed": {"amount": "0.02"}, "place": {"stopped": "1"}, "touch_off": {"reading": "0"}}.get(
            main.group(1), {}
        )
        step = re.search(r'name="step"[^>]*value="(\d+)"', browser.page)
        if main.group(1) == "done" and step:
            more = {"step": step.group(1)}
        assert browser.press("TR-150", main.group(1), **more).status_code == 303, browser.page


def test_each_piece_of_a_load_is_looked_at_or_all_are_said_to_be_alike(bryn: Browser) -> None:
    batch(bryn)
    bryn.get("/jobs/TR-150/plan")
    assert release(bryn, "TR-150", **sliders(bryn.page) | {"method": "light"}) == 303
    bryn.press("TR-150", "dressed", amount="0.02")
    assert bryn.press("TR-150", "place", stopped="1").status_code == 303

    def say(item: str, answer: str = "", **of: str) -> int:
        bryn.get("/jobs/TR-150/set-up/before")
        form = {name: found[-1] for name in ("seen", "entry_id", "face") if (found := named(name, bryn.page))}
        form |= {"item": item, "answer": answer}
        return bryn.post("/jobs/TR-150/set-up/before", form | of).status_code

    bryn.get("/jobs/TR-150/set-up/before")
    assert say("wiped") == 303
    bryn.get("/jobs/TR-150/set-up/before")
    assert "piece 1" in bryn.page and "I looked at each of pieces 1–3, and they are alike" in bryn.page
    assert say("pushed", "holds") == 422 and "of which pieces? Name each that was looked at." in bryn.page
    assert say("pushed", "holds", piece="1") == 303
    bryn.get("/jobs/TR-150/set-up/before")
    assert "not yet: pieces 2–3" in bryn.page
    assert bryn.press("TR-150", "touch_off", looks=False, reading="0").status_code == 422
    assert "Magnet on, push it (pieces 2–3)" in bryn.page
    for wrong, says in (("x", "a whole number"), ("9", "Of which piece")):
        assert say("pushed", "holds", pieces=wrong) == 422 and says in bryn.page
    assert say("pushed", "holds", piece="2", pieces="2,3") == 303
    bryn.get("/jobs/TR-150/set-up/before")
    assert "not yet: piece" not in bryn.page
    assert bryn.press("TR-150", "touch_off", reading="0").status_code == 303


def one_size(browser: Browser, value: str) -> int:
    """Type one size on the page of all pieces."""
    browser.get("/jobs/TR-150/pieces")
    hidden = dict(re.findall(r'name="(entry_id|seen|of|piece|back)"[^>]*value="([^"]*)"', browser.page))
    gauge = re.search(r'<option value="(\d+)">LaidOut|<option selected value="(\d+)">', browser.page)
    assert gauge is not None
    return browser.post(
        "/jobs/TR-150/measure",
        hidden | {"reading3": value, "instrument": gauge.group(1) or gauge.group(2), "stopped": "y"},
    ).status_code


def test_a_batch_is_ground_together_measured_one_a_press_and_ended_piece_by_piece(bryn: Browser, isa: Browser) -> None:
    batch(bryn)
    bryn.get("/jobs/TR-150/plan")
    assert release(bryn, "TR-150", **sliders(bryn.page) | {"method": "light"}) == 303
    follow(bryn)
    assert "pieces 1–3" in bryn.page or "piece 1" in bryn.page
    for _ in range(12):
        bryn.get("/jobs/TR-150/pieces")
        here = re.search(r"<legend>Piece (\d)", bryn.page)
        assert here is not None
        assert one_size(bryn, "19.9" if here.group(1) == "3" else "20.0001") == 303
        bryn.get("/jobs/TR-150/grind")
        if "see what it says" in bryn.page.lower() or "Under size" in bryn.page:
            break
        follow(bryn)
    bryn.get("/jobs/TR-150/measure")
    assert (
        bryn.post(
            "/jobs/TR-150/measure/close",
            {
                "entry_id": "close-00001",
                "seen": re.search(  # type: ignore[union-attr]
                    r'name="seen"[^>]*value="(\d+)"', bryn.page
                ).group(1),
            },
        ).status_code
        == 303
    )
    bryn.get("/")
    assert "under size, piece 3" in bryn.page
    isa.get("/jobs/TR-150/record")
    seen = re.search(r'name="seen" value="(\d+)"', isa.page)
    assert seen is not None
    assert (
        isa.post(
            "/jobs/TR-150/record/end",
            {
                "entry_id": "end-0000001",
                "seen": seen.group(1),
                "piece": "3",
                "end": "passed",
                "reason": "It goes on the short side.",
            },
        ).status_code
        == 303
    )
    isa.get("/jobs/TR-150/record/inspection")
    assert "Piece 3 passed" in isa.page and "short side" in isa.page


def test_the_route_is_left_only_with_a_reason(bryn: Browser) -> None:
    bryn.get("/jobs/TR-101/faces")
    seen = re.search(r'name="seen" value="(\d+)"', bryn.page)
    assert seen is not None
    said = {"entry_id": "route-00001", "seen": seen.group(1), "what": "skip-6"}
    assert bryn.post("/jobs/TR-101/route/change", said | {"reason": " "}).status_code == 422
    assert "Why is the set-up skipped" in bryn.page
    assert bryn.post("/jobs/TR-101/route/change", said | {"reason": "The end came ground."}).status_code == 303
    bryn.get("/jobs/TR-101/faces")
    assert "left out, The end came ground." in bryn.page
    bryn.get("/jobs/TR-101/record")
    assert "Skipped the set-up of face 6" in bryn.page


def test_what_does_not_lie_on_the_chuck_or_in_the_fixture_makes_the_next_load(bryn: Browser) -> None:
    assert (
        take_in(
            bryn,
            quantity="60",
            face1_condition="ground",
            face1_cleanup="0",
            length_target="120",
            length_max="120.3",
            width_target="60",
            width_max="60.3",
        )
        == 303
    )
    bryn.get("/jobs/TR-150/plan")
    ticked = len(re.findall(r'name="pieces" value="\d+" checked', bryn.page))
    assert 1 < ticked < 60 and 'class="nest"' in bryn.page, "as many as lie on the chuck"
    form = sliders(bryn.page) | {"method": "light"}
    assert release(bryn, "TR-150", **form | {"pieces": [str(number) for number in range(1, 61)]}) == 422
    assert "untick some, they make the next load" in bryn.page
    assert release(bryn, "TR-150", **form | {"pieces": ["1", "2", "3"]}) == 303
    bryn.get("/jobs/TR-150/grind")
    assert "pieces 1–3" in bryn.page


def test_a_reference_that_is_ground_again_gives_a_skin(isa: Browser) -> None:
    isa.get("/jobs/TR-133/faces")
    seen = re.search(r'name="seen" value="(\d+)"', isa.page)
    assert seen is not None
    said = {"entry_id": "again-00001", "seen": seen.group(1), "what": "grind-3", "reason": "A scratch."}
    assert isa.post("/jobs/TR-133/route/change", said).status_code == 303
    isa.get("/jobs/TR-133/plan")
    assert "Face 3 up" in isa.page and "<small>0.005 mm</small>" in isa.page, (
        "the skin, although nothing was left on it"
    )


def test_a_size_that_is_ground_again_gives_only_what_stays_over_its_lower_limit(isa: Browser) -> None:
    """25 ±0.004, 25.0012 at the least, U 0.0006: of the skin of 5 µm only 4.6 stay over 24.996."""
    isa.get("/jobs/TR-133/faces")
    seen = re.search(r'name="seen" value="(\d+)"', isa.page)
    assert seen is not None
    said = {"entry_id": "again-00002", "seen": seen.group(1), "what": "grind-2", "reason": "A scratch."}
    assert isa.post("/jobs/TR-133/route/change", said).status_code == 303
    isa.get("/jobs/TR-133/plan")
    shown = re.search(r"<small>(0\.00\d+) mm</small>", isa.page)
    assert "Face 2 up" in isa.page and "Nothing to grind" not in isa.page and shown is not None
    assert shown.group(1) == "0.0046"


def test_what_is_kept_again_as_it_is_shown_stays_what_it_was(bryn: Browser) -> None:
    """Twelve sizes that no inch text writes exactly, half of them ground since, and a finish in microinches."""

    def shown(name: str) -> str:
        bryn.get("/jobs/TR-140/print")
        column = re.search(r'<textarea[^>]*id="pieces"[^>]*>([^<]*)<', bryn.page)
        plus = re.search(r'name="plus0"[^>]*value="([^"]*)"', bryn.page)
        assert column is not None and plus is not None
        return {"column": column.group(1).strip(), "plus": plus.group(1)}[name]

    assert sent(bryn, "TR-140", kind0="finish", surface0="2", plus0="16", pieces=shown("column")) == 303
    first = shown("plus")
    assert "16" in first and "in" in first
    assert sent(bryn, "TR-140", kind0="finish", surface0="2", plus0=first, pieces=shown("column")) == 303
    assert shown("plus") == first


def test_an_empty_place_in_a_column_keeps_the_places_after_it(bryn: Browser) -> None:
    assert take_in(bryn, quantity="2") == 303
    assert sent(bryn, pieces="20.11\t40.2\n\t40.3") == 303
    bryn.get("/jobs/TR-150/print")
    column = re.search(r'<textarea[^>]*id="pieces"[^>]*>\n?([^<]*)<', bryn.page)
    assert column is not None and [line.split("\t")[1] for line in column.group(1).split("\n")[:2]] == [
        "40.200",
        "40.300",
    ]
    assert column.group(1).split("\n")[1].startswith("\t")
