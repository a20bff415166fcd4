"""Fisheye lenses: the recorded radius by the angle from the axis.

``r = f G(t (1 + k1 t^2 + k2 t^4 + k3 t^6 + k4 t^8))`` with t the angle from the axis in radians and G the
law: t (equidistant), 2 sin(t/2) (equisolid), 2 tan(t/2) (stereographic), sin t (orthographic). Laws: C.
Hughes, P. Denny, E. Jones, M. Glavin, *Accuracy of fish-eye lens models*, Applied Optics 49 (17), 2010;
equidistant with terms is J. Kannala, S. S. Brandt, *A Generic Camera Model and Calibration Method for
Conventional, Wide-Angle, and Fish-Eye Lenses*, IEEE PAMI 28 (8), 2006, eq. 6 (both from memory; the tests
hold them against OpenCV)."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Literal, NamedTuple, Self

import numpy as np

from sequor.core.camera import Array
from sequor.core.distortion.models import Lens

Law = Literal["equidistant", "equisolid", "stereographic", "orthographic", "kannala-brandt"]

WIDEST_FLAT = np.deg2rad(89.0)
"""Beyond it nothing has a place in a flat picture."""

ROUNDS = 30
STEPS = 721
"""Angles at which it is looked where a law with terms stops growing."""


class Growth(NamedTuple):
    """A law: r / f of an angle, its slope, the angle of an r / f, and the widest angle it can record."""

    radius: Callable[[Array], Array]
    slope: Callable[[Array], Array]
    angle: Callable[[Array], Array]
    widest: float


_EQUIDISTANT = Growth(lambda t: t, np.ones_like, lambda r: r, np.pi)

GROWTH: dict[Law, Growth] = {
    "equidistant": _EQUIDISTANT,
    "kannala-brandt": _EQUIDISTANT,
    "equisolid": Growth(
        lambda t: 2 * np.sin(t / 2),
        lambda t: np.cos(t / 2),
        lambda r: 2 * np.arcsin(np.clip(r / 2, 0, 1)),
        np.pi,
    ),
    "stereographic": Growth(
        lambda t: 2 * np.tan(t / 2),
        lambda t: 1 / np.cos(t / 2) ** 2,
        lambda r: 2 * np.arctan(r / 2),
        np.deg2rad(170.0),
    ),
    "orthographic": Growth(np.sin, np.cos, lambda r: np.arcsin(np.clip(r, 0, 1)), np.pi / 2),
}


@dataclass(frozen=True)
class Fisheye(Lens):
    """A fisheye of a focal length of ``unit_px`` photo pixels. Its ideal pixels are those of a flat picture
    of the same focal length; what is 90 degrees off the axis has none, but a ray.

    >>> lens = Fisheye((1500.0, 1000.0), 1000.0, law="equidistant")
    >>> lens.recorded(np.array([[1.0, 0.0, 0.0]]), 1000.0).round(3)
    array([[3070.796, 1000.   ]])
    """

    k4: float = 0.0
    law: Law = "equisolid"
    departs: Lens | None = None
    """How what is recorded departs from the law, as a database has it: a lens without tangential terms that
    bends the radii which the law gives."""

    @property
    def straight(self) -> bool:
        return False

    @property
    def flat(self) -> bool:
        return False

    @cached_property
    def widest(self) -> float:
        """The widest angle in radians that it records: there the radius stops growing."""
        growth = GROWTH[self.law]
        if self.departs is None and not any((self.k1, self.k2, self.k3, self.k4)):
            return growth.widest
        angles = np.linspace(0.0, growth.widest, STEPS)
        bent, slope = self._bent(angles)
        grown = self._departed(growth.radius(np.minimum(bent, growth.widest)))[1]
        stops = np.nonzero((slope <= 0) | (bent > growth.widest) | (grown <= 0))[0]
        return float(angles[stops[0] - 1]) if len(stops) else growth.widest

    def numbers(self) -> list[str | float]:
        departs = [] if self.departs is None else self.departs.numbers()
        return [*super().numbers(), self.law, self.k4, *departs]

    @property
    def recorded_reach(self) -> float:
        return float(self._radius(np.array([self.widest]))[0]) * self.unit_px

    def scaled(self, scale: float) -> Self:
        x, y = self.centre
        departs = self.departs and self.departs.scaled(scale)
        return replace(self, centre=(x * scale, y * scale), unit_px=self.unit_px * scale, departs=departs)

    def rays(self, points: Array, focal_px: float) -> Array:
        away = points - self.centre
        radius = np.hypot(away[:, 0], away[:, 1])
        angle = self._angle(radius / self.unit_px)
        by = np.sin(angle) / np.maximum(radius, 1e-12)
        return np.column_stack([away * by[:, None], np.cos(angle)])

    def recorded(self, rays: Array, focal_px: float) -> Array:
        aside = np.hypot(rays[:, 0], rays[:, 1])
        angle = np.arctan2(aside, rays[:, 2])
        inside = np.minimum(angle, self.widest)
        radius = self.unit_px * (self._radius(inside) + angle - inside)
        return np.asarray(rays[:, :2] * (radius / np.maximum(aside, 1e-12))[:, None] + self.centre)

    def _bent(self, angle: Array) -> tuple[Array, Array]:
        """The angle as the terms change it, and its slope."""
        t = angle * angle
        k1, k2, k3, k4 = self.k1, self.k2, self.k3, self.k4
        value = angle * (1 + t * (k1 + t * (k2 + t * (k3 + t * k4))))
        return value, 1 + t * (3 * k1 + t * (5 * k2 + t * (7 * k3 + t * 9 * k4)))

    def _radius(self, angle: Array) -> Array:
        return self._departed(GROWTH[self.law].radius(self._bent(angle)[0]))[0]

    def _departed(self, radius: Array) -> tuple[Array, Array]:
        """What radii (N,) of the law are recorded as, in focal lengths, and the slope."""
        if self.departs is None:
            return radius, np.ones_like(radius)
        by = self.unit_px / self.departs.unit_px
        grow, slope = self.departs.radial((by * radius) ** 2)
        return radius * grow, grow + slope * (by * radius) ** 2

    def _angle(self, radius: Array) -> Array:
        """The angles (N,) of recorded radii (N,) in focal lengths; NaN where nothing is recorded."""
        bent = GROWTH[self.law].angle(_solved_for(radius, self._departed, np.inf))
        angle = _solved_for(bent, self._bent, self.widest)
        within = radius <= self._radius(np.array([self.widest]))[0] * (1 + 1e-12)
        return np.where(within, angle, np.nan)

    def radial(self, square: Array) -> tuple[Array, Array]:
        """The growth against a flat picture, r in focal lengths there, and its slope by r over r."""
        radius = np.maximum(np.sqrt(square), 1e-4)
        angle = np.arctan(radius)
        bent, bent_slope = self._bent(angle)
        law = GROWTH[self.law]
        value, grown = self._departed(law.radius(bent))
        slope = grown * law.slope(bent) * bent_slope / (1 + radius**2)
        return value / radius, (slope * radius - value) / radius**3

    def _solved_along_radii(self, wanted: Array) -> Array:
        recorded = np.hypot(wanted[:, 0], wanted[:, 1])
        angle = self._angle(recorded)
        flat = np.where(angle < WIDEST_FLAT, angle, np.nan)
        ideal: Array = wanted * (np.tan(flat) / np.maximum(recorded, 1e-12))[:, None]
        return np.where(recorded[:, None] > 0, ideal, wanted)


def _solved_for(wanted: Array, of: Callable[[Array], tuple[Array, Array]], most: float) -> Array:
    """What (N,), from 0 to ``most``, comes to ``wanted`` (N,); ``of`` gives that and its slope. Newton's
    method."""
    found = np.minimum(wanted, most)
    for _ in range(ROUNDS):
        value, slope = of(found)
        step = (wanted - value) / np.maximum(slope, 1e-3)
        found = np.clip(found + step, 0.0, most)
        if not np.any(np.abs(step) > 1e-14):
            break
    return found
