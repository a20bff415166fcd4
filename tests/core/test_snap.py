"""Snap: on edges that are known, in the demo photos and made for the purpose; refused where there is none."""

from __future__ import annotations

from collections.abc import Iterator

import cv2
import numpy as np
import pytest
from scenes import SCENES, scene

from sequor.core.camera import Array
from sequor.core.distortion.models import Lens, no_lens
from sequor.core.look.snap import NoEdgeError, Picture, snap, snap_rectangle

OFF_PX, TURNED_DEG = 12.0, 1.5

SKY_AND_WATER = [
    ("shore", (800, 0, 3000, 640)),
    ("shore", (850, 900, 1350, 1150)),
    ("shore", (2600, 860, 3000, 1250)),
    ("viaduct", (0, 0, 3000, 480)),
    ("tower", (0, 0, 500, 700)),
    ("tower", (1350, 0, 2000, 1050)),
    ("glasshouse", (0, 0, 700, 400)),
    ("glasshouse", (1900, 0, 3000, 420)),
]


def frame_of(ideal: Array) -> tuple[Array, Array, float]:
    """Unit vectors along and across a line (2, 2), and its length."""
    length = float(np.hypot(*(ideal[1] - ideal[0])))
    along = (ideal[1] - ideal[0]) / length
    return along, np.array([-along[1], along[0]]), length


def is_clear(picture: Picture, ideal: Array, lens: Lens) -> bool:
    """Whether a true line is to be seen where it is, and alone: measured here with the mean gradient across it,
    without the snap. The edge must lie within 0.3 px of the truth in both halves of the line, show in 85 % of the rows
    with a contrast of 4 levels per px, and no parallel edge within 24 px may have two thirds of its contrast."""
    along, across, length = frame_of(ideal)
    rows = int(np.clip(length / 2, 40, 400))
    share, offsets = (np.arange(rows) + 0.5) / rows, np.arange(-26, 26.25, 0.5)
    places = ideal[0] + share[:, None, None] * length * along + offsets[None, :, None] * across
    seen = (lens.distorted(places.reshape(-1, 2)).reshape(places.shape) - 0.5).astype(np.float32)
    grey = cv2.cvtColor(picture, cv2.COLOR_RGB2GRAY).astype(np.float32)
    strip = cv2.GaussianBlur(
        cv2.remap(grey, seen[..., 0], seen[..., 1], cv2.INTER_CUBIC), (0, 0), sigmaX=1.6, sigmaY=0.3
    )
    inside = np.all((seen > 1) & (seen < [picture.shape[1] - 2, picture.shape[0] - 2]), axis=2)
    gradient = np.where(inside, np.gradient(strip, 0.5, axis=1), 0.0)
    half = rows // 2
    peaks = [peak(part.mean(axis=0), offsets) for part in (gradient, gradient[:half], gradient[half:])]
    contrast = peaks[0][1]
    others = np.abs(gradient.mean(axis=0))[(np.abs(offsets) >= 3) & (np.abs(offsets) <= 24)].max()
    near = np.abs(offsets) <= 1
    sign = np.sign(gradient.mean(axis=0)[near][np.argmax(np.abs(gradient.mean(axis=0)[near]))])
    shows = float(np.mean((sign * gradient[:, near]).max(axis=1) > 2))
    return (
        max(abs(at) for at, _ in peaks) <= 0.3
        and contrast >= 4
        and shows >= 0.85
        and others <= 0.67 * contrast
    )


def peak(profile: Array, offsets: Array) -> tuple[float, float]:
    """Where a profile is strongest within 1.5 px, by a parabola, and how strong it is there."""
    near = np.flatnonzero(np.abs(offsets) <= 1.5)
    at = int(near[np.argmax(np.abs(profile[near]))])
    before, top, after = (abs(float(profile[at + step])) for step in (-1, 0, 1))
    bow = before - 2 * top + after
    return float(offsets[at]) + (0.25 * (before - after) / bow if bow < 0 else 0.0), top


def rough_starts(ideal: Array, lens: Lens, size: tuple[int, int]) -> Iterator[Array]:
    """The line 12 px to either side and turned 1.5 degrees either way, kept inside the photo."""
    along, across, length = frame_of(ideal)
    for side in (1, -1):
        for turn in np.deg2rad([TURNED_DEG, -TURNED_DEG]):
            way = np.cos(turn) * along + np.sin(turn) * across
            middle = ideal.mean(axis=0) + side * OFF_PX * across
            yield np.clip(lens.distorted(middle + np.outer([-length / 2, length / 2], way)), 0, size)


