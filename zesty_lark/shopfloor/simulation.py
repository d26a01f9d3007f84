"""The simulated grinder at a job's machine: it does the next act, and tells what that looked like."""

import contextlib
import socket
from decimal import Decimal

from zesty_lark.core.measure.sensors import Sensor
from zesty_lark.core.part.surfaces import kind_of
from zesty_lark.core.part.surfaces.part import volume_mm3
from zesty_lark.core.wheel.dressing import DIAMOND_MM
from zesty_lark.core.work.job_state import JobState
from zesty_lark.core.work.next_act import Next
from zesty_lark.core.work.observing import SIDES
from zesty_lark.core.work.run import Run
from zesty_lark.exchange.instruments.addresses import reachable
from zesty_lark.shopfloor.stock import pair_of
from zesty_lark.shopfloor.wheels import dress_for
from zesty_lark.store.models import Job

WAIT_SECONDS = 5.0
CLEAN = 0.995
MOST_ANSWER = 400


class SimulationError(ValueError):
    """The simulated grinder cannot be reached, or cannot do that; the message says which."""


def do_next(sensor: Sensor, job: Job, job_state: JobState, what: Next) -> str:
    """Let the simulated grinder at a readout's port do the next act; return in words what was seen.

    Raises
    ------
    SimulationError
        If it is not there, refuses, or the act is none of a grinder's.
    """
    run = job_state.runs[what.surface] if what.surface is not None else None
    if run is None:
        raise SimulationError("There is nothing for a grinder to do now.")
    lines = _lines(job, job_state, what, run)
    try:
        place = reachable(sensor.port)
        with socket.create_connection((place.host, place.port), WAIT_SECONDS) as wire, wire.makefile("rwb") as talk:
            answers = [_ask(talk, line) for line in lines]
    except (OSError, ValueError) as error:
        if isinstance(error, SimulationError):
            raise
        raise SimulationError(
            "The simulated grinder does not answer. Start it with “lark grinder” on the machine that serves this page."
        ) from error
    return _seen(what, answers[-1])


def _lines(job: Job, job_state: JobState, what: Next, run: Run) -> list[str]:
    """What hands do for an act, as the simulated grinder takes it."""
    part, face = _part(job, job_state, run)
    step = run.next_step
    if what.act == "place":
        return [part, f"place {face}"]
    if what.act == "dress":
        kind = step.what if step is not None else "general"
        plan = dress_for(job, job_state, kind)
        return [f"dress {plan.total_mm:f} {kind} {plan.traverse_mm_s:f} {DIAMOND_MM:f}"]
    if what.act == "touch_off":
        return [part, "touch", "ring 0"] if job_state.touch_reading_mm(run) is None else [part, "touch"]
    if what.act in ("pass", "spark-out", "no_feed") and step is not None:
        turn = [f"collar {run.next_reading_mm:f}"] if run.next_reading_mm is not None else []
        return [part, *turn, f"pass {step.crossfeed_mm:f} {step.table_mm_s:f}"]
    if what.act in ("chamfer", "turn", "blocks", "cool"):
        minutes = step.amount if step is not None and step.amount is not None and what.act == "cool" else Decimal(2)
        return [f"wait {minutes:f}"]
    raise SimulationError("There is nothing for a grinder to do now.")


def _part(job: Job, job_state: JobState, run: Run) -> tuple[str, int]:
    """What lies under the wheel, and which of its faces is up: the block, or what one of its slots, angles or edges is
    to the wheel."""
    piece = run.pieces[0] if run.pieces else 1
    sizes, surface = job_state.spec.pieces[piece], job_state.spec.wanted.surfaces[run.surface]
    if surface.is_height:
        return f"part {job.number} {sizes['length']:f} {sizes['width']:f} {sizes['thickness']:f}", run.surface
    block = job.part.block()
    kind = kind_of(block, run.surface)
    lies, feeding = kind.lying(block, run.surface), kind.feeding(block, run.surface)
    stock = pair_of(job, run.surface).split.total_stock_mm
    more = f"{feeding.cut_ratio or 0.0:f} {volume_mm3(block):f}"
    return f"formed {job.number}/{run.surface} {lies.along_mm:f} {lies.across_mm:f} {stock:f} {more}", 1


def _ask(talk: object, line: str) -> str:
    talk.write(f"{line}\n".encode())  # type: ignore[attr-defined]
    talk.flush()  # type: ignore[attr-defined]
    answer: str = talk.readline(MOST_ANSWER).decode("ascii", "replace").strip()  # type: ignore[attr-defined]
    if not answer.startswith("ok"):
        raise SimulationError(f"The simulated grinder: {answer.removeprefix('no ') or 'no answer'}.")
    return answer.removeprefix("ok").strip()


def _seen(what: Next, answer: str) -> str:
    """What was seen, in words."""
    if what.act not in ("pass", "spark-out", "no_feed"):
        return {
            "touch_off": f"The simulated grinder touched off{', collar at ' + answer + ' mm' if answer else ''}."
        }.get(what.act, "The simulated grinder has done it.")
    said = dict(word.split("=", 1) for word in answer.split() if "=" in word)
    with contextlib.suppress(KeyError, ValueError):
        clean = float(said["clean"])
        face = "clean all over" if clean > CLEAN else f"{100 * clean:.0f} % clean"
        side = f"more sparks {SIDES[said['side']]}" if said["side"] in SIDES else "sparks even"
        sparks = "the sparks died" if said["died"] == "1" else side
        return f"The simulated grinder ran it: {face}, {sparks}, {float(said['power']):.0f} W."
    return "The simulated grinder ran it."
