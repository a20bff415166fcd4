"""Several processes that answer at one door: what one counts or stores the others know, and each comes back."""

from __future__ import annotations

import json
import os
import signal
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import pytest
from clients import waited
from launch.test_network import WITHIN, WORD, add, asked
from prometheus_client.parser import text_string_to_metric_families
from starting import started

from sequor.launch import servers
from sequor.launch.door import Door
from sequor.launch.processes import StartError
from sequor.launch.servers import Servers
from sequor.store.database import Store
from sequor.web.serving import listening

ASKED = 7


def number_of(data: Path, name: str) -> int:
    """The number of one process, as it was noted; 0 while it is being noted."""
    noted = (data / f"{name}.pid").read_text() or '{"pid": 0}'
    return int(json.loads(noted)["pid"])


def stopped(number: int) -> bool:
    """Whether all threads of a process are (proc(5))."""
    try:
        tasks = [task.read_text() for task in Path(f"/proc/{number}/task").glob("*/stat")]
    except OSError:
        # One has just ended.
        return False
    return all(task.rsplit(")", 1)[1].split()[0] == "T" for task in tasks)


@contextmanager
def alone(data: Path, name: str) -> Iterator[None]:
    """All others do nothing meanwhile, so that it is this one that answers."""
    others = [number_of(data, note.stem) for note in data.glob("web-*.pid") if note.stem != name]
    for number in others:
        os.kill(number, signal.SIGSTOP)
    # A thread that does not know it yet could still take a connection.
    waited(lambda: all(stopped(number) for number in others))
    try:
        yield
    finally:
        for number in others:
            os.kill(number, signal.SIGCONT)


def signed_in(address: str) -> dict[str, Any]:
    """The headers of a page whose user has signed in."""
    headers: dict[str, Any] = {}
    for path, body in (("session", None), ("sign-in", {"name": "Ada", "password": WORD}), ("session", None)):
        status, told, words = asked(f"{address}api/{path}", headers, body)
        assert status in (200, 204)
        if "Set-Cookie" in told:
            headers["Cookie"] = told["Set-Cookie"].split(";")[0]
        if words:
            headers["X-Sequor-Token"] = json.loads(words)["token"]
    return headers


def answered(address: str, secret: str) -> float:
    """How many answers there were to who asked for the list of photos."""
    status, _, words = asked(f"{address}metrics", {"Authorization": f"Bearer {secret}"})
    assert status == 200
    return sum(
        one.value
        for family in text_string_to_metric_families(words.decode())
        for one in family.samples
        if one.name == "sequor_request_seconds_count" and one.labels["address"] == "/api/photos"
    )


def test_each_answers_for_all(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    assert add(monkeypatch, tmp_path, "--add-user", "Ada") == 0
    with started(tmp_path, "--no-demo", "--listen", "127.0.0.1") as (address, program):
        both = ("web-1", "web-2")
        page = signed_in(address)
        for name in both:
            with alone(tmp_path, name):
                for _ in range(ASKED):
                    assert asked(f"{address}api/photos", page)[0] == 200
        assert answered(address, (tmp_path / "token").read_text().strip()) == 2 * ASKED

        # One counts who fails to sign in, and the other refuses them too.
        wrong = {"name": "Ada", "password": "a wrong guess, again"}
        with alone(tmp_path, "web-2"):
            tried = [asked(f"{address}api/sign-in", page, wrong)[0] for _ in range(21)]
        with alone(tmp_path, "web-1"):
            assert asked(f"{address}api/sign-in", page, wrong)[0] == 429
        assert tried[0] == 401 and tried[-1] == 429

        # One that is killed is missed by nobody, and comes back.
        before = number_of(tmp_path, "web-1")
        os.kill(before, signal.SIGKILL)
        assert asked(f"{address}api/photos", page)[0] == 200
        waited(lambda: number_of(tmp_path, "web-1") not in (0, before))
        with alone(tmp_path, "web-1"):
            assert asked(f"{address}api/photos", page)[0] == 200
        left = [number_of(tmp_path, note.stem) for note in tmp_path.glob("web-*.pid")]
        program.send_signal(signal.SIGTERM)
        assert program.wait(WITHIN) == 0
    assert not any(Path(f"/proc/{number}").exists() for number in left)


def test_one_that_cannot_answer_is_said(store: Store, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(servers, "PROGRAM", "sequor.nowhere")
    with listening(0) as at:
        together = Servers(store, Door(at.getsockname()[1]), at, os.environ)
        try:
            with pytest.raises(StartError, match="see web-1.log in"):
                together.wait_until_ready()
        finally:
            together.stop()
    assert "sequor.nowhere" in (store.folder / "web-1.log").read_text()
