"""The whole attitude from mixes of references: recovered exactly, entered by rule, told apart from
mistakes."""

from __future__ import annotations

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from worlds import laid, mirrored, photographed, turned

from sequor.core.camera import Array, Attitude, Intrinsics, intrinsics
from sequor.core.distortion.models import Lens, no_lens
from sequor.core.estimation.solve import Solution, judge, solve
from sequor.core.estimation.unknowns import Unknown
from sequor.core.references.line import read
from sequor.core.references.reference import Reference
from sequor.core.warp.homography import warp_of

WIDTH, HEIGHT, FOCAL = 3000, 2000, 2400.0
CAMERA = intrinsics(WIDTH, HEIGHT, photo_focal_px=FOCAL)
PLAIN = no_lens(WIDTH, HEIGHT)
BARREL = Lens((WIDTH / 2, HEIGHT / 2), PLAIN.unit_px, k1=-0.06, k2=0.008)
ALL: list[Unknown] = ["roll", "pitch", "yaw"]

FACADE = {
    "sill": [(-3.0, 1.0, 10.0), (2.5, 1.0, 10.0)],
    "eave": [(-3.5, -2.5, 10.0), (3.0, -2.5, 10.0)],
    "left wall": [(-3.5, 1.5, 10.0), (-3.5, -2.5, 10.0)],
    "right wall": [(3.0, 1.5, 10.0), (3.0, -2.5, 10.0)],
}
WINDOW = [(-2.5, -2.0, 10.0), (2.0, -2.0, 10.0), (2.0, 1.0, 10.0), (-2.5, 1.0, 10.0)]
attitudes = st.builds(Attitude, st.floats(-12, 12), st.floats(-22, 22), st.floats(-25, 25))


def facade(attitude: Attitude, lens: Lens = PLAIN) -> list[Reference]:
    """Two level and two plumb lines of a house front."""
    return [
        laid(name, "plumb" if "wall" in name else "level", photographed(points, attitude, FOCAL, lens))
        for name, points in FACADE.items()
    ]


def window(attitude: Attitude, shape: tuple[float, float] | None = (4.5, 3.0)) -> Reference:
    return laid("window", "rectangle", photographed(WINDOW, attitude, FOCAL, PLAIN), shape=shape)


def same(found: Solution, attitude: Attitude, within: float = 1e-6) -> None:
    for angle in ("roll", "pitch", "yaw"):
        assert getattr(found.attitude, angle) == pytest.approx(getattr(attitude, angle), abs=within), angle


@given(attitudes, st.sampled_from([PLAIN, BARREL]))
def test_a_house_front_gives_the_attitude(attitude: Attitude, lens: Lens) -> None:
    """Lines photographed by cv2.projectPoints without errors: the attitude comes back to 1e-6 degrees."""
    found = solve(facade(attitude, lens), ALL, CAMERA, lens)
    same(found, attitude)
    assert found.conflicts == () and found.undetermined == ()


@given(attitudes)
def test_a_window_gives_the_attitude(attitude: Attitude) -> None:
    same(solve([window(attitude)], ALL, CAMERA), attitude)


@given(st.floats(-10, 10), st.floats(-20, 20), st.floats(-40, 40))
def test_receding_lines_and_one_wall_give_roll_and_pitch(roll: float, pitch: float, way: float) -> None:
    attitude = Attitude(roll, pitch, 0.0)
    ahead = np.array([np.sin(np.deg2rad(way)), 0, np.cos(np.deg2rad(way))])
    starts = (np.array([-2.0, 1.6, 7.0]), np.array([1.5, 1.6, 7.0]))
    kerbs = [
        laid(str(index), "receding", photographed([start, start + 9 * ahead], attitude, FOCAL, PLAIN))  # type: ignore[list-item]
        for index, start in enumerate(starts)
    ]
    wall = laid("wall", "plumb", photographed([(1.0, 2.0, 10.0), (1.0, -3.0, 10.0)], attitude, FOCAL, PLAIN))
    found = solve([*kerbs, wall], ["roll", "pitch"], CAMERA)
    same(found, attitude)
    assert found.azimuths["g"] == pytest.approx(way, abs=1e-6)


def test_the_focal_length_of_a_known_shape() -> None:
    """A window of 4.5 x 3 seen from aside: the focal length comes back; that of the camera is only a
    start."""
    attitude = Attitude(1.5, 9.0, 22.0)
    wrong = Intrinsics(WIDTH, HEIGHT, 0.8 * FOCAL, 0.4 * FOCAL, "assumed")
    found = solve([window(attitude)], [*ALL, "focal_px"], wrong)
    assert found.focal_px == pytest.approx(FOCAL, rel=1e-6)
    same(found, attitude)


