"""A painter that misbehaves in every way it can: there is an error that says what happened, in time."""

from __future__ import annotations

import base64
import io
import json
import socket
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager

import numpy as np
import pytest
from PIL import Image

from sequor.painter import client
from sequor.painter.client import Painter, PainterError

PICTURE = np.full((20, 30, 3), 90, np.uint8)
MASK = np.zeros((20, 30), np.bool_)
MASK[5:10, 5:10] = True

Serve = Callable[[socket.socket], None]


@contextmanager
def painter(serve: Serve) -> Iterator[Painter]:
    """A server on loopback that does this with one connection."""
    with socket.create_server(("127.0.0.1", 0)) as listening:

        def run() -> None:
            connection, _ = listening.accept()
            with connection:
                serve(connection)

        thread = threading.Thread(target=run, daemon=True)
        thread.start()
        yield Painter(f"http://127.0.0.1:{listening.getsockname()[1]}")
        thread.join(5)


@contextmanager
def silent() -> Iterator[Painter]:
    """A server that listens and says nothing, until this is left."""
    let_go = threading.Event()

    def serve(connection: socket.socket) -> None:
        read_request(connection)
        let_go.wait(5)

    with painter(serve) as one:
        try:
            yield one
        finally:
            let_go.set()


def read_request(connection: socket.socket) -> bytes:
    """Read a whole request."""
    read = b""
    while b"\r\n\r\n" not in read:
        read += connection.recv(65536)
    head, _, body = read.partition(b"\r\n\r\n")
    length = int(
        next(line for line in head.lower().split(b"\r\n") if b"content-length" in line).split(b":")[1]
    )
    while len(body) < length:
        body += connection.recv(65536)
    return body


def answer(body: bytes, status: str = "200 OK", length: int | None = None) -> Serve:
    def serve(connection: socket.socket) -> None:
        read_request(connection)
        told = len(body) if length is None else length
        connection.sendall(f"HTTP/1.1 {status}\r\nContent-Length: {told}\r\n\r\n".encode() + body)

    return serve


def painting(width: int, height: int) -> bytes:
    buffer = io.BytesIO()
    Image.new("RGB", (width, height), (1, 2, 3)).save(buffer, "PNG")
    return json.dumps(
        {"takes": [{"picture": base64.b64encode(buffer.getvalue()).decode(), "seed": 1}]}
    ).encode()


def paint(one: Painter) -> np.ndarray:
    return one.paint(PICTURE, MASK, "sky", 1)


def test_what_it_paints_comes_back() -> None:
    with painter(answer(painting(30, 20))) as one:
        assert np.array_equal(paint(one), np.full((20, 30, 3), (1, 2, 3), np.uint8))


def test_what_it_is_asked() -> None:
    asked: list[dict[str, object]] = []

    def serve(connection: socket.socket) -> None:
        asked.append(json.loads(read_request(connection)))
        connection.sendall(b"HTTP/1.1 200 OK\r\nConnection: close\r\n\r\n" + painting(30, 20))

    with painter(serve) as one:
        paint(one)
    (body,) = asked
    assert (body["format"], body["version"], body["hint"], body["seed"], body["count"]) == (
        "sequor-paint",
        1,
        "sky",
        1,
        1,
    )
    mask = np.asarray(Image.open(io.BytesIO(base64.b64decode(str(body["mask"])))))
    assert np.array_equal(mask, np.where(MASK, 255, 0))


@pytest.mark.parametrize(
    ("serve", "words"),
    [
        (answer(b"<html>hello</html>"), "no picture"),
        (answer(b'{"takes": []}'), "no picture"),
        (answer(b'{"takes": [{"picture": "!!!", "seed": 1}]}'), "no picture"),
        (answer(b'{"takes": [{"picture": "aGVsbG8=", "seed": 1}]}'), "damaged"),
        (answer(painting(31, 20)), "31 × 20 pixels in place of 30 × 20"),
        (answer(painting(30, 20)[:-40], length=len(painting(30, 20))), "broke off"),
        (answer(b'{"title": "Busy", "detail": "come back later"}', "503 Busy"), "refused: come back later"),
        (answer(b"", "500 Oops"), "status 500 and no reason"),
        (answer(b"", "302 Found\r\nLocation: http://127.0.0.1:1/"), "status 302"),
        (lambda connection: connection.recv(10), "broke off"),
        (
            lambda connection: (read_request(connection), connection.sendall(b"nonsense\r\n\r\n"))[1],
            "broke off",
        ),
    ],
)
def test_whatever_it_does_is_said(serve: Serve, words: str) -> None:
    with painter(serve) as one, pytest.raises(PainterError, match=words):
        paint(one)


def test_nobody_there() -> None:
    with socket.create_server(("127.0.0.1", 0)) as listening:
        port = listening.getsockname()[1]
    with pytest.raises(PainterError, match="does not answer at its address"):
        paint(Painter(f"http://127.0.0.1:{port}"))


def test_it_takes_too_long(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(client, "SILENT_SECONDS", 0.2)
    with silent() as one, pytest.raises(PainterError, match="in time"):
        paint(one)


def test_it_dribbles(monkeypatch: pytest.MonkeyPatch) -> None:
    """A byte now and then keeps the line open, but not for ever."""
    monkeypatch.setattr(client, "WHOLE_SECONDS", 0.4)
    let_go = threading.Event()

    def serve(connection: socket.socket) -> None:
        read_request(connection)
        connection.sendall(b"HTTP/1.1 200 OK\r\nTransfer-Encoding: chunked\r\n\r\n")
        try:
            while not let_go.wait(0.05):
                connection.sendall(b"10000\r\n" + b"x" * 65536 + b"\r\n")
        except OSError:
            return

    with painter(serve) as one:
        with pytest.raises(PainterError, match="in time"):
            paint(one)
        let_go.set()


def test_more_than_a_picture_is_not_read(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(client, "MOST_BYTES", 1000)
    with painter(answer(b"x" * 100_000)) as one, pytest.raises(PainterError, match="more than a picture"):
        paint(one)


def test_whoever_waits_may_go() -> None:
    class Stopped(Exception):
        pass

    def stop() -> None:
        raise Stopped

    with silent() as one, pytest.raises(Stopped):
        one.paint(PICTURE, MASK, "sky", 1, stop)


@pytest.mark.parametrize(
    "address", ["painter", "ftp://here", "http://", "http://a:b", "http://u@h", "http://h/?a=1"]
)
def test_what_is_no_address(address: str) -> None:
    with pytest.raises(ValueError, match="no address of a painter"):
        Painter(address)
