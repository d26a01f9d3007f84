"""Tern Rock Light: parts for a lighthouse's revolving lens, on two machines of the Brindle Quay toolroom.

Nothing is painted in: every state comes from running the application's own log.
"""

from datetime import date, datetime, timedelta
from decimal import Decimal

from sqlalchemy.orm import Session

from zesty_lark.core.part.faces import Purpose
from zesty_lark.core.part.sizes import Size
from zesty_lark.core.part.surfaces.features import dumped_features
from zesty_lark.core.part.taken_in import FaceIn, SizeIn, TakeIn
from zesty_lark.core.squaring.choices import FaceChoice, RouteChoices
from zesty_lark.demo.crew import PASSWORD, PEOPLE
from zesty_lark.demo.features import GUIDE_SHOE, INDEX_WEDGE
from zesty_lark.demo.gauges import load_gauges
from zesty_lark.demo.mapping import map_jobs
from zesty_lark.demo.room import load_room
from zesty_lark.demo.shift import EVEN, OF_SMALL_ONES, Shift
from zesty_lark.demo.wheels import load_wheels
from zesty_lark.store import jobs, people, shop
from zesty_lark.store.models import InstrumentRow, MachineRow, Person, WheelRow

D = Decimal


def load(session: Session, now: datetime) -> None:
    """Load the demonstration into an empty database, as of ``now``."""
    who = {
        sign_in: people.add_person(session, sign_in_name=sign_in, name=name, role=role, password=PASSWORD, at=now)
        for sign_in, name, role in PEOPLE
    }
    machines = _machines(session)
    wheels = load_wheels(session, machines, who, now)
    gauges = load_gauges(session, now.date())
    load_room(session, machines["inch"], machines["metric"], now)
    _others(session, now, who, machines, wheels=wheels, gauges=gauges)
    _thrust_pad(session, now, who, machines, wheels=wheels, gauges=gauges)
    _detents(session, now, who, machines, wheels=wheels, gauges=gauges)
    mapped = {
        number: found for number in ("TR-101", "TR-133") if (found := jobs.by_number(session, number)) is not None
    }
    map_jobs(session, mapped, who, gauges["simulated"], now=now)


def _machines(session: Session) -> dict[str, MachineRow]:
    inch = {
        "name": "No. 1, inch dial",
        "dial_unit": "in",
        "graduation_mm": D("0.00254"),
        "per_rev_mm": D("1.27"),
        "backlash_mm": D("0.0254"),
        "crossfeed_graduation_mm": D("0.05"),
        "cross_dial_mm": D("0.0254"),
        "crossfeed_min_mm": D("0.1"),
        "crossfeed_max_mm": D("12"),
        "table_min_mm_s": D("80"),
        "table_max_mm_s": D("350"),
        "reversal_s": D("0.3"),
        "travel_long_mm": D("450"),
        "travel_cross_mm": D("150"),
        "height_mm": D("250"),
        "spindle_w": 1100,
        "rpm": 3000,
        "wheel_turns": "clockwise",
        "feed_every": "stroke",
        "coolant": "water",
        "cut_ratio": D("0.6"),
        "hums": "motor 50; pump 24.3; belt 18.5; mains 100",
    }
    metric = inch | {
        "name": "No. 2, metric dial",
        "dial_unit": "mm",
        "graduation_mm": D("0.002"),
        "cross_dial_mm": D("0.01"),
        "per_rev_mm": D("0.5"),
        "backlash_mm": D("0.02"),
        "table_max_mm_s": D("300"),
        "travel_long_mm": D("600"),
        "travel_cross_mm": D("200"),
        "spindle_w": 750,
        "wheel_turns": "counter-clockwise",
        "feed_every": "pair",
        "cut_ratio": D("0.7"),
    }
    return {"inch": shop.keep(session, MachineRow, inch), "metric": shop.keep(session, MachineRow, metric)}


def _size(target: str, minus: str, plus: str, most: str, *, least: str) -> SizeIn:
    return SizeIn(Size(D(target), D(minus), D(plus)), D(most), D(least))


