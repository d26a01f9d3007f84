"""Forms for signing in and for people."""

from wtforms import HiddenField, PasswordField, SelectField
from wtforms.validators import DataRequired, Length, Regexp

from zesty_lark.store.models.people import Role
from zesty_lark.store.people import PASSWORD_LEAST_LENGTH
from zesty_lark.web.shared.fields import Trimmed, choice_list
from zesty_lark.web.shared.forms import PostedForm

_NAME_RULES = (
    DataRequired("A sign-in name is needed."),
    Length(max=40, message="At most 40 characters."),
    Regexp(r"^[a-z0-9][a-z0-9._-]*$", message="Small letters, digits, dots and dashes only."),
)
_PASSWORD_RULES = (
    DataRequired("A password is needed."),
    Length(min=PASSWORD_LEAST_LENGTH, max=200, message=f"At least {PASSWORD_LEAST_LENGTH} characters; a few words do."),
)


class SignInForm(PostedForm):
    sign_in_name = Trimmed("Sign-in name", validators=[DataRequired("Who are you?")])
    password = PasswordField("Password", validators=[DataRequired("The password is missing."), Length(max=200)])
    kept = HiddenField()


class PersonForm(PostedForm):
    sign_in_name = Trimmed("Sign-in name", validators=list(_NAME_RULES))
    name = Trimmed("Name", validators=[DataRequired("The name shown to others is needed."), Length(max=80)])
    role = SelectField("Role", choices=choice_list([(role.value, role.value) for role in Role]))
    new_password = PasswordField("First password", validators=list(_PASSWORD_RULES))


class ChangePersonForm(PostedForm):
    """Another name or role for somebody."""

    name = Trimmed("Name", validators=[DataRequired("The name shown to others is needed."), Length(max=80)])
    role = SelectField("Role", choices=choice_list([(role.value, role.value) for role in Role]))


class FirstUserForm(PostedForm):
    code = Trimmed("Code from the terminal", validators=[DataRequired("The code is printed where “lark up” runs.")])
    sign_in_name = Trimmed("Sign-in name", validators=list(_NAME_RULES))
    name = Trimmed("Name", validators=[DataRequired("The name shown to others is needed."), Length(max=80)])
    new_password = PasswordField("Password", validators=list(_PASSWORD_RULES))


class OwnPasswordForm(PostedForm):
    old_password = PasswordField("Password of now", validators=[DataRequired("The password of now is missing.")])
    new_password = PasswordField("New password", validators=list(_PASSWORD_RULES))


class NewPasswordForm(PostedForm):
    new_password = PasswordField("New password", validators=list(_PASSWORD_RULES))
