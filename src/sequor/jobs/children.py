"""One task in a child process, with a limit of memory and of time, progress and cancel."""

from __future__ import annotations

import ctypes
import multiprocessing
import os
import resource
import signal
import threading
import time
import traceback
import warnings
from collections.abc import Callable
from multiprocessing.connection import Connection
from typing import Any

from .failures import UNEXPECTED, FailedError, Failure, TooLongError, failure_of

MEMORY_LIMIT = 8 << 30
"""Address space of a child: a 100-megapixel picture needs about a gigabyte, the libraries two."""

PR_SET_PDEATHSIG = 1
ASK_SECONDS = 0.05

context = multiprocessing.get_context("forkserver")


class ChildLostError(Exception):
    """The child, or the process that children are forked from, ended without a word."""


class CancelledError(Exception):
    """The work was cancelled."""


def prepare() -> None:
    """Let children begin with their libraries loaded."""
    context.set_forkserver_preload(["sequor.jobs.tasks"])


def warm_up() -> None:
    """Let the first child be as quick as the others: its libraries are loaded now."""
    child = context.Process(target=_nothing)
    child.start()
    child.join()


def end_with_parent() -> None:
    """Let this process be killed when its parent ends, however that ends (prctl(2), PR_SET_PDEATHSIG)."""
    ctypes.CDLL(None).prctl(PR_SET_PDEATHSIG, signal.SIGKILL)


def run_in_child(
    task: Callable[..., Any],
    arguments: tuple[Any, ...],
    tell: Callable[[float, str], None],
    cancelled: threading.Event,
    seconds: float,
) -> Any:
    """The result of ``task(report, *arguments)``, which runs in a child.

    Raises FailedError, ChildLostError, CancelledError, TooLongError.
    """
    ours, theirs = context.Pipe(duplex=False)
    try:
        child = context.Process(target=_child, args=(theirs, task, arguments), daemon=True)
        try:
            child.start()
        except (OSError, EOFError):
            # The fork server was killed a moment ago; the next start makes another.
            raise ChildLostError from None
        finally:
            theirs.close()
        try:
            return _listen(ours, child, tell, cancelled, time.monotonic() + seconds, seconds)
        finally:
            child.kill()
            child.join()
    finally:
        ours.close()


def _listen(
    pipe: Connection,
    child: Any,
    tell: Callable[[float, str], None],
    cancelled: threading.Event,
    deadline: float,
    seconds: float,
) -> Any:
    while not cancelled.is_set():
        if time.monotonic() > deadline:
            raise TooLongError(seconds)
        try:
            if not pipe.poll(ASK_SECONDS):
                continue
            kind, value = pipe.recv()
        except (EOFError, OSError):
            raise ChildLostError from None
        if kind == "progress":
            tell(*value)
        elif kind == "done":
            # It ends by itself, so that what its libraries hold is given back in order.
            child.join(2)
            return value
        else:
            raise FailedError(value)
    raise CancelledError


def _nothing() -> None:
    """What the warm-up runs."""


def _child(pipe: Connection, task: Callable[..., Any], arguments: tuple[Any, ...]) -> None:
    end_with_parent()
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY_LIMIT, MEMORY_LIMIT))
    # Libraries warn of what a file has wrong; whether that matters is for the task to say.
    warnings.simplefilter("ignore")
    # A crash of a decoder is expected; its memory is no help to anybody and may be gigabytes.
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))

    def report(share: float, words: str) -> None:
        pipe.send(("progress", (share, words)))

    try:
        pipe.send(("done", task(report, *arguments)))
    except BrokenPipeError:
        os._exit(1)
    except BaseException as error:
        pipe.send(("failed", failure_of(error) or _unforeseen()))


def _unforeseen() -> Failure:
    return Failure(UNEXPECTED.code, traceback.format_exc())
