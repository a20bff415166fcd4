"""Looking first: pieces of edges put together, directions that lines share, how the camera was held."""

from __future__ import annotations

import cv2
import numpy as np
import pytest
from scenes import SCENES, scene
from skimage import data

from sequor.core.camera import Attitude, Intrinsics, intrinsics
from sequor.core.distortion.models import no_lens
from sequor.core.look.attitude import look
from sequor.core.look.confidence import SURE, confidence
from sequor.core.look.directions import horizontal_directions, off_deg, peak, refined
from sequor.core.look.lines import Lines, find_lines, weights
from sequor.core.look.merging import merge
from sequor.core.look.posterior import Evidence, Recorded, modes, nadir, steep_lines
from sequor.core.look.texture import is_one_texture


def lines_through(starts: np.ndarray, ends: np.ndarray, sd: float = 0.2) -> Lines:
    """Lines of these ends (N, 2) in focal lengths."""
    count = len(starts)
    span = 1600 * np.linalg.norm(ends - starts, axis=1)
    return Lines(starts, ends, span, np.full(count, sd), np.ones(count))


def pointing_at(
    towards: np.ndarray, count: int, random: np.random.Generator, noise_deg: float = 0.0
) -> Lines:
    """Lines of a camera's view that point at a vanishing point (3,), each turned by some noise."""
    middle = random.uniform(-0.5, 0.5, (count, 2))
    x, y = towards[0] - towards[2] * middle[:, 0], towards[1] - towards[2] * middle[:, 1]
    angle = np.arctan2(y, x) + np.radians(random.normal(0, noise_deg, count))
    way = 0.06 * np.column_stack([np.cos(angle), np.sin(angle)])
    return lines_through(middle - way, middle + way)


def together(*some: Lines) -> Lines:
    """All of them."""
    names = ("starts", "ends", "support", "sd", "weight")
    return Lines(*(np.concatenate([getattr(one, name) for one in some]) for name in names))


def test_pieces_of_one_edge_become_one_line_and_others_stay() -> None:
    slope = np.array([np.cos(0.3), np.sin(0.3)])
    pieces = [np.concatenate([100 + at * slope, 100 + (at + 50) * slope]) for at in (0.0, 60, 130, 200)]
    beside = np.concatenate([100 + np.array([-8, 24]), 100 + np.array([-8, 24]) + 90 * slope])
    turned = np.array([100.0, 100, 160, 180])
    ends = np.array([beside, turned, *pieces])
    lengths = np.hypot(ends[:, 2] - ends[:, 0], ends[:, 3] - ends[:, 1])
    order = np.argsort(-lengths, kind="stable")
    ends, lengths = np.ascontiguousarray(ends[order]), lengths[order]
    ways = np.ascontiguousarray((ends[:, 2:] - ends[:, :2]) / lengths[:, None])
    merged, support = merge(ends, lengths, ways, 90.0, 1.3, np.radians(0.9))
    assert len(merged) == 3
    one = int(np.argmax(np.hypot(merged[:, 2] - merged[:, 0], merged[:, 3] - merged[:, 1])))
    assert np.hypot(*(merged[one, 2:] - merged[one, :2])) == pytest.approx(250, abs=0.01)
    assert support[one] == pytest.approx(200, abs=0.01)


def test_a_vanishing_point_is_found_where_the_closed_form_has_it() -> None:
    """Lines of level things that run at 35° aside, seen by a camera that is aimed 12° up and tilted by 3°: they meet at
    R d (Hartley and Zisserman, 2nd ed., 8.6)."""
    attitude = Attitude(roll=3.0, pitch=12.0)
    level = np.array([np.sin(np.radians(35)), 0.0, np.cos(np.radians(35))])
    true = attitude.rotation().T @ level
    random = np.random.default_rng(1)
    some = pointing_at(true, 40, random, noise_deg=0.2)
    clutter = pointing_at(np.array([0.3, -0.5, 0.8]), 1, random)
    for _ in range(30):
        clutter = together(clutter, pointing_at(random.normal(size=3), 1, random))
    (best, *_) = horizontal_directions(together(some, clutter), np.random.default_rng(0))
    off = np.degrees(np.arccos(min(1.0, abs(float(best.towards @ true)))))
    assert off < 0.25
    exact, covariance = refined(some, np.arange(40), best.towards)
    spread = np.degrees(np.sqrt(np.trace(covariance)))
    assert np.degrees(np.arccos(min(1.0, abs(float(exact @ true))))) < 3 * spread
    assert (
        np.abs(off_deg(true, pointing_at(true, 20, random).middle, pointing_at(true, 20, random).way)).max()
        > 1
    )


