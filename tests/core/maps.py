"""Random maps of the corrected picture for the tests."""

from __future__ import annotations

import numpy as np

from sequor.core.camera import Array, Attitude, intrinsics
from sequor.core.distortion.models import Lens, half_diagonal
from sequor.core.warp.base import Warp
from sequor.core.warp.homography import warp_of


def rolled(degrees: float, width: int = 3000, height: int = 2000) -> Warp:
    """A photo that is only turned."""
    return warp_of(intrinsics(width, height), Attitude(roll=degrees), Attitude())


def middle(warp: Warp) -> Array:
    """The photo's centre, which stays."""
    return np.array([warp.width / 2, warp.height / 2])


def any_map(rng: np.random.Generator, width: int, height: int, straight: bool = False) -> Warp:
    """A lens with any terms, often strong, on a camera held anyhow; ``straight``: without a lens."""
    strength = rng.choice([0.03, 0.1, 0.25])
    terms = rng.uniform(-1, 1, 5) * strength * [1, 0.4, 0.1, 0.03, 0.03]
    odd = rng.uniform(-0.1, 0.1, 2) * strength * rng.integers(0, 2)
    lens = Lens((width / 2, height / 2), half_diagonal(width, height), *map(float, terms), *map(float, odd))
    attitude = Attitude(*map(float, rng.uniform(-1, 1, 3) * [12, 20, 15]))
    camera = intrinsics(width, height, photo_focal_px=width * float(rng.uniform(0.5, 2.5)))
    proportion = float(rng.uniform(0.8, 1.2))
    if straight:
        return warp_of(camera, attitude, Attitude(), proportion)
    return warp_of(camera, attitude, Attitude(), proportion, lens)
