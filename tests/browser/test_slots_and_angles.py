"""A keyway and a wedge with its lead-ins from the print to the record: taken in, set up, ground on the simulated
grinder and measured, by keyboard."""

import re
from collections.abc import Iterator
from dataclasses import replace
from decimal import Decimal

import pytest

from tests.browser.conftest import Person
from tests.browser.test_six_faces import (
    AT_MACHINE,
    MOST_TURNS,
    PLACES,
    Watched,
    at_machine,
    connect,
    main_button,
    press_and_see,
    read,
)
from zesty_lark.core.part.surfaces.formed import Formed
from zesty_lark.core.part.surfaces.formed_face import features_formed
from zesty_lark.core.part.surfaces.part import PairSize
from zesty_lark.core.simulated.block import FORMED_MM
from zesty_lark.demo.features import GUIDE_SHOE, INDEX_WEDGE
from zesty_lark.exchange.instruments.simulated_grinder import GrinderSettings

D = Decimal


@pytest.fixture
def grinder() -> Iterator[Watched]:
    made = Watched(GrinderSettings(seed=14))
    made.listen()
    yield made
    made.unplug()


def block(number: str, title: str, sizes: dict[str, str]) -> list[tuple[str, str]]:
    """A block whose six faces are ground."""
    said = [("number", number), ("title", title)]
    for axis, size in sizes.items():
        said += [(f"{axis}_target", size), (f"{axis}_minus", "0.01"), (f"{axis}_plus", "0.01"), (f"{axis}_max", size)]
    return [*said, ("thickness_min", sizes["thickness"])]


def choose(person: Person, name: str, value: str) -> None:
    """Choose from a list, as the arrow keys do."""
    person.page.locator(f"[name={name}]").select_option(value)


def give_feature(person: Person, number: int, feature: object) -> None:
    """Type a feature as the print has it; its fields are there once its kind is chosen."""
    at = f"feature{number}_"
    choose(person, f"{at}kind", feature.kind)  # type: ignore[attr-defined]
    person.there(f"[name={at}name]")
    for name, value in vars(feature).items():
        field = person.page.locator(f"[name={at}{name}]")
        if name == "kind" or not field.count():
            continue
        if field.evaluate("each => each.tagName") == "SELECT":
            field.select_option(str(value))
        else:
            field.fill(str(value))


class Job:
    """A job under way, with what its surfaces truly are."""

    def __init__(self, number: str, sizes: dict[str, str], features: tuple[object, ...]) -> None:
        own = {axis: PairSize(D(mm), D("0.01"), D("0.01"), D(mm), D(mm)) for axis, mm in sizes.items()}
        self.number, self.sizes = number, sizes
        self.names = {
            each.surface.number: each.surface.title
            for _, made in features_formed(features, own)  # type: ignore[arg-type]
            for each in made
        }
        self.formed: dict[str, Formed] = {
            each.surface.size: each
            for _, made in features_formed(features, own)
            for each in made  # type: ignore[arg-type]
        }

    def size(self, of: str, height_mm: float) -> Decimal:
        """What a surface's size is while it stands so high under the wheel."""
        made = self.formed[of]
        return made.surface.fed(made.size.measured_max_mm, D(repr(FORMED_MM)) + made.stock_mm - D(repr(height_mm)))

    def readings(self, grinder: Watched, of: str) -> list[str]:
        """What a gauge reads at five places of what was last up, cooled down."""
        with grinder._lock:
            grinder.grinder.wait(10.0)
            heights = [grinder.grinder.measure_mm(*at) for at in PLACES]
        return [f"{self.size(of, height) if of in self.formed else D(repr(height)):.4f}" for height in heights]


def asked_of(person: Person) -> str:
    """The characteristic that the measuring page is about."""
    return person.page.locator("[name=of]").first.get_attribute("value") or ""


def grind_on(person: Person, grinder: Watched, job: Job, ticked: int) -> None:
    """Do what the page asks for until nothing is left but the record; the list of one surface is ticked off too."""
    done, before = False, ""
    for _ in range(MOST_TURNS):
        if not person.page.url.endswith("/grind"):
            person.page.goto(f"/jobs/{job.number}/grind")
        asked = main_button(person)
        if "to look at" in asked:
            done = done or job.names[ticked] in person.page.locator(".now-what").inner_text()
            person.look()
            continue
        if AT_MACHINE.match(asked) or asked.endswith(" is up"):
            at_machine(person, grinder, asked, before)
        elif asked.startswith("P Plan "):
            person.press("p")
            person.page.wait_for_url("**/plan")
            person.press_once_there("r")
            person.page.wait_for_url("**/grind")
        elif asked.endswith("is done"):
            press_and_see(person, "d")
        elif asked == "M Measure":
            person.press("m")
            person.page.wait_for_url("**/measure*")
            if not person.page.locator(".verdict").count():
                read(person, *job.readings(grinder, asked_of(person)))
            person.press("t" if person.page.locator("button[data-key=t]").count() else "d")
            person.page.wait_for_url(re.compile("/(grind|record)$"))
        elif asked.startswith("M Measure "):
            person.press("m")
            person.page.wait_for_url("**of=*")
            prove(person, job, asked_of(person))
        elif asked.endswith("To the record"):
            assert done, "the list was ticked off on the way"
            return
        else:
            raise AssertionError(f"what is that? {asked}")
        before = asked
    raise AssertionError("it asks for ever")


