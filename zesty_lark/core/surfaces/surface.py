"""A surface of the part, as the print, the log and the plan know it: by its number."""

from dataclasses import dataclass

__all__ = ["FACE", "Surface"]

FACE = "face"


@dataclass(frozen=True)
class Surface:
    """A surface of the part.

    Attributes
    ----------
    number : int
        1 to 6 for the faces of the block, 7 and up for others.
    size : str
        The size that it bounds, by its characteristic.
    opposite : int
        The surface that size goes to, which it stands on when it is up.
    reference : bool
        It comes first of the two: it is cleaned, and its opposite comes to size.
    square_to : int or None
        The reference it is to be square to, which comes before it.
    kind : str
        What kind of surface it is; a face of the block has none of its own.
    """

    number: int
    size: str
    opposite: int
    reference: bool = False
    square_to: int | None = None
    kind: str = FACE