def _faces(
    first: str,
    second: str,
    cleanup: tuple[str, str],
    purpose: tuple[Purpose, Purpose] = ("bearing", "bearing"),
    *,
    others: str = "milled",
) -> dict[int, FaceIn]:
    faces = {1: FaceIn(first, D(cleanup[0]), purpose[0]), 2: FaceIn(second, D(cleanup[1]), purpose[1])}
    sides = {3: "0.062", 4: "0.071", 5: "0.055", 6: "0.06"}
    return faces | {face: FaceIn(others, D(cleanup), "plain") for face, cleanup in sides.items()}


def _take_in(
    number: str,
    title: str,
    owner: Person,
    machine: MachineRow,
    *,
    wheel: WheelRow,
    due: date,
    sizes: dict[str, SizeIn],
    faces: dict[int, FaceIn],
    **more: object,
) -> TakeIn:
    given: dict[str, object] = {
        "print_unit": "mm",
        "quantity": 1,
        "material": "tool steel, hardened",
        "hardness_hrc": D("60"),
        "parallel_mm": D("0.003"),
        "square_mm": None,
        "flat_mm": None,
        "ra_um": None,
        "mark_corner": "1-3-4",
        "reference_face": 1,
        "min_skin_mm": D("0.005"),
        "first_share": None,
        "remarks": "",
    }
    return TakeIn(
        number=number,
        title=title,
        owner_id=owner.id,
        machine_id=machine.id,
        wheel_id=wheel.id,
        due_on=due,
        sizes=sizes,
        faces=faces,
        **(given | more),  # type: ignore[arg-type]
    )


def _thrust_pad(
    session: Session,
    now: datetime,
    who: dict[str, Person],
    machines: dict[str, MachineRow],
    *,
    wheels: dict[str, WheelRow],
    gauges: dict[str, InstrumentRow],
) -> None:
    """TR-101: reference face cleaned, second face mid-plan."""
    stable = "stable"
    what = _take_in(
        "TR-101",
        "Lens carriage thrust pad",
        who["bryn"],
        machines["inch"],
        wheel=wheels["soft"],
        due=now.date() + timedelta(days=2),
        sizes={
            "length": _size("88", "0.05", "0.05", "88.31", least="88.27"),
            "width": _size("54", "0.05", "0.05", "54.26", least="54.22"),
            "thickness": _size("22", "0.003", "0.003", "22.262", least="22.214"),
        },
        faces=_faces(stable, stable, ("0.041", "0.036")),
        square_mm=D("0.005"),
        flat_mm=D("0.002"),
        ra_um=D("0.8"),
        bow_mm=D("0.0145"),
        remarks="Square sides to 0.005 follow once the pair is done.",
    )
    begins = now - timedelta(minutes=150)
    shift = Shift.taking_in(session, what, who["bryn"], begins, note="Four holes stay where they are.")
    shift.grind_reference(
        gauges["mic"],
        {
            "front left": "-0.0021",
            "front right": "-0.0009",
            "middle": "0.0004",
            "back left": "-0.0013",
            "back right": "0",
        },
    )
    shift.keep_part_plan(RouteChoices(squareness="square_block"))
    shift.keep_part_plan(RouteChoices(), release=True)
    shift.start()
    shift.follow(passes=5)
    shift.note("Sparks even front to back.")


