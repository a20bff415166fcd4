"""The demo photos with their true cameras and lines."""

from __future__ import annotations

import json
from dataclasses import dataclass
from functools import cache
from typing import Any

import numpy as np
from pictures import DEMO, Picture
from PIL import Image

from sequor.core.camera import Array, Intrinsics, intrinsics
from sequor.core.distortion.models import Lens
from sequor.core.references.registry import Kind

SCENES = ("shore", "mill", "village", "tower", "viaduct", "glasshouse")
KINDS: dict[str, Kind] = {
    "vertical": "plumb",
    "horizontal-facing": "level",
    "horizontal-receding": "receding",
}


@dataclass(frozen=True)
class Scene:
    """A demo photo's pixels, its truth as it was rendered, and its lens."""

    picture: Picture
    truth: dict[str, Any]
    lens: Lens

    @property
    def size(self) -> tuple[int, int]:
        """Width and height."""
        return self.truth["width"], self.truth["height"]

    @property
    def camera(self) -> Intrinsics:
        """The true camera."""
        return intrinsics(*self.size, photo_focal_px=self.truth["f_px"])

    def line(self, start: str) -> Array:
        """The ends (2, 2) of the true line whose name begins with, or holds, these words."""
        return next(np.array([one["p0"], one["p1"]]) for one in self.truth["lines"] if start in one["id"])


@cache
def scene(name: str) -> Scene:
    """One of ``SCENES``."""
    truth = json.loads((DEMO / f"wendlow_{name}.json").read_text())
    picture = np.asarray(Image.open(DEMO / f"wendlow_{name}.jpg").convert("RGB"))
    width, height = truth["width"], truth["height"]
    half = float(np.hypot(width, height)) / 2
    return Scene(picture, truth, Lens((width / 2, height / 2), half, k1=truth["distortion"]["k1"]))
