"""Forms of a gauge's checks."""

from wtforms import HiddenField, SelectField
from wtforms.validators import Length

from zesty_lark.core.measure.typed import TYPED_IN
from zesty_lark.web.shared.fields import DecimalText, choice_list
from zesty_lark.web.shared.forms import EntryForm

LIFTS = 5


class RepeatForm(EntryForm):
    """The same point, lifted and replaced five times."""

    typed_in = SelectField("in", choices=choice_list((key, words) for key, (words, _) in TYPED_IN.items()))
    back = HiddenField(validators=[Length(max=200)])


for number in range(1, LIFTS + 1):
    field = DecimalText(f"Lift {number}", least="-1000000", most="1000000", places=5)
    setattr(RepeatForm, f"lift{number}", field)


class ZeroForm(EntryForm):
    """What a gauge shows where it has to show nothing."""

    shown_um = DecimalText("It shows, µm", least="-1000000", most="1000000", places=5)


class DirectionForm(EntryForm):
    """A reading before the probe is lifted, and one while it is."""

    before_um = DecimalText("Before, µm", least="-1000000", most="1000000", places=5)
    lifted_um = DecimalText("Lifted, µm", least="-1000000", most="1000000", places=5)