def _others(
    session: Session,
    now: datetime,
    who: dict[str, Person],
    machines: dict[str, MachineRow],
    *,
    wheels: dict[str, WheelRow],
    gauges: dict[str, InstrumentRow],
) -> None:
    stable, scaled = "stable", "scale or burrs"
    day = now.date()
    guide = _take_in(
        "TR-114",
        "Guide shoe, 18 mm keyway",
        who["odo"],
        machines["metric"],
        wheel=wheels["second"],
        due=day + timedelta(days=6),
        sizes={
            "length": _size("120", "0.1", "0.1", "120.40", least="120.35"),
            "width": _size("60", "0.05", "0.05", "60.3", least="60.25"),
            "thickness": _size("30", "0.005", "0.005", "30.184", least="30.150"),
        },
        faces=_faces(stable, scaled, ("0.03", "0.05")),
        features=dumped_features(GUIDE_SHOE),
        remarks="The keyway's walls have unequal stock; it is ground last.",
    )
    strip = _take_in(
        "TR-120",
        "Wear strip",
        who["bryn"],
        machines["metric"],
        wheel=wheels["fine"],
        due=day + timedelta(days=9),
        sizes={
            "length": _size("240", "0.2", "0.2", "240.5", least="240.4"),
            "width": _size("38", "0.1", "0.1", "38.3", least="38.2"),
            "thickness": _size("4.2", "0.01", "0.01", "4.46", least="4.43"),
        },
        faces=_faces(stable, stable, ("0.11", "0.11")),
        bow_mm=D("0.11"),
        remarks="Bowed 0.11: shim under the hollow, pull nothing flat.",
    )
    wedge = _take_in(
        "TR-133",
        "Index wedge 17°30′",
        who["nim"],
        machines["inch"],
        wheel=wheels["soft"],
        due=day + timedelta(days=12),
        sizes={
            "length": _size("70", "0.05", "0.05", "70.2", least="70.15"),
            "width": _size("40", "0.02", "0.02", "40.3", least="40.2"),
            "thickness": _size("25", "0.004", "0.004", "25.152", least="25.120"),
        },
        faces=_faces(stable, stable, ("0.03", "0.03")),
        features=dumped_features(INDEX_WEDGE),
        remarks="The block to thickness first; angle and chamfers follow.",
    )
    for what in (guide, strip):
        owner = next(person for person in who.values() if person.id == what.owner_id)
        Shift.taking_in(session, what, owner, now - timedelta(hours=20))
    begins = now - timedelta(hours=8)
    _sides_under_way(Shift.taking_in(session, wedge, who["nim"], begins, lead=who["isa"]), gauges)


def _sides_under_way(shift: Shift, gauges: dict[str, InstrumentRow]) -> None:
    """The first pair to size, one side clean in the angle plate, the other begun and taken off again."""
    shift.grind_reference(gauges["bench"], EVEN)
    shift.finish(gauges["bench"])
    shift.start()
    shift.follow()
    shift.close()
    shift.start()
    shift.follow(passes=1)
    shift.leave("The thrust pad is wanted first.")


def _detents(
    session: Session,
    now: datetime,
    who: dict[str, Person],
    machines: dict[str, MachineRow],
    *,
    wheels: dict[str, WheelRow],
    gauges: dict[str, InstrumentRow],
) -> None:
    """TR-140: twelve pieces, each with its own thickness; six of them on the chuck, ground once and measured."""
    came = (
        "12.8524",
        "12.8448",
        "12.8473",
        "12.8397",
        "12.8499",
        "12.8422",
        "12.8511",
        "12.8435",
        "12.8460",
        "12.8486",
        "12.8410",
        "12.8397",
    )
    what = _take_in(
        "TR-140",
        "Detent block",
        who["bryn"],
        machines["metric"],
        wheel=wheels["second"],
        due=now.date() + timedelta(days=3),
        sizes={
            "length": _size("28.575", "0.0508", "0.0508", "28.7", least="28.65"),
            "width": _size("15.875", "0.0127", "0.0127", "16.0", least="15.95"),
            "thickness": _size("12.7", "0.00508", "0.00508", "12.8524", least="12.8397"),
        },
        faces=_faces("ground", "stable", ("0", "0.0127")),
        print_unit="in",
        quantity=len(came),
        parallel_mm=D("0.00508"),
        pieces={number: {"thickness": D(mm)} for number, mm in enumerate(came, start=1)},
    )
    begins = now - timedelta(hours=3)
    shift = Shift.taking_in(session, what, who["bryn"], begins, note="Twelve off; the length last.")
    on_chuck = (1, 2, 3, 4, 5, 6)
    shift.release(choice=OF_SMALL_ONES, pieces=on_chuck)
    shift.follow()
    for piece, short in zip(on_chuck, ("0.0042", "0.0040", "0.0043", "0.0038", "0.0041", "0.0040"), strict=True):
        shift.measure(gauges["bench"], EVEN, short=short, piece=piece)
    shift.release(2, FaceChoice(), on_chuck)
    shift.follow()
    for piece, short in zip(on_chuck[:5], ("0.0006", "0.0004", "0.0005", "0.0062", "0.0003"), strict=True):
        shift.measure(gauges["bench"], EVEN, short=short, piece=piece)
