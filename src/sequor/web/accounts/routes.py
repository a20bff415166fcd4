"""Signing in and out."""

from __future__ import annotations

from apiflask import APIBlueprint
from flask import session
from flask_login import logout_user

from sequor.operations.accounts import change_password as change
from sequor.operations.accounts import end_sessions, signed_in
from sequor.web.accounts.network import Visitor, begin, visitor
from sequor.web.accounts.schemas import PasswordIn, SignInIn
from sequor.web.context import context
from sequor.web.problems import Problem

accounts = APIBlueprint("accounts", __name__, url_prefix="/api", tag="Accounts")


@accounts.before_request
def _only_on_a_network() -> None:
    if not context().guard.access.network:
        raise Problem(409, "No accounts", "Sequor is open to this computer only; nobody signs in here")


@accounts.post("/sign-in")
@accounts.input(SignInIn)
@accounts.output({}, status_code=204)
def sign_in(json_data: SignInIn) -> str:
    """Begin a session."""
    account = signed_in(context().store, json_data.name, json_data.password)
    if account is None:
        raise Problem(401, "Not signed in", "This name and password do not belong together")
    begin(account)
    return ""


@accounts.post("/sign-out")
@accounts.output({}, status_code=204)
def sign_out() -> str:
    """End this session."""
    logout_user()
    session.clear()
    return ""


@accounts.post("/sign-out-everywhere")
@accounts.output({}, status_code=204)
def sign_out_everywhere() -> str:
    """End all sessions of the account."""
    end_sessions(context().store, _mine().id)
    session.clear()
    return ""


@accounts.post("/password")
@accounts.input(PasswordIn)
@accounts.output({}, status_code=204)
def change_password(json_data: PasswordIn) -> str:
    """Change the password; all other sessions end."""
    begin(change(context().store, _mine().id, json_data.old, json_data.new))
    return ""


def _mine() -> Visitor:
    who = visitor()
    assert who is not None
    return who
