"""The fill: nothing known changes, structure runs on, and the blend is the membrane it is said to be."""

from __future__ import annotations

import cv2
import numpy as np
import pytest
import scipy.sparse
import scipy.sparse.linalg
from maps import any_map, rolled
from numpy.typing import NDArray
from pictures import DEMO, smooth_picture
from PIL import Image

from sequor.core.fill import blend, levels, patchmatch
from sequor.core.fill.blend import laplace, membrane
from sequor.core.fill.harmony import Harmony
from sequor.core.fill.levels import Level, NothingToCopyError, Size
from sequor.core.fill.parts import parts
from sequor.core.fill.patchmatch import Completion, Style, fill
from sequor.core.fill.receding import Views
from sequor.core.fill.structure_lines import guides
from sequor.core.raster.resample import resample, shown

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
        warp = any_map(np.random.default_rng(case), 300, 200, straight=case % 2 == 0)
        white = np.full((200, 300, 3), 255, np.uint8)
        out = resample(white, warp, -20.3, -30.7, 340, 260)
        assert np.array_equal(out[..., 0] > 0, shown(warp, -20.3, -30.7, 340, 260))


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


def test_what_has_detail_is_not_filled_with_what_has_none(monkeypatch: pytest.MonkeyPatch) -> None:
    """Of noise no patch is like another; a plain one of its mean is as like as any, and would win."""
    y, x = np.mgrid[0:200, 0:320] // 20
    noise = np.random.default_rng(3).normal(0, 30, (200, 320, 3))
    noise[(x + y) % 3 == 0] *= 0.1
    truth = np.clip(128 + noise, 0, 255).astype(np.uint8)
    hole = np.zeros((200, 320), np.bool_)
    hole[60:140, 120:200] = True

    def contrast() -> float:
        return float(fill(covered(truth, hole), hole)[hole].std())

    asked = contrast()
    monkeypatch.setattr(levels, "DETAIL", np.float32(0))
    assert asked > 1.15 * contrast()


def leaves(seed: int, height: int = 240, width: int = 360) -> NDArray[np.float32]:
    """Blurred noise (h, w, 3): a texture without a thing in it."""
    noise = cv2.GaussianBlur(np.random.default_rng(seed).normal(size=(height, width, 3)), (0, 0), 2.0)
    return np.asarray(110 + 30 * noise / noise.std(), np.float32)


def test_a_thing_is_not_there_twice(monkeypatch: pytest.MonkeyPatch) -> None:
    """A red ball on grass near the hole is copied into it less than where that costs nothing."""
    monkeypatch.setattr(patchmatch, "STYLES", (Style(2.0, 2.0), Style(2.0, 0.0)))
    red = [0, 0]
    for seed in range(8):
        picture = leaves(seed)
        y, x = np.mgrid[0:240, 0:360]
        ball = np.hypot(x - 265, y - 120) < 22
        picture[ball] = picture[ball] * 0.3 + np.array([190.0, 20.0, 20.0])
        seen = np.clip(picture, 0, 255).astype(np.uint8)
        hole = np.zeros((240, 360), bool)
        hole[:, 300:] = True
        whole = Completion.of(covered(seen, hole), hole)
        for take in (0, 1):
            made = whole.take(take + 1).astype(int)
            red[take] += int((made[:, 0] - made[:, 1] > 80).sum())
    assert red[0] < 0.75 * red[1], red


def test_pieces_of_another_light_meet() -> None:
    """Two pieces of a sky, from its darker and from its lighter side: the step between them is gone."""
    sky = np.repeat(np.linspace(110, 150, 240, dtype=np.float32)[None, :, None], 160, axis=0)
    sky = np.ascontiguousarray(np.repeat(sky, 3, axis=2))
    hole = np.zeros((160, 240), np.bool_)
    hole[50:110, 90:150] = True
    level = Level.of(Size(sky, hole, None, 160), Views((), 1.0))
    across = np.where(level.columns < 120, -66, 66)
    level.place(level.rows.astype(np.int64), level.columns.astype(np.int64) + across)
    level.copy_middles()
    step = sky[80, 119] - sky[80, 120]
    rows, columns = np.full(2, 80), np.array([119, 120])
    changed = sky[rows, columns] + Harmony(level).at(rows, columns)
    assert np.abs(step).min() > 20
    assert np.abs(changed[0] - changed[1]).max() < 8


def test_no_fragments_where_places_are_only_carried_up(monkeypatch: pytest.MonkeyPatch) -> None:
    """A large picture in small: above the first level nothing is searched afresh. Two flat halves stay the two."""
    for module in (levels, patchmatch):
        monkeypatch.setattr(module, "REPEATED_PIXELS", 20_000)
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
    with pytest.raises(NothingToCopyError, match="Make the frame smaller"):
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