def test_vanishing_points_lie_where_opencv_projects_what_is_far_away() -> None:
    """cv2.projectPoints of points a million metres off, along level and upright directions."""
    attitude = Attitude(roll=-4.0, pitch=9.0, yaw=20.0)
    to_camera = attitude.rotation().T
    turn = cv2.Rodrigues(to_camera)[0]
    random = np.random.default_rng(4)
    for way in ([0.0, 1.0, 0.0], [0.4, 0.0, 0.9], [-0.8, 0.0, 0.6]):
        far = np.array([way]) * 1e6
        (at,) = cv2.projectPoints(far, turn, np.zeros(3), np.eye(3), None)[0].reshape(-1, 2)
        some = pointing_at(to_camera @ np.array(way), 30, random, noise_deg=0.05)
        towards, _ = refined(some, np.arange(30), to_camera @ np.array(way) + random.normal(0, 0.01, 3))
        there = np.array([*at, 1.0]) / np.linalg.norm([*at, 1.0])
        assert np.degrees(np.arccos(min(1.0, abs(float(towards @ there))))) < 0.15


def test_a_heap_says_nothing_and_a_peak_does() -> None:
    """Blades of grass lean by some 4° to either side of upright; posts stand within 0.2°."""
    random = np.random.default_rng(2)
    down = np.array([0.0, 1.0, 0.0])
    grass, posts = pointing_at(down, 120, random, 6.0), pointing_at(down, 12, random, 0.2)
    assert float(peak(down, grass)) < 0.35 * float(peak(down, posts))
    assert float(peak(down, posts)) > 15


def test_what_runs_side_by_side_is_one_witness() -> None:
    """Twenty cables weigh little more than two posts that stand apart."""
    x = np.linspace(-0.005, 0.005, 20)
    cables = lines_through(np.column_stack([x, np.full(20, -0.1)]), np.column_stack([x, np.full(20, 0.1)]))
    posts = lines_through(np.array([[-0.4, -0.1], [0.4, -0.1]]), np.array([[-0.4, 0.1], [0.4, 0.1]]))
    weight = weights(together(cables, posts))
    assert weight[:20].sum() < 1.3 * weight[20:].sum()


def test_the_best_mode_is_the_top_of_the_posterior() -> None:
    """Against brute force over a fine grid."""
    random = np.random.default_rng(3)
    true = Attitude(roll=2.4, pitch=-7.3).rotation().T @ np.array([0.0, 1.0, 0.0])
    lines = together(
        pointing_at(true, 25, random, 0.2), pointing_at(np.array([1.0, 0.3, 0.4]), 15, random, 4)
    )
    evidence = Evidence(lines, steep_lines(lines), [], [])
    best = modes(evidence)[0]
    rolls, pitches = (one.ravel() for one in np.meshgrid(np.arange(-6, 6, 0.1), np.arange(-14, 2, 0.2)))
    heights = evidence.log_posterior(rolls, pitches, 0.0)
    at = int(np.argmax(heights))
    assert best.height >= heights[at] - 0.05
    assert (best.roll, best.pitch) == pytest.approx((rolls[at], pitches[at]), abs=0.3)
    assert np.degrees(np.arccos(float(nadir(best.roll, best.pitch) @ true))) < 0.5


def test_what_the_camera_recorded_counts_as_far_as_it_can_be_trusted() -> None:
    """Alone it is what is gone by; lines that agree are not moved by a record that is wrong."""
    none = lines_through(np.zeros((0, 2)), np.zeros((0, 2)))
    alone = modes(Evidence(none, steep_lines(none), [], [], Recorded(roll=4.0, pitch=None)))[0]
    assert alone.roll == pytest.approx(4.0 * 2.5**2 / (2.5**2 + 1), abs=0.6)
    random = np.random.default_rng(7)
    lines = pointing_at(nadir(-2.0, 5.0), 40, random, 0.15)
    wrong = modes(Evidence(lines, steep_lines(lines), [], [], Recorded(roll=9.0, pitch=-20.0)))[0]
    assert (wrong.roll, wrong.pitch) == pytest.approx((-2.0, 5.0), abs=0.4)


