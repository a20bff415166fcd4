"""Procedural materials for the stand-in: sky, cloud, water, grass, sand, snow, rock, leaves, brick.

Noise is summed over octaves (K. Perlin, *An Image Synthesizer*, SIGGRAPH 1985: turbulence), cells are the
distance to random points (S. Worley, *A Cellular Texture Basis Function*, SIGGRAPH 1996). Nobody takes them
for the real thing; they show where a real painter's pixels would go.
"""

from __future__ import annotations

import re

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from sequor.core.raster.pixels import Picture

Field = NDArray[np.float64]

WORDS: dict[str, tuple[str, ...]] = {
    "cloud": ("cloud", "clouds", "cloudy", "overcast"),
    "sky": ("sky", "skies", "heaven"),
    "water": ("water", "lake", "sea", "reservoir", "river", "pond"),
    "grass": ("grass", "meadow", "lawn", "field"),
    "sand": ("sand", "beach", "gravel", "path"),
    "snow": ("snow", "ice", "frost"),
    "rock": ("rock", "rocks", "stone", "cliff", "stones"),
    "leaves": ("leaves", "leaf", "foliage", "trees", "tree", "hedge", "bush"),
    "brick": ("brick", "bricks", "wall"),
}
"""The words of a hint by which each is chosen; the first that occurs in the hint."""

COLOURS: dict[str, tuple[tuple[int, int, int], tuple[int, int, int]]] = {
    "sky": ((96, 142, 196), (178, 204, 228)),
    "cloud": ((128, 138, 150), (236, 238, 240)),
    "water": ((62, 92, 112), (134, 164, 178)),
    "grass": ((58, 82, 34), (130, 154, 78)),
    "sand": ((170, 148, 112), (218, 198, 160)),
    "snow": ((208, 216, 228), (250, 251, 253)),
    "rock": ((84, 80, 76), (158, 152, 144)),
    "leaves": ((30, 52, 22), (110, 140, 60)),
    "brick": ((118, 56, 42), (168, 92, 68)),
}
MORTAR = (178, 170, 158)
BRICK = (44, 15)
"""Pixels that a brick is long and high, with its joint."""


def material_of(hint: str) -> str | None:
    """The material that a hint asks for; None when it names none that is known."""
    for word in re.findall(r"[a-z]+", hint.lower()):
        for material, words in WORDS.items():
            if word in words:
                return material
    return None


def paint(material: str, width: int, height: int, seed: int) -> Picture:
    """A picture (height, width, 3) of a material; the same seed gives the same."""
    rng = np.random.default_rng([seed, sorted(COLOURS).index(material)])
    dark, light = (np.array(colour, float) for colour in COLOURS[material])
    if material == "brick":
        return _brick(width, height, rng, dark, light)
    share = _share(material, width, height, rng)[..., None]
    grain = rng.normal(0, 2.0, (height, width, 1))
    return np.asarray(np.clip(dark + share * (light - dark) + grain, 0, 255), np.uint8)


def _share(material: str, width: int, height: int, rng: np.random.Generator) -> Field:
    """Where between its two colours a material is, 0 to 1, (height, width)."""
    down = np.linspace(0, 1, height)[:, None] + np.zeros((1, width))
    if material == "sky":
        return 0.85 * down + 0.15 * _noise(width, height, rng, 200, 3)
    if material == "water":
        return 0.3 * down + 0.7 * _noise(width, height, rng, 48, 5, (4.0, 0.6))
    if material in ("leaves", "rock"):
        cells = _cells(width, height, rng, 9 if material == "leaves" else 40)
        return 0.6 * cells + 0.4 * _noise(width, height, rng, 60, 6)
    coarse = {"cloud": 260, "grass": 30, "sand": 40, "snow": 300}[material]
    stretched = (0.5, 2.0) if material == "grass" else (1.0, 1.0)
    return _noise(width, height, rng, coarse, 6, stretched)


def _noise(
    width: int,
    height: int,
    rng: np.random.Generator,
    coarse: float,
    octaves: int,
    stretched: tuple[float, float] = (1.0, 1.0),
) -> Field:
    """Noise whose largest features are ``coarse`` pixels, each octave half as large and half as strong."""
    total = np.zeros((height, width))
    for octave in range(octaves):
        size = max(1.0, coarse / 2**octave)
        columns, rows = (
            int(side / (size * by)) + 3 for side, by in zip((width, height), stretched, strict=True)
        )
        small = rng.random((rows, columns)).astype(np.float32)
        total += 0.5**octave * cv2.resize(small, (width, height), interpolation=cv2.INTER_CUBIC)
    low, high = np.percentile(total, [1, 99])
    return np.asarray(np.clip((total - low) / max(high - low, 1e-6), 0, 1))


def _cells(width: int, height: int, rng: np.random.Generator, size: float) -> Field:
    """How far each pixel is from the nearest of random points about ``size`` pixels apart, 0 to 1."""
    count = max(4, int(width * height / size**2))
    points = rng.random((count, 2)) * [width, height]
    y, x = np.mgrid[0:height, 0:width]
    away, _ = cKDTree(points).query(np.column_stack([x.ravel(), y.ravel()]))
    return np.asarray(np.clip(away / size, 0, 1).reshape(height, width))


def _brick(width: int, height: int, rng: np.random.Generator, dark: Field, light: Field) -> Picture:
    long, high = BRICK
    y, x = np.mgrid[0:height, 0:width]
    course = y // high
    along = x + (course % 2) * (long // 2)
    tone = rng.random((height // high + 1, width // long + 2))
    share = 0.7 * tone[course, along // long] + 0.3 * _noise(width, height, rng, 12, 3)
    out = dark + share[..., None] * (light - dark)
    joint = (y % high < 2) | (along % long < 2)
    out[joint] = np.array(MORTAR) + rng.normal(0, 5, (int(joint.sum()), 1))
    return np.asarray(np.clip(out, 0, 255), np.uint8)