def prove(person: Person, job: Job, of: str) -> None:
    """Measure what is asked beside what was ground: a side as it came, an angle on its plate, a position by blocks."""
    if of.endswith("position"):
        person.page.goto(f"{person.page.url.split('/measure')[0]}/measure/slot?of={of.replace(' ', '+')}")
        for place in ("front_top", "front_bottom", "back_top", "back_bottom"):
            person.fill(f"{place}_mm", "18.009")
    elif of.endswith("°") or of.endswith("angle"):
        person.page.wait_for_url("**/measure/angle*")
        for name, words in (("rise_um", "0.4"), ("over_mm", "60"), ("stack_u_um", "0.3")):
            person.fill(name, words)
    else:
        read(person, job.sizes[of])
        return
    person.press("Escape", "w")
    person.there("button[data-key=l]")
    person.press("l")
    person.page.wait_for_url(re.compile(r"/measure\?of="))


def take_in(person: Person, number: str, title: str, sizes: dict[str, str], features: tuple[object, ...]) -> None:
    """Take a block in with its features, on the one screen."""
    person.page.goto("/")
    person.press("n")
    person.page.wait_for_url("**/take-in")
    for name, words in block(number, title, sizes):
        person.fill(name, words)
    for face in range(1, 7):
        choose(person, f"face{face}_condition", "ground")
    for place, feature in enumerate(features, start=1):
        give_feature(person, place, feature)
    person.page.wait_for_function("() => document.querySelectorAll('.block-feature').length > 0")
    person.press("Escape", "s")
    person.page.wait_for_url(f"**/{number}/plan")


def in_tolerance(grinder: Watched, job: Job) -> None:
    """Every surface is truly where the print has it."""
    for of, made in job.formed.items():
        lump = grinder.parts[f"{job.number}/{made.surface.number}"]
        heights = lump.thickness_mm(1)
        ends = [job.size(of, float(each)) for each in (heights.min(), heights.max())]
        low, high = made.size.target_mm - made.size.tol_minus_mm, made.size.target_mm + made.size.tol_plus_mm
        assert low <= min(ends) and max(ends) <= high, (of, ends)


def proved(person: Person, number: str, count: int) -> None:
    person.page.goto(f"/jobs/{number}/record")
    lines = person.page.locator(".characteristics-list tr").all_inner_texts()
    assert len(lines) == count and all("✓ in" in line for line in lines), lines


KEYWAY = (replace(GUIDE_SHOE[0], left_now_mm=D("21.04"), depth_now_mm=D("7.93")),)
"""The demonstration's, come nearer to their sizes: as many kinds of steps in fewer passes."""
NEARER = {
    "lead-in": {"long_tol_mm": D("0.1"), "floor_now_mm": D("5.89"), "wall_now_mm": D("7.85")},
    "nose": {"radius_now_mm": D("1.515")},
    "edge": {"flat_now_mm": D("0.44")},
}
LEAD_INS = tuple(replace(each, **NEARER.get(each.name, {})) for each in INDEX_WEDGE)
SHOE = {"length": "90", "width": "60", "thickness": "30"}
WEDGE = {"length": "70", "width": "40", "thickness": "25"}


def test_a_keyway_from_print_to_record(machinist: Person, grinder: Watched) -> None:
    machinist.be("isa")
    connect(machinist, grinder)
    machinist.be("bryn")
    take_in(machinist, "TR-174", "Guide shoe, another", SHOE, KEYWAY)
    job = Job("TR-174", SHOE, KEYWAY)
    machinist.page.goto("/jobs/TR-174/set-up?face=8")
    machinist.sees("89.8025 mm")
    assert machinist.page.locator(".answer-right svg").count() >= 2
    grind_on(machinist, grinder, job, ticked=8)
    in_tolerance(grinder, job)
    proved(machinist, "TR-174", 7)


def test_a_wedge_with_its_lead_ins_from_print_to_record(machinist: Person, grinder: Watched) -> None:
    machinist.be("isa")
    connect(machinist, grinder)
    machinist.be("bryn")
    take_in(machinist, "TR-175", "Index wedge, another", WEDGE, LEAD_INS)
    job = Job("TR-175", WEDGE, LEAD_INS)
    machinist.page.goto("/jobs/TR-175/set-up?face=7")
    machinist.sees("38.1895 mm")
    grind_on(machinist, grinder, job, ticked=7)
    in_tolerance(grinder, job)
    proved(machinist, "TR-175", 11)
