"""The table of docs/landing.md: hidden machines that do only what ``run.next`` says, and whether its chances are true.

``.venv/bin/python -m bench.landing 2000`` takes some minutes on two processors; ``more`` behind the number adds faults
that the estimate does not reckon with.
"""

import random
import sys
import time
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass

from tests.core.hidden_machine import job

BANDS = (0.0, 0.1, 0.3, 0.5, 0.7, 0.85, 0.95, 1.01)


@dataclass(frozen=True)
class Ended:
    """How one run ended: as what, truly under, truly in, stops, what was told on the way, how far off its cut ratio was
    in its own u, and seconds a call."""

    end: str
    under: bool
    is_in: bool
    stops: int
    told: list[tuple[float, float, bool, bool]]
    off: float
    seconds: float


def one(asked: tuple[int, bool]) -> Ended:
    """Let one machine run."""
    seed, more = asked
    machine = job(random.Random(seed), more=more)
    before = time.process_time()
    last = machine.run()
    seconds = (time.process_time() - before) / (machine.stops + 1)
    off = abs(last["cut_ratio"] - machine.cut_ratio) / last["cut_ratio_u"] if last["end"] else 9.0
    return Ended(str(last["end"]), machine.under, machine.is_in, machine.stops, last["told"], off, seconds)


def main() -> None:
    """Print the table."""
    count, more = int(sys.argv[1]) if len(sys.argv) > 1 else 200, "more" in sys.argv
    with ProcessPoolExecutor() as workers:
        ended = list(workers.map(one, [(seed, more) for seed in range(count)], chunksize=5))
    stops = sorted(each.stops for each in ended)
    told = [each for run in ended for each in run.told]
    share = 100 / count
    print(f"| runs | {count} |\n|---|---|")
    print(f"| called in | {share * sum(each.end == 'in' for each in ended):.1f} % |")
    print(f"| of those not truly in | {sum(each.end == 'in' and not each.is_in for each in ended)} |")
    print(f"| truly under size | {sum(each.under for each in ended)} |")
    print(f"| no cut allowed any more | {share * sum(each.end in ('unsure', 'None') for each in ended):.1f} % |")
    print(f"| stops to measure: median, 90 % within | {stops[count // 2]}, {stops[int(0.9 * count)]} |")
    print(f"| cut ratio within twice its u | {share * sum(each.off <= 2 for each in ended):.0f} % |")
    print(f"| time of a call | {1000 * sum(each.seconds for each in ended) / count:.0f} ms |")
    print("\n| told | times | told in the mean | were in |\n|---|---|---|---|")
    for low, high in zip(BANDS, BANDS[1:], strict=False):
        these = [each for each in told if low <= each[0] < high]
        if these:
            mean, were = (sum(float(each[at]) for each in these) / len(these) for at in (0, 2))
            print(f"| {low:.0%} to {min(high, 1):.0%} | {len(these)} | {mean:.1%} | {were:.1%} |")
    print(f"\nUnder size: told {sum(each[1] for each in told):.2f} in all, were {sum(each[3] for each in told)}.")


if __name__ == "__main__":
    main()
