"""Set-ups: the ways of holding, in the order of the released route."""

from dataclasses import dataclass


@dataclass(frozen=True)
class SetUp:
    """One way of holding the pieces.

    Attributes
    ----------
    key : str
        Its name, whatever its place in the order.
    up : tuple of int
        The surfaces that are up, one after the other; two when both stand proud in one clamping.
    down : int
        The surface that is down.
    on_magnet : bool
        The pieces stand on the magnet itself: the wheel's height over it tells their size.
    left_out : str
        Why it is not run; empty when it is.
    """

    key: str
    up: tuple[int, ...]
    down: int
    on_magnet: bool = True
    left_out: str = ""
