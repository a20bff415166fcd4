"""Made-up pictures and recipes for the tests."""

from __future__ import annotations

import io
from functools import cache
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageCms, TiffImagePlugin

Picture = NDArray[np.uint8]
DEMO = Path(__file__).resolve().parents[1] / "demo" / "photos"


def smooth_picture(width: int, height: int, seed: int = 1) -> Picture:
    """A picture of soft shapes, so that resampling by any good kernel agrees."""
    rng = np.random.default_rng(seed)
    y, x = np.mgrid[0:height, 0:width] + 0.5
    channels = []
    for _ in range(3):
        waves = sum(
            np.sin(
                2 * np.pi * (rng.uniform(1, 5) * x / width + rng.uniform(1, 5) * y / height)
                + rng.uniform(0, 6)
            )
            for _ in range(4)
        )
        channels.append(127.5 + 28 * waves)
    return np.clip(np.stack(channels, axis=-1), 0, 255).astype(np.uint8)


def horizon_picture(width: int, height: int, slope_deg: float) -> Picture:
    """Bright sky over dark water, the edge through the middle with a slope, anti-aliased over one pixel."""
    y, x = np.mgrid[0:height, 0:width] + 0.5
    below = (y - height / 2) - np.tan(np.deg2rad(slope_deg)) * (x - width / 2)
    water = np.clip(below * np.cos(np.deg2rad(slope_deg)) + 0.5, 0, 1)[..., None]
    return np.round(np.array([200, 215, 235]) * (1 - water) + np.array([40, 70, 80]) * water).astype(np.uint8)


def jpeg_bytes(picture: Picture, quality: int = 95, **options: Any) -> bytes:
    """A JPEG of a picture."""
    buffer = io.BytesIO()
    Image.fromarray(picture).save(buffer, "JPEG", quality=quality, subsampling=0, **options)
    return buffer.getvalue()


def image_bytes(image: Image.Image, kind: str, **options: Any) -> bytes:
    """Any picture in any format."""
    buffer = io.BytesIO()
    image.save(buffer, kind, **options)
    return buffer.getvalue()


def camera_exif(*, orientation: int = 1, gps: bool = False, width: int = 0, height: int = 0) -> Image.Exif:
    """What an invented camera writes."""
    exif = Image.Exif()
    exif[0x010F], exif[0x0110], exif[0x0112] = "Invented Optics", "IO-1", orientation
    details = exif.get_ifd(0x8769)
    details[0x9003], details[0x920A], details[0xA405] = (
        "2026:06:14 15:42:10",
        TiffImagePlugin.IFDRational(205, 10),
        31,
    )
    details[0xA002], details[0xA003] = width, height
    if gps:
        place = exif.get_ifd(0x8825)
        place[1], place[2] = "N", (TiffImagePlugin.IFDRational(50), TiffImagePlugin.IFDRational(1), 0)
        place[3], place[4] = "E", (TiffImagePlugin.IFDRational(8), TiffImagePlugin.IFDRational(2), 0)
    return exif


@cache
def srgb_profile() -> bytes:
    """An ICC profile; made once, because it carries the moment it was made."""
    return ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()


def recipe(width: int = 3000, height: int = 2000, **parts: Any) -> dict[str, Any]:
    """A recipe that asks for nothing that is not built."""
    document: dict[str, Any] = {
        "format": "sequor-recipe",
        "version": 1,
        "photo": {"width": width, "height": height, "focal_35mm": None},
        "correction": {"free": ["roll"]},
    }
    document.update(parts)
    return document


def line(name: str, kind: str, *points: tuple[float, float], **more: Any) -> dict[str, Any]:
    """A reference of a recipe."""
    return {"id": name, "kind": kind, "points": [list(point) for point in points], **more}


def slope_of_edge(picture: Picture, columns: slice) -> float:
    """The slope in degrees of the strongest light-to-dark edge, measured column by column: where the grey value
    passes half way, then a straight line through all of them (numpy's least squares)."""
    grey = picture[:, columns].astype(float).mean(axis=2)
    xs, ys = [], []
    for index in range(grey.shape[1]):
        column = grey[:, index]
        half = (column[:20].mean() + column[-20:].mean()) / 2
        row = int(np.argmax(column < half))
        if row:
            above, below = column[row - 1], column[row]
            xs.append(index)
            ys.append(row - 1 + (above - half) / (above - below))
    return float(np.rad2deg(np.arctan(np.polyfit(xs, ys, 1)[0])))
