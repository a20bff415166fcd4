"""Fisheye lenses: their laws against closed forms, OpenCV and lensfunpy; rays both ways; the solve on rays."""

from __future__ import annotations

import itertools

import cv2
import lensfunpy
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from numpy.typing import NDArray

from sequor.core.camera import Attitude, Intrinsics
from sequor.core.distortion.fisheye import GROWTH, Fisheye, Law
from sequor.core.distortion.models import database_lens, no_lens
from sequor.core.estimation.least_squares import HALF_WIDTH_95
from sequor.core.estimation.solve import solve
from sequor.core.references.reference import Reference
from sequor.imaging import profiles
from sequor.imaging.metadata import CameraFacts

Array = NDArray[np.float64]
WIDE, HIGH, FOCAL = 1500, 1000, 640.0
CENTRE = (WIDE / 2, HIGH / 2)
CAMERA = Intrinsics(WIDE, HIGH, FOCAL, 0.0, "lens")
LAWS: list[Law] = ["equidistant", "equisolid", "stereographic", "orthographic"]
BY_HUGHES = {
    # r / f at 30, 60 and 90 degrees: C. Hughes et al., Accuracy of fish-eye lens models, Applied Optics 49
    # (17), 2010, section 2 (the laws from memory, the values worked out by hand).
    "equidistant": (0.523599, 1.047198, 1.570796),
    "equisolid": (0.517638, 1.0, 1.414214),
    "stereographic": (0.535898, 1.154701, 2.0),
    "orthographic": (0.5, 0.866025, 1.0),
}


def fisheye(law: Law, **terms: float) -> Fisheye:
    return Fisheye(CENTRE, FOCAL, law=law, **terms)


def rays_at(*degrees: float) -> Array:
    angle = np.deg2rad(degrees)
    return np.column_stack([np.sin(angle), np.zeros_like(angle), np.cos(angle)])


@pytest.mark.parametrize("law", LAWS)
def test_a_law_is_what_the_handbook_has(law: Law) -> None:
    recorded = fisheye(law).recorded(rays_at(30, 60, 90), FOCAL)
    assert np.allclose((recorded[:, 0] - CENTRE[0]) / FOCAL, BY_HUGHES[law], atol=1e-6)
    assert np.allclose(recorded[:, 1], CENTRE[1])


def test_kannala_and_brandt_as_opencv_has_it() -> None:
    """Against cv2.fisheye.projectPoints: J. Kannala, S. S. Brandt, IEEE PAMI 28 (8), 2006."""
    k = (-0.031, 0.0072, -0.0019, 0.0003)
    lens = fisheye("kannala-brandt", **dict(zip(("k1", "k2", "k3", "k4"), k, strict=True)))
    points = np.random.default_rng(3).normal(0, 1, (60, 3)) * [1.5, 1.0, 0.3] + [0, 0, 1.2]
    points = points[points[:, 2] > 0.1]
    matrix = np.array([[FOCAL, 0, CENTRE[0] - 0.5], [0, FOCAL, CENTRE[1] - 0.5], [0, 0, 1.0]])
    theirs, _ = cv2.fisheye.projectPoints(
        points[:, None], np.zeros(3), np.zeros(3), matrix, np.array(k)[:, None]
    )
    unit = points / np.linalg.norm(points, axis=1, keepdims=True)
    assert np.allclose(lens.recorded(unit, FOCAL) - 0.5, theirs[:, 0], atol=1e-6)


