"""Runs tasks in child processes and keeps what they say of themselves."""

from __future__ import annotations

import logging
import multiprocessing
import secrets
import shutil
import threading
import time
import traceback
from collections.abc import Callable
from dataclasses import dataclass, field
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any, Literal

from sequor.imaging.decode import UnreadablePictureError
from sequor.operations.exporting import NoRoomError
from sequor.recipe.reading import RecipeError
from sequor.store.files import OriginalMissingError

State = Literal["waiting", "running", "done", "failed", "cancelled"]

AT_ONCE = 2
LONGEST_SECONDS = 300
KEPT_SECONDS = 3600
EXPECTED = (UnreadablePictureError, RecipeError, NoRoomError, OriginalMissingError)

log = logging.getLogger(__name__)
context = multiprocessing.get_context("forkserver")


@dataclass
class Job:
    """One piece of long work. ``folder`` is its own and goes with it."""

    id: str
    label: str
    folder: Path
    state: State = "waiting"
    progress: float = 0.0
    words: str = "waiting"
    error: str | None = None
    result: Any = None
    cancelled: threading.Event = field(default_factory=threading.Event)
    ended: threading.Event = field(default_factory=threading.Event)
    since: float = field(default_factory=time.monotonic)


class Jobs:
    """Starts jobs, at most ``AT_ONCE`` together, and remembers them for an hour."""

    def __init__(self, work: Path) -> None:
        self._work = work
        self._jobs: dict[str, Job] = {}
        self._lock = threading.Lock()
        self._room = threading.BoundedSemaphore(AT_ONCE)
        context.set_forkserver_preload(["sequor.jobs.tasks"])
        for leftover in work.iterdir():
            shutil.rmtree(leftover, ignore_errors=True)

    def prepare(self, label: str) -> Job:
        """A new job with an empty folder; it waits until it is started."""
        self._forget_old()
        name = secrets.token_hex(8)
        folder = self._work / name
        folder.mkdir()
        job = Job(name, label, folder)
        with self._lock:
            self._jobs[name] = job
        return job

    def start(
        self,
        job: Job,
        task: Callable[..., Any],
        arguments: tuple[Any, ...],
        finish: Callable[[Any], Any] = lambda result: result,
    ) -> None:
        """Run ``task(report, *arguments)`` in a child; ``finish`` turns its result into the job's, here."""
        threading.Thread(target=self._run, args=(job, task, arguments, finish), daemon=True).start()

    def warm_up(self) -> None:
        """Let the first child be as quick as the others: its libraries are loaded now."""
        child = context.Process(target=_nothing)
        child.start()
        child.join()

    def get(self, name: str) -> Job | None:
        """The job with this name."""
        return self._jobs.get(name)

    def cancel(self, job: Job) -> None:
        """Stop a job; what it had written goes."""
        job.cancelled.set()
        job.ended.wait(5)

    def close(self) -> None:
        """Cancel whatever still runs."""
        for job in list(self._jobs.values()):
            if not job.ended.is_set() and job.state != "waiting":
                self.cancel(job)

    def drop(self, job: Job) -> None:
        """Forget a job that was never started, and its folder."""
        with self._lock:
            self._jobs.pop(job.id, None)
        shutil.rmtree(job.folder, ignore_errors=True)

    def _run(
        self,
        job: Job,
        task: Callable[..., Any],
        arguments: tuple[Any, ...],
        finish: Callable[[Any], Any],
    ) -> None:
        with self._room:
            try:
                if job.cancelled.is_set():
                    self._end(job, "cancelled", "stopped")
                else:
                    job.state = "running"
                    result = self._watch(job, task, arguments)
                    if job.cancelled.is_set():
                        self._end(job, "cancelled", "stopped")
                    else:
                        job.result = finish(result)
                        self._end(job, "done", "done")
            except EXPECTED as error:
                job.error = str(error)
                self._end(job, "failed", "failed")
            except Exception:
                log.exception("job %s failed", job.label)
                job.error = (
                    "something went wrong that should not have; nothing was changed. The log says more"
                )
                self._end(job, "failed", "failed")

    def _watch(self, job: Job, task: Callable[..., Any], arguments: tuple[Any, ...]) -> Any:
        ours, theirs = context.Pipe(duplex=False)
        child = context.Process(target=_child, args=(theirs, task, arguments), daemon=True)
        child.start()
        theirs.close()
        deadline = time.monotonic() + LONGEST_SECONDS
        try:
            while True:
                if job.cancelled.is_set():
                    return None
                if time.monotonic() > deadline:
                    raise UnreadablePictureError(f"this took longer than {LONGEST_SECONDS} s and was stopped")
                if ours.poll(0.05):
                    kind, value = ours.recv()
                    if kind == "progress":
                        job.progress, job.words = value
                    elif kind == "done":
                        # It ends by itself, so that what its libraries hold is given back in order.
                        child.join(2)
                        return value
                    else:
                        raise value
        except EOFError:
            raise UnreadablePictureError(
                "the part of the program that reads pictures stopped; the file may be damaged or too large "
                "for this computer's memory. Nothing of it was kept"
            ) from None
        finally:
            child.kill()
            child.join()
            ours.close()

    def _end(self, job: Job, state: State, words: str) -> None:
        job.words = words
        if state == "done":
            job.progress = 1.0
        else:
            shutil.rmtree(job.folder, ignore_errors=True)
        job.state = state
        job.ended.set()

    def _forget_old(self) -> None:
        with self._lock:
            for name, job in list(self._jobs.items()):
                if job.ended.is_set() and time.monotonic() - job.since > KEPT_SECONDS:
                    shutil.rmtree(job.folder, ignore_errors=True)
                    del self._jobs[name]


def _nothing() -> None:
    """What the warm-up runs."""


def _child(pipe: Connection, task: Callable[..., Any], arguments: tuple[Any, ...]) -> None:
    def report(share: float, words: str) -> None:
        pipe.send(("progress", (share, words)))

    try:
        pipe.send(("done", task(report, *arguments)))
    except EXPECTED as error:
        pipe.send(("failed", error))
    except MemoryError:
        pipe.send(("failed", UnreadablePictureError("there is not enough memory for this picture")))
    except Exception:
        pipe.send(("failed", RuntimeError(traceback.format_exc())))
