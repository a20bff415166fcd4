"""Many users at once: each draws, drags, stores and exports on a photo of his own.

    PYTHONPATH=src:.:tests .venv/bin/python -m benchmarks.users [--users 20] [--seconds 180] [--pause 5]

The program is open to a network, and each has an account. A user draws a line, drags the tilt (fifteen
evaluations, ten a second), stores it, pauses (--pause, more or less), and now and then exports; alone first,
then all of them.
"""

from __future__ import annotations

import argparse
import http.client
import os
import random
import statistics
import subprocess
import sys
import tempfile
import threading
import time
from pathlib import Path
from typing import Any

from benchmarks.crowd import TWO, views
from benchmarks.program import ROOT, Program, answered
from sequor.launch.mariadb import free_port

WORD = "twenty people at one door"
DRAGS, EXPORTED_EVERY = 15, 6
ENDED = ("done", "failed", "cancelled")


class Visitor:
    """Somebody who has signed in, over one connection that is kept, as browsers do; None instead of an answer
    when there is none."""

    def __init__(self, port: int, name: str) -> None:
        self._connection = http.client.HTTPConnection("127.0.0.1", port, timeout=60)
        self._headers: dict[str, str] = {}
        for method, path, body in (
            ("GET", "/api/session", None),
            ("POST", "/api/sign-in", {"name": name, "password": WORD}),
            ("GET", "/api/session", None),
        ):
            answer = self(method, path, body)
            assert answer is not None and answer[0] in (200, 204), answer
            if answer[1] is not None:
                self._headers["X-Sequor-Token"] = answer[1]["token"]

    def __call__(
        self, method: str, path: str, body: Any = None, version: int | None = None
    ) -> tuple[int, Any] | None:
        found = answered(self._connection, self._headers, method, path, body, version)
        if found is None:
            return None
        answer, words = found
        if cookie := answer.headers.get("Set-Cookie"):
            self._headers["Cookie"] = cookie.split(";")[0]
        return answer.status, words


class User:
    """One of them; ``took``: milliseconds of each evaluation, ``wrong``: what went wrong."""

    def __init__(self, visitor: Visitor, photo: int, seed: int, pause: float) -> None:
        self._pause = pause
        self._ask, self._photo, self._chance = visitor, photo, random.Random(seed)
        self.took: list[float] = []
        self.wrong: list[str] = []
        self.stored = self.exported = 0
        self._now: dict[str, Any] = {}

    def work(self, until: float) -> None:
        """Until a moment. People do not all begin in the same one."""
        time.sleep(self._pause * self._chance.uniform(0, 1.5))
        self._now = self._said("GET", f"/api/photos/{self._photo}", None, 200) or {}
        turn = 0
        while time.monotonic() < until:
            turn += 1
            rise = self._chance.uniform(-40, 40)
            points = [[200, 600], [1500, 600 + rise]]
            self._store({"do": "clear lines"} if turn % 4 == 0 else self._line(turn, points))
            self._drag()
            self._store({"do": "take out", "angle": "roll", "degrees": self._chance.uniform(-3, 3)})
            if turn % EXPORTED_EVERY == 1:
                self._export()
            time.sleep(self._pause * self._chance.uniform(0.5, 1.5))

    def _line(self, turn: int, points: list[list[float]]) -> dict[str, Any]:
        return {"do": "lay", "line": f"r{turn}", "kind": "level", "points": points}

    def _drag(self) -> None:
        recipe = self._now.get("recipe")
        for step in range(DRAGS):
            asked = {"recipe": recipe, "action": {"do": "take out", "angle": "roll", "degrees": 0.1 * step}}
            begun = time.perf_counter()
            self._said("POST", "/api/evaluate", asked, 200)
            self.took.append(1000 * (time.perf_counter() - begun))
            time.sleep(0.1)

    def _store(self, action: dict[str, Any]) -> None:
        # As the page does: what an answer tells is gone by from then on.
        version = self._now.get("photo", {}).get("version")
        self._now = self._said("POST", f"/api/photos/{self._photo}/revise", action, 200, version) or self._now
        self.stored += 1

    def _export(self) -> None:
        job = self._said("POST", f"/api/photos/{self._photo}/exports", {"export": {"quality": 90}}, 202)
        while job is not None and job["state"] not in ENDED:
            time.sleep(0.5)
            job = self._said("GET", f"/api/jobs/{job['id']}", None, 200)
        if job is None or job["state"] != "done":
            self.wrong.append(f"an export ended {job and job['state']}")
        self.exported += 1

    def _said(self, method: str, path: str, body: Any, status: int, version: int | None = None) -> Any:
        answer = self._ask(method, path, body, version)
        if answer is None or answer[0] not in (status, 201):
            self.wrong.append(f"{method} {path}: {answer and (answer[0], str(answer[1])[:200])}")
            return None
        return answer[1]


