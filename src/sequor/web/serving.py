"""The web server."""

from __future__ import annotations

import contextlib
import socket
import threading
from collections.abc import Iterator

from apiflask import APIFlask
from waitress.server import create_server

from sequor.web.app import LARGEST_BODY

THREADS = 24
"""Most of them wait: for the database, for a lock, or for their turn to work out a picture."""
WAITING = 1024
"""So many may wait at a door until their connection is taken."""

PROXY_HEADERS = {"x-forwarded-for", "x-forwarded-host", "x-forwarded-proto"}


def listening(port: int, address: str = "127.0.0.1") -> socket.socket:
    """A door: a socket that listens at a port, 0 for any that is free. Raises OSError."""
    family = socket.AF_INET6 if ":" in address else socket.AF_INET
    return socket.create_server((address, port), family=family, backlog=WAITING)


@contextlib.contextmanager
def answering(
    app: APIFlask, door: socket.socket, patience: float = 5, proxy: str | None = None
) -> Iterator[tuple[int, threading.Thread]]:
    """The application, answering meanwhile at a door, at which other processes may answer too: the port, and
    the thread that ends when something went wrong. ``patience``: for how many seconds what is being answered
    may go on at the end; ``proxy``: the address of a reverse proxy that is believed about who asks, for which
    host, and how.

    Raises OSError.
    """
    believed = (
        {}
        if proxy is None
        else {
            "trusted_proxy": proxy,
            "trusted_proxy_count": 1,
            "trusted_proxy_headers": PROXY_HEADERS,
            "clear_untrusted_proxy_headers": True,
        }
    )
    server = create_server(
        app,
        sockets=[door],
        threads=THREADS,
        ident=None,
        # What is only a little too large is refused in words.
        max_request_body_size=LARGEST_BODY + 10_000_000,
        # Only so does an answer learn that nobody waits for it any more.
        channel_request_lookahead=1,
        **believed,
    )

    def run() -> None:
        # Closing the server under its select is how waitress is stopped from another thread.
        with contextlib.suppress(OSError):
            server.run()

    thread = threading.Thread(target=run, daemon=True)
    thread.start()
    try:
        yield server.effective_port, thread
    finally:
        # What is being answered may end; its threads would stumble over what is closed under them.
        server.task_dispatcher.shutdown(timeout=patience)
        server.close()
