"""Things that run away, filled with their scale, against what a pinhole camera sees of them."""

from __future__ import annotations

import numpy as np
import pytest
from numpy.typing import NDArray
from pictures import line, recipe

from sequor.core.fill import levels, patchmatch
from sequor.core.fill.patchmatch import Completion, fill
from sequor.core.fill.receding import Receding, View
from sequor.core.fill.views import MOST_SHARE, canvas_of
from sequor.pipeline.evaluated import evaluate
from sequor.pipeline.new_pixels import Recede
from sequor.recipe.parse import build

Mask = NDArray[np.bool_]
WIDTH, HEIGHT = 960, 640
POINT = (480.0, 240.0)
JETTY = Receding(POINT, ((50.0, 130.0),))
FOCAL, ABOVE = 850.0, 1.6
PLANK = 0.3
"""Metres; the camera is so high above the planks."""


def jetty(along: float = 0.0) -> NDArray[np.uint8]:
    """Planks of three woods across a jetty two metres wide, in water, as a level camera sees them."""
    fine = 3
    y, x = (np.mgrid[0 : HEIGHT * fine, 0 : WIDTH * fine] + 0.5) / fine
    y, x = y - POINT[1], x - POINT[0]
    with np.errstate(divide="ignore", invalid="ignore"):
        far = FOCAL * ABOVE / y
        plank = (far + along) / PLANK
        across = x * far / FOCAL
    tone = np.array([150, 125, 105])[np.nan_to_num(plank).astype(int) % 3]
    grey = np.where(plank % 1 < 0.12, 30, tone)
    grey = np.where(np.abs(across) < 1, grey, 80)
    grey = np.where((y > 3) & (far < 40), grey, 200)
    small = grey.reshape(HEIGHT, fine, WIDTH, fine).mean(axis=(1, 3))
    noise = np.random.default_rng(1).normal(0, 1.5, small.shape)
    return np.repeat(np.clip(small + noise, 0, 255).astype(np.uint8)[..., None], 3, axis=2)


def below(row: int) -> Mask:
    hole = np.zeros((HEIGHT, WIDTH), np.bool_)
    hole[row:] = True
    return hole


def covered(picture: NDArray[np.uint8], hole: Mask) -> NDArray[np.uint8]:
    out = picture.copy()
    out[hole] = 0
    return out


