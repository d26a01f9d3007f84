"""What is asked of a machine."""

from zesty_lark.web.shared.fields import DecimalText
from zesty_lark.web.shared.forms import PostedForm


class ChatterForm(PostedForm):
    """Ripples as they were read off the work; sent in the address."""

    pitch_mm = DecimalText("Pitch of the ripples, mm", least="0.01", most="1000", places=4)
    table_mm_s = DecimalText("Table speed, mm/s", least="0.1", most="2000", places=3)
