"""Messages about accounts."""

from __future__ import annotations

from typing import Annotated

from pydantic import StringConstraints

from sequor.operations.accounts import LONGEST, LONGEST_NAME
from sequor.web.wire import Wire

Password = Annotated[str, StringConstraints(max_length=LONGEST)]


class SignInIn(Wire):
    """Who signs in."""

    name: Annotated[str, StringConstraints(max_length=LONGEST_NAME)]
    password: Password


class PasswordIn(Wire):
    """The present password and the next."""

    old: Password
    new: Password
