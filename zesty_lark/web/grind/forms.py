"""What the grind page logs: one form for every press."""

from wtforms import BooleanField, HiddenField, StringField

from zesty_lark.web.shared.forms import EntryForm


class GrindForm(EntryForm):
    """One press: the act, the surface, and whatever that act says; after which press it was made, where that has not
    been answered."""

    act = HiddenField()
    surface = HiddenField()
    step = HiddenField()
    supersedes = HiddenField()
    what = HiddenField()
    side = HiddenField()
    power_w = HiddenField()
    after = HiddenField()
    reading = StringField("Collar reads")
    other_reading = StringField("The collar shows")
    amount = StringField("Off its radius")
    note = StringField("What happened")
    reason = StringField("Why it is skipped")
    stopped = BooleanField("The wheel is stopped and I have seen it stop")
    takes_off = HiddenField()
    looked = BooleanField("Looked at")
    no_crash = BooleanField("No crash")
    sure = HiddenField()
    readout_mm = HiddenField()
