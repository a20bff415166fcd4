"""Random SIGKILLs over every process of the program at work: all that was acknowledged must be there.

    .venv/bin/python -m benchmarks.faults --kills 1000 --seed 1

The program runs as a user starts it, with the demo photos. Two editors store actions, photos are imported,
exports and takes are made; every so often a process is killed: the web server, the database, Redis, a worker
or a child of one. After a kill of the web server the program is
started again, which must succeed at once and leave no process of the run before. In the end all that was
acknowledged is looked for.
"""

from __future__ import annotations

import argparse
import collections
import contextlib
import copy
import hashlib
import io
import os
import random
import signal
import sys
import tempfile
import threading
import time
import uuid
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any
from urllib.parse import quote

import numpy as np
from PIL import Image

from benchmarks.program import (
    WAIT_FOR_VICTIM,
    Client,
    Program,
    command_of,
)
from sequor.jobs.background import WORKERS
from sequor.launch.mariadb import free_port

GOES_ON_SECONDS = 120.0

ENDED = ("done", "failed", "cancelled")

KINDS = ("web", "mariadbd", "redis", "asked", "asked worker's child", "bulk", "bulk worker's child")

WEIGHTS = (15, 15, 10, 8, 22, 8, 16)


@dataclass
class Outcome:
    """What came of a run."""

    kills: collections.Counter[str] = field(default_factory=collections.Counter)
    starts: list[float] = field(default_factory=list)
    troubles: list[str] = field(default_factory=list)
    revisions: int = 0
    imports: int = 0
    exports: int = 0
    takes: int = 0
    answers: collections.Counter[str] = field(default_factory=collections.Counter)


