"""The fill: nothing known changes, structure runs on, and the blend is the membrane it is said to be."""

from __future__ import annotations

import numpy as np
import pytest
import scipy.sparse
import scipy.sparse.linalg
from maps import any_map, rolled
from numpy.typing import NDArray
from pictures import smooth_picture

from sequor.core.fill import blend, complete
from sequor.core.fill.blend import laplace, membrane
from sequor.core.fill.complete import NothingToCopyError, fill
from sequor.core.resample import resample, shown

Mask = NDArray[np.bool_]


def corners(width: int, height: int, degrees: float) -> Mask:
    """What a photo of this size, turned, does not show in a frame of its size."""
    return ~shown(rolled(degrees, width, height), 0, 0, width, height)


def striped(width: int, height: int, period: float, degrees: float = 0) -> NDArray[np.uint8]:
    """Stripes of a period, upright or turned."""
    y, x = np.mgrid[0:height, 0:width] + 0.5
    a = np.deg2rad(degrees)
    wave = 127 + 90 * np.sin(2 * np.pi * (x * np.cos(a) + y * np.sin(a)) / period)
    return np.repeat(wave[..., None], 3, axis=2).astype(np.uint8)


def covered(picture: NDArray[np.uint8], hole: Mask) -> NDArray[np.uint8]:
    """The picture with nothing in its hole."""
    out = picture.copy()
    out[hole] = 0
    return out


def test_what_is_shown_is_what_is_rendered() -> None:
    """The mask against a white photo on black, through random lenses and attitudes: not a pixel differs."""
    for case in range(12):
        mapping = any_map(np.random.default_rng(case), 300, 200, straight=case % 2 == 0)
        white = np.full((200, 300, 3), 255, np.uint8)
        out = resample(white, mapping, -20.3, -30.7, 340, 260)
        assert np.array_equal(out[..., 0] > 0, shown(mapping, -20.3, -30.7, 340, 260))


def test_known_pixels_stay_to_the_bit_and_a_seed_is_a_take() -> None:
    rng = np.random.default_rng(1)
    picture = rng.integers(0, 256, (180, 260, 3)).astype(np.uint8)
    hole = corners(260, 180, 5)
    one, again, other = (fill(covered(picture, hole), hole, seed) for seed in (1, 1, 2))
    assert np.array_equal(one[~hole], picture[~hole])
    assert np.array_equal(one, again)
    assert np.abs(one[hole].astype(int) - other[hole]).mean() > 5


@pytest.mark.parametrize(("period", "degrees"), [(12, 0), (9, 90), (14, 45)])
def test_a_texture_of_known_period_runs_on_in_phase(period: float, degrees: float) -> None:
    picture, hole = striped(360, 240, period, degrees), corners(360, 240, 6)
    made = fill(covered(picture, hole), hole)
    error = made[hole].astype(float) - picture[hole]
    assert np.sqrt((error**2).mean()) < 12
    assert np.corrcoef(made[hole].ravel().astype(float), picture[hole].ravel())[0, 1] > 0.97


def test_a_horizon_runs_on_straight() -> None:
    """Bright over dark: where the edge leaves the known picture it goes on, within a pixel."""
    picture = np.full((240, 360, 3), 210, np.uint8)
    picture[100:] = 60
    hole = corners(360, 240, 8)
    made = fill(covered(picture, hole), hole)
    edge = np.argmax(made[..., 0] < 135, axis=0)
    assert np.abs(edge - 100).max() <= 1


def test_a_smooth_sky_stays_smooth() -> None:
    y, x = np.mgrid[0:300, 0:450]
    sky = np.stack([150 + 0.1 * x, 170 + 0.15 * y, 220 - 0.1 * y], axis=-1).astype(np.uint8)
    hole = corners(450, 300, 4)
    made = fill(covered(sky, hole), hole)
    assert np.abs(made[hole].astype(int) - sky[hole]).max() <= 6


def test_no_fragments_where_places_are_only_carried_up(monkeypatch: pytest.MonkeyPatch) -> None:
    """A large picture in small: above the first level nothing is searched afresh. Two flat halves stay the two."""
    monkeypatch.setattr(complete, "REPEATED_PIXELS", 20_000)
    picture = np.full((400, 600, 3), 200, np.uint8)
    picture[:, 300:] = 90
    hole = corners(600, 400, 6)
    made = fill(covered(picture, hole), hole)
    values = made[hole][:, 0].astype(int)
    assert np.minimum(np.abs(values - 200), np.abs(values - 90)).max() <= 8
    assert np.abs(made[hole].astype(int) - picture[hole]).mean() < 2


def test_a_frame_that_is_nearly_empty() -> None:
    picture = smooth_picture(300, 200)
    hole = np.ones((200, 300), bool)
    hole[80:120, 100:200] = False
    made = fill(covered(picture, hole), hole)
    assert np.array_equal(made[~hole], picture[~hole])
    assert made[hole].std() > 5


def test_a_photo_smaller_than_a_patch_is_refused() -> None:
    hole = np.ones((40, 40), bool)
    hole[10:15, 10:15] = False
    with pytest.raises(NothingToCopyError, match="make the frame smaller"):
        fill(np.zeros((40, 40, 3), np.uint8), hole)


def test_without_a_hole_nothing_is_done() -> None:
    picture = smooth_picture(60, 40)
    assert np.array_equal(fill(picture, np.zeros((40, 60), bool)), picture)


def test_the_membrane_against_functions_that_are_harmonic(monkeypatch: pytest.MonkeyPatch) -> None:
    """x, y, xy and x^2 - y^2 are their neighbours' mean on a grid too: given on the rim, they come out inside."""
    y, x = np.mgrid[0:40, 0:60].astype(np.float32)
    hole = np.zeros((40, 60), bool)
    hole[6:30, 10:50] = True
    rim = np.zeros_like(hole)
    rim[5:31, 9:51] = True
    rim &= ~hole
    for values in (x, y, x * y, x**2 - y**2):
        at, border = np.nonzero(hole), np.nonzero(rim)
        given = np.repeat(values[border][:, None], 3, axis=1)
        monkeypatch.setattr(blend, "SMOOTHED", 1)
        field = membrane(hole.shape, at, border, given, most=10**6)
        assert np.abs(field[:, 0] - values[hole]).max() < 1e-2


def test_the_membrane_against_a_direct_solve() -> None:
    """scipy's sparse solver on the matrix of the five-point Laplacian written out pixel by pixel."""
    rng = np.random.default_rng(2)
    hole = corners(40, 30, 9)
    values = rng.normal(size=(30, 40, 3)).astype(np.float32)
    at = [tuple(one) for one in np.argwhere(hole)]
    number = {place: index for index, place in enumerate(at)}
    matrix, right = scipy.sparse.lil_matrix((len(at), len(at))), np.zeros((len(at), 3))
    for (row, column), index in number.items():
        for there in ((row + 1, column), (row - 1, column), (row, column + 1), (row, column - 1)):
            if not (0 <= there[0] < 30 and 0 <= there[1] < 40):
                continue
            matrix[index, index] += 1
            if there in number:
                matrix[index, number[there]] -= 1
            else:
                right[index] += values[there]
    expected = scipy.sparse.linalg.spsolve(matrix.tocsc(), right)
    assert np.abs(laplace(hole, ~hole, values) - expected).max() < 1e-4
