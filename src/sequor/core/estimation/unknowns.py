"""What may be solved for: the camera's attitude and focal length, the ways of receding lines, the lens's
terms."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from sequor.core.camera import Attitude

Unknown = Literal["roll", "pitch", "yaw", "focal_px", "k1", "k2"]

ANGLES: tuple[Unknown, ...] = ("roll", "pitch", "yaw")


@dataclass(frozen=True)
class Unknowns:
    """Values of everything that may be solved for: radians, the focal length in photo pixels, and by how much
    the lens's terms are off."""

    roll: float = 0.0
    pitch: float = 0.0
    yaw: float = 0.0
    focal_px: float = 1.0
    azimuths: tuple[float, ...] = ()
    terms: tuple[float, ...] = ()

    def attitude(self) -> Attitude:
        """The attitude in degrees."""
        return Attitude(*(float(np.rad2deg(angle)) for angle in (self.roll, self.pitch, self.yaw)))


def shifted(at: Unknowns, steps: dict[str, float]) -> Unknowns:
    """The unknowns after a step in each of the named ones (the focal length by its logarithm)."""
    azimuths, terms = list(at.azimuths), list(at.terms)
    for name, step in steps.items():
        if name.startswith("azimuth"):
            azimuths[int(name.split()[1])] += step
        elif name.startswith("term"):
            terms[int(name.split()[1])] += step
    return Unknowns(
        at.roll + steps.get("roll", 0.0),
        at.pitch + steps.get("pitch", 0.0),
        at.yaw + steps.get("yaw", 0.0),
        at.focal_px * float(np.exp(np.clip(steps.get("focal_px", 0.0), -0.5, 0.5))),
        tuple(azimuths),
        tuple(terms),
    )