def amiss(made: NDArray[np.uint8], truth: NDArray[np.uint8], hole: Mask) -> float:
    """By how many code values the jetty's middle is off, in the mean over the hole."""
    rows, middle = hole.any(axis=1), slice(WIDTH // 2 - 60, WIDTH // 2 + 60)
    return float(np.abs(made[rows, middle].astype(float) - truth[rows, middle]).mean())


@pytest.mark.parametrize("repeated", [levels.REPEATED_PIXELS, 400_000])
def test_planks_grow_and_stay_in_step(repeated: int, monkeypatch: pytest.MonkeyPatch) -> None:
    """Where the lines meet is known: the planks are as wide as the camera would see them, and in their places."""
    for module in (levels, patchmatch):
        monkeypatch.setattr(module, "REPEATED_PIXELS", repeated)
    truth, hole = jetty(), below(570)
    known = fill(covered(truth, hole), hole, recedes=[JETTY])
    unknown = fill(covered(truth, hole), hole)
    assert amiss(known, truth, hole) < 0.45 * amiss(unknown, truth, hole)


def test_a_wall_is_led_on_as_the_ground_is() -> None:
    """The same, lying on its side."""
    truth, hole = jetty().transpose(1, 0, 2).copy(), below(570).T.copy()
    known = fill(covered(truth, hole), hole, recedes=[Receding(POINT[::-1], ((-40.0, 40.0),))])
    unknown = fill(covered(truth, hole), hole)
    off = [amiss(one.transpose(1, 0, 2), jetty(), below(570)) for one in (known, unknown)]
    assert off[0] < 0.45 * off[1]


def test_a_view_is_what_a_camera_farther_on_sees() -> None:
    """Moved along a plane's own direction its picture goes over into itself by an elation (R. Hartley, A. Zisserman,
    *Multiple View Geometry in Computer Vision*, 2nd ed., 2004, A7.3): two pinhole pictures of the same points."""
    rng = np.random.default_rng(4)
    world = np.column_stack([rng.uniform(-3, 3, 40), np.full(40, ABOVE), rng.uniform(2, 9, 40)])
    farther = world + [0, 0, 1.7]
    near, far = (FOCAL * one[:, :2] / one[:, 2:] + POINT for one in (world, farther))
    view = View((0, 0, 1, 1), 0, 0, JETTY, (0.0, 1.7 / (FOCAL * ABOVE)))
    x, y, depth = view.origins(near[:, 0], near[:, 1])
    assert np.column_stack([x, y]) == pytest.approx(far)
    assert depth == pytest.approx(farther[:, 2] / world[:, 2])


def test_views_are_bounded_and_nothing_barred_is_in_them() -> None:
    picture, hole = jetty(), below(570)
    barred = np.zeros_like(hole)
    barred[400:570, 400:570] = True
    completion = Completion(covered(picture, hole), hole, barred=barred, recedes=[JETTY])
    completion.take()
    finest = completion.levels[-1]
    assert HEIGHT < len(finest.canvas) <= HEIGHT * (1 + MOST_SHARE) + 32
    covers = JETTY.covers(finest.columns + 0.5, finest.rows + 0.5)
    assert (finest.from_row >= HEIGHT)[covers].mean() > 0.5
    assert not np.any(finest.sources() & barred)


@pytest.mark.parametrize("points", [[], [(1e6, 0.0)], [(float("inf"), 0.0)]])
def test_where_nothing_meets_there_is_no_view(points: list[tuple[float, float]]) -> None:
    recedes = [Receding(point, ((0.0, 180.0),)) for point in points]
    assert canvas_of(jetty(), below(570), recedes, 3).views == ()


def test_what_lies_beside_the_lines_does_not_run_away() -> None:
    """Views show the sector between the lines and a little more; elsewhere the fill is as without them."""
    assert Receding.of(np.array([[[0, 0], [9, 0]], [[0, 5], [9, 5]]], float)) is None
    found = Receding.of(np.array([[[180, 640], [330, 440]], [[780, 640], [630, 440]]], float))
    assert found is not None and found.point == pytest.approx((480, 240), abs=0.2)
    ((begin, end),) = found.sectors
    assert (begin, end) == pytest.approx((40.3, 139.7), abs=0.5)
    picture, hole = jetty(), below(570)
    completion = Completion(covered(picture, hole), hole, recedes=[found])
    completion.take()
    finest = completion.levels[-1]
    in_view = finest.from_row >= HEIGHT
    covers = found.covers(finest.columns + 0.5, finest.rows + 0.5)
    assert not np.any(in_view & ~covers) and np.mean(in_view[covers]) > 0.7


def test_where_the_receding_lines_of_a_recipe_meet() -> None:
    """In the frame's pixels; a line that is alone in its group, and one that is put aside, tell nothing."""
    edges = [
        line("a", "receding", (200, 1900), (1400, 900), group="1"),
        line("b", "receding", (2800, 1900), (1600, 900), group="1"),
        line("c", "receding", (100, 100), (900, 500), group="2"),
    ]
    still = {"on": {"roll": False, "pitch": False, "yaw": False}}
    evaluation = evaluate(build(recipe(references=edges, correction=still)))
    (found,) = evaluation.recedes
    frame = evaluation.frame
    assert found.point == pytest.approx((1500 - frame.x, 816.7 - frame.y), abs=0.1)
    assert found.covers(np.array([1500.0]) - frame.x, np.array([1900.0]) - frame.y).all()
    aside = [edges[0], {**edges[1], "active": False}]
    without = evaluate(build(recipe(references=aside, correction=still)))
    assert without.result(Recede) == () and without.made_for[""] != evaluation.made_for[""]
