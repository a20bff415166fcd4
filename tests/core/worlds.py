"""Made-up worlds in level axes (x right, y down, z ahead), photographed by OpenCV and turned by SciPy."""

from __future__ import annotations

from collections.abc import Sequence

import cv2
import numpy as np
from scipy.spatial.transform import Rotation

from sequor.core.camera import Array, Attitude
from sequor.core.distortion.models import Lens
from sequor.core.references.reference import Reference
from sequor.core.references.registry import Kind

Point = tuple[float, float, float]


def rotation(attitude: Attitude) -> Array:
    """Camera to level (3, 3): yaw about y, then pitch about x, then roll about z; by SciPy."""
    turns = [attitude.yaw, attitude.pitch, attitude.roll]
    return np.asarray(Rotation.from_euler("YXZ", turns, degrees=True).as_matrix())


def photographed(points: Sequence[Point], attitude: Attitude, focal: float, lens: Lens) -> Array:
    """World points to photo pixels (N, 2), by OpenCV's camera, whose terms count r in focal lengths."""
    # Turned here: cv2.Rodrigues takes a turn of less than about 1e-5 for none.
    rays = np.array(points) @ rotation(attitude)
    matrix = np.array([[focal, 0, lens.centre[0]], [0, focal, lens.centre[1]], [0, 0, 1]])
    seen = cv2.projectPoints(rays, np.zeros(3), np.zeros(3), matrix, opencv_terms(lens, focal))[0]
    return np.asarray(seen[:, 0], np.float64)


def opencv_terms(lens: Lens, focal: float) -> Array:
    """Brown's terms as OpenCV has them: (k1, k2, p1, p2, k3)."""
    scale = focal / lens.unit_px
    return np.array(
        [lens.k1 * scale**2, lens.k2 * scale**4, lens.p1 * scale, lens.p2 * scale, lens.k3 * scale**6]
    )


def laid(name: str, kind: Kind, points: Array, sigma: float = 1.0, **more: object) -> Reference:
    """A reference; of receding lines the group is "g" unless it is given."""
    options = {"group": "g", **more} if kind == "receding" else more
    return Reference(name, kind, points, sigma, **options)  # type: ignore[arg-type]


def mirrored(points: Array, width: float) -> Array:
    """Points (N, 2) in the picture seen in a mirror."""
    return np.column_stack([width - points[:, 0], points[:, 1]])


def turned(points: Array, degrees: float, centre: tuple[float, float]) -> Array:
    """Points (N, 2) turned clockwise about a centre."""
    turn = Rotation.from_euler("z", degrees, degrees=True).as_matrix()[:2, :2]
    return np.asarray((points - centre) @ turn.T + centre)