def crossing(degrees: float, mast: bool) -> tuple[NDArray[np.uint8], Mask, NDArray[np.float64]]:
    """A thing that leans by so many degrees and runs into an empty strip of 60 pixels; its place in each row."""
    rng = np.random.default_rng(5)
    width, height, depth = 380, 320, 60
    slope = np.tan(np.deg2rad(degrees))
    y, x = np.mgrid[0:height, 0:width] + 0.5
    meets = width / 2 + slope * depth / 2
    off = (x - meets - slope * (depth - y)) * np.cos(np.deg2rad(degrees))
    grey = 190 + rng.normal(0, 5, (height, width))
    if mast:
        grey -= 120 * np.clip(5 - np.abs(off), 0, 1)
    else:
        grey -= 70 * np.clip(off + 0.5, 0, 1)
    hole = np.zeros((height, width), bool)
    hole[:depth] = True
    picture = np.repeat(np.clip(grey, 0, 255)[..., None], 3, axis=2).astype(np.uint8)
    return picture, hole, meets + slope * (depth - np.arange(depth) - 0.5)


@pytest.mark.parametrize(("degrees", "mast"), [(5, True), (-23, True), (41, True), (14, False), (-36, False)])
def test_masts_and_eaves_run_on_straight(degrees: float, mast: bool) -> None:
    picture, hole, true = crossing(degrees, mast)
    made = fill(covered(picture, hole), hole)[:60, :, 0].astype(float)
    found = []
    for row, place in zip(made, true, strict=True):
        first = int(place) - 20
        part = np.convolve(row[first : first + 41], np.ones(3) / 3, "valid")
        if mast:
            dark = np.clip(150 - part, 0, None)
            found.append(first + 1.5 + (dark * np.arange(39)).sum() / max(dark.sum(), 1e-9))
        else:
            found.append(first + 2.0 + np.argmax(np.cumsum(part - part.mean())))
    off = np.array(found) - true
    assert np.abs(off).mean() < 1
    lean = np.rad2deg(
        np.arctan(np.polyfit(np.arange(60), found, 1)[0]) + np.arctan(np.tan(np.deg2rad(degrees)))
    )
    assert abs(lean) < 2


def test_straight_things_are_found_with_their_direction() -> None:
    picture, hole, _ = crossing(-23, True)
    lines = guides(picture.astype(np.float32), hole)
    assert len(lines) >= 2
    for _, y, across, down, length, sure in lines[:2]:
        assert np.rad2deg(np.arctan2(across, -down)) == pytest.approx(-23, abs=0.3)
        assert y == pytest.approx(60, abs=1) and length > 300 and sure == 1


def test_what_runs_along_the_border_is_no_guide() -> None:
    picture = np.full((200, 300, 3), 180, np.float32)
    picture[62:] = 90
    hole = np.zeros((200, 300), bool)
    hole[:60] = True
    assert len(guides(picture, hole)) == 0


def test_a_horizon_is_followed_at_both_ends() -> None:
    picture = np.full((200, 300, 3), 180, np.float32)
    picture[100:] = 90
    hole = np.zeros((200, 300), bool)
    hole[:, :40] = hole[:, 260:] = True
    found = sorted(guides(picture, hole).tolist())
    assert [round(line[2]) for line in found] == [-1, 1]
    assert all(line[1] == pytest.approx(100, abs=0.6) for line in found)


def test_leaves_and_soft_clouds_are_no_straight_things() -> None:
    hole = np.zeros((240, 360), bool)
    hole[:, 300:] = True
    assert sum(len(guides(leaves(seed), hole)) for seed in range(6)) == 0
    y, x = np.mgrid[0:240, 0:360]
    cloud = 140 + 70 / (1 + np.exp((y - 100 - 0.1 * x) / 9))
    assert len(guides(np.repeat(cloud[..., None], 3, axis=2).astype(np.float32), hole)) == 0


def test_what_is_seen_on_both_sides_of_a_hole_is_led_across_it() -> None:
    """A jamb that is too short to be followed by itself, above a hole and below it, and one above it alone."""
    picture = leaves(1, 300, 300) * 0.1 + 60
    picture[20:280, 140:] += 90
    hole = np.zeros((300, 300), bool)
    hole[42:258, 60:240] = True
    found = guides(picture, hole)
    assert sorted(round(float(line[3])) for line in found) == [-1, 1]
    assert all(line[4] == pytest.approx(216, abs=4) and line[5] == 1 for line in found)
    picture[258:, 60:240] = leaves(1, 300, 300)[258:, 60:240] * 0.1 + 60
    assert len(guides(picture, hole)) == 0


def test_paper_has_no_blotches() -> None:
    """Slow shading under a texture: blurred until only blotches are left, the fill is the truth within 4 of 255."""
    rng = np.random.default_rng(3)
    y, x = np.mgrid[0:300, 0:450] / 450
    texture = cv2.GaussianBlur(rng.normal(size=(300, 450)), (0, 0), 2)
    grey = 190 + 30 * x - 20 * y + 3 * texture / texture.std() + rng.normal(0, 3, (300, 450))
    paper = np.repeat(grey[..., None], 3, axis=2).astype(np.uint8)
    hole = corners(450, 300, 5)
    made = fill(covered(paper, hole), hole)
    blurred = [cv2.GaussianBlur(one.astype(np.float32), (0, 0), 12)[hole] for one in (made, paper)]
    assert np.abs(blurred[0] - blurred[1]).max() < 4


