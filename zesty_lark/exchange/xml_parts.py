"""XML from outside: no entities, no more elements and no deeper than is allowed, found out while it is read."""

from dataclasses import dataclass
from xml.etree import ElementTree as Tree
from xml.parsers import expat

from defusedxml import DefusedXmlException
from defusedxml.ElementTree import XMLParser


class XmlError(ValueError):
    """It is no XML, or not to be read; the message says why."""


@dataclass(frozen=True)
class XmlLimits:
    """How many elements there may be, and how deep in one another."""

    elements: int
    depth: int


class _Count:
    """Counts what begins and ends."""

    def __init__(self, limits: XmlLimits) -> None:
        self._limits, self._elements, self._depth = limits, 0, 0

    def begin(self, *_: object) -> None:
        self._elements += 1
        self._depth += 1
        if self._elements > self._limits.elements:
            raise XmlError(f"it has more than {self._limits.elements:,} elements.")
        if self._depth > self._limits.depth:
            raise XmlError(f"its elements lie more than {self._limits.depth} deep in one another.")

    def end(self, *_: object) -> None:
        self._depth -= 1


class _CountedBuilder(Tree.TreeBuilder):
    """Builds a tree as long as it is within the limits."""

    def __init__(self, limits: XmlLimits) -> None:
        super().__init__()
        self._count = _Count(limits)

    def start(self, tag: str, attrs: dict[str, str], /) -> Tree.Element:
        """Begin an element."""
        self._count.begin()
        return super().start(tag, attrs)

    def end(self, tag: str, /) -> Tree.Element:
        """End an element."""
        self._count.end()
        return super().end(tag)


def parsed(text: bytes, limits: XmlLimits) -> Tree.Element:
    """Return the root of a text.

    Raises
    ------
    XmlError
        If it is no XML, has entities of its own, or more elements, or deeper ones, than is allowed.
    """
    try:
        parser = XMLParser(target=_CountedBuilder(limits))
        parser.feed(text)
        root: Tree.Element = parser.close()
    except DefusedXmlException as error:
        raise XmlError("it has entities of its own.") from error
    except (Tree.ParseError, LookupError, RecursionError) as error:
        raise XmlError("it is no XML.") from error
    except ValueError as error:
        raise error if isinstance(error, XmlError) else XmlError("it is no XML.") from error
    return root


def check_elements(text: bytes, limits: XmlLimits) -> None:
    """Pass silently when a text is XML within the limits; nothing of it is kept.

    Raises
    ------
    XmlError
        As ``parsed``.
    """
    count = _Count(limits)
    reader = expat.ParserCreate()
    reader.StartElementHandler = count.begin
    reader.EndElementHandler = count.end
    reader.EntityDeclHandler = _no_entities
    try:
        reader.Parse(text, True)
    except expat.ExpatError as error:
        raise XmlError("a part of it is no XML.") from error


def _no_entities(*_: object) -> None:
    raise XmlError("it has entities of its own.")
