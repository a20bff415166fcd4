"""The far horizon: found soft, crossed and half hidden; skylines, borders of meadows and textures are none."""

from __future__ import annotations

import cv2
import numpy as np
import pytest
from scenes import scene

from sequor.core.camera import intrinsics
from sequor.core.distortion.models import Lens, no_lens
from sequor.core.look.attitude import look
from sequor.core.look.confidence import SURE, confidence
from sequor.core.look.horizon import Level, level_edges
from sequor.core.look.summing import summed

WIDTH, HEIGHT = 1500, 1000


def by_the_sea(slope_deg: float, softness: float = 1.0, seed: int = 0) -> np.ndarray:
    """Sky above water, whose border rises to the right by so much through the middle; ``softness``: over how many
    pixels the one passes into the other."""
    random = np.random.default_rng(seed)
    y, x = np.mgrid[:HEIGHT, :WIDTH] + 0.5
    below = y - HEIGHT / 2 + np.tan(np.radians(slope_deg)) * (x - WIDTH / 2)
    share = 1 / (1 + np.exp(-np.clip(below / softness, -50, 50)))[..., None]
    sky = np.array([188, 204, 222]) + (below / HEIGHT * 30)[..., None]
    waves = cv2.GaussianBlur(random.normal(0, 60, (HEIGHT, WIDTH)), (0, 0), sigmaX=9, sigmaY=1.5)
    sea = np.array([120, 146, 158]) + waves[..., None]
    noise = random.normal(0, 2.5, (HEIGHT, WIDTH, 3))
    return np.asarray(np.clip(sky * (1 - share) + sea * share + noise, 0, 255), np.uint8)


def rises_by(edge: Level) -> float:
    """By how many degrees an edge rises to the right."""
    (ax, ay), (bx, by) = edge.ends
    return float(-np.degrees(np.arctan2(by - ay, bx - ax)))


def edges(picture: np.ndarray) -> list[Level]:
    return level_edges(picture, no_lens(picture.shape[1], picture.shape[0]))


@pytest.mark.parametrize("slope", [-11.0, -3.3, 0.0, 0.7, 6.2])
@pytest.mark.parametrize("softness", [1.0, 3.0, 6.0])
def test_sharp_and_soft_horizons_are_found_as_they_lie(slope: float, softness: float) -> None:
    best = edges(by_the_sea(slope, softness))[0]
    assert rises_by(best) == pytest.approx(slope, abs=0.12)
    assert best.likely > 0.6


def test_masts_and_grass_may_cross_it() -> None:
    picture = by_the_sea(2.0, 3.0)
    random = np.random.default_rng(5)
    for x in random.uniform(0, WIDTH, 40):
        lean = random.normal(0, 60)
        cv2.line(picture, (int(x), HEIGHT), (int(x + lean), int(random.uniform(250, 480))), (90, 76, 44), 5)
    best = edges(picture)[0]
    assert rises_by(best) == pytest.approx(2.0, abs=0.2)
    assert best.likely > 0.5


def test_it_may_be_hidden_by_a_house_at_one_side() -> None:
    picture = by_the_sea(-4.0, 2.0)
    picture[300:, :420] = (70, 52, 46)
    picture[300:330, :420] = (226, 222, 214)
    best = edges(picture)[0]
    assert rises_by(best) == pytest.approx(-4.0, abs=0.1)
    assert best.ends[0, 0] > 380


def test_a_bowed_one_is_straight_through_its_lens() -> None:
    straight = by_the_sea(3.0, 2.0)
    lens = Lens((WIDTH / 2, HEIGHT / 2), float(np.hypot(WIDTH, HEIGHT) / 2), k1=-0.12)
    y, x = np.mgrid[:HEIGHT, :WIDTH] + 0.5
    from_there = (
        lens.undistorted(np.c_[x.ravel(), y.ravel()]).reshape(HEIGHT, WIDTH, 2).astype(np.float32) - 0.5
    )
    bowed = cv2.remap(
        straight, from_there[..., 0], from_there[..., 1], cv2.INTER_LINEAR, borderMode=cv2.BORDER_REFLECT
    )
    found = level_edges(np.asarray(bowed, np.uint8), lens)[0]
    assert rises_by(found) == pytest.approx(3.0, abs=0.1)
    assert found.crooked < 0.2


