"""The bounds of a process that does work: of its memory, and that it ends with its parent."""

from __future__ import annotations

import ctypes
import resource
import signal
import warnings

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


def end_with_parent() -> None:
    """Let this process be killed when its parent ends, however that ends (prctl(2), PR_SET_PDEATHSIG)."""
    ctypes.CDLL(None).prctl(PR_SET_PDEATHSIG, signal.SIGKILL)
