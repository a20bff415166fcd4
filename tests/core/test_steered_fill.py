"""A steered fill: nothing forbidden is copied, nothing outside the area changes, strips grow outwards."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from numpy.typing import NDArray
from pictures import DEMO
from PIL import Image
from skimage.draw import disk, polygon2mask

from sequor.core.fill.areas import Area, barred, box_of, feathered
from sequor.core.fill.levels import NothingToCopyError
from sequor.core.fill.painted import blended
from sequor.core.fill.patchmatch import Completion, fill
from sequor.core.fill.strips import boxes, fill_in_strips

Mask = NDArray[np.bool_]
RED = (250, 10, 10)


def scene(width: int = 240, height: int = 160, seed: int = 1) -> NDArray[np.uint8]:
    """Grey and green grain; nothing red."""
    rng = np.random.default_rng(seed)
    out = rng.integers(60, 120, (height, width, 3)).astype(np.uint8)
    out[height // 2 :, :, 1] += 90
    return out


def box(width: int, height: int, left: int, top: int, right: int, bottom: int) -> Mask:
    mask = np.zeros((height, width), np.bool_)
    mask[top:bottom, left:right] = True
    return mask


def used(completion: Completion) -> Mask:
    """Every pixel that the finest level may have copied from."""
    return completion.levels[-1].sources()


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_a_forbidden_area_is_never_a_source(seed: int) -> None:
    picture = scene()
    hole, forbidden = box(240, 160, 100, 60, 130, 90), box(240, 160, 130, 40, 200, 120)
    picture[forbidden] = RED
    picture[hole] = 0
    free = Completion.of(picture, hole)
    free.take(seed)
    assert (used(free) & forbidden).any()
    steered = Completion.of(picture, hole, forbidden)
    steered.take(seed)
    assert not (used(steered) & forbidden).any()


@pytest.mark.parametrize("halved", [False, True])
def test_with_areas_named_all_comes_from_them(halved: bool, monkeypatch: pytest.MonkeyPatch) -> None:
    """Also where the fill is begun on a reduced picture."""
    if halved:
        monkeypatch.setattr("sequor.core.fill.patchmatch.REPEATED_PIXELS", 12_000)
    picture = scene()
    hole = box(240, 160, 60, 100, 120, 160)
    outside = ~box(240, 160, 10, 5, 230, 40)
    picture[hole] = 0
    completion = Completion.of(picture, hole, outside)
    colours = completion.take(1)
    assert not (used(completion) & outside).any()
    # The lower half is green, what it was filled from is not.
    assert colours[..., 1].mean() < 175


def test_too_small_an_area_to_copy_from_is_said() -> None:
    picture = scene()
    with pytest.raises(NothingToCopyError, match="leave too little"):
        fill(picture, box(240, 160, 60, 60, 90, 90), 1, ~box(240, 160, 5, 5, 9, 9))


def test_without_donors_it_is_the_same_take() -> None:
    picture = np.asarray(Image.open(DEMO / "wendlow_shore.jpg").reduce(12))
    hole = box(picture.shape[1], picture.shape[0], 0, 0, 40, 30)
    nowhere = np.zeros_like(hole)
    assert np.array_equal(fill(picture, hole, 1), fill(picture, hole, 1, nowhere))


class TestAreas:
    def test_drawn_around_against_scikit_image(self) -> None:
        """skimage.draw.polygon2mask, from pixel centres; the edge may differ by a pixel."""
        points = ((20.0, 10.0), (90.0, 25.0), (70.0, 70.0), (30.0, 55.0))
        ours = Area(points, None).mask(120, 90)
        theirs = polygon2mask((90, 120), np.array([(y - 0.5, x - 0.5) for x, y in points]))
        differs = ours != theirs
        edge = shapely.Polygon(points).exterior
        rows, columns = np.nonzero(differs)
        assert all(
            edge.distance(shapely.Point(x + 0.5, y + 0.5)) <= 1.5 for y, x in zip(rows, columns, strict=True)
        )
        assert abs(int(ours.sum()) - int(theirs.sum())) < 0.06 * theirs.sum()

    def test_a_dab_is_a_disk(self) -> None:
        ours = Area(((50.0, 40.0),), 12.0).mask(100, 80)
        theirs = np.zeros((80, 100), np.bool_)
        theirs[disk((39.5, 49.5), 12.0, shape=(80, 100))] = True
        assert (ours != theirs).sum() < 40

    def test_a_stroke_is_as_wide_as_its_brush(self) -> None:
        """Against shapely's buffer of the same line: its area to some per cent."""
        points = ((20.0, 30.0), (80.0, 60.0), (100.0, 20.0))
        ours = Area(points, 8.0).mask(140, 90)
        assert ours.sum() == pytest.approx(shapely.LineString(points).buffer(8.0).area, rel=0.08)

    def test_moved(self) -> None:
        area = Area(((10.0, 10.0), (20.0, 10.0)), 3.0)
        assert area.moved(5, -2).points == ((15.0, 8.0), (25.0, 8.0))

    def test_feather_runs_out_around_and_never_inside(self) -> None:
        inside = box(100, 80, 40, 30, 60, 50)
        alpha = feathered(inside, 8)
        assert (alpha[inside] == 255).all()
        line = alpha[40, 60:75].astype(int)
        assert (np.diff(line) <= 0).all() and 200 < line[0] < 255 and line[9] == 0
        assert np.array_equal(feathered(inside, 0) > 0, inside)

    def test_what_is_barred(self) -> None:
        here, there = Area(((20.0, 20.0),), 10.0), Area(((24.0, 20.0),), 4.0)
        assert barred([], 60, 40) is None
        only = barred([(True, here)], 60, 40)
        both = barred([(True, here), (False, there)], 60, 40)
        assert only is not None and both is not None
        assert np.array_equal(only, ~here.mask(60, 40))
        assert np.array_equal(both, only | there.mask(60, 40))

    def test_the_box_of_a_mask(self) -> None:
        assert box_of(box(60, 40, 7, 9, 20, 30)) == (7, 9, 13, 21)
        assert box_of(np.zeros((4, 4), np.bool_)) is None


