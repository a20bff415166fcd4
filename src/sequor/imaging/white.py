"""The white balance of raw photos: from the light that is to look white to what a sensor's colours are
multiplied by, and back."""

from __future__ import annotations

import numpy as np

from sequor.core.camera import Array

TINT = 1000.0
"""Steps of tint in a distance of 1 from the black bodies, in CIE 1960 u, v."""

LOWEST, HIGHEST = 2000.0, 25_000.0
MIREDS = np.linspace(1e6 / HIGHEST, 1e6 / LOWEST, 461)
"""A step for each mired between the limits, in which equal steps look about equal."""


def black_body(temperature: Array) -> Array:
    """The chromaticities (n, 2), CIE 1931 x, y, of black bodies from 1667 to 25,000 K.

    Kang et al., "Design of advanced color temperature control system for HDTV applications", Journal of the
    Korean Physical Society 41 (2002), equations 4 and 5.
    """
    t = 1e3 / np.atleast_1d(temperature)
    low = np.atleast_1d(temperature) <= 4000
    x = np.where(
        low,
        -0.2661239 * t**3 - 0.2343589 * t**2 + 0.8776956 * t + 0.179910,
        -3.0258469 * t**3 + 2.1070379 * t**2 + 0.2226347 * t + 0.240390,
    )
    y = np.where(
        low,
        np.where(
            np.atleast_1d(temperature) <= 2222,
            -1.1063814 * x**3 - 1.34811020 * x**2 + 2.18555832 * x - 0.20219683,
            -0.9549476 * x**3 - 1.37418593 * x**2 + 2.09137015 * x - 0.16748867,
        ),
        3.0817580 * x**3 - 5.87338670 * x**2 + 3.75112997 * x - 0.37001483,
    )
    return np.stack([x, y], axis=-1)


def light(temperature: float, tint: float) -> Array:
    """The chromaticity x, y (2,) of a light: across from the black bodies by its tint."""
    middle, before, after = _to_uv(black_body(temperature * np.array([1.0, 0.999, 1.001])))
    along = (before - after) / np.linalg.norm(before - after)
    across = np.array([-along[1], along[0]])
    return _to_xy(middle + across * (1 if across[1] > 0 else -1) * tint / TINT)


def temperature_of(xy: Array) -> tuple[float, float]:
    """The correlated colour temperature in kelvin of a light, within the limits, and its tint."""
    u, v = _to_uv(np.asarray(xy)[None])[0]
    places = _to_uv(black_body(1e6 / MIREDS))
    nearest = int(np.argmin(np.hypot(*(places - (u, v)).T)))
    fine = np.linspace(MIREDS[max(nearest - 1, 0)], MIREDS[min(nearest + 1, len(MIREDS) - 1)], 201)
    places = _to_uv(black_body(1e6 / fine))
    apart = np.hypot(*(places - (u, v)).T)
    best = int(np.argmin(apart))
    sign = 1 if v > places[best, 1] else -1
    return float(1e6 / fine[best]), float(sign * apart[best] * TINT)


def multipliers(xyz_to_sensor: Array, xy: Array) -> Array:
    """What red, green and blue of a sensor are multiplied by so that a light x, y looks white; green: 1.

    ``xyz_to_sensor`` (3, 3) as cameras' tables and DNG (ColorMatrix) have it. Raises ValueError where the
    sensor would see nothing of the light.
    """
    x, y = xy
    seen = xyz_to_sensor @ np.array([x / y, 1.0, (1 - x - y) / y])
    if not np.all(seen > 1e-6):
        raise ValueError("a light that the sensor does not see")
    return np.asarray(seen[1] / seen)


def light_of(xyz_to_sensor: Array, by: Array) -> Array:
    """The chromaticity of the light that looks white when a sensor's colours are multiplied by so much."""
    xyz = np.linalg.solve(xyz_to_sensor, 1 / np.asarray(by))
    return np.asarray(xyz[:2] / xyz.sum())


def _to_uv(xy: Array) -> Array:
    """CIE 1931 x, y (n, 2) to CIE 1960 u, v (CIE 15:2004, appendix A)."""
    x, y = xy[..., 0], xy[..., 1]
    return np.stack([4 * x, 6 * y], axis=-1) / (-2 * x + 12 * y + 3)[..., None]


def _to_xy(uv: Array) -> Array:
    u, v = uv
    return np.asarray(np.array([3 * u, 2 * v]) / (2 * u - 8 * v + 4))
