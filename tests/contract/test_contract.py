"""Recipes and what the command line says of them, as other programs will read it."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest

from sequor.cli import main

HERE = Path(__file__).parent
RECIPES = sorted(HERE.glob("*.recipe.json"))


def close(actual: Any, expected: Any, path: str = "") -> None:
    """Equal, numbers to 1e-6."""
    if isinstance(expected, dict):
        assert list(actual) == list(expected), path
        for key, value in expected.items():
            close(actual[key], value, f"{path}.{key}")
    elif isinstance(expected, list):
        assert len(actual) == len(expected), path
        for index, value in enumerate(expected):
            close(actual[index], value, f"{path}[{index}]")
    elif isinstance(expected, float):
        assert actual == pytest.approx(expected, rel=1e-6, abs=1e-6), path
    else:
        assert actual == expected, path


def test_there_are_as_many_as_are_told() -> None:
    assert len(RECIPES) == 37


@pytest.mark.parametrize("path", RECIPES, ids=lambda path: path.name.split(".")[0])
@pytest.mark.parametrize("command", ["measure", "solve"])
def test_command_line_output(
    path: Path, command: str, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.chdir(HERE)
    status = main([command, path.name])
    expected = json.loads(path.with_name(path.name.replace("recipe", "expected")).read_text())[command]
    close(json.loads(capsys.readouterr().out), expected)
    assert status == (2 if "error" in expected else 0)
