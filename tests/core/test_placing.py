"""Placing: exact where it can be done, the nearest and its reason where it cannot."""

from __future__ import annotations

import numpy as np
import pytest
from maps import any_map, middle, rolled
from shapely import Polygon, box

from sequor.core.camera import Attitude, intrinsics
from sequor.core.frame.largest import holds, largest
from sequor.core.frame.placing import Target, place
from sequor.core.rectangle import Rectangle
from sequor.core.warp.base import Warp
from sequor.core.warp.homography import warp_of


def whole(warp: Warp) -> Rectangle:
    return largest(warp.outline(), 3, 2, middle(warp))


def test_a_small_frame_moves_and_keeps_its_size() -> None:
    warp = rolled(3)
    found = place(warp, Rectangle(1000, 700, 600, 400), Target((1400, 1 / 3), (900, 2 / 3)), None)
    assert (found.frame.width, found.frame.height) == (pytest.approx(600), pytest.approx(400))
    assert found.frame.at(1 / 3, 2 / 3) == pytest.approx([1400, 900])
    assert (found.scale, found.missed_by, found.obstacles) == (pytest.approx(1), 0, ())


@pytest.mark.parametrize("straight", [True, False])
def test_it_shrinks_only_as_far_as_it_must(straight: bool) -> None:
    """Random maps: the thing lies on the line, the ratio holds, nothing is empty (shapely), and no frame that is larger
    by a pixel does the same."""
    for case in range(40):
        rng = np.random.default_rng(case)
        warp = any_map(rng, 3000, 2000, straight)
        frame = whole(warp)
        x, y = frame.at(*rng.uniform(0.25, 0.75, 2))
        share = float(rng.choice([1 / 3, 0.5, 2 / 3]))
        target = [Target((x, share), (y, share)), Target(across=(x, share)), Target(down=(y, share))][
            case % 3
        ]
        found = place(warp, frame, target, None)
        assert found.missed_by == 0 and target.missed_by(found.frame) < 1e-3
        assert found.frame.width / found.frame.height == pytest.approx(frame.width / frame.height)
        inside = box(found.frame.x, found.frame.y, found.frame.right, found.frame.bottom)
        assert Polygon(warp.outline()).buffer(0.2).contains(inside)
        assert found.scale <= 1 + 1e-9
        if target.across is None or target.down is None:
            # Moved only the way it was asked, unless that would have cost more than a twentieth.
            moved = found.frame.centre - frame.centre
            aside = moved[0] if target.across is None else moved[1]
            free = largest(
                warp.outline(), frame.width, frame.height, frame.centre, target.constraints(None, 1.0)
            )
            assert found.frame.width >= free.width * (0.95 if abs(aside) < 1e-3 else 1 - 1e-6) - 0.3
        elif found.scale < 1 - 1e-3:
            larger = 1 + 1.5 / found.frame.width
            wide, high = found.frame.width * larger, found.frame.height * larger
            assert not holds(warp.outline(), Rectangle.about(np.array([x, y]), wide, high, (share, share)))


def test_what_is_in_the_way_is_named() -> None:
    """A photo turned by nothing: its sides are the picture's, so the reasons are known."""
    warp = rolled(0)
    frame = Rectangle(0, 0, 3000, 2000)
    for thing, share, way in (
        ((800, 1000), (2 / 3, 0.5), "left"),
        ((2200, 1000), (1 / 3, 0.5), "right"),
        ((1500, 500), (0.5, 2 / 3), "top"),
        ((1500, 1500), (0.5, 1 / 3), "bottom"),
    ):
        found = place(warp, frame, Target((thing[0], share[0]), (thing[1], share[1])), None)
        assert found.missed_by == 0 and found.scale < 1
        assert way in found.obstacles
    # 800 px from the left at two thirds: 1200 px wide, whatever else there is room for.
    assert place(warp, frame, Target(across=(800, 2 / 3)), None).frame.width == pytest.approx(1200)


def test_a_subject_that_must_stay_inside() -> None:
    warp = rolled(0)
    frame, subject = Rectangle(500, 500, 1500, 1000), Rectangle(600, 600, 1200, 700)
    found = place(warp, frame, Target(across=(1900, 1 / 3)), subject)
    assert found.missed_by > 0 and found.obstacles == ("subject",)
    assert found.frame.contains(subject, 1e-3)
    # The nearest: the frame as far to the right as the subject lets it go, at its full size.
    assert found.frame.x == pytest.approx(600, abs=0.01)
    assert (found.frame.width, found.frame.height) == (pytest.approx(1500), pytest.approx(1000))
    assert found.missed_by == pytest.approx(1900 - 600 - 500, abs=0.01)


def test_a_thing_beyond_the_picture() -> None:
    warp = rolled(0)
    found = place(warp, Rectangle(500, 500, 600, 400), Target(down=(2500, 0.5)), None)
    assert found.obstacles == ("beyond",) and found.missed_by == pytest.approx(2500 - 1800, abs=0.1)
    assert found.frame.bottom == pytest.approx(2000, abs=0.01)


def test_empty_corners_that_are_allowed() -> None:
    warp = rolled(0)
    found = place(warp, Rectangle(0, 0, 3000, 2000), Target((800, 2 / 3)), None, allow_empty=True)
    assert (found.scale, found.missed_by) == (pytest.approx(1), 0)
    assert found.frame.x == pytest.approx(800 - 2000)


def test_where_the_picture_is_cut() -> None:
    """Tilted by 60 degrees the horizon is near: the corrected picture is cut there, not at a side of the photo."""
    camera = intrinsics(3000, 2000, photo_focal_px=2600)
    warp = warp_of(camera, Attitude(pitch=60), Attitude())
    frame = whole(warp)
    x, top = float(frame.centre[0]), float(warp.outline()[:, 1].min())
    found = place(warp, frame, Target((x, 0.5), (top + 400, 2 / 3)), None)
    assert (found.missed_by, found.obstacles) == (0, ("cut",))
    assert found.frame.height == pytest.approx(600)