def test_the_focal_length_from_two_vanishing_points() -> None:
    """Directions that are square in the world have v1 . w v2 = 0: f^2 = -(v1 - c) . (v2 - c) (Hartley &
    Zisserman, *Multiple View Geometry*, 2nd ed., example 8.27; from memory). A rectangle of unknown shape
    says the same."""
    attitude = Attitude(0.0, 14.0, 25.0)
    corners = photographed(WINDOW, attitude, FOCAL, PLAIN)
    sides = [np.cross([*corners[k], 1], [*corners[(k + 1) % 4], 1]) for k in range(4)]
    points = [np.cross(sides[k], sides[k + 2]) for k in (0, 1)]
    first, second = (point[:2] / point[2] - [WIDTH / 2, HEIGHT / 2] for point in points)
    assert np.sqrt(-first @ second) == pytest.approx(FOCAL)
    found = solve(
        [window(attitude, None)], [*ALL, "focal_px"], Intrinsics(WIDTH, HEIGHT, 2000.0, 800.0, "assumed")
    )
    assert found.focal_px == pytest.approx(np.sqrt(-first @ second), rel=1e-6)


@given(attitudes)
def test_the_map_is_opencvs_homography_and_keeps_shapes(attitude: Attitude) -> None:
    """The corrected window is upright with sides 4.5 : 3, and the map is the one that cv2.findHomography and
    cv2.getPerspectiveTransform find between the corners (a conjugate rotation is a homography; H & Z, ch.
    8)."""
    corners = photographed(WINDOW, attitude, FOCAL, PLAIN)
    warp = warp_of(CAMERA, attitude, Attitude())
    corrected = warp.to_corrected(corners)
    width, height = np.ptp(corrected, axis=0)
    assert width / height == pytest.approx(1.5, rel=1e-6)
    for found in (
        cv2.findHomography(corners, corrected)[0],
        cv2.getPerspectiveTransform(corners.astype(np.float32), corrected.astype(np.float32)),
    ):
        places = cv2.perspectiveTransform(np.array([[[1500.0, 1000.0], [900.0, 1300.0]]]), found)[0]
        assert places == pytest.approx(
            warp.to_corrected(np.array([[1500.0, 1000.0], [900.0, 1300.0]])), abs=0.05
        )


@given(attitudes)
def test_a_mirror_turns_roll_and_yaw_round(attitude: Attitude) -> None:
    lines = facade(attitude)
    seen = [laid(one.id, one.kind, mirrored(one.points, WIDTH)) for one in lines]
    same(solve(seen, ALL, CAMERA), Attitude(-attitude.roll, attitude.pitch, -attitude.yaw))


@given(st.floats(-10, 10), st.floats(-20, 20), st.floats(-15, 15))
def test_turning_the_picture_turns_the_answer(roll: float, pitch: float, by: float) -> None:
    """Walls alone: the picture turned clockwise by some degrees is that much less rolled."""
    attitude = Attitude(roll, pitch, 0.0)
    walls = facade(attitude)[2:]
    about = (WIDTH / 2, HEIGHT / 2)
    again = [laid(one.id, one.kind, turned(one.points, by, about)) for one in walls]
    same(solve(again, ["roll", "pitch"], CAMERA), Attitude(roll - by, pitch, 0.0), 1e-5)


@given(st.permutations(range(5)), st.integers(0, 2**32))
def test_the_order_of_lines_is_irrelevant(order: list[int], seed: int) -> None:
    rng = np.random.default_rng(seed)
    lines = [*facade(Attitude(2.0, 8.0, 0.0)), window(Attitude(2.0, 8.0, 0.0))]
    noisy = [laid(one.id, one.kind, one.points + rng.normal(0, 1, one.points.shape)) for one in lines]
    first, second = (solve(chosen, ALL, CAMERA) for chosen in (noisy, [noisy[at] for at in order]))
    same(second, first.attitude, 1e-7)
    assert [set(one.ids) for one in first.conflicts] == [set(one.ids) for one in second.conflicts]


def test_unknowns_enter_by_rule() -> None:
    """Yaw only when it is asked for; pitch only where the lines determine it, two plumb lines well apart or
    one beside a level one; else exactly 0 is taken out."""
    lines = facade(Attitude(2.0, 8.0, 0.0))
    found = solve(lines, ["roll", "pitch"], CAMERA)
    assert (found.attitude.yaw, found.sd["yaw"]) == (0.0, None)
    level_only = solve(lines[:2], ["roll", "pitch"], CAMERA)
    assert (level_only.attitude.pitch, level_only.undetermined) == (0.0, ("pitch",))
    assert level_only.sd_known["pitch"] == pytest.approx(8.0)
    one_wall = solve(lines[:3], ["roll", "pitch"], CAMERA)
    assert one_wall.attitude.pitch == pytest.approx(8.0, abs=0.01)
    near = laid("near", "plumb", lines[2].points + [3.0, 0.0])
    assert "pitch" in solve([lines[2], near], ["roll", "pitch"], CAMERA).undetermined
    assert solve(lines, ["pitch"], CAMERA).attitude.roll == 0.0


