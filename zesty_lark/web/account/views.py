"""Signing in and out, the first account, and the people of the shop."""

import math
import secrets
from datetime import timedelta
from typing import Any
from urllib.parse import urlsplit

from flask import Blueprint, abort, current_app, flash, g, redirect, render_template, request, session, url_for
from flask.typing import ResponseReturnValue

from zesty_lark.settings import kept_secret
from zesty_lark.shopfloor.acts import people as acts
from zesty_lark.store import guessing, people, sign_ins
from zesty_lark.store.models.people import Role
from zesty_lark.web.account.forms import (
    ChangePersonForm,
    FirstUserForm,
    NewPasswordForm,
    OwnPasswordForm,
    PersonForm,
    SignInForm,
)
from zesty_lark.web.shared import database, errors, guard
from zesty_lark.web.shared.acting import in_shop
from zesty_lark.web.shared.forms import UnitForm
from zesty_lark.web.shared.guard import access
from zesty_lark.web.shared.wording import now

blueprint = Blueprint("account", __name__)


@blueprint.route("/sign-in", methods=["GET", "POST"])
@access(public=True, takes=SignInForm)
def sign_in() -> ResponseReturnValue:
    if not people.anyone(database.session()):
        return redirect(url_for("account.first_user"))
    if g.person is not None and request.method == "GET":
        return redirect(_safe_target(request.args.get("next")))
    form = SignInForm()
    if form.validate_on_submit():
        return _try_sign_in(form)
    return render_template("account/sign_in.html", form=form, wrong=None), 422 if form.errors else 200


def _try_sign_in(form: SignInForm) -> ResponseReturnValue:
    name, session_ = form.sign_in_name.data or "", database.session()
    counted = guessing.count(session_, name, request.remote_addr or "", now())
    if counted.wait:
        wrong = f"Too many wrong tries. Wait {_in_words(counted.wait)}, then try again; a lead can give a new password."
        return render_template("account/sign_in.html", form=form, wrong=wrong), 429
    who = people.matching(session_, name, form.password.data or "")
    if who is None:
        wrong = "Name and password do not go together. Check both; capitals matter in the password."
        return render_template("account/sign_in.html", form=form, wrong=wrong), 403
    guessing.succeeded(session_, counted, now())
    kept = errors.kept_form(request.form.get("kept", ""), who.id)
    guard.sign_in_session(who)
    if kept is not None:
        g.person = who
        return render_template("shared/resend.html", action=kept[0], fields=kept[1])
    return redirect(_safe_target(request.args.get("next")), 303)


def _in_words(wait: timedelta) -> str:
    seconds = math.ceil(wait.total_seconds())
    return f"{seconds} seconds" if seconds < 100 else f"{math.ceil(seconds / 60)} minutes"


def _safe_target(target: str | None) -> str:
    """Return a local address to go on to; anything else leads to the jobs."""
    if target and target.isprintable():
        parts = urlsplit(target)
        if not parts.scheme and not parts.netloc and target.startswith("/") and not target.startswith(("//", "/\\")):
            return target
    return url_for("jobs.strips")


@blueprint.post("/sign-out")
@access()
def sign_out() -> ResponseReturnValue:
    guard.sign_out_session()
    return redirect(url_for("account.sign_in"), 303)


@blueprint.route("/first-user", methods=["GET", "POST"])
@access(public=True, takes=FirstUserForm)
def first_user() -> ResponseReturnValue:
    if people.anyone(database.session()):
        abort(404)
    form = FirstUserForm()
    if form.validate_on_submit():
        expected = kept_secret(current_app.config["LARK_HOME"] / "first-user.code")
        if secrets.compare_digest(expected.encode(), (form.code.data or "").encode()):
            who = people.add_person(
                database.session(),
                sign_in_name=form.sign_in_name.data or "",
                name=form.name.data or "",
                role=Role.LEAD,
                password=form.new_password.data,
                at=now(),
            )
            guard.sign_in_session(who)
            flash("You are the first lead here. Add your machine, wheel and gauge, then take a job in.")
            return redirect(url_for("shop.shelves"), 303)
        form.code.errors = ["That is not the code. It is printed in the terminal where “lark up” runs."]
    return render_template("account/first_user.html", form=form), 422 if form.errors else 200


@blueprint.route("/people", methods=["GET", "POST"])
@access(Role.LEAD, takes=PersonForm)
def everyone() -> ResponseReturnValue:
    form = PersonForm()
    if form.validate_on_submit():
        try:
            added = acts.add_person(
                in_shop(),
                sign_in_name=form.sign_in_name.data or "",
                name=form.name.data or "",
                role=Role(form.role.data),
                password=form.new_password.data or "",
            )
        except people.NameTaken as error:
            form.sign_in_name.errors = [str(error)]
        else:
            flash(f"{added.name} can sign in as “{added.sign_in_name}”.")
            return redirect(url_for("account.everyone"), 303)
    return _people_page(form=form), 422 if form.errors else 200


