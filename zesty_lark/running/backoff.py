"""How long to wait before what died is started again: at once the first time, longer with every death soon after."""

from dataclasses import dataclass

FIRST_WAIT, LONGEST_WAIT = 0.5, 60.0
"""Seconds; the wait doubles with each death."""
LONG_LIFE = 60.0
"""Seconds after which a death is the first one again."""


@dataclass
class Backoff:
    """The waits of one thing that is kept alive; all moments are monotonic seconds."""

    deaths: int = 0
    last: float = float("-inf")
    next_try: float = float("-inf")

    def failed(self, now: float) -> float:
        """Note a death; return the seconds to wait before the next start."""
        self.deaths = 1 if now - self.last > LONG_LIFE + self._wait() else self.deaths + 1
        self.last = now
        self.next_try = now + self._wait()
        return self._wait()

    def _wait(self) -> float:
        if self.deaths <= 1:
            return 0.0
        return float(min(LONGEST_WAIT, FIRST_WAIT * 2 ** min(self.deaths - 2, 20)))

    def due(self, now: float) -> bool:
        """Tell whether the wait is over."""
        return now >= self.next_try
