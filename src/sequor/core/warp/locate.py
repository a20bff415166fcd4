"""A warp as numbers: what the compiled form of the map (:mod:`located`) is told.

Kept apart from it, for numba takes half a second to load.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from sequor.core.camera import Array
from sequor.core.distortion.models import Lens

NO_HOMOGRAPHY, NO_AREA, NO_LATTICE = np.eye(3), np.zeros(4), np.zeros((0, 0, 2))
NO_BENDING = np.zeros(11)


class Compiled(NamedTuple):
    """A warp for the inner loop.

    ``inverse`` (3, 3) from corrected to ideal pixels, and ``deepest``, the limit of its third coordinate; the
    ``lens``; and where the picture is reshaped or a wide view ``area``, its rectangle (x, y, cells a pixel
    across and down), and ``lattice`` over it (rows + 1, columns + 1, 2), in place of both; else an empty one.
    Of the lens there only the centre counts and the square of the radius in photo pixels that it records.
    """

    inverse: Array
    deepest: float
    lens: Array
    area: Array
    lattice: Array


def lens_terms(lens: Lens) -> Array:
    """A lens for the inner loop: centre, 1 / unit, the square of its reach (0: it bends nothing), terms."""
    x, y = lens.centre
    reach = 0.0 if lens.straight else min(lens.reach, 1e3) ** 2
    terms = (lens.k1, lens.k2, lens.k3, lens.p1, lens.p2, lens.o1, lens.o3)
    return np.array([x, y, 1 / lens.unit_px, reach, *terms])