class Load:
    """People at work, each in a thread; what was acknowledged to them is remembered."""

    def __init__(self, port: int, seed: int, outcome: Outcome) -> None:
        self.port, self.outcome = port, outcome
        self.revisions: list[tuple[int, int, str]] = []
        self.originals: list[tuple[int, str]] = []
        self.jobs: list[str] = []
        self._stop = threading.Event()
        self._lock = threading.Lock()
        self._random = random.Random(seed)
        works: list[Callable[[Client], None]] = [
            lambda client: self._edit(client, 1),
            lambda client: self._edit(client, 2),
            self._import,
            self._export,
            self._fill,
        ]
        self._threads = [threading.Thread(target=self._repeat, args=(work,), daemon=True) for work in works]
        for thread in self._threads:
            thread.start()

    def stop(self) -> None:
        self._stop.set()
        for thread in self._threads:
            thread.join(90)

    def goes_on(self) -> bool:
        """Whether photos are imported again, now that nothing is killed any more."""
        wanted, deadline = len(self.originals) + 3, time.monotonic() + GOES_ON_SECONDS
        while len(self.originals) < wanted and time.monotonic() < deadline:
            time.sleep(0.1)
        return len(self.originals) >= wanted

    def _repeat(self, work: Callable[[Client], None]) -> None:
        client = Client(self.port)
        while not self._stop.is_set():
            work(client)
            self._stop.wait(0.05 + 0.3 * self._random.random())

    def _count(self, what: str, answer: tuple[int, Any] | None) -> tuple[int, Any] | None:
        with self._lock:
            self.outcome.answers[f"{what} {answer[0] if answer else 'no answer'}"] += 1
        return answer

    def _revise(self, client: Client, photo: int, change: Callable[[dict[str, Any]], None]) -> bool:
        bench = client("GET", f"/api/photos/{photo}")
        if bench is None or bench[0] != 200:
            return False
        recipe = copy.deepcopy(bench[1]["recipe"])
        change(recipe)
        action = f"action {uuid.uuid4().hex[:12]}"
        body = {"recipe": recipe, "action": action}
        version = bench[1]["photo"]["version"]
        answer = self._count("revise", client("POST", f"/api/photos/{photo}/revisions", body, version))
        if answer is None or answer[0] != 201:
            return False
        with self._lock:
            self.revisions.append((photo, answer[1]["photo"]["revision"], action))
        return True

    def _edit(self, client: Client, photo: int) -> None:
        roll = round(self._random.uniform(-2, 2), 2)

        def change(recipe: dict[str, Any]) -> None:
            recipe["correction"].update(roll=0, pitch=0, yaw=0)
            recipe["correction"]["by_hand"]["roll"] = roll

        self._revise(client, photo, change)

    def _import(self, client: Client) -> None:
        rows = np.random.default_rng(self._random.getrandbits(32)).integers(0, 256, (30, 40, 3), np.uint8)
        buffer = io.BytesIO()
        Image.fromarray(rows).resize((300, 225)).save(buffer, "PNG")
        content = buffer.getvalue()
        sha256 = hashlib.sha256(content).hexdigest()
        answer = self._count("import", client("POST", f"/api/imports?name={quote(sha256[:8])}.png", content))
        if answer is None or answer[0] != 202:
            return
        with self._lock:
            self.jobs.append(answer[1]["id"])
        job = self._followed(client, answer[1])
        if job and job["state"] == "done":
            with self._lock:
                self.originals.append((job["photo_id"], sha256))

    def _export(self, client: Client) -> None:
        answer = self._count("export", client("POST", "/api/photos/3/exports", {"export": {}}))
        if answer is None or answer[0] != 202:
            return
        with self._lock:
            self.jobs.append(answer[1]["id"])
        job = self._followed(client, answer[1])
        with self._lock:
            self.outcome.exports += bool(job and job["state"] == "done")

    def _followed(self, client: Client, job: dict[str, Any]) -> dict[str, Any] | None:
        for _ in range(600):
            if job["state"] not in ("waiting", "running"):
                self._count(f"job {job['state']} {job['code'] or ''}".strip(), (0, None))
                return job
            if self._stop.wait(0.1):
                return None
            answer = client("GET", f"/api/jobs/{job['id']}")
            if answer is not None and answer[0] == 200:
                job = answer[1]
        return None

    def _fill(self, client: Client) -> None:
        by = self._random.randint(10, 60)

        def change(recipe: dict[str, Any]) -> None:
            width, height = recipe["photo"]["width"], recipe["photo"]["height"]
            recipe["correction"].update(roll=0, pitch=0, yaw=0)
            recipe["frame"].update(
                ratio="free", allow_empty=True, rect=[-by, -by, width + 2 * by, height + 2 * by]
            )
            recipe["edges"]["mode"] = "fill"

        if not self._revise(client, 6, change):
            return
        answer = self._count("takes", client("POST", "/api/photos/6/takes", {"seeds": [1]}))
        for _ in range(200):
            there = answer[1]["takes"] if answer is not None and answer[0] in (200, 202) else []
            if there and all(take["state"] not in ("waiting", "running") for take in there):
                with self._lock:
                    self.outcome.takes += 1
                return
            if self._stop.wait(0.3):
                return
            answer = client("GET", "/api/photos/6/takes")


def run(kills: int, seed: int, folder: Path, port: int, tell: Callable[[str], None] = print) -> Outcome:
    """Start, kill, look; everything in ``folder``."""
    outcome, chance = Outcome(), random.Random(seed)
    program = Program(folder / "data", port)
    program.start()
    load = Load(port, seed, outcome)
    try:
        while sum(outcome.kills.values()) < kills:
            time.sleep(chance.uniform(0.2, 1.2))
            kind = chance.choices(KINDS, WEIGHTS)[0]
            deadline = time.monotonic() + WAIT_FOR_VICTIM
            while not (victims := program.victims(kind)) and time.monotonic() < deadline:
                time.sleep(0.05)
            if not victims:
                continue
            with contextlib.suppress(ProcessLookupError):
                os.kill(chance.choice(victims), signal.SIGKILL)
            outcome.kills[kind] += 1
            if kind == "web":
                _start_again(program, outcome)
                tell(f"{sum(outcome.kills.values())} kills, started in {outcome.starts[-1]:.1f} s")
            elif program.process is None or program.process.poll() is not None:
                outcome.troubles.append(f"the web server ended after a kill of {kind}")
                program.start()
        if not load.goes_on():
            outcome.troubles.append("imports do not go on after the kills")
        load.stop()
        _look(program, load, outcome)
    finally:
        load.stop()
        program.stop()
    return outcome