class TestStrips:
    def test_they_grow_from_what_is_known_to_all(self) -> None:
        hole = ~box(300, 200, 60, 0, 240, 200)
        assert boxes(hole, 3) == [(40, 0, 220, 200), (20, 0, 260, 200), (0, 0, 300, 200)]

    def test_a_room_on_one_side_grows_there(self) -> None:
        hole = ~box(300, 200, 0, 0, 240, 200)
        assert boxes(hole, 2) == [(0, 0, 270, 200), (0, 0, 300, 200)]

    def test_all_is_filled_and_the_known_stays_to_the_bit(self) -> None:
        picture, hole = scene(300, 120), ~box(300, 120, 60, 0, 240, 120)
        told: list[float] = []
        empty = np.where(hole[..., None], np.uint8(0), picture)
        filled = fill_in_strips(empty, hole, 3, 1, None, told.append)
        assert np.array_equal(filled[~hole], picture[~hole])
        assert filled[hole].min() >= 20
        assert told == sorted(told) and told[-1] <= 1
        again = fill_in_strips(empty, hole, 3, 1, None, told.append)
        assert np.array_equal(filled, again)

    def test_a_strip_comes_from_all_before_it_and_from_nothing_beyond(self) -> None:
        """Beyond the first strip the picture is red, and none of it is seen."""
        picture, hole = scene(300, 120), ~box(300, 120, 60, 0, 240, 120)
        picture[hole] = RED
        filled = fill_in_strips(picture, hole, 2, 1, None, lambda share: None)
        assert filled[..., 0].max() < 200


class TestPainted:
    def test_only_the_hole_changes_and_its_level_meets_what_it_borders_on(self) -> None:
        picture = np.full((90, 120, 3), 100, np.uint8)
        hole = box(120, 90, 40, 30, 80, 60)
        painted = np.full_like(picture, 125)
        out = blended(picture, hole, painted)
        assert np.array_equal(out[~hole], picture[~hole])
        assert np.abs(out[hole].astype(int) - 100).max() <= 3

    def test_its_texture_stays(self) -> None:
        rng = np.random.default_rng(4)
        picture = np.full((90, 120, 3), 100, np.uint8)
        hole = box(120, 90, 30, 20, 90, 70)
        painted = np.clip(120 + rng.normal(0, 12, picture.shape), 0, 255).astype(np.uint8)
        assert blended(picture, hole, painted)[hole].std() == pytest.approx(painted[hole].std(), rel=0.1)

    def test_nothing_to_paint(self) -> None:
        picture = scene()
        assert np.array_equal(blended(picture, np.zeros(picture.shape[:2], np.bool_), picture * 0), picture)
