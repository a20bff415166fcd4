"""An application that is open to a network: sessions of people who signed in, and bounds of trying."""

from __future__ import annotations

import logging
from dataclasses import dataclass
from datetime import timedelta
from typing import Any

from apiflask import APIFlask
from flask import Flask, Response, g, request, session
from flask.sessions import SecureCookieSessionInterface
from flask_limiter import Limiter, RateLimitExceeded
from flask_limiter.util import get_remote_address
from flask_login import LoginManager, UserMixin, current_user, login_user

from sequor.operations.accounts import account_of
from sequor.store.database import Store
from sequor.store.models import Account
from sequor.store.owners import NOBODY
from sequor.web.problems import Problem

audit = logging.getLogger("sequor.audit")

SIGN_IN, CHANGE = "accounts.sign_in", "accounts.change_password"
LASTS = timedelta(hours=12)
"""For so long a session lasts."""
FROM_ONE_ADDRESS, OF_ONE_NAME = "20 per minute; 100 per hour", "50 per hour"
"""How often somebody may fail to sign in (OWASP ASVS 4.0.3, 2.2.1: at most 100 an hour for an account)."""


@dataclass(frozen=True)
class Access:
    """Who an application is for. On one computer: the account ``home``. Open to a network: whoever signs in;
    ``secret`` signs their cookies, ``counted_in`` is the address of what counts their failures, memory:// or
    that of Redis."""

    home: int = NOBODY
    secret: str = ""
    counted_in: str = "memory://"

    @property
    def network(self) -> bool:
        """Whether it is open to a network."""
        return bool(self.secret)


ALONE = Access()


class Visitor(UserMixin):  # type: ignore[misc]
    """Somebody who has signed in."""

    def __init__(self, account: Account) -> None:
        self.id, self.name, self._stamp = account.id, account.name, account.stamp

    def get_id(self) -> str:
        """What the session's cookie holds, signed."""
        return f"{self.id}.{self._stamp}"


class _Cookies(SecureCookieSessionInterface):
    """Cookies that only this address gets, and over TLS nothing but it (RFC 6265bis, the prefix __Host-)."""

    def get_cookie_name(self, app: Flask) -> str:
        """By its name browsers hold it to that."""
        return "__Host-sequor" if self.get_cookie_secure(app) else "sequor"

    def get_cookie_secure(self, app: Flask) -> bool:
        """As the request came."""
        return request.is_secure


def open_to_network(app: APIFlask, store: Store, access: Access) -> None:
    """Let people sign in to an application."""
    app.config.update(
        SECRET_KEY=access.secret,
        SESSION_COOKIE_HTTPONLY=True,
        SESSION_COOKIE_SAMESITE="Strict",
        PERMANENT_SESSION_LIFETIME=LASTS,
        # A cookie that is another one each time would let no browser keep a picture (Vary: Cookie).
        SESSION_REFRESH_EACH_REQUEST=False,
    )
    app.session_interface = _Cookies()
    manager = LoginManager(app)
    manager.session_protection = None

    @manager.user_loader  # type: ignore[untyped-decorator]
    def _load(told: str) -> Visitor | None:
        number, _, stamp = told.partition(".")
        account = account_of(store, int(number), stamp) if number.isdecimal() else None
        return None if account is None else Visitor(account)

    limiter = Limiter(
        get_remote_address, app=app, storage_uri=access.counted_in, in_memory_fallback_enabled=True
    )
    for endpoint in (SIGN_IN, CHANGE):
        view: Any = app.view_functions[endpoint]
        for often, of in ((FROM_ONE_ADDRESS, get_remote_address), (OF_ONE_NAME, _name)):
            view = limiter.limit(often, key_func=of, deduct_when=_failed)(view)
        app.view_functions[endpoint] = view

    @app.errorhandler(RateLimitExceeded)
    def _too_often(error: RateLimitExceeded) -> Response:
        return Problem(429, "Too often", "Tried too often. Wait a while, then try again").response()


def visitor() -> Visitor | None:
    """Whoever asks, if they have signed in. Raises SQLAlchemyError."""
    # Not the name that stands for whoever it is just then: that is nobody after a sign-out.
    found = current_user._get_current_object()
    who = found if isinstance(found, Visitor) else None
    g.visitor = who
    return who


def begin(account: Account) -> None:
    """Begin a session."""
    # Nothing of before goes over, not even what the page was told to name itself by.
    session.clear()
    session.permanent = True
    login_user(Visitor(account))
    visitor()


def note(response: Response) -> None:
    """Note who asked for a change, or for what is not theirs: names of the program's own and numbers."""
    if request.method in ("GET", "HEAD", "OPTIONS") and response.status_code not in (401, 403, 429):
        return
    # Not asked for anew: the database may be what did not answer.
    who: Visitor | None = g.get("visitor")
    numbers = {name: value for name, value in (request.view_args or {}).items() if isinstance(value, int)}
    audit.info(
        "%s %s %s: %d, account %s, from %s",
        request.method,
        request.endpoint or "nothing",
        " ".join(f"{name} {value}" for name, value in numbers.items()) or "-",
        response.status_code,
        "-" if who is None else who.id,
        request.remote_addr,
    )


def _failed(response: Response) -> bool:
    return response.status_code >= 400


def _name() -> str:
    who = visitor()
    told = request.get_json(silent=True)
    return str(who.id if who is not None else told.get("name") if isinstance(told, dict) else "")[:200]