def _start_again(program: Program, outcome: Outcome) -> None:
    assert program.process is not None
    program.process.wait()
    try:
        outcome.starts.append(program.start())
    except RuntimeError as error:
        outcome.troubles.append(f"a start failed: {error}")
        program.start()
    # A child that is just ending is no orphan.
    deadline = time.monotonic() + 10
    while strays := set(program.all()) - program.tree():
        if time.monotonic() > deadline:
            outcome.troubles.append(f"left over: {[command_of(pid)[:80] for pid in strays]}")
            return
        time.sleep(0.1)


def _look(program: Program, load: Load, outcome: Outcome) -> None:
    client = Client(program.port)
    outcome.revisions, outcome.imports = len(load.revisions), len(load.originals)
    deadline = time.monotonic() + 180
    for job in load.jobs:
        while True:
            answer = client("GET", f"/api/jobs/{job}")
            if answer and (answer[0] == 404 or answer[1].get("state") in ENDED):
                break
            if time.monotonic() > deadline:
                outcome.troubles.append(f"the job {job} does not end")
                break
            time.sleep(0.2)
    _look_at_takes(client, outcome)
    for photo in {one for one, _, _ in load.revisions}:
        there = _log_of(client, photo)
        for of, revision, action in load.revisions:
            if of == photo and (revision, action) not in there:
                outcome.troubles.append(f"lost: revision {revision} of photo {photo}")
    listed = client("GET", "/api/photos")
    photos = {one["id"] for one in listed[1]["photos"]} if listed else set()
    for photo, sha256 in load.originals:
        file = program.data / "originals" / sha256[:2] / sha256
        if photo not in photos or not file.is_file():
            outcome.troubles.append(f"lost: photo {photo}")
        elif hashlib.sha256(file.read_bytes()).hexdigest() != sha256:
            outcome.troubles.append(f"damaged: the original of photo {photo}")
    for photo in photos:
        for path in (f"/api/photos/{photo}",):
            answer = client("GET", path)
            if answer is None or answer[0] != 200:
                outcome.troubles.append(f"photo {photo} does not open: {answer}")
    for name in WORKERS:
        log = (program.data / f"{name}.log").read_text(errors="replace")
        if "Timed out waiting for UP" in log:
            outcome.troubles.append(f"the worker {name} killed a child that was still loading")
    server_errors = [name for name in outcome.answers if name.rsplit(" ", 1)[1] == "500"]
    outcome.troubles += [f"answered 500: {name}" for name in server_errors]


def _log_of(client: Client, photo: int) -> set[tuple[int, str]]:
    """All of a photo's log, page by page."""
    found: set[tuple[int, str]] = set()
    before: int | None = 1 << 30
    while before is not None:
        answer = client("GET", f"/api/photos/{photo}/revisions?before={before}")
        if answer is None or answer[0] != 200:
            break
        found |= {(one["id"], one["action"]) for one in answer[1]["revisions"]}
        before = answer[1]["next"]
    return found


def _look_at_takes(client: Client, outcome: Outcome) -> None:
    """Every take that was asked for must end, made or given up."""
    deadline = time.monotonic() + 180
    while time.monotonic() < deadline:
        answer = client("GET", "/api/photos/6/takes")
        if answer is not None and answer[0] == 422:
            return
        if answer is not None and answer[0] == 200:
            states = [take["state"] for take in answer[1]["takes"]]
            if all(state in ENDED for state in states):
                outcome.takes += states.count("done")
                return
        time.sleep(0.3)
    outcome.troubles.append(f"a take does not end: {answer}")


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("--kills", type=int, default=1000)
    parser.add_argument("--seed", type=int, default=1)
    options = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        outcome = run(options.kills, options.seed, Path(folder), free_port())
    print(f"kills: {sum(outcome.kills.values())} ({dict(outcome.kills)})")
    longest = max(outcome.starts, default=0.0)
    print(f"starts after a kill of the web server: {len(outcome.starts)}, the longest {longest:.1f} s")
    print(
        f"acknowledged: {outcome.revisions} revisions, {outcome.imports} imports, {outcome.exports} exports, "
        f"{outcome.takes} rounds of takes"
    )
    print(f"answers: {dict(outcome.answers.most_common())}")
    print("troubles: " + ("none" if not outcome.troubles else ""))
    for trouble in outcome.troubles:
        print(f"  {trouble}")
    return 1 if outcome.troubles else 0


if __name__ == "__main__":
    sys.exit(main())