@given(
    st.sampled_from([*LAWS, "kannala-brandt"]),
    st.lists(st.tuples(st.floats(0, 1500), st.floats(0, 1000)), min_size=1, max_size=20),
)
def test_a_recorded_point_has_one_ray(law: Law, points: list[tuple[float, float]]) -> None:
    terms = {"k1": -0.02, "k2": 0.003} if law == "kannala-brandt" else {}
    lens, recorded = fisheye(law, **terms), np.array(points)
    rays = lens.rays(recorded, FOCAL)
    known = np.isfinite(rays).all(axis=1)
    assert np.all(known | (np.hypot(*(recorded - CENTRE).T) > lens.recorded_reach * (1 - 1e-9)))
    assert np.allclose(np.linalg.norm(rays[known], axis=1), 1)
    assert np.allclose(lens.recorded(rays[known], FOCAL), recorded[known], atol=1e-6)


@pytest.mark.parametrize("law", LAWS)
def test_the_flat_picture_of_a_fisheye_shows_the_same_rays(law: Law) -> None:
    lens = fisheye(law)
    flat = np.random.default_rng(4).uniform([-900, -600], [2400, 1600], (80, 2))
    rays = no_lens(WIDE, HIGH).rays(flat, FOCAL)
    assert np.allclose(lens.distorted(flat), lens.recorded(rays, FOCAL), atol=1e-8)
    assert np.allclose(lens.undistorted(lens.distorted(flat)), flat, atol=1e-6)
    step = 1e-3
    there = lens.undistorted(lens.distorted(flat) + [step, 0])
    back = lens.undistorted(lens.distorted(flat) - [step, 0])
    slopes = lens.undistorted_with_slopes(lens.distorted(flat))[1]
    assert np.allclose((there - back) / (2 * step), slopes[:, :, 0], rtol=1e-4, atol=1e-4)


def test_what_is_beyond_the_widest_angle_is_not_recorded_twice() -> None:
    """An orthographic lens records the half-space before it: what lies behind must not come back inside."""
    lens = fisheye("orthographic")
    radius = np.hypot(*(lens.recorded(rays_at(89, 91, 120, 170), FOCAL) - CENTRE).T)
    assert np.all(np.diff(radius) > 0)
    assert np.isnan(lens.rays(np.array([[CENTRE[0] + FOCAL + 5, CENTRE[1]]]), FOCAL)).all()


def test_a_profile_of_a_fisheye_is_the_librarys_own_map() -> None:
    """Against lensfunpy's own maps to a flat picture, for every fisheye that is measured on 3:2 pictures."""
    wide, high, tried = 900, 600, 0
    with profiles._ONE_AT_A_TIME:
        lenses = [one for one in profiles._database().lenses if one.type.name in profiles.LAWS]
    for lens in lenses:
        if not lens.calib_distortion or (lens.model, round(lens.crop_factor, 3)) in profiles._aspects():
            continue
        facts = CameraFacts(focal_mm=lens.min_focal)
        profile = profiles._profile(lens, None, facts, (wide, high))
        if profile is None or profile.law is None or profile.focal_px is None:
            continue
        modifier = lensfunpy.Modifier(lens, lens.crop_factor, wide, high)
        flags = lensfunpy.ModifyFlags.GEOMETRY | lensfunpy.ModifyFlags.DISTORTION
        modifier.initialize(
            lens.min_focal, 8.0, 10.0, scale=1.0, targeom=lensfunpy.LensType.RECTILINEAR, flags=flags
        )
        theirs = modifier.apply_geometry_distortion()[::20, ::20].reshape(-1, 2)
        centre = np.array([wide / 2, high / 2])
        middle = (wide / 2, high / 2)
        departs = database_lens(profile.model, middle, profile.unit_px, profile.terms)
        mine = Fisheye(middle, profile.focal_px, law=profile.law, departs=departs)
        y, x = np.mgrid[0:high:20, 0:wide:20]
        # The library's flat picture has not the scale that its own terms leave at the centre.
        scale = 1 - sum(profile.terms)
        flat = (np.column_stack([x.ravel(), y.ravel()]) + 0.5 - centre) * scale + centre
        off = np.hypot(*(mine.distorted(flat) - 0.5 - theirs).T)
        assert np.nanmedian(off) < 0.05, lens.model
        tried += 1
    assert tried >= 12


