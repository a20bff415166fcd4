"""The examples do what they say."""

from __future__ import annotations

import json
import runpy
from pathlib import Path

import numpy as np
import pytest
from pictures import horizon_picture
from PIL import Image

from sequor.cli import main

EXAMPLES = Path(__file__).parents[1] / "examples"


@pytest.mark.parametrize("name", sorted(path.name for path in EXAMPLES.glob("*.json")))
def test_every_recipe_is_solved(name: str, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["solve", str(EXAMPLES / name)]) == 0
    said = json.loads(capsys.readouterr().out)
    assert said["sd"]["roll"] is not None and not said["conflicts"] and said["frame"]["kept"] > 0.6


def test_the_core_as_a_library(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    """Against the picture's own truth: its horizon runs level afterwards."""
    source, target = tmp_path / "in.png", tmp_path / "out.png"
    Image.fromarray(horizon_picture(600, 400, -2.0)).save(source)
    line = ["0", str(200 + 300 * np.tan(np.deg2rad(2))), "600", str(200 - 300 * np.tan(np.deg2rad(2)))]
    monkeypatch.setattr("sys.argv", ["level_a_picture.py", str(source), str(target), *line])
    runpy.run_path(str(EXAMPLES / "level_a_picture.py"), run_name="__main__")
    assert capsys.readouterr().out == "levelled by 2.00°\n"
    levelled = np.asarray(Image.open(target).convert("L"), float)
    edges = [int(np.argmax(np.abs(np.diff(levelled[:, column])))) for column in (5, levelled.shape[1] - 6)]
    assert abs(edges[0] - edges[1]) <= 1
