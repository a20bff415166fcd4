"""A folder of photos made from the scenes by known views: the lens made straight by OpenCV, the camera rolled,
the picture cropped."""

from __future__ import annotations

from functools import cache
from pathlib import Path

import cv2
import numpy as np
from PIL import Image
from scenes import SCENES, scene
from worlds import opencv_terms, rotation

from sequor.core.camera import Attitude

SIDE = 900


@cache
def _straight(name: str) -> np.ndarray:
    """A scene without its lens's distortion."""
    one = scene(name)
    camera = one.camera.matrix
    return np.asarray(cv2.undistort(one.picture, camera, opencv_terms(one.lens, one.camera.focal_px)))


def view(name: str, roll: float, zoom: float) -> Image.Image:
    """A scene as a camera would have seen it that was rolled clockwise by some degrees, with a longer lens."""
    picture = _straight(name)
    scale = SIDE / max(picture.shape[:2])
    height, width = (round(side * scale) for side in picture.shape[:2])
    small = cv2.resize(picture, (width, height), interpolation=cv2.INTER_AREA)
    turned = cv2.getRotationMatrix2D((width / 2, height / 2), roll, zoom)
    return Image.fromarray(cv2.warpAffine(small, turned, (width, height), flags=cv2.INTER_CUBIC))


def make_folder(folder: Path, count: int) -> list[str]:
    """So many of them, with what a camera writes; the scene of each, by its name."""
    random = np.random.default_rng(40)
    folder.mkdir(parents=True)
    names = []
    for number in range(count):
        name = SCENES[number % len(SCENES)]
        roll = float(random.uniform(-3.5, 3.5))
        # Nothing beyond the picture is seen.
        zoom = 1 + 2.2 * abs(np.tan(np.deg2rad(roll)))
        exif = Image.Exif()
        exif[0x010F], exif[0x0110] = "Invented Optics", "IO-1"
        details = exif.get_ifd(0x8769)
        details[0x9003] = f"2026:05:{1 + number % 28:02d} 07:{number:02d}:00"
        details[0xA405] = round(float(scene(name).camera.equivalent_mm) * zoom)
        view(name, roll, zoom).save(folder / f"IMG_{400 + number:04d}.jpg", quality=92, exif=exif)
        names.append(name)
    return names


def horizon_rises(picture: Image.Image, name: str) -> float:
    """How many degrees the true horizon of a scene is off level in an exported picture, by its pixels: the scene is found
    in it (SIFT and RANSAC of OpenCV), and its horizon, known from how it was rendered, carried along."""
    of = _straight(name)
    scale = 1.5 * SIDE / max(of.shape[:2])
    small = cv2.resize(of, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)
    finder = cv2.SIFT_create(3000)
    (seen, told), (found, also) = (
        finder.detectAndCompute(cv2.cvtColor(np.asarray(one.copy()), cv2.COLOR_RGB2GRAY), None)
        for one in (small, np.asarray(picture.convert("RGB")))
    )
    pairs = cv2.BFMatcher(cv2.NORM_L2).knnMatch(told, also, k=2)
    good = [one for one, other in pairs if one.distance < 0.75 * other.distance]
    here = np.float32([seen[one.queryIdx].pt for one in good]) / scale
    there = np.float32([found[one.trainIdx].pt for one in good])
    carried, used = cv2.findHomography(here, there, cv2.RANSAC, 1.5)
    assert used.sum() > 60
    truth = scene(name).truth
    attitude = Attitude(truth["roll_deg"], truth["pitch_deg"], truth["yaw_deg"])
    down = rotation(attitude).T @ (0.0, 1.0, 0.0)
    line = np.linalg.inv(carried).T @ np.linalg.inv(scene(name).camera.matrix).T @ down
    return float(np.degrees(np.arctan(-line[0] / line[1])))
