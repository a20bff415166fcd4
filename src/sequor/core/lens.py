"""The bending of the lens: Brown's model, both ways.

Recorded from ideal, about the principal point, with r counted in ``unit_px``::

    x_d = x (1 + k1 r^2 + k2 r^4 + k3 r^6) + 2 p1 x y + p2 (r^2 + 2 x^2)
    y_d = y (1 + k1 r^2 + k2 r^4 + k3 r^6) + p1 (r^2 + 2 y^2) + 2 p2 x y

Source: D. C. Brown, *Close-Range Camera Calibration*, Photogrammetric Engineering 37 (8), 1971.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from .camera import Array

NEWTON_ROUNDS = 30


@dataclass(frozen=True)
class Lens:
    """Brown's terms about ``centre`` (2,) in photo pixels; r is counted in ``unit_px``."""

    centre: tuple[float, float]
    unit_px: float
    k1: float = 0.0
    k2: float = 0.0
    k3: float = 0.0
    p1: float = 0.0
    p2: float = 0.0

    @property
    def straight(self) -> bool:
        """Whether the lens bends nothing."""
        return not any((self.k1, self.k2, self.k3, self.p1, self.p2))

    def distorted(self, points: Array) -> Array:
        """Photo pixels as recorded (N, 2) of ideal ones (N, 2); closed form."""
        if self.straight:
            return points
        value, _ = self._forward((points - self.centre) / self.unit_px)
        recorded: Array = value * self.unit_px + self.centre
        return recorded

    def undistorted(self, points: Array) -> Array:
        """Ideal photo pixels (N, 2) of recorded ones (N, 2), by Newton's method.

        NaN beyond the radius where the model stops growing: no ideal point is recorded there.
        """
        return self.undistorted_with_slopes(points)[0]

    def undistorted_with_slopes(self, points: Array) -> tuple[Array, Array]:
        """The same, and how the ideal point moves with the recorded one: (N, 2, 2)."""
        if self.straight:
            return points, np.broadcast_to(np.eye(2), (len(points), 2, 2))
        wanted = (points - self.centre) / self.unit_px
        ideal = wanted.copy()
        for _ in range(NEWTON_ROUNDS):
            value, jacobian = self._forward(ideal)
            regular = np.linalg.det(jacobian) > 1e-9
            step = np.zeros_like(ideal)
            step[regular] = np.linalg.solve(jacobian[regular], (wanted - value)[regular][..., None])[..., 0]
            ideal = ideal + step
            if not np.any(np.abs(step) > 1e-13):
                break
        value, jacobian = self._forward(ideal)
        found = (np.linalg.det(jacobian) > 0) & np.all(np.abs(value - wanted) < 1e-9, axis=1)
        ideal[~found] = np.nan
        jacobian[~found] = np.nan
        slopes: Array = np.linalg.inv(jacobian).astype(np.float64)
        return ideal * self.unit_px + self.centre, slopes

    def _forward(self, ideal: Array) -> tuple[Array, Array]:
        """Recorded positions (N, 2) and the Jacobian (N, 2, 2), in units of ``unit_px`` about the centre."""
        x, y = ideal.T
        r2 = x * x + y * y
        grow = 1 + r2 * (self.k1 + r2 * (self.k2 + r2 * self.k3))
        slope = 2 * (self.k1 + r2 * (2 * self.k2 + r2 * 3 * self.k3))
        p1, p2 = self.p1, self.p2
        value = np.stack(
            [
                x * grow + 2 * p1 * x * y + p2 * (r2 + 2 * x * x),
                y * grow + p1 * (r2 + 2 * y * y) + 2 * p2 * x * y,
            ],
            axis=-1,
        )
        jacobian = np.empty((len(ideal), 2, 2))
        jacobian[:, 0, 0] = grow + x * x * slope + 2 * p1 * y + 6 * p2 * x
        jacobian[:, 0, 1] = jacobian[:, 1, 0] = x * y * slope + 2 * p1 * x + 2 * p2 * y
        jacobian[:, 1, 1] = grow + y * y * slope + 6 * p1 * y + 2 * p2 * x
        return value, jacobian


def no_lens(width: int, height: int) -> Lens:
    """A lens that bends nothing, for a photo of this size."""
    return Lens((width / 2, height / 2), float(np.hypot(width, height)) / 2)