def test_a_receding_line_alone_takes_no_part() -> None:
    kerb = laid("kerb", "receding", np.array([[900.0, 1900.0], [1400.0, 1100.0]]))
    wall = laid("wall", "plumb", np.array([[1500.0, 1900.0], [1520.0, 200.0]]))
    found = solve([kerb, wall], ["roll", "pitch"], CAMERA)
    assert set(found.undetermined) == {"pitch", "kerb"}
    assert found.attitude.roll == pytest.approx(solve([wall], ["roll"], CAMERA).attitude.roll, abs=1e-9)


def test_two_levels_that_only_a_turn_aside_can_meet() -> None:
    """docs/geometry.md's example: a horizon and a rail wrongly marked level are both met by turning far aside."""
    held = Attitude(1.0, 6.0, 9.0)
    lines = facade(held)
    found = solve(lines, ["roll", "pitch"], CAMERA)
    (conflict,) = found.conflicts
    assert found.attitude.yaw == 0.0 and conflict.turn_meets
    assert conflict.turn_deg == pytest.approx(9.0, abs=0.01)


def test_one_wrong_line_in_six_moves_no_angle_by_two_deviations() -> None:
    """Each of six lines in turn is laid 3 degrees wrong; 20 noise draws each."""
    rng = np.random.default_rng(4)
    held = Attitude(1.8, 7.0, 0.0)
    things = {
        "sill": FACADE["sill"],
        "eave": FACADE["eave"],
        **{f"wall at {x}": [(x, 1.5, 10.0), (x, -2.5, 10.0)] for x in (-4.0, -1.5, 1.5, 4.0)},
    }
    clean = {name: photographed(points, held, FOCAL, PLAIN) for name, points in things.items()}
    checked = 0
    for wrong in things:
        for _ in range(20):
            good = [
                laid(name, "plumb" if "wall" in name else "level", points + rng.normal(0, 1.0, points.shape))
                for name, points in clean.items()
            ]
            lines = [
                laid(one.id, one.kind, turned(one.points, 3.0, tuple(one.points.mean(axis=0))))
                if one.id == wrong
                else one
                for one in good
            ]
            found, without = solve(lines, ["roll", "pitch"], CAMERA), solve(good, ["roll", "pitch"], CAMERA)
            if (
                without.conflicts
            ):  # by chance, one draw in some thirty: then another line is not followed either
                continue
            checked += 1
            assert wrong in found.conflicts[0].ids
            for angle in ("roll", "pitch"):
                moved = abs(getattr(found.attitude, angle) - getattr(without.attitude, angle))
                assert moved <= 2 * (found.sd[angle] or 0.0), (wrong, angle)
    assert checked > 110


def test_verdicts() -> None:
    lines = facade(Attitude(1.0, 6.0, 0.0))
    found = solve(lines, ["roll", "pitch"], CAMERA)
    assert {judge(one, found) for one in lines} == {"agrees"}
    alone = solve(lines[:1], ["roll"], CAMERA)
    assert judge(lines[0], alone) == "alone"
    assert judge(Reference("w", "witness", lines[0].points), found) == "witness"
    assert judge(Reference("o", "level", lines[0].points, active=False), found) == "off"


def test_an_uncertain_focal_length_is_carried_into_the_angles() -> None:
    """docs/geometry.md's figure for 20 % wrong in focal length: pitch scales nearly with 1/f, so its deviation
    follows."""
    walls = facade(Attitude(0.0, 15.0, 0.0))[2:]
    known = solve(walls, ["roll", "pitch"], CAMERA).sd["pitch"]
    exif = solve(walls, ["roll", "pitch"], Intrinsics(WIDTH, HEIGHT, FOCAL, 0.02 * FOCAL, "35mm")).sd["pitch"]
    assert known is not None and exif is not None
    by_focal = np.sqrt(exif**2 - known**2)
    shorter = solve(
        walls, ["roll", "pitch"], Intrinsics(WIDTH, HEIGHT, 0.98 * FOCAL, 0.0, "photo")
    ).attitude.pitch
    assert by_focal == pytest.approx(abs(shorter - 15.0), rel=0.05)


def test_a_line_through_many_points_is_as_good_as_its_spread_says() -> None:
    rng = np.random.default_rng(2)
    x = np.linspace(200, 2800, 9)
    roll, deviation = [], 0.0
    for _ in range(400):
        points: Array = np.column_stack([x, 900 - 0.03 * x + rng.normal(0, 1.5, 9)])
        found = solve([Reference("many", "level", points, 1.5)], ["roll"], CAMERA)
        roll.append(found.attitude.roll)
        deviation = found.sd["roll"] or 0.0
    assert np.std(roll) == pytest.approx(deviation, rel=0.12)
    assert read(points, 1.5).sd_deg == pytest.approx(deviation, rel=1e-6)
