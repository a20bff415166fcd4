"""A map of rays looked at closely: its derivative on the sphere, and what it does to shapes there (Tissot).

N. A. Tissot, *Mémoire sur la représentation des surfaces*, 1881; J. P. Snyder, *Map Projections: A Working
Manual*, USGS Professional Paper 1395, 1987, chapter 4.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from sequor.core.camera import Array

STEP = 1e-5


def on_sphere(carried: Callable[[Array], Array], rays: Array, down: Array) -> Array:
    """The derivative (N, 2, 2) of a map of unit rays (N, 3) by steps to the right and downwards on the
    sphere, where ``down`` (3,) is."""
    right = np.cross(down, rays)
    right /= np.maximum(np.linalg.norm(right, axis=1, keepdims=True), 1e-12)
    below = np.cross(rays, right)
    steps = [(carried(rays + STEP * way) - carried(rays - STEP * way)) / (2 * STEP) for way in (right, below)]
    return np.stack(steps, axis=-1)


def tissot(slopes: Array) -> tuple[Array, Array, Array]:
    """Of derivatives (N, 2, 2): the greatest error of an angle in degrees, how many times as much as across a
    small circle is drawn out along, and how much its area grows."""
    a, b, c, d = slopes[:, 0, 0], slopes[:, 0, 1], slopes[:, 1, 0], slopes[:, 1, 1]
    mean, off = np.hypot(a + d, b - c) / 2, np.hypot(a - d, b + c) / 2
    angle = np.rad2deg(2 * np.arcsin(np.minimum(off / np.maximum(mean, 1e-12), 1.0)))
    drawn_out = (mean + off) / np.maximum(np.abs(mean - off), 1e-9)
    return angle, drawn_out, np.abs(mean * mean - off * off)
