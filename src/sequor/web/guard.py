"""Who may talk to the server: only pages it served itself, on this computer."""

from __future__ import annotations

import hmac
import secrets
from pathlib import Path

from flask import Response, g, request

from sequor.jobs.logs import REQUEST
from sequor.web.problems import Problem

SAFE = {"GET", "HEAD", "OPTIONS"}
TOKEN_HEADER = "X-Sequor-Token"


class Guard:
    """Checks on every request, and the headers of every answer.

    Host must be one of ours (against DNS rebinding), an Origin must be our own, and a request that
    changes something must carry the token that only a page of ours can read.
    """

    def __init__(self, token: str) -> None:
        self.token = token

    def before(self) -> None:
        """Refuse a foreign request."""
        g.nonce = secrets.token_urlsafe(16)
        host = request.headers.get("Host", "")
        if host.rsplit(":", 1)[0] not in ("127.0.0.1", "localhost"):
            raise Problem(421, "Wrong host", "Open this page as http://127.0.0.1 with its port")
        origin = request.headers.get("Origin")
        if origin is not None and origin != f"http://{host}":
            raise Problem(403, "Foreign page", "Requests from other websites are not allowed")
        if request.method not in SAFE:
            given = request.headers.get(TOKEN_HEADER, "")
            if not hmac.compare_digest(given.encode(), self.token.encode()):
                raise Problem(403, "Not from this page", "Reload the page and try again")

    def after(self, response: Response) -> Response:
        """Allow only what ships."""
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
    file = folder / "token"
    if not file.is_file():
        file.touch(mode=0o600)
        file.write_text(secrets.token_urlsafe(32))
    return file.read_text().strip()
