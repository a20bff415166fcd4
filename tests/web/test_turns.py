"""Pictures take turns: what else is asked has its answer, and what nobody waits for is not worked out."""

from __future__ import annotations

import json
import os
import socket
import threading
import time
import urllib.request

import pytest
from apiflask import APIFlask
from clients import Importer, waited
from pictures import jpeg_bytes, smooth_picture

from sequor.operations import rendering
from sequor.web.serving import answering, listening

MANY = 12
AT_ONCE = max(2, os.cpu_count() or 1)


def test_pictures_hold_up_nothing_and_those_left_are_not_made(
    app: APIFlask, bring: Importer, monkeypatch: pytest.MonkeyPatch
) -> None:
    photo = bring(jpeg_bytes(smooth_picture(300, 200))).photo_id
    begun: list[int] = []
    let_go = threading.Event()

    def slow(*asked: object) -> bytes:
        begun.append(1)
        assert let_go.wait(60)
        return b"a picture"

    monkeypatch.setattr(rendering, "thumbnail", slow)
    with answering(app, listening(0), patience=60) as (port, _):
        with urllib.request.urlopen(f"http://127.0.0.1:{port}/api/photos/{photo}") as answer:
            revision = json.load(answer)["photo"]["revision"]
        asking = []
        for _ in range(MANY):
            connection = socket.create_connection(("127.0.0.1", port))
            address = f"/api/photos/{photo}/thumbnail/{revision}.jpg"
            connection.sendall(f"GET {address} HTTP/1.1\r\nHost: 127.0.0.1:{port}\r\n\r\n".encode())
            asking.append(connection)
        waited(lambda: len(begun) == AT_ONCE)
        with urllib.request.urlopen(f"http://127.0.0.1:{port}/api/photos", timeout=30) as answer:
            assert answer.status == 200

        # All but the last leave; that one is answered, and of the others only what was begun was made.
        for connection in asking[:-1]:
            connection.close()
        time.sleep(3)
        let_go.set()
        assert asking[-1].recv(100).startswith(b"HTTP/1.1 200")
        asking[-1].close()
    assert len(begun) <= AT_ONCE + 1