def grey_of(picture: np.ndarray) -> np.ndarray:
    """The picture in grey."""
    return np.asarray(cv2.cvtColor(picture, cv2.COLOR_RGB2GRAY))


@pytest.mark.parametrize("name", SCENES)
def test_the_demo_scenes_are_seen_as_they_were_taken(name: str) -> None:
    """Their true attitude is known from how they were rendered; bars of the issue for roll and pitch at 90 %."""
    one = scene(name)
    seen = look(one.picture, one.camera, one.lens)
    assert seen is not None
    assert seen.roll == pytest.approx(one.truth["roll_deg"], abs=0.08)
    assert seen.pitch == pytest.approx(one.truth["pitch_deg"], abs=0.15)
    assert min(confidence(seen)) > SURE
    if abs(one.truth["yaw_deg"]) > 1:
        assert seen.yaw == pytest.approx(one.truth["yaw_deg"], abs=0.3)


def small(name: str, side: int = 1600) -> tuple[np.ndarray, Intrinsics]:
    """A demo scene without bending, reduced."""
    one = scene(name)
    scale = side / max(one.size)
    picture = cv2.resize(one.picture, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)
    focal = one.camera.focal_px * scale
    return np.asarray(picture), intrinsics(picture.shape[1], picture.shape[0], photo_focal_px=focal)


def test_a_turned_copy_turns_the_answer_and_a_mirrored_one_mirrors_it() -> None:
    picture, camera = small("glasshouse")
    plain = look(picture, camera, no_lens(camera.width, camera.height))
    mirrored = look(np.ascontiguousarray(picture[:, ::-1]), camera, no_lens(camera.width, camera.height))
    turn = cv2.getRotationMatrix2D((camera.width / 2 - 0.5, camera.height / 2 - 0.5), 2.0, 1.12)
    turned_picture = cv2.warpAffine(picture, turn, (camera.width, camera.height), flags=cv2.INTER_CUBIC)
    nearer = intrinsics(camera.width, camera.height, photo_focal_px=camera.focal_px * 1.12)
    turned = look(np.asarray(turned_picture), nearer, no_lens(camera.width, camera.height))
    assert plain is not None and mirrored is not None and turned is not None
    assert mirrored.roll == pytest.approx(-plain.roll, abs=0.08)
    assert mirrored.pitch == pytest.approx(plain.pitch, abs=0.15)
    # OpenCV turns the content anticlockwise by 2°: what is level rises to the right, as if the camera had turned.
    assert turned.roll == pytest.approx(plain.roll + 2.0, abs=0.1)


@pytest.mark.parametrize("name", ["grass", "gravel", "coffee", "chelsea"])
def test_nothing_is_made_of_textures_and_close_ups(name: str) -> None:
    """Pictures that scikit-image ships."""
    picture = np.asarray(getattr(data, name if name != "chelsea" else "cat")())
    colours = np.dstack([picture] * 3) if picture.ndim == 2 else picture[..., :3]
    height, width = colours.shape[:2]
    seen = look(np.ascontiguousarray(colours), intrinsics(width, height), no_lens(width, height))
    assert seen is None or confidence(seen)[0] < SURE


@pytest.mark.parametrize("name", ["brick", "grass", "gravel"])
def test_one_texture_is_told_from_structure(name: str) -> None:
    """Pictures that scikit-image ships; the mill's front, of brick as well, is none."""
    assert is_one_texture(np.asarray(getattr(data, name)()))


@pytest.mark.parametrize("name", SCENES)
def test_structure_is_no_texture(name: str) -> None:
    assert not is_one_texture(grey_of(small(name)[0]))


def test_a_plain_picture_has_no_lines() -> None:
    plain = np.full((300, 400, 3), 128, np.uint8)
    assert look(plain, intrinsics(400, 300), no_lens(400, 300)) is None
    assert len(find_lines(plain[..., 0].copy(), intrinsics(400, 300), no_lens(400, 300))) == 0
