"""Processes of one start: they end when the program ends, however it does; what one left is found."""

from __future__ import annotations

import contextlib
import hashlib
import json
import os
import signal
import stat
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Mapping, Sequence
from pathlib import Path
from types import FrameType
from typing import IO, Any

END_SECONDS = 6.0
"""How long an orphan may take to end in order; a database that is killed loses nothing either."""


class StartError(Exception):
    """The program cannot start; the message is one line with cause and remedy."""


def asked_to_stop() -> threading.Event:
    """What is set as soon as this program is asked to end."""
    stop = threading.Event()

    def ask(number: int, frame: FrameType | None) -> None:
        stop.set()

    for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, ask)
    return stop


def run_folder(data: Path) -> Path:
    """A short folder for the sockets of one data folder, for its owner alone; always the same one.

    A socket's path may have no more than 107 characters, so it cannot live in the data folder. Raises
    StartError when somebody else has made it.
    """
    digest = hashlib.sha256(str(data.resolve()).encode()).hexdigest()[:12]
    folder = Path(tempfile.gettempdir()) / f"sequor-{os.getuid()}-{digest}"
    folder.mkdir(mode=0o700, exist_ok=True)
    found = folder.lstat()
    if not stat.S_ISDIR(found.st_mode) or found.st_uid != os.getuid():
        raise StartError(f"{folder} belongs to somebody else; remove it and start again")
    folder.chmod(0o700)
    return folder


class Child:
    """A program of ours, noted in a file by its number and the moment it began.

    It gets ``on_parent_death`` when the thread that started it ends (prctl(2), PR_SET_PDEATHSIG, by
    setpriv(1)): start it from one that lives as long as it is wanted. ``handed``: the numbers of open files
    that it shares.
    """

    def __init__(
        self,
        command: Sequence[str],
        note: Path,
        output: IO[bytes] | int,
        on_parent_death: signal.Signals = signal.SIGKILL,
        environment: Mapping[str, str] | None = None,
        handed: Sequence[int] = (),
    ) -> None:
        self._note = note
        how = ["setpriv", f"--pdeathsig={on_parent_death.name.removeprefix('SIG')}", "--"]
        # A session of its own, so that Ctrl-C reaches the program first.
        self.process = subprocess.Popen(
            [*how, *command],
            stdin=subprocess.DEVNULL,
            stdout=output,
            stderr=output,
            # It finds what this process finds, however that was started.
            env={
                **(os.environ if environment is None else environment),
                "PYTHONPATH": os.pathsep.join(filter(None, sys.path)),
            },
            start_new_session=True,
            pass_fds=handed,
        )
        note.write_text(json.dumps({"pid": self.process.pid, "began": _began(self.process.pid)}))

    @property
    def pid(self) -> int:
        """Its number."""
        return self.process.pid

    @property
    def ended(self) -> bool:
        """Whether it has ended."""
        return self.process.poll() is not None

    def stop(self, how: signal.Signals, seconds: float) -> None:
        """End it, by force after a while."""
        if not self.ended:
            self.process.send_signal(how)
            try:
                self.process.wait(seconds)
            except subprocess.TimeoutExpired:
                self.process.kill()
                self.process.wait()
        self._note.unlink(missing_ok=True)


def begin_in(
    folder: Path,
    name: str,
    command: Sequence[str],
    environment: Mapping[str, str] | None = None,
    handed: Sequence[int] = (),
) -> Child:
    """A program of ours under a name: in ``folder`` it is noted in ``name``.pid, and what it says is added to
    ``name``.log."""
    with (folder / f"{name}.log").open("ab") as output:
        return Child(command, folder / f"{name}.pid", output, environment=environment, handed=handed)


def end_orphan(note: Path, how: signal.Signals = signal.SIGTERM, seconds: float = END_SECONDS) -> bool:
    """End what an earlier start noted and left behind; whether there was anything.

    A process counts as that one only if it began at the noted moment, so that no stranger is ended who got
    its number. Whatever it started in its session goes with it.
    """
    try:
        found = json.loads(note.read_text())
        pid, began = int(found["pid"]), found["began"]
    except (OSError, ValueError, KeyError, TypeError):
        return False
    there = began is not None and _began(pid) == began
    if there:
        for signal_, patience in ((how, seconds), (signal.SIGKILL, END_SECONDS)):
            _signal(pid, signal_)
            if _wait_for_end(pid, began, patience):
                break
    note.unlink(missing_ok=True)
    return there


def _signal(pid: int, how: signal.Signals) -> None:
    # It leads its own session, so that its group is its own too.
    with contextlib.suppress(ProcessLookupError, PermissionError):
        os.killpg(pid, how)


def _wait_for_end(pid: int, began: Any, seconds: float) -> bool:
    deadline = time.monotonic() + seconds
    while time.monotonic() < deadline:
        if _began(pid) != began:
            return True
        time.sleep(0.02)
    return False


def _began(pid: int) -> list[str] | None:
    """The boot and the clock tick in which a process began (proc(5): field 22 of stat); None when it is gone
    or only waits to be buried."""
    try:
        fields = Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()
        boot = Path("/proc/sys/kernel/random/boot_id").read_text().strip()
    except (OSError, IndexError):
        return None
    return None if fields[0] == "Z" else [boot, fields[19]]
