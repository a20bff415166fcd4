"""Processes killed at random while the program is worked with (the full run: benchmarks/faults.py)."""

from __future__ import annotations

from pathlib import Path

from benchmarks.faults import run
from sequor.launch.mariadb import free_port

KILLS = 36


def test_nothing_that_was_acknowledged_is_lost(tmp_path: Path) -> None:
    outcome = run(KILLS, 7, tmp_path, free_port(), lambda words: None)
    assert outcome.troubles == []
    assert sum(outcome.kills.values()) == KILLS and len(outcome.kills) >= 6
    assert outcome.revisions > 10 and outcome.imports > 1
