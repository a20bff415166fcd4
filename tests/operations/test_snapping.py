"""Snapping a recipe's references: what changes, what is remembered, what is refused."""

from __future__ import annotations

import numpy as np
import pytest
from pictures import horizon_picture, line, recipe

from sequor.core.distortion.models import Lens, half_diagonal
from sequor.operations.snapping import NOTE, report, snap_references, with_snapped
from sequor.recipe.parse import build
from sequor.recipe.quarter_turn import quarter_turned

PICTURE = horizon_picture(600, 400, -2.0)
ROUGH = line("r1", "level", (40, 214), (560, 186), sigma_px=2.0)
SKY = line("r2", "level", (50, 40), (500, 60))
BENT = line("r3", "straight", (50, 200), (300, 204), (500, 200))


def test_found_and_refused() -> None:
    made = build(recipe(600, 400, references=[ROUGH, SKY, BENT]))
    outcomes = snap_references(PICTURE, made)
    first, second, third = report(outcomes)
    assert list(first) == ["id", "points", "sigma_px", "clarity", "moved_px"]
    slope = np.rad2deg(np.arctan2(*(np.array(first["points"][1]) - first["points"][0])[::-1]))
    assert slope == pytest.approx(-2.0, abs=0.01)
    assert second == {"id": "r2", "refused": "there is no edge along most of the line"}
    assert "they say how the lens bends" in third["refused"]


def test_the_recipe_remembers_how_a_line_was_laid() -> None:
    made = build(recipe(600, 400, references=[ROUGH, SKY]))
    after = with_snapped(made, snap_references(PICTURE, made, ["r1"]))
    snapped, untouched = after.references
    assert snapped.points != made.references[0].points and untouched == made.references[1]
    assert snapped.sigma_px is not None and snapped.sigma_px < 0.5
    note = (snapped.model_extra or {})[NOTE]
    assert note["laid"] == [[40, 214], [560, 186]] and note["laid_sigma_px"] == 2.0
    assert build(after.model_dump(mode="json")) == after
    refused = with_snapped(made, snap_references(PICTURE, made, ["r2"])).references[1]
    assert (refused.points, (refused.model_extra or {})[NOTE]) == (
        made.references[1].points,
        {"refused": "there is no edge along most of the line"},
    )


def test_what_was_laid_turns_with_the_photo() -> None:
    made = build(recipe(600, 400, references=[ROUGH]))
    snapped = with_snapped(made, snap_references(PICTURE, made))
    turned = quarter_turned(snapped, True).references[0]
    assert (turned.model_extra or {})[NOTE]["laid"] == [(400 - 214, 40), (400 - 186, 560)]


def test_a_rectangle_keeps_its_top_left_corner_first() -> None:
    window = line("w", "rectangle", (100, 50), (300, 60), (290, 200), (110, 190), shape=[4, 3])
    correction = {"free": ["roll", "pitch", "yaw"], "by_hand": {"pitch": 3.0, "yaw": -2.0}}
    turned = quarter_turned(build(recipe(600, 400, references=[window], correction=correction)), True)
    part = turned.references[0]
    assert part.points[0] == (400 - 190, 110) and part.shape == (3, 4)
    hand = turned.correction.by_hand
    assert (hand.pitch, hand.yaw) == (2.0, 3.0)


def test_the_edge_is_followed_along_the_bend_that_straight_things_tell() -> None:
    """A horizon bowed by a barrel: two straight edges that are still to be solved say how much, and a rough line along it
    becomes its true ends, where without them half of it is missed."""
    lens = Lens((300, 200), half_diagonal(600, 400), k1=-0.12)
    y, x = np.mgrid[0:400, 0:600] + 0.5
    ideal = lens.undistorted(np.column_stack([x.ravel(), y.ravel()]))[:, 1].reshape(400, 600)
    water = np.clip(ideal - 40 + 0.5, 0, 1)[..., None]
    picture = np.round(np.array([200, 215, 235]) * (1 - water) + np.array([40, 70, 80]) * water).astype(
        np.uint8
    )
    things = []
    for name, (first, last) in (("s", ((40, 30), (560, 34))), ("t", ((60, 380), (540, 372)))):
        ends = lens.undistorted(np.array([first, last], float))
        points = lens.distorted(ends[0] + np.linspace(0, 1, 7)[:, None] * (ends[1] - ends[0]))
        things.append(line(name, "straight", *[tuple(map(float, point)) for point in points], sigma_px=0.3))
    true = lens.distorted(np.array([[60.0, 40], [540, 40]]))
    rough = line("r1", "level", *[tuple(map(float, end)) for end in true + [[0, 3], [0, -2]]], sigma_px=2.0)
    correction = {"free": ["roll", "k1"]}
    made = build(
        recipe(600, 400, references=[*things, rough], correction=correction, lens={"source": "straight"})
    )
    (outcome,) = snap_references(picture, made, ["r1"])
    assert outcome.found is not None and outcome.found.clarity > 0.9
    assert lens.undistorted(outcome.found.points)[:, 1] == pytest.approx([40, 40], abs=0.1)
    plain = build(recipe(600, 400, references=[rough]))
    without = snap_references(picture, plain, ["r1"])[0]
    assert without.found is None or without.found.clarity < 0.9


def test_beyond_the_lens_there_is_no_edge() -> None:
    corner = line("r1", "level", (2, 2), (300, 10))
    made = build(recipe(600, 400, references=[corner], lens={"source": "manual", "k1": -0.3}))
    assert (
        report(snap_references(PICTURE, made))[0]["refused"]
        == "an end is outside the area the lens profile covers"
    )