TRUE = Attitude(roll=-2.4, pitch=7.0)


def world_line(direction: Array, through: Array, long: float) -> Array:
    return np.array([through - long / 2 * direction, through + long / 2 * direction])


def seen(lens: Fisheye, ends: Array) -> Array:
    """Photo pixels of world points (N, 3) in level axes."""
    rays = ends @ TRUE.rotation()
    return lens.recorded(rays / np.linalg.norm(rays, axis=1, keepdims=True), FOCAL)


def laid(lens: Fisheye, noise: np.random.Generator | None = None, sigma: float = 0.5) -> list[Reference]:
    right, down = np.array([1.0, 0, 0]), np.array([0, 1.0, 0])
    things = [
        ("plumb", world_line(down, np.array([-4.0, 0, 3.0]), 3)),
        ("plumb", world_line(down, np.array([4.0, -0.5, 2.0]), 3)),
        ("plumb", world_line(down, np.array([5.0, 0, 0.4]), 2)),
        ("level", world_line(right, np.array([0.0, -3.0, 6.0]), 6)),
        ("level", world_line(right, np.array([0.0, 1.5, 4.0]), 5)),
    ]
    references = []
    for number, (kind, ends) in enumerate(things):
        points = seen(lens, ends)
        if noise is not None:
            points = points + noise.normal(0, sigma, points.shape)
        references.append(Reference(f"r{number}", kind, points, sigma))
    return references


@pytest.mark.parametrize("law", LAWS)
def test_lines_of_a_fisheye_tell_the_attitude(law: Law) -> None:
    """Also one more than 80 degrees off the axis, which has no place in a flat picture to speak of."""
    lens = fisheye(law)
    found = solve(laid(lens), ["roll", "pitch"], CAMERA, lens)
    assert (found.attitude.roll, found.attitude.pitch) == pytest.approx((TRUE.roll, TRUE.pitch), abs=1e-6)
    assert found.undetermined == ()


def test_a_curve_of_many_points_says_as_much() -> None:
    lens = fisheye("equisolid")
    ends = world_line(np.array([0, 1.0, 0]), np.array([-4.0, 0, 3.0]), 3)
    many = ends[0] + np.linspace(0, 1, 15)[:, None] * (ends[1] - ends[0])
    two, fifteen = laid(lens)[:2], laid(lens)[:2]
    fifteen[0] = Reference("r0", "plumb", seen(lens, many), 0.5)
    apart = [solve(each, ["roll", "pitch"], CAMERA, lens) for each in (two, fifteen)]
    assert apart[1].attitude.roll == pytest.approx(TRUE.roll, abs=1e-6)
    assert (apart[1].sd["roll"] or 1) < (apart[0].sd["roll"] or 0)


def test_the_interval_of_a_fisheye_holds_what_it_says() -> None:
    """The 95 % interval of roll and of pitch holds the truth in about 95 of 100."""
    lens, noise, held = fisheye("equisolid"), np.random.default_rng(8), []
    for _ in range(300):
        found = solve(laid(lens, noise), ["roll", "pitch"], CAMERA, lens)
        for name in ("roll", "pitch"):
            sd = found.sd[name]
            assert sd is not None
            held.append(abs(getattr(found.attitude, name) - getattr(TRUE, name)) <= HALF_WIDTH_95 * sd)
    assert 0.925 <= np.mean(held) <= 0.975


def test_a_law_with_terms_ends_where_it_stops_growing() -> None:
    lens = fisheye("kannala-brandt", k1=-0.2)
    angles = np.linspace(0, lens.widest, 50)
    radius = np.hypot(*(lens.recorded(rays_at(*np.rad2deg(angles)), FOCAL) - CENTRE).T)
    assert lens.widest < GROWTH["kannala-brandt"].widest
    assert all(one < other for one, other in itertools.pairwise(radius))