def test_takes_differ_and_each_is_the_same_however_it_comes_about() -> None:
    picture = np.asarray(Image.open(DEMO / "wendlow_village.jpg").reduce(6))
    hole = corners(picture.shape[1], picture.shape[0], 6)
    whole = Completion.of(covered(picture, hole), hole)
    one, two, three = (whole.take(seed).astype(int) for seed in (1, 2, 3))
    for first, second in ((one, two), (one, three), (two, three)):
        assert np.abs(first - second).mean() > 4
    alone = Completion.of(covered(picture, hole), hole).take(3)
    assert np.array_equal(alone, three)


def test_the_first_look_is_the_take_in_small_and_comes_before_it(monkeypatch: pytest.MonkeyPatch) -> None:
    for module in (levels, patchmatch):
        monkeypatch.setattr(module, "REPEATED_PIXELS", 60_000)
    picture = np.asarray(Image.open(DEMO / "wendlow_mill.jpg").reduce(4))
    hole = corners(picture.shape[1], picture.shape[0], 5)
    events: list[str] = []
    looks: list[tuple[NDArray[np.uint8], int]] = []

    def look(small: NDArray[np.uint8], reduced: int) -> None:
        events.append("look")
        looks.append((small, reduced))

    whole = Completion.of(covered(picture, hole), hole)
    made = picture.copy()
    made[whole.at] = whole.take(1, lambda share: events.append("more"), look)
    ((small, reduced),) = looks
    assert reduced == 4 and "more" in events[events.index("look") :]
    final = cv2.resize(made, small.shape[1::-1], interpolation=cv2.INTER_AREA).astype(int)
    gone = cv2.resize(hole.astype(np.uint8), small.shape[1::-1], interpolation=cv2.INTER_AREA) > 0
    assert np.abs(final - small)[gone].mean() < 12


def test_a_take_ends_when_its_progress_says_so() -> None:
    picture, hole = smooth_picture(300, 200), corners(300, 200, 5)

    def stop(share: float) -> None:
        raise InterruptedError

    with pytest.raises(InterruptedError):
        Completion.of(covered(picture, hole), hole).take(1, stop)


def test_the_parts_of_a_turned_frame_are_its_corners() -> None:
    hole = corners(300, 200, 4)
    found = parts(hole)
    assert [part.name for part in found] == [
        "top left corner",
        "top right corner",
        "bottom right corner",
        "bottom left corner",
    ]
    together = np.zeros_like(hole, dtype=int)
    for part in found:
        together[part.place] += part.mask
    assert np.array_equal(together, hole.astype(int))


def test_parts_are_told_by_what_they_touch() -> None:
    hole = np.zeros((100, 150), bool)
    hole[:20, :] = True
    hole[60:, 140:] = True
    hole[95:, 30:60] = True
    hole[95:, 80:100] = True
    assert [part.name for part in parts(hole)] == [
        "top edge",
        "bottom right corner",
        "bottom edge",
        "bottom edge 2",
    ]
    ring = np.ones((100, 150), bool)
    ring[10:90, 10:140] = False
    assert [(part.name, part.box) for part in parts(ring)] == [("all round", (0, 0, 150, 100))]
    speck = np.zeros((100, 150), bool)
    speck[0, :5] = True
    (only,) = parts(speck)
    assert only.name == "top left corner" and only.mask.sum() == 5
    assert parts(np.zeros((5, 5), bool)) == []


def test_parts_that_touch_in_a_point_are_two() -> None:
    hole = np.zeros((100, 150), bool)
    y, x = np.mgrid[0:100, 0:150]
    hole[(x < 75) & (y < (75 - x) // 3 + 1)] = True
    hole[(x >= 75) & (y < (x - 75) // 3 + 1)] = True
    assert [part.name for part in parts(hole)] == ["top left corner", "top right corner"]


def test_sixteen_bits_are_filled_as_eight_are_and_finer() -> None:
    """The same picture in either depth: the same choice of places, and codes between those of 8 bits."""
    rng = np.random.default_rng(3)
    picture = rng.integers(0, 256, (60, 80, 3)).astype(np.uint8)
    picture = np.asarray(cv2.GaussianBlur(picture, (0, 0), 2), np.uint8)
    hole = np.zeros((60, 80), bool)
    hole[:12, :20] = True
    eight = fill(picture, hole)
    sixteen = fill(picture.astype(np.uint16) * 257, hole)
    assert sixteen.dtype == np.uint16
    assert np.array_equal(sixteen[~hole], picture[~hole].astype(np.uint16) * 257)
    assert np.abs(sixteen[hole] / 257 - eight[hole]).max() <= 0.51
    assert (sixteen[hole] % 257 != 0).any()
