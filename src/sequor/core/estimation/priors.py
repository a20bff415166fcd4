"""What is known of a camera before a line is laid: priors, which count as observations like any other.

How people aim, how much a lens bends whose bending nobody told, and how well the focal length is known. What
is held at 0 is not known to be 0: every deviation carries what the lines leave open.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from sequor.core.camera import Array, Intrinsics
from sequor.core.estimation.unknowns import Unknowns

AIM_SD_DEG = 8.0
"""Standard deviation of how far up or down people aim (docs/geometry.md: the solve)."""

BENDING_SD = 0.03
"""Standard deviation of k1, counted in half diagonals, of a lens that nobody described."""

LONG_35MM = 50.0
"""From this focal length (35 mm equivalent) on a lens is taken to bend nothing."""

BEYOND_SDS = 3.0
"""An aim of more than so many standard deviations is no explanation of lines that differ."""

WIDE_OPEN = 1e3
"""In radians: nothing is known of where receding lines run, and a line along the horizon leaves it open."""


def open_distortion(camera: Intrinsics) -> float:
    """The standard deviation of k1, in half diagonals, where nothing tells how the lens bends."""
    return 0.0 if camera.equivalent_mm >= LONG_35MM else BENDING_SD


@dataclass(frozen=True)
class Prior:
    """``aim_sd`` of the pitch in radians, infinite where it says nothing; ``terms`` the covariance (N, N) of
    what the lens's terms are off; ``focal_share`` the standard deviation of the logarithm of the focal length
    about ``focal_px``, which only counts where it is asked for as an unknown."""

    aim_sd: float = math.radians(AIM_SD_DEG)
    terms: Array = field(default_factory=lambda: np.zeros((0, 0)))
    focal_px: float = 1.0
    focal_share: float = math.inf

    @cached_property
    def _root(self) -> Array:
        return np.asarray(np.linalg.inv(np.linalg.cholesky(self.terms)), np.float64)

    def rows(self, at: Unknowns, wanted: Sequence[str]) -> tuple[Array, Array]:
        """Standardised residuals (M,) and slopes (M, unknowns) of what the prior says of the wanted
        unknowns."""
        residuals: list[float] = []
        slopes: list[Array] = []

        def add(residual: float, **by: float) -> None:
            residuals.append(residual)
            slopes.append(np.array([by.get(name, 0.0) for name in wanted]))

        if "pitch" in wanted and math.isfinite(self.aim_sd):
            add(at.pitch / self.aim_sd, pitch=1 / self.aim_sd)
        if "focal_px" in wanted and math.isfinite(self.focal_share):
            off = math.log(at.focal_px / self.focal_px)
            add(off / self.focal_share, focal_px=1 / self.focal_share)
        for name in wanted:
            if name.startswith("azimuth"):
                add(at.azimuths[int(name.split()[1])] / WIDE_OPEN, **{name: 1 / WIDE_OPEN})
        if "term 0" in wanted:
            for row in self._root:
                add(float(row @ np.array(at.terms)), **{f"term {n}": float(by) for n, by in enumerate(row)})
        return np.array(residuals), np.array(slopes).reshape(-1, len(wanted))
