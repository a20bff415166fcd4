"""A worker that knows kinds of jobs for tests besides those of the program."""

from __future__ import annotations

import os
import time
from pathlib import Path
from typing import Any

from sequor.jobs.tasks import KINDS, Kind, Work
from sequor.operations.reporting import Report


def sleeping(report: Report, work: Work) -> dict[str, Any]:
    """Work that takes as long as it is told; it says who does it."""
    with (work.folder / "pid").open("a") as file:
        file.write(f"{os.getpid()}\n")
    report(0.5, "sleeping")
    time.sleep(work.spec["seconds"])
    return {"notices": []}


def greedy(report: Report, work: Work) -> dict[str, Any]:
    """Work that wants more memory than a process may have."""
    return {"notices": [], "much": len(bytearray(20 << 30))}


def clumsy(report: Report, work: Work) -> dict[str, Any]:
    """Work with a fault."""
    raise ZeroDivisionError


def patchless(report: Report, work: Work) -> dict[str, Any]:
    """Work that needs a patch which is not there."""
    assert work.means.find is not None
    found: Path = work.means.find("1" * 64)
    return {"notices": [], "patch": str(found)}


def hungry(report: Report, work: Work) -> dict[str, Any]:
    """Work that wants more than one of many may have, and less than a process may."""
    return {"notices": [], "much": len(bytearray(3 << 30))}


ODD = {
    "sleep": Kind("export", 60, sleeping),
    "slow": Kind("export", 1, sleeping),
    "slow of many": Kind("bulk", 1, sleeping),
    "hungry": Kind("bulk", 60, hungry, memory=2 << 30),
    "fed": Kind("bulk", 60, hungry, memory=8 << 30),
    "greedy": Kind("export", 60, greedy),
    "clumsy": Kind("export", 60, clumsy),
    "patchless": Kind("export", 60, patchless),
}
KINDS.update(ODD)

if "SEQUOR_BROKER" in os.environ:
    from sequor.jobs.worker import app  # noqa: F401
