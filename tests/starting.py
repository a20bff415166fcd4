"""The program as bin/start starts it, for tests."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import pytest

from sequor.launch.mariadb import free_port
from sequor.launch.serve import main

ROOT = Path(__file__).resolve().parents[1]


@contextmanager
def started(data: Path, *options: str) -> Iterator[tuple[str, subprocess.Popen[str]]]:
    """The program as a process of its own; its address."""
    command = [
        sys.executable,
        "-m",
        "sequor.launch.serve",
        "--data",
        str(data),
        "--port",
        str(free_port()),
        *options,
    ]
    process = subprocess.Popen(
        command, stdout=subprocess.PIPE, text=True, env={**os.environ, "PYTHONPATH": str(ROOT / "src")}
    )
    try:
        assert process.stdout is not None
        yield process.stdout.readline().split()[4], process
    finally:
        process.send_signal(signal.SIGINT)
        process.wait(120)
        process.stdout.close()


def said(capsys: pytest.CaptureFixture[str], *arguments: str) -> str:
    """What a start that fails says: one line."""
    assert main(arguments) == 1
    lines = capsys.readouterr().err.strip().splitlines()
    assert len(lines) == 1 and lines[0].startswith("Sequor cannot start: ")
    return lines[0]


def free_arguments(data: Path) -> list[str]:
    return ["--port", str(free_port()), "--data", str(data)]