def cores() -> list[int]:
    """How long the cores have been at each thing, in ticks; the eighth: taken by the host for others."""
    return [int(one) for one in Path("/proc/stat").read_text().splitlines()[0].split()[1:9]]


def at_work(users: list[User], seconds: float) -> float:
    """The 95th percentile of their evaluations, in milliseconds, while all work."""
    until, before = time.monotonic() + seconds, cores()
    threads = [threading.Thread(target=user.work, args=(until,)) for user in users]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    took = [one for user in users for one in user.took]
    parts = statistics.quantiles(took, n=20)
    spent = [now - then for now, then in zip(cores(), before, strict=True)]
    busy, stolen = sum(spent) - spent[3] - spent[4], spent[7]
    print(
        f"{len(users):3} at work: an evaluation {statistics.median(took):.1f} ms, 95th percentile"
        f" {parts[18]:.1f} ms; cores busy {busy / sum(spent):.0%}, taken by"
        f" the host {stolen / sum(spent):.1%}"
    )
    return parts[18]


def added(data: Path, count: int) -> None:
    """Accounts for so many, while the program runs or before."""
    for number in range(count):
        command = [sys.executable, "-m", "sequor.launch.serve", "--data", str(data)]
        environment = {**os.environ, "PYTHONPATH": str(ROOT / "src")}
        command += ["--add-user", name_of(number)]
        subprocess.run(
            command, input=f"{WORD}\n", text=True, check=True, env=environment, stdout=subprocess.DEVNULL
        )


def name_of(number: int) -> str:
    return f"Visitor {number + 1}"


def brought(visitors: list[Visitor]) -> list[int]:
    """A photo for each, taken in and looked at."""
    asked = []
    for number, (visitor, content) in enumerate(zip(visitors, views(len(visitors), TWO), strict=True)):
        answer = visitor("POST", f"/api/imports?name=IMG_{number:04d}.jpg", content)
        assert answer is not None and answer[0] == 202, f"the import was not taken: {answer}"
        asked.append((visitor, answer[1]["id"]))
    photos = []
    for visitor, job in asked:
        state: dict[str, Any] = {"state": ""}
        while state["state"] not in ENDED:
            time.sleep(0.2)
            answer = visitor("GET", f"/api/jobs/{job}")
            state = {"state": ""} if answer is None else answer[1]
        photos.append(int(state["photo_id"]))
    for visitor in visitors:
        while True:
            answer = visitor("GET", "/api/going-on")
            if answer is not None and not any(
                lane["waiting"] + lane["running"] for lane in answer[1]["lanes"]
            ):
                break
            time.sleep(1)
    return photos


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("--users", type=int, default=20)
    parser.add_argument("--seconds", type=float, default=180)
    parser.add_argument("--pause", type=float, default=5)
    options = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        data = Path(folder) / "data"
        added(data, 1)
        program = Program(data, free_port(), "--listen", "127.0.0.1", "--no-demo")
        program.start()
        try:
            added(data, options.users)
            visitors = [Visitor(program.port, name_of(number)) for number in range(options.users)]
            photos = brought(visitors)
            alone = User(visitors[0], photos[0], 0, options.pause)
            single = at_work([alone], min(60, options.seconds))
            users = [
                User(visitor, photo, 1 + at, options.pause)
                for at, (visitor, photo) in enumerate(zip(visitors, photos, strict=True))
            ]
            many = at_work(users, options.seconds)
        finally:
            program.stop()
    wrong = [one for user in (alone, *users) for one in user.wrong]
    did = [sum(counts) for counts in zip(*((len(u.took), u.stored, u.exported) for u in users), strict=True)]
    told = f"{did[0]} evaluations, {did[1]} stored, {did[2]} exports, {len(wrong)} faults"
    print(f"{len(users)} users, {options.seconds:.0f} s: {told}")
    print(f"evaluate p95: one user {single:.1f} ms, all {many:.1f} ms, {many / single:.2f} x")
    for one in wrong[:10]:
        print(f"  {one}")


if __name__ == "__main__":
    main()
