"""The demo photos' cameras are known exactly: what the core says of their true lines is checked against that."""

from __future__ import annotations

import json

import numpy as np
import pytest
from pictures import DEMO

from sequor.core.camera import Attitude, intrinsics
from sequor.core.mapping import Mapping
from sequor.core.references import Reference, read
from sequor.core.solve import solve

SCENES = sorted(path.stem for path in DEMO.glob("*.json"))
STRAIGHT = [
    name for name in SCENES if json.loads((DEMO / f"{name}.json").read_text())["distortion"]["k1"] == 0
]


def test_half_of_the_scenes_have_a_straight_lens() -> None:
    assert len(STRAIGHT) == 3


@pytest.mark.parametrize("name", STRAIGHT)
def test_the_true_attitude_brings_every_true_line_to_its_direction(name: str) -> None:
    """Independent of the solve: the renderer's camera through our homography. Vertical lines become upright, and
    lines that face the camera become level, each to 0.02 degrees."""
    truth = json.loads((DEMO / f"{name}.json").read_text())
    camera = intrinsics(truth["width"], truth["height"], photo_focal_px=truth["f_px"])
    held = Attitude(truth["roll_deg"], truth["pitch_deg"], truth["yaw_deg"])
    mapping = Mapping.compile(camera, held, Attitude())
    checked = 0
    for line in truth["lines"]:
        reading = read(mapping.to_corrected(np.array([line["p0"], line["p1"]])))
        if reading.length_px < 100 or line["kind"] not in ("vertical", "horizontal-facing"):
            continue
        off = reading.lean_deg if line["kind"] == "vertical" else reading.slope_deg
        assert off == pytest.approx(0, abs=0.02), line["id"]
        checked += 1
    assert checked >= 8


def test_the_far_waterline_gives_the_roll() -> None:
    truth = json.loads((DEMO / "wendlow_shore.json").read_text())
    line = next(one for one in truth["lines"] if "waterline" in one["id"])
    ends = np.array([line["p0"], line["p1"]])
    assert solve([Reference("h", "level", ends)], ["roll"]).attitude.roll == pytest.approx(2.3, abs=0.02)


def test_the_jetty_rail_is_a_trap() -> None:
    """Marked level by mistake, the rail that runs away fights the horizon, and both are named."""
    truth = json.loads((DEMO / "wendlow_shore.json").read_text())
    horizon = next(one for one in truth["lines"] if "waterline" in one["id"])
    rail = next(one for one in truth["lines"] if "handrail" in one["id"])
    lines = [
        Reference(name, "level", np.array([one["p0"], one["p1"]]))
        for name, one in (("h", horizon), ("r", rail))
    ]
    (conflict,) = solve(lines, ["roll"]).conflicts
    assert conflict.ids == ("h", "r") and conflict.deg > 10
