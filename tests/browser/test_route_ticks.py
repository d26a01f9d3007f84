"""Ticks on the route, faster than the server answers: none is taken back by an answer to the one before."""

from contextlib import suppress

from playwright.sync_api import Error, Route

from tests.browser.conftest import Person


def test_three_ticks_while_the_first_is_still_answered_all_stay(machinist: Person) -> None:
    machinist.be("isa")
    machinist.page.goto("/jobs/TR-114/faces")
    held: list[Route] = []

    def first_waits(route: Route) -> None:
        if held:
            route.continue_()
        else:
            held.append(route)

    machinist.page.route("**/route/preview", first_waits)
    ticks = machinist.page.locator("input[name^=skip-]")
    with machinist.page.expect_request("**/route/preview"):
        ticks.nth(0).check()
    machinist.page.evaluate("1")  # the request is held now
    with machinist.page.expect_request("**/route/preview"):
        ticks.nth(1).check()
    ticks.nth(3).check()
    with suppress(Error):  # what was asked first may be given up by now
        held[0].continue_()
    machinist.page.wait_for_function("() => document.querySelectorAll('#route li.skipped').length === 3")
    assert [each.is_checked() for each in ticks.all()[:4]] == [True, True, False, True]
