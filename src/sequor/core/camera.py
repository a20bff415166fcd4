"""The camera: its attitude, its intrinsics, and the homography that turns it level.

Frames
------
Pixels: x right, y down, (0, 0) at the outer corner of the first pixel, so pixel centres lie at +0.5.
Camera axes: x right, y down, z forward. Level axes: the same with z horizontal.
Angles at every public function are in degrees.

Reference: R. Hartley, A. Zisserman, *Multiple View Geometry in Computer Vision*, 2nd ed., ch. 8
(a camera turning about its centre moves the picture by the conjugate rotation K R K^-1).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
Indices = NDArray[np.intp]
FocalSource = Literal["correction", "photo", "35mm", "assumed", "lines", "lens"]

DIAGONAL_35MM = 43.27
"""Diagonal of the 36 x 24 mm frame in mm, as CIPA DCG-001 uses it for the 35 mm equivalent."""

ASSUMED_FOCAL_35MM = 28.0


@dataclass(frozen=True)
class Attitude:
    """How the camera was held, in degrees.

    yaw > 0: turned right; pitch > 0: aimed up; roll > 0: turned clockwise seen from behind, so that
    level things rise to the right in the picture.
    """

    roll: float = 0.0
    pitch: float = 0.0
    yaw: float = 0.0

    def rotation(self) -> Array:
        """The (3, 3) camera-to-level rotation ``Ry(yaw) @ Rx(pitch) @ Rz(roll)``."""
        return _about_y(self.yaw) @ _about_x(self.pitch) @ _about_z(self.roll)


@dataclass(frozen=True)
class Intrinsics:
    """Square pixels and a principal point in the middle of the photo.

    ``focal_px`` is the focal length in photo pixels and ``focal_sd`` its standard deviation.
    """

    width: int
    height: int
    focal_px: float
    focal_sd: float
    source: FocalSource

    @property
    def equivalent_mm(self) -> float:
        """The focal length in mm at 35 mm, by equal diagonal angle of view."""
        return self.focal_px * DIAGONAL_35MM / float(np.hypot(self.width, self.height))

    @property
    def matrix(self) -> Array:
        """The (3, 3) matrix K from camera axes to photo pixels."""
        return np.array(
            [[self.focal_px, 0.0, self.width / 2], [0.0, self.focal_px, self.height / 2], [0.0, 0.0, 1.0]]
        )


def intrinsics(
    width: int,
    height: int,
    *,
    corrected_focal_px: float | None = None,
    photo_focal_px: float | None = None,
    focal_35mm: float | None = None,
) -> Intrinsics:
    """Take the first focal length that is known.

    The 35 mm equivalent is converted by equal diagonal angle of view (CIPA DCG-001-Translation-2005);
    EXIF stores it as a whole number, hence 0.29 mm (1/sqrt 12) and 1 % added in square. Without any
    source 28 mm is assumed with 40 %.

    >>> camera = intrinsics(6000, 4000, focal_35mm=28.0)
    >>> round(camera.focal_px), round(camera.focal_sd, 1), camera.source
    (4666, 67.2, '35mm')
    """
    diagonal = float(np.hypot(width, height))
    if corrected_focal_px is not None:
        return Intrinsics(width, height, corrected_focal_px, 0.0, "correction")
    if photo_focal_px is not None:
        return Intrinsics(width, height, photo_focal_px, 0.0, "photo")
    scale = diagonal / DIAGONAL_35MM
    if focal_35mm is not None:
        sd = scale * float(np.hypot(0.29, 0.01 * focal_35mm))
        return Intrinsics(width, height, focal_35mm * scale, sd, "35mm")
    focal = ASSUMED_FOCAL_35MM * scale
    return Intrinsics(width, height, focal, 0.4 * focal, "assumed")


def corrected_camera(
    camera: Intrinsics, taken: Attitude, left_in: Attitude, proportion: float = 1.0
) -> tuple[Array, Array]:
    """The (3, 3) rotation from camera axes to the corrected camera's, and that camera's matrix.

    The matrix keeps the photo's centre where it is and its area scale 1 there; no correction is the
    identity and roll alone is the rotation about the centre. ``proportion`` > 0 multiplies height : width
    at equal area.

    Raises ValueError when the old optical axis ends up behind the corrected camera.
    """
    turn = left_in.rotation().T @ taken.rotation()
    dx, dy, dz = turn @ np.array([0.0, 0.0, 1.0])
    if dz <= 0:
        raise ValueError("the correction is 90° or more")
    focal, root = camera.focal_px, float(np.sqrt(proportion))
    out = np.array(
        [
            [focal * dz**1.5 / root, 0.0, camera.width / 2 - focal * dz**0.5 * dx / root],
            [0.0, focal * dz**1.5 * root, camera.height / 2 - focal * dz**0.5 * dy * root],
            [0.0, 0.0, 1.0],
        ]
    )
    return turn, out


def levelling(camera: Intrinsics, taken: Attitude, left_in: Attitude, proportion: float = 1.0) -> Array:
    """The (3, 3) homography from photo pixels to corrected pixels.

    ``H = K_out @ C(left_in).T @ C(taken) @ K^-1``, scaled so that its third coordinate is 1 at the photo's
    centre; its determinant is then 1 too. Raises ValueError like :func:`corrected_camera`.
    """
    turn, out = corrected_camera(camera, taken, left_in, proportion)
    homography: Array = out @ turn @ np.linalg.inv(camera.matrix)
    scaled: Array = homography / (homography[2] @ [camera.width / 2, camera.height / 2, 1.0])
    return scaled


def _about_x(degrees: float) -> Array:
    c, s = _cos_sin(degrees)
    return np.array([[1.0, 0.0, 0.0], [0.0, c, -s], [0.0, s, c]])


def _about_y(degrees: float) -> Array:
    c, s = _cos_sin(degrees)
    return np.array([[c, 0.0, s], [0.0, 1.0, 0.0], [-s, 0.0, c]])


def _about_z(degrees: float) -> Array:
    c, s = _cos_sin(degrees)
    return np.array([[c, -s, 0.0], [s, c, 0.0], [0.0, 0.0, 1.0]])


def _cos_sin(degrees: float) -> tuple[float, float]:
    angle = np.deg2rad(degrees)
    return float(np.cos(angle)), float(np.sin(angle))
