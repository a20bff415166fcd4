"""The bending of the lens, both rays: Brown's model and those of the open lens database.

Recorded from ideal, about the principal point, with r counted in ``unit_px``::

    x_d = x g(r) + 2 p1 x y + p2 (r^2 + 2 x^2)
    y_d = y g(r) + p1 (r^2 + 2 y^2) + 2 p2 x y
    g(r) = 1 + o1 r + k1 r^2 + o3 r^3 + k2 r^4 + k3 r^6

Source of the even terms and of p1, p2: D. C. Brown, *Close-Range Camera Calibration*, Photogrammetric
Engineering 37 (8), 1971. The odd ones are those of the database's third model. g is 1 at the centre in all of
them, so that the scale there does not change when a correction is taken on or off.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import numpy as np

from sequor.core.camera import Array

Model = Literal["brown", "poly3", "poly5", "ptlens"]
"""The models of lenses that are no fisheyes."""

TERM_COUNTS: dict[Model, int] = {"brown": 0, "poly3": 1, "poly5": 2, "ptlens": 3}
"""Terms that the database has for each; Brown's are none of its own."""

NEWTON_ROUNDS = 40
SETTLED = 1e-13

STRONGEST_SCALE = 4.0
"""Where taking the bending out would enlarge more than this, the picture is cut."""

FARTHEST = 8.0
"""In ``unit_px``: as far as anybody asks for the model's reach."""


