"""Damaged and awkward files (the full run: benchmarks/hostile.py)."""

from __future__ import annotations

from pathlib import Path

from benchmarks.hostile import run


def test_no_file_stops_the_program_or_an_export(tmp_path: Path) -> None:
    outcome = run(150, 5, tmp_path, seconds=900)
    assert outcome.troubles == []
    assert outcome.taken > 50 and sum(outcome.refused.values()) > 50
    assert outcome.peak < 4000 and list(tmp_path.iterdir()) == []
