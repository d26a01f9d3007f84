"""The forms' common ground: a form says which names it takes, and a name that it does not take is refused, never
ignored."""

import re
from typing import ClassVar

from flask_wtf import FlaskForm
from wtforms import HiddenField, StringField
from wtforms.fields.core import UnboundField
from wtforms.validators import Length

from zesty_lark.web.shared.fields import WholeNumber


class PostedForm(FlaskForm):
    """A form of ours. ``PATTERNS`` are names that are made as the page is drawn, such as one a set-up."""

    PATTERNS: ClassVar[tuple[str, ...]] = ()

    @classmethod
    def takes(cls, name: str) -> bool:
        """Whether a posted name belongs to this form."""
        return (
            name == "csrf_token"
            or isinstance(getattr(cls, name, None), UnboundField)
            or any(re.fullmatch(pattern, name) for pattern in cls.PATTERNS)
        )


class TokenForm(PostedForm):
    """Only a button."""


class EntryForm(PostedForm):
    """What becomes one entry of the log: its id, made with the page, and the newest entry that page had seen."""

    entry_id = HiddenField()
    seen = WholeNumber(default=0)


class UndoForm(EntryForm):
    """An entry is taken back."""

    supersedes = HiddenField(validators=[Length(max=36)])


class ReasonForm(EntryForm):
    """An entry that needs its reason."""

    reason = StringField("Why")
    note = StringField("Remark")


class DecisionForm(ReasonForm):
    """What a lead decides of a piece or a characteristic."""

    characteristic = HiddenField()
    piece = HiddenField()
    end = HiddenField()


class UnitForm(PostedForm):
    back = HiddenField()