@dataclass(frozen=True)
class Lens:
    """Terms about ``centre`` (2,) in photo pixels; r is counted in ``unit_px``.

    >>> barrel = Lens((1500.0, 1000.0), half_diagonal(3000, 2000), k1=-0.1)
    >>> corner = np.array([[3000.0, 2000.0]])
    >>> barrel.distorted(corner)
    array([[2850., 1900.]])
    >>> bool(np.allclose(barrel.undistorted(barrel.distorted(corner)), corner))
    True
    """

    centre: tuple[float, float]
    unit_px: float
    k1: float = 0.0
    k2: float = 0.0
    k3: float = 0.0
    p1: float = 0.0
    p2: float = 0.0
    o1: float = 0.0
    o3: float = 0.0

    @property
    def straight(self) -> bool:
        """Whether the lens bends nothing."""
        return not any((self.k1, self.k2, self.k3, self.p1, self.p2, self.o1, self.o3))

    def numbers(self) -> list[str | float]:
        """What it bends by, apart from where its centre is."""
        return [self.unit_px, self.k1, self.k2, self.k3, self.p1, self.p2, self.o1, self.o3]

    @property
    def flat(self) -> bool:
        """Whether what it records belongs onto a plane: a lens that is no fisheye."""
        return True

    @property
    def recorded_reach(self) -> float:
        """The radius in photo pixels beyond which nothing is recorded that the terms hold for."""
        if not np.isfinite(self.reach):
            return np.inf
        edge = self.distorted(np.array([[self.centre[0] + self.reach * self.unit_px, self.centre[1]]]))
        return float(edge[0, 0] - self.centre[0])

    def rays(self, points: Array, focal_px: float) -> Array:
        """Unit rays (N, 3) in camera axes of recorded points (N, 2); NaN where nothing is recorded."""
        away = (self.undistorted(points) - self.centre) / focal_px
        found = np.column_stack([away, np.ones(len(away))])
        return np.asarray(found / np.linalg.norm(found, axis=1, keepdims=True))

    def recorded(self, rays: Array, focal_px: float) -> Array:
        """Recorded points (N, 2) of rays (N, 3). Beyond its reach the lens goes straight on, so that nothing
        comes back into the photo; NaN for what is behind the camera."""
        with np.errstate(divide="ignore", invalid="ignore"):
            away = np.where(rays[:, 2:] > 0, rays[:, :2] / rays[:, 2:], np.nan) * (focal_px / self.unit_px)
        radius = np.hypot(away[:, 0], away[:, 1])
        beyond = np.maximum(radius - self.reach, 0.0) / np.maximum(radius, 1e-12)
        inside = away * (1 - beyond)[:, None]
        straight_on: Array = away * beyond[:, None] * self.unit_px
        return self.distorted(inside * self.unit_px + self.centre) + straight_on

    @cached_property
    def reach(self) -> float:
        """The ideal radius in ``unit_px`` up to which the terms hold: the warp still grows there, and
        taking it out enlarges at most ``STRONGEST_SCALE`` times. Infinite when it holds to ``FARTHEST``."""
        around = np.linspace(0.0, 2 * np.pi, 24 if self.p1 or self.p2 else 1, endpoint=False)
        rays = np.stack([np.cos(around), np.sin(around)], axis=-1)
        near, far = 0.0, FARTHEST
        # Looked at ever more closely about the first radius at which some way ends.
        for _ in range(4):
            radius = np.linspace(near, far, 65)
            _, jacobian = self._forward((radius[:, None, None] * rays).reshape(-1, 2))
            growing = (_det(jacobian) > STRONGEST_SCALE**-2).reshape(len(radius), -1).all(axis=1)
            if np.all(growing):
                return np.inf
            first = int(np.argmin(growing))
            near, far = float(radius[max(first - 1, 0)]), float(radius[first])
        return near

    def scaled(self, scale: float) -> Lens:
        """The same lens for a copy of the photo reduced or enlarged by ``scale``."""
        x, y = self.centre
        terms = (self.k1, self.k2, self.k3, self.p1, self.p2, self.o1, self.o3)
        return Lens((x * scale, y * scale), self.unit_px * scale, *terms)

    def growth(self, radius: Array) -> Array:
        """g at radii (N,) in ``unit_px``."""
        return self.radial(radius * radius)[0]

    def radial(self, square: Array) -> tuple[Array, Array]:
        """g at squares of radii (N,), and its derivative there by r, divided by r."""
        k1, k2, k3 = self.k1, self.k2, self.k3
        grow = 1 + square * (k1 + square * (k2 + square * k3))
        slope = 2 * (k1 + square * (2 * k2 + square * 3 * k3))
        if self.o1 or self.o3:
            radius = np.sqrt(square)
            grow = grow + radius * (self.o1 + square * self.o3)
            slope = slope + self.o1 / np.maximum(radius, 1e-12) + 3 * self.o3 * radius
        return grow, slope

    def within_reach(self, ideal: Array) -> Array:
        """Which ideal photo pixels (N, 2) the terms hold for: (N,) booleans; NaN is none of them."""
        away = np.hypot(*((ideal - self.centre) / self.unit_px).T)
        return np.asarray(away <= self.reach)

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

    def moved_by(self, term: Literal["k1", "k2"], ideal: Array, stretch: Array) -> tuple[Array, Array]:
        """How ideal points (N, 2) about the principal point move when a term grows while the recorded ones
        stay, per unit and, where the lens bends nothing yet, per unit squared; ``stretch`` (N, 2, 2) is how a
        small step as recorded grows there."""
        square = np.sum(ideal**2, axis=1)[:, None] / self.unit_px**2
        grows = square if term == "k1" else square**2
        moved = -np.einsum("nij,nj->ni", stretch, ideal * grows)
        # The series of the ideal radius in the recorded one (a r^2 with a of 3 for k1, 5 for k2).
        bowed = (3 if term == "k1" else 5) * ideal * grows**2 if self.straight else np.zeros_like(ideal)
        return moved, bowed

    def undistorted_with_slopes(self, points: Array) -> tuple[Array, Array]:
        """The same, and how the ideal point moves with the recorded one: (N, 2, 2)."""
        if self.straight:
            return points, np.broadcast_to(np.eye(2), (len(points), 2, 2))
        wanted = (points - self.centre) / self.unit_px
        ideal = self._solved(wanted) if self.p1 or self.p2 else self._solved_along_radii(wanted)
        value, jacobian = self._forward(ideal)
        det = _det(jacobian)
        # Far beyond the fold the terms come round again, mirrored twice; there nothing is recorded either.
        growing = (det > 0) & (jacobian[:, 0, 0] + jacobian[:, 1, 1] > 0)
        found = growing & np.all(np.abs(value - wanted) < 1e-9, axis=1)
        ideal[~found] = np.nan
        jacobian[~found] = np.nan
        slopes: Array = _adjugate(jacobian) / np.where(found, det, 1.0)[:, None, None]
        return ideal * self.unit_px + self.centre, slopes

    def _solved(self, wanted: Array) -> Array:
        """Newton's method for ideal points (N, 2) that are recorded where it is wanted, about the centre."""
        ideal = wanted.copy()
        moving = np.arange(len(wanted))
        for _ in range(NEWTON_ROUNDS):
            value, jacobian = self._forward(ideal[moving])
            det = _det(jacobian)
            regular = np.abs(det) > 1e-9
            step = np.einsum("nij,nj->ni", _adjugate(jacobian), wanted[moving] - value)
            step /= np.where(regular, det, np.inf)[:, None]
            ideal[moving] += step
            moving = moving[np.abs(step).max(axis=1) > SETTLED]
            if not len(moving):
                break
        return ideal

    def _solved_along_radii(self, wanted: Array) -> Array:
        """The same without tangential terms: every point moves along its radius, which is one equation."""
        recorded = np.hypot(wanted[:, 0], wanted[:, 1])
        radius = recorded.copy()
        for _ in range(NEWTON_ROUNDS):
            grow, slope = self.radial(radius * radius)
            rises = grow + radius * radius * slope
            step = recorded - radius * grow
            step /= np.where(np.abs(rises) > 1e-9, rises, np.inf)
            radius += step
            if not np.any(np.abs(step) > SETTLED):
                break
        ideal: Array = wanted * (radius / np.where(recorded > 0, recorded, 1.0))[:, None]
        return ideal

    def _forward(self, ideal: Array) -> tuple[Array, Array]:
        """Recorded positions (N, 2) and the Jacobian (N, 2, 2), in units of ``unit_px`` about the centre."""
        x, y = ideal.T
        r2 = x * x + y * y
        grow, slope = self.radial(r2)
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
    return Lens((width / 2, height / 2), half_diagonal(width, height))


