"""What is posted at the set-up."""

from wtforms import HiddenField, StringField

from zesty_lark.web.shared.forms import EntryForm, PostedForm


class SetUpForm(PostedForm):
    """One act on the layout: which, on what, where to; and the version of the layout that was seen."""

    act = HiddenField()
    version = HiddenField()
    face = HiddenField()
    key = HiddenField()
    chosen = HiddenField()
    x_mm = StringField("Along")
    y_mm = StringField("Across")
    turn_deg = StringField("Turn")
    by_x = HiddenField()
    by_y = HiddenField()
    by_deg = HiddenField()
    snap = HiddenField()
    lies = HiddenField()
    name = StringField("Thing")
    role = StringField("As")
    fix = HiddenField()
    keys = HiddenField()
    way = HiddenField()
    value = StringField("Value")
    left_mm = StringField("Left")
    right_mm = StringField("Right")
    front_mm = StringField("Front")
    back_mm = StringField("Back")
    start = HiddenField()
    nozzle = HiddenField()
    magnet = HiddenField()
    second_nozzle = HiddenField()


class FaceActForm(EntryForm):
    """An act on the set-up that has a face up."""

    face = HiddenField()


class WaiverForm(EntryForm):
    """A lead’s waiver of a caution."""

    face = HiddenField()
    item = HiddenField()
    reason = StringField("Why")


class ListForm(EntryForm):
    """A tick on the list before the touch-off."""

    face = HiddenField()
    item = HiddenField()
    answer = HiddenField()
    piece = HiddenField()
    pieces = HiddenField()
    touch_fl = StringField("Front left")
    touch_fr = StringField("Front right")
    touch_bl = StringField("Back left")
    touch_br = StringField("Back right")
