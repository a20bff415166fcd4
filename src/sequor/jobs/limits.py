"""The bounds of a process that does work: of its memory, and that it ends with its parent."""

from __future__ import annotations

import contextlib
import ctypes
import os
import resource
import signal
import warnings
from collections.abc import Iterator

import cv2

MEMORY_LIMIT = 8 << 30
"""Address space of a process: a 100-megapixel picture needs about a gigabyte, the libraries two."""

PR_SET_PDEATHSIG = 1


def keep_within_limits() -> None:
    """Let this process end with its parent, and stay within its memory whatever a file makes it ask for."""
    end_with_parent()
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY_LIMIT, MEMORY_LIMIT))
    # A crash of a decoder is expected; its memory is no help to anybody and may be gigabytes.
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    # Libraries warn of what a file has wrong; whether that matters is for the task to say.
    warnings.simplefilter("ignore")


def give_way() -> None:
    """Let this process have only what of the machine nobody else wants."""
    cv2.setNumThreads(0)
    os.sched_setscheduler(0, os.SCHED_IDLE, os.sched_param(0))


@contextlib.contextmanager
def memory_of(most: int) -> Iterator[None]:
    """Bound this process's memory more narrowly for a while, where it is one of a worker."""
    before, hard = resource.getrlimit(resource.RLIMIT_AS)
    if hard == resource.RLIM_INFINITY:
        yield
        return
    resource.setrlimit(resource.RLIMIT_AS, (min(most, hard), hard))
    try:
        yield
    finally:
        resource.setrlimit(resource.RLIMIT_AS, (before, hard))


def end_with_parent() -> None:
    """Let this process be killed when its parent ends, however that ends (prctl(2), PR_SET_PDEATHSIG)."""
    ctypes.CDLL(None).prctl(PR_SET_PDEATHSIG, signal.SIGKILL)