def half_diagonal(width: float, height: float) -> float:
    """Half the diagonal of a photo in pixels: the unit of r unless another is given."""
    return float(np.hypot(width, height)) / 2


def database_lens(model: Model, centre: tuple[float, float], unit_px: float, terms: Sequence[float]) -> Lens:
    """A lens by one of the database's models, r in ``unit_px``, with the scale at its centre made 1.

    ``poly3`` (k1): r_d = r (1 - k1 + k1 r^2); ``poly5`` (k1, k2): r_d = r (1 + k1 r^2 + k2 r^4);
    ``ptlens`` (a, b, c): r_d = r (a r^3 + b r^2 + c r + 1 - a - b - c). Source: the manual of the Lensfun
    library, "Lens distortion models" (from memory; the tests check them against the library's own maps).

    Raises ValueError when the scale at the centre would not be positive, or the model is another.
    """
    if model == "poly5":
        k1, k2 = terms
        return Lens(centre, unit_px, k1=k1, k2=k2)
    if model == "poly3":
        a, b, c = 0.0, terms[0], 0.0
    elif model == "ptlens":
        a, b, c = terms
    else:
        raise ValueError(f"{model!r} is not one of the database's models")
    middle = 1 - a - b - c
    if middle <= 0:
        raise ValueError("the lens terms leave nothing of the scale at the centre")
    return Lens(centre, unit_px * middle, k1=b / middle, o1=c / middle, o3=a / middle)


def _det(matrices: Array) -> Array:
    return np.asarray(matrices[:, 0, 0] * matrices[:, 1, 1] - matrices[:, 0, 1] * matrices[:, 1, 0])


def _adjugate(matrices: Array) -> Array:
    """The inverses (N, 2, 2) times their determinants."""
    turned = np.empty_like(matrices)
    turned[:, 0, 0], turned[:, 1, 1] = matrices[:, 1, 1], matrices[:, 0, 0]
    turned[:, 0, 1], turned[:, 1, 0] = -matrices[:, 0, 1], -matrices[:, 1, 0]
    return turned