def test_clear_true_lines_are_found_from_12_px_off() -> None:
    """Of the clear true lines of the six demo photos, at least 95 % of the starts end within 0.5 px and three
    reported standard deviations of the truth, at both ends. Axes of round things are no edges and left out."""
    tried, hit = 0, 0
    for name in SCENES:
        seen = scene(name)
        picture, lens = seen.picture, seen.lens
        for line in seen.truth["lines"]:
            ideal = lens.undistorted(np.array([line["p0"], line["p1"]]))
            if "axis" in line["id"] or line["visible_fraction"] < 0.85 or not is_clear(picture, ideal, lens):
                continue
            _, across, _ = frame_of(ideal)
            for rough in rough_starts(ideal, lens, seen.size):
                tried += 1
                try:
                    found = snap(picture, rough, lens)
                except NoEdgeError:
                    continue
                off = float(np.abs((lens.undistorted(found.points) - ideal[0]) @ across).max())
                hit += off <= min(0.5, 3 * found.sigma_px)
    assert tried >= 150
    assert hit >= 0.95 * tried


def test_sky_and_water_are_refused_with_the_reason() -> None:
    """200 rough lines where there is nothing to hold on to: at least 98 % are refused."""
    rng = np.random.default_rng(5)
    reasons = []
    for name, box in SKY_AND_WATER:
        seen = scene(name)
        for _ in range(25):
            ends = random_line(rng, box)
            try:
                snap(seen.picture, ends, no_lens(*seen.size))
            except NoEdgeError as error:
                reasons.append(str(error))
    assert len(reasons) >= 196
    assert all("edge" in reason or "faint" in reason for reason in reasons)


def random_line(rng: np.random.Generator, box: tuple[int, int, int, int]) -> Array:
    """A line of 60 to 500 px inside a box."""
    while True:
        start, length, angle = rng.uniform(box[:2], box[2:]), rng.uniform(60, 500), rng.uniform(0, np.pi)
        end = start + length * np.array([np.cos(angle), np.sin(angle)])
        if np.all(end >= box[:2]) and np.all(end <= box[2:]):
            return np.array([start, end])


def edge_picture(slope_deg: float, noise: float, lens: Lens, seed: int = 1) -> Picture:
    """800 x 600: dark below an ideal edge through the middle with a slope, photographed by a lens, with noise."""
    y, x = np.mgrid[0:600, 0:800] + 0.5
    ideal = lens.undistorted(np.column_stack([x.ravel(), y.ravel()]))
    below = (ideal[:, 1] - 300) * np.cos(np.deg2rad(slope_deg)) - (ideal[:, 0] - 400) * np.sin(
        np.deg2rad(slope_deg)
    )
    grey = 170 - 90 * np.clip(below.reshape(600, 800) + 0.5, 0, 1)
    grey = grey + np.random.default_rng(seed).normal(0, noise, grey.shape)
    return np.repeat(np.clip(np.round(grey), 0, 255).astype(np.uint8)[..., None], 3, axis=2)


@pytest.mark.parametrize(
    "lens", [no_lens(800, 600), Lens((400, 300), 500.0, k1=-0.1)], ids=["straight", "barrel"]
)
@pytest.mark.parametrize("slope", [-3.3, 0.0, 1.7])
def test_a_made_edge_is_found_to_a_twentieth_of_a_pixel(slope: float, lens: Lens) -> None:
    """It follows the bend of the lens, where that is known."""
    picture = edge_picture(slope, 4.0, lens)
    rough = np.array(
        [
            [100.0, 300 - 300 * np.tan(np.deg2rad(slope)) + 6],
            [700.0, 300 + 300 * np.tan(np.deg2rad(slope)) - 3],
        ]
    )
    found = snap(picture, lens.distorted(rough), lens)
    ideal = lens.undistorted(found.points)
    off = (ideal[:, 1] - 300) * np.cos(np.deg2rad(slope)) - (ideal[:, 0] - 400) * np.sin(np.deg2rad(slope))
    assert off == pytest.approx(0, abs=0.05)
    assert found.clarity > 0.95 and found.sigma_px < 0.35
    assert found.moved_px == pytest.approx(6, abs=0.5)


def test_a_rectangle_snaps_side_by_side() -> None:
    picture = np.full((400, 500, 3), 200, np.uint8)
    picture[100:300, 120:380] = 60
    found = snap_rectangle(
        picture, np.array([[124.0, 97], [377, 104], [383, 297], [117, 303]]), no_lens(500, 400)
    )
    assert found.points == pytest.approx(np.array([[120, 100], [380, 100], [380, 300], [120, 300]]), abs=0.1)
    with pytest.raises(NoEdgeError, match="its right side: "):
        snap_rectangle(picture, np.array([[124.0, 97], [340, 97], [340, 303], [117, 303]]), no_lens(500, 400))


@pytest.mark.parametrize(
    ("ends", "why"),
    [
        ([[10.0, 10.0], [20.0, 12.0]], "shorter than 24 px"),
        ([[-5.0, 10.0], [200.0, 12.0]], "outside the photo"),
        ([[50.0, 50.0], [200.0, 60.0]], "no edge along most of the line"),
    ],
)
def test_reasons(ends: list[list[float]], why: str) -> None:
    with pytest.raises(NoEdgeError, match=why):
        snap(edge_picture(0.0, 0.0, no_lens(800, 600)), np.array(ends), no_lens(800, 600))