@pytest.mark.parametrize("k1", [-0.05, 0.06])
def test_one_that_an_unknown_lens_bows_evenly_tells_its_direction(k1: float) -> None:
    straight = by_the_sea(-2.0, 2.0)
    lens = Lens((WIDTH / 2, HEIGHT / 2), float(np.hypot(WIDTH, HEIGHT) / 2), k1=k1)
    y, x = np.mgrid[:HEIGHT, :WIDTH] + 0.5
    from_there = (
        lens.undistorted(np.c_[x.ravel(), y.ravel() + 150]).reshape(HEIGHT, WIDTH, 2).astype(np.float32) - 0.5
    )
    bowed = cv2.remap(
        straight, from_there[..., 0], from_there[..., 1], cv2.INTER_LINEAR, borderMode=cv2.BORDER_REFLECT
    )
    best = edges(np.asarray(bowed, np.uint8))[0]
    assert rises_by(best) == pytest.approx(-2.0, abs=0.2)
    assert best.likely > 0.5


@pytest.mark.parametrize("seed", range(6))
def test_a_skyline_of_hills_is_none(seed: int) -> None:
    """A skyline that wanders as hills do: a walk whose steps are smoothed."""
    random = np.random.default_rng(seed)
    walk = np.cumsum(np.convolve(random.normal(0, 0.5, WIDTH + 60), np.ones(61) / 61, "valid"))
    skyline = HEIGHT / 2 + 4 * (walk - walk.mean())
    picture = np.full((HEIGHT, WIDTH, 3), (188, 204, 222), np.uint8)
    hills = np.arange(HEIGHT)[:, None] > skyline
    picture[hills] = np.clip(random.normal((84, 98, 70), 14, (int(hills.sum()), 3)), 0, 255)
    assert all(edge.likely < 0.5 for edge in edges(picture))


def test_a_mirrored_picture_mirrors_it() -> None:
    picture = by_the_sea(5.0, 3.0)
    (one, *_), (other, *_) = edges(picture), edges(np.ascontiguousarray(picture[:, ::-1]))
    assert rises_by(one) == pytest.approx(-rises_by(other), abs=0.03)


def test_open_water_tells_the_tilt_and_not_the_aim() -> None:
    """The water and the hills behind it alone, out of the scene by the shore."""
    one = scene("shore")
    part = np.ascontiguousarray(one.picture[:, one.picture.shape[1] * 3 // 10 :])
    height, width = part.shape[:2]
    seen = look(part, intrinsics(width, height), no_lens(width, height))
    assert seen is not None
    assert seen.roll == pytest.approx(one.truth["roll_deg"], abs=0.3)
    assert seen.far


def test_a_horizon_alone_is_answered() -> None:
    picture = by_the_sea(-2.4, 3.0)
    seen = look(picture, intrinsics(WIDTH, HEIGHT), no_lens(WIDTH, HEIGHT))
    assert seen is not None
    assert seen.roll == pytest.approx(-2.4, abs=0.1)
    assert confidence(seen)[0] > SURE


def test_sums_along_lines_are_what_a_loop_adds_up() -> None:
    random = np.random.default_rng(6)
    votes = random.normal(size=(40, 60, 2)).astype(np.float32)
    slopes = np.tan(np.radians([-12.0, 0.0, 7.0]))
    sums = summed(votes, slopes)
    for at, slope in enumerate(slopes):
        for middle in range(40):
            rows = [int(np.floor(slope * (x + 0.5 - 30) + 0.5)) + middle for x in range(60)]
            on = [votes[row, x] for x, row in enumerate(rows) if 1 <= row < 39]
            expected = np.mean(on, axis=0) if len(on) > 0.55 * 60 else np.zeros(2)
            assert sums[at, middle] == pytest.approx(expected, abs=1e-5)
