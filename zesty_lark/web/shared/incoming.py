"""Files that come from outside: read in a process of its own, within limits, one at a time a person. What takes longer
than a moment is asked for again by the page itself, without sending the file once more."""

from collections.abc import Callable
from typing import Any, TypeVar

from flask_wtf.file import FileField
from wtforms import HiddenField

from zesty_lark.shopfloor import long_work
from zesty_lark.web.shared.forms import PostedForm

Read = TypeVar("Read")
LONGEST_NAME = 120


class FileForm(PostedForm):
    """A form with a file; ``held`` names one that was sent before and is still being read."""

    file = FileField("File")
    held = HiddenField()
    held_name = HiddenField()


class AgreedForm(FileForm):
    """A file that is judged anew; ``agreed`` once what differs was seen."""

    agreed = HiddenField()


def named(form: FileForm) -> str:
    """Return the name of the file that was sent, as far as there is room for it."""
    name = form.file.data.filename if form.file.data else form.held_name.data
    return (name or "").rpartition("/")[2].rpartition("\\")[2][:LONGEST_NAME]


def is_sent(form: FileForm) -> bool:
    """Whether a file was sent, now or before."""
    return bool(form.file.data or form.held.data)


def read_file(form: FileForm, reader: Callable[[str, bytes], Read], kind: type[Any]) -> Read:
    """Return what a reader makes of the file that was sent, by its name and what it holds: something of that kind.

    Raises
    ------
    StillWorking
        If that is not known yet; the page asks again.
    Lost
        If what was sent before is not here any more, or was something else.
    """
    if form.file.data:
        name = named(form)
        data: bytes = form.file.data.read()
        form.held_name.data, form.held.data = name, long_work.key_of(reader, name, data)
        return long_work.read(reader, name, data)
    found: Read = long_work.again(form.held.data or "")
    if not isinstance(found, kind):
        raise long_work.Lost(long_work.LOST)
    return found
