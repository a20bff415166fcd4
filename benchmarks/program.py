"""The whole program as a user starts it, its processes, and a client that speaks to it."""

from __future__ import annotations

import contextlib
import http.client
import json
import os
import signal
import subprocess
import sys
import time
import uuid
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parents[1]

MARK = "SEQUOR_FAULTS_RUN"

START_SECONDS = 240

WAIT_FOR_VICTIM = 6.0


class Client:
    """One user over HTTP; None instead of an answer while the program is away."""

    def __init__(self, port: int) -> None:
        self.port = port
        self.token: str | None = None

    def __call__(
        self, method: str, path: str, body: Any = None, version: int | None = None
    ) -> tuple[int, Any] | None:
        headers = {"Host": f"127.0.0.1:{self.port}"}
        if method != "GET":
            if self.token is None:
                session = self("GET", "/api/session")
                if session is None:
                    return None
                self.token = session[1]["token"]
            headers["X-Sequor-Token"] = self.token or ""
        connection = http.client.HTTPConnection("127.0.0.1", self.port, timeout=60)
        with contextlib.closing(connection):
            found = answered(connection, headers, method, path, body, version)
        return found and (found[0].status, found[1])


def answered(
    connection: http.client.HTTPConnection,
    headers: dict[str, str],
    method: str,
    path: str,
    body: Any,
    version: int | None,
) -> tuple[http.client.HTTPResponse, Any] | None:
    """An answer over a connection, read, and what it holds; None when there is none."""
    told = dict(headers)
    if version is not None:
        told["If-Match"] = f'"{version}"'
    if body is not None and not isinstance(body, bytes):
        body, told["Content-Type"] = json.dumps(body).encode(), "application/json"
    try:
        connection.request(method, path, body, told)
        answer = connection.getresponse()
        content = answer.read()
        return answer, json.loads(content) if content else None
    except (OSError, http.client.HTTPException, ValueError):
        connection.close()
        return None


class Program:
    """The program as a process of its own, found again by a mark in its environment."""

    def __init__(self, data: Path, port: int, *options: str) -> None:
        self.data, self.port, self.options, self.mark = data, port, options, uuid.uuid4().hex
        self.process: subprocess.Popen[bytes] | None = None
        self.said = data.parent / "said.log"

    def start(self) -> float:
        """Start it once; how long that took. Raises RuntimeError when it does not come up in one go."""
        environment = {**os.environ, "PYTHONPATH": str(ROOT / "src"), MARK: self.mark}
        command = [sys.executable, "-m", "sequor.launch.serve", "--port", str(self.port)]
        begun = time.monotonic()
        with self.said.open("wb") as said:
            self.process = subprocess.Popen(
                [*command, "--data", str(self.data), *self.options], stdout=said, stderr=said, env=environment
            )
        while b"is ready" not in self.said.read_bytes():
            if self.process.poll() is not None or time.monotonic() - begun > START_SECONDS:
                raise RuntimeError(self.said.read_text(errors="replace")[-500:])
            time.sleep(0.05)
        return time.monotonic() - begun

    def stop(self) -> None:
        assert self.process is not None
        self.process.send_signal(signal.SIGTERM)
        with contextlib.suppress(subprocess.TimeoutExpired):
            self.process.wait(60)
        for pid in self.all():
            with contextlib.suppress(ProcessLookupError):
                os.kill(pid, signal.SIGKILL)

    def all(self) -> list[int]:
        """All processes that carry the mark and live."""
        found = []
        for folder in Path("/proc").glob("[0-9]*"):
            with contextlib.suppress(OSError, IndexError):
                if self.mark.encode() not in (folder / "environ").read_bytes():
                    continue
                if (folder / "stat").read_text().rsplit(")", 1)[1].split()[0] != "Z":
                    found.append(int(folder.name))
        # Redis writes its title over its environment; it is found by its note.
        with contextlib.suppress(OSError, ValueError):
            redis = int(json.loads((self.data / "redis.pid").read_text())["pid"])
            if "redis-server" in command_of(redis) and redis not in found:
                found.append(redis)
        return found

    def tree(self) -> set[int]:
        """The present web server and all that descends from it."""
        assert self.process is not None
        found, todo = set(), [self.process.pid]
        parents = {pid: parent_of(pid) for pid in self.all()}
        while todo:
            pid = todo.pop()
            found.add(pid)
            todo += [child for child, parent in parents.items() if parent == pid and child not in found]
        return found

    def victims(self, kind: str) -> list[int]:
        """The processes of a kind."""
        assert self.process is not None
        if kind == "web":
            return [self.process.pid]
        if kind in ("mariadbd", "redis"):
            name = {"mariadbd": "mariadbd", "redis": "redis-server"}[kind]
            return [pid for pid in self.all() if name in command_of(pid)]
        worker = kind.split(maxsplit=1)[0]
        found = [pid for pid in self.all() if f" -n {worker} " in command_of(pid)]
        top = [pid for pid in found if parent_of(pid) == self.process.pid]
        return [pid for pid in found if pid not in top] if kind.endswith("'s child") else top


def parent_of(pid: int) -> int | None:
    with contextlib.suppress(OSError, IndexError, ValueError):
        return int(Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()[1])
    return None


def command_of(pid: int) -> str:
    with contextlib.suppress(OSError):
        return Path(f"/proc/{pid}/cmdline").read_text(errors="replace").replace("\0", " ")
    return ""
