"""A made-up square by the sea for :mod:`wide`: its true lines and its balls, in metres, y down, from the eye.

Three walls with windows and courses, paving, a horizon; the camera stands 1.65 m above the ground and looks
ahead."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

EYE = 1.65
WALLS = {
    "left": ("x", -4.5, -6.0, 15.0, 9.0),
    "right": ("x", 6.0, -6.0, 17.0, 7.5),
    "front": ("z", 15.0, -4.5, 1.5, 9.0),
}
"""The axis that a wall stands across, where, from where to where along the other, and how high."""

BALLS = [
    ((-3.6, -0.5, 2.0), 0.5), ((4.6, -0.5, 2.4), 0.5), ((0.4, -0.5, 6.0), 0.5), ((-2.6, -3.6, 3.0), 0.45),
    ((3.9, -3.4, 3.0), 0.45), ((-3.2, -0.35, 0.9), 0.35), ((3.5, -0.35, 1.0), 0.35),
]  # fmt: skip


@dataclass(frozen=True)
class TrueLine:
    """A line of the square: its kind, and its ends (2, 3) from the eye."""

    name: str
    kind: str
    ends: Array


def lines() -> list[TrueLine]:
    """All true lines."""
    found = []
    for name, (axis, at, begin, end, high) in WALLS.items():
        near = max(begin, 0.6) if axis == "x" else begin
        kind = "receding" if axis == "x" else "level"

        def place(along: float, up: float, axis: str = axis, at: float = at) -> list[float]:
            return [at, EYE - up, along] if axis == "x" else [along, EYE - up, at]

        for number, up in enumerate((high, 5.08, 2.82, 0.0)):
            word = "foot" if up == 0 else f"course {number}"
            found.append(TrueLine(f"{name} {word}", kind, np.array([place(near, up), place(end, up)])))
        found.append(TrueLine(f"{name} far edge", "plumb", np.array([place(end, 0), place(end, high)])))
        for along in (3.35, 5.35, 8.35, 11.35):
            x = begin + along - 0.5
            if max(begin, 0.0) < begin + along < end:
                window = np.array([place(x, 3.4), place(x, high - 0.6)])
                found.append(TrueLine(f"{name} window {along}", "plumb", window))
    found.append(TrueLine("horizon", "level", np.array([[-400.0, 0, 1000], [1100.0, 0, 1000]])))
    for x in (-3, -1, 1, 3, 5):
        paving = np.array([[x, EYE, 1.8], [x, EYE, 14.0]])
        found.append(TrueLine(f"paving {x}", "receding", paving))
    return found


def balls() -> list[tuple[Array, float]]:
    """Middles from the eye, and radii."""
    return [(np.array(place) + [0, EYE, 0], radius) for place, radius in BALLS]
