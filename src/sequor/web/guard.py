"""Who may talk to the server: on one computer only pages it served itself; on a network who has signed in,
each about what is theirs."""

from __future__ import annotations

import hmac
import secrets
from dataclasses import dataclass
from pathlib import Path

from flask import Response, g, request, session

from sequor.jobs.logs import REQUEST
from sequor.operations.photos import refuse_others
from sequor.store.database import Store
from sequor.store.files import kept_secret
from sequor.store.owners import NOBODY, act_for, acting_for
from sequor.web.accounts.network import SIGN_IN, Access, note, visitor
from sequor.web.problems import Problem

SAFE = {"GET", "HEAD", "OPTIONS"}
TOKEN_HEADER = "X-Sequor-Token"
PUBLIC = {"page", "asset", "icon", "going_on.health"}
"""Endpoints that are the same for everybody: the page itself, and whether the program is well."""
THE_WAY_IN = {"photos.session", SIGN_IN}
"""Endpoints that need nobody to have signed in."""
FIGURES = "going_on.metrics"


@dataclass(frozen=True)
class Guard:
    """Checks on every request, and the headers of every answer.

    An Origin must be our own, and a request that changes something must carry the token that only a page of
    ours can read. On one computer Host must be one of ours (against DNS rebinding), and all is for
    one account; on a network a session says for whom.
    """

    store: Store
    secret: str
    access: Access

    def before(self) -> None:
        """Refuse a foreign request."""
        g.nonce = secrets.token_urlsafe(16)
        host = request.headers.get("Host", "")
        if not self.access.network and host.rsplit(":", 1)[0] not in ("127.0.0.1", "localhost"):
            raise Problem(421, "Wrong host", "Open this page as http://127.0.0.1 with its port")
        origin = request.headers.get("Origin")
        if origin is not None and origin != f"{request.scheme}://{host}":
            raise Problem(403, "Foreign page", "Requests from other websites are not allowed")
        act_for(self._visitor() if self.access.network else self.access.home)
        if request.method not in SAFE:
            given = request.headers.get(TOKEN_HEADER, "")
            if not hmac.compare_digest(given.encode(), self.token().encode()):
                raise Problem(403, "Not from this page", "Reload the page and try again")

    def token(self) -> str:
        """What a page must tell to change something: on a network each session has its own."""
        if not self.access.network:
            return self.secret
        told: str = session.setdefault("token", secrets.token_urlsafe(32))
        return told

    def _visitor(self) -> int | None:
        """For whom a request is; None: for nobody in particular. Raises Problem."""
        if request.endpoint == FIGURES:
            given = request.headers.get("Authorization", "")
            if not hmac.compare_digest(given.encode(), f"Bearer {self.secret}".encode()):
                raise Problem(401, "Not for everybody", "These figures need the token of the data folder")
            return None
        who = None if request.endpoint in PUBLIC else visitor()
        if who is None:
            if request.endpoint in PUBLIC | THE_WAY_IN:
                return NOBODY
            raise Problem(401, "Not signed in", "Sign in first. What was saved is kept")
        photo = (request.view_args or {}).get("photo_id")
        if photo is not None:
            with acting_for(who.id):
                refuse_others(self.store, photo)
        return who.id

    def after(self, response: Response) -> Response:
        """Allow only what ships."""
        if self.access.network:
            note(response)
            if request.is_secure:
                response.headers["Strict-Transport-Security"] = "max-age=31536000"
        response.headers["Content-Security-Policy"] = (
            "default-src 'none'; script-src 'self'; "
            f"style-src 'self' 'nonce-{g.get('nonce', '')}'; img-src 'self' blob:; font-src 'self'; "
            "connect-src 'self'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'"
        )
        response.headers["X-Content-Type-Options"] = "nosniff"
        response.headers["Referrer-Policy"] = "no-referrer"
        response.headers["Cross-Origin-Resource-Policy"] = "same-origin"
        response.headers["Cross-Origin-Opener-Policy"] = "same-origin"
        response.headers["X-Request-Id"] = REQUEST.get() or ""
        response.headers.setdefault("Cache-Control", "no-store")
        return response


def token_of(folder: Path) -> str:
    """The installation's token: kept, so that pages stay usable over a restart."""
    return kept_secret(folder / "token")
