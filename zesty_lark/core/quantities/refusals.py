"""What a checked type refused, in words: where, and a sentence."""

from typing import NamedTuple

from pydantic import ValidationError


class Refusal(NamedTuple):
    """Where a value is that cannot be (``more.1.kind``; empty for the whole), and a sentence without its first capital
    and its full stop."""

    where: str
    words: str

    @property
    def sentence(self) -> str:
        """The words as a sentence of their own."""
        return f"{self.words[:1].upper()}{self.words[1:]}."


def refusals(error: ValidationError) -> list[Refusal]:
    """Return everything that a checked type refused. What does not go together names its field itself: "due_on: It
    cannot be due before it was calibrated"."""
    found = []
    for each in error.errors(include_url=False, include_input=False):
        words = each["msg"].removeprefix("Value error, ").replace("Input should be", "this has to be", 1)
        where = ".".join(str(part) for part in each["loc"])
        if not where and ": " in words:
            where, _, words = words.partition(": ")
        found.append(Refusal(where, words.removesuffix(".")))
    return found