def _people_page(**more: Any) -> str:
    shown = {"form": PersonForm(formdata=None), "password_form": NewPasswordForm(formdata=None)} | more
    session_, idle = database.session(), timedelta(hours=current_app.config["LARK_SESSION_HOURS"])
    return render_template(
        "account/people.html",
        everyone=people.everyone(session_),
        roles=list(Role),
        changes=people.changes(session_),
        sign_ins=sign_ins.everybody(session_, since=now() - idle),
        here=guard.this_sign_in(),
        **shown,
    )


@blueprint.post("/people/<int:key>/change")
@access(Role.LEAD, takes=ChangePersonForm)
def change_person(key: int) -> ResponseReturnValue:
    """Give somebody another name or role."""
    who, form = people.by_id(database.session(), key) or abort(404), ChangePersonForm()
    if not form.validate_on_submit():
        return _people_page(change_form=form, change_for=who), 422
    try:
        role = Role(form.role.data)
        changed = acts.change_person(in_shop(), sign_in_name=who.sign_in_name, name=form.name.data or "", role=role)
    except people.NoLead as error:
        form.role.errors = [str(error)]
        return _people_page(change_form=form, change_for=who), 422
    flash(f"{who.name} is kept as {who.role}." if changed else "Nothing was changed.")
    return redirect(url_for("account.everyone"), 303)


@blueprint.post("/people/<int:key>/sign-ins/<int:sign_in>/end")
@access(Role.LEAD)
def end_of_another(key: int, sign_in: int) -> ResponseReturnValue:
    """End a sign-in of somebody."""
    who = people.by_id(database.session(), key) or abort(404)
    if sign_in == guard.this_sign_in().id:
        return sign_out()
    if acts.end_sign_in(in_shop(), sign_in_name=who.sign_in_name, sign_in=sign_in):
        flash(f"That sign-in of {who.name} has ended.")
    return redirect(url_for("account.everyone"), 303)


@blueprint.post("/people/<int:key>/password")
@access(Role.LEAD, takes=NewPasswordForm)
def new_password(key: int) -> ResponseReturnValue:
    who = people.by_id(database.session(), key) or abort(404)
    form = NewPasswordForm()
    if form.validate_on_submit():
        acts.set_password(in_shop(), sign_in_name=who.sign_in_name, password=form.new_password.data or "")
        shut = "" if who.active else " They are still shut out."
        flash(f"{who.name} has a new password; wherever they were signed in, that has ended.{shut}")
        return redirect(url_for("account.everyone"), 303)
    return _people_page(password_form=form, password_for=who), 422


@blueprint.post("/people/<int:key>/active")
@access(Role.LEAD)
def switch_active(key: int) -> ResponseReturnValue:
    who = people.by_id(database.session(), key) or abort(404)
    try:
        if who.active:
            acts.shut_out(in_shop(), sign_in_name=who.sign_in_name)
            flash(f"{who.name} can no longer sign in; the record stays.")
        else:
            acts.let_in(in_shop(), sign_in_name=who.sign_in_name)
            flash(f"{who.name} can sign in again.")
    except (people.NoPassword, acts.NotYourself) as error:
        flash(str(error))
    return redirect(url_for("account.everyone"), 303)


@blueprint.route("/me", methods=["GET", "POST"])
@access(takes=OwnPasswordForm)
def me() -> ResponseReturnValue:
    """Where I am signed in, and my password."""
    who, form = guard.person(), OwnPasswordForm()
    if form.validate_on_submit():
        counted = guessing.count(database.session(), who.sign_in_name, request.remote_addr or "", now())
        if counted.wait:
            form.old_password.errors = [f"Too many wrong tries. Wait {_in_words(counted.wait)}."]
        elif not people.is_right(who, form.old_password.data or ""):
            form.old_password.errors = ["That is not your password of now."]
        else:
            guessing.succeeded(database.session(), counted, now())
            people.set_password(database.session(), who, form.new_password.data or "", but=guard.this_sign_in())
            flash("Your password is changed; wherever else you were signed in, that has ended.")
            return redirect(url_for("account.me"), 303)
    return render_template(
        "account/me.html", form=form, sign_ins=sign_ins.of_person(database.session(), who), here=guard.this_sign_in()
    ), 422 if form.errors else 200


@blueprint.post("/me/sign-ins/<int:key>/end")
@access()
def end_sign_in(key: int) -> ResponseReturnValue:
    if key == guard.this_sign_in().id:
        return sign_out()
    if sign_ins.end(database.session(), guard.person(), key):
        flash("That sign-in has ended.")
    return redirect(url_for("account.me"), 303)


@blueprint.post("/unit")
@access(takes=UnitForm)
def switch_unit() -> ResponseReturnValue:
    session["unit"] = "other" if session.get("unit", "own") == "own" else "own"
    return redirect(_safe_target(request.form.get("back")), 303)
