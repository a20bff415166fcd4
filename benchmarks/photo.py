"""A 24-megapixel photograph for measuring: a demo photo enlarged, with noise. Not shipped."""

from __future__ import annotations

from pathlib import Path

import cv2
import numpy as np
from PIL import Image

DEMO = Path(__file__).resolve().parents[1] / "demo" / "photos" / "wendlow_shore.jpg"
WIDTH, HEIGHT = 6000, 4000


def make(folder: Path) -> Path:
    """Write the photo and return its path."""
    with Image.open(DEMO) as demo:
        small, exif = np.asarray(demo), demo.getexif()
    large = cv2.resize(small, (WIDTH, HEIGHT), interpolation=cv2.INTER_CUBIC)
    noise = np.random.default_rng(1).normal(0, 3, large.shape).astype(np.float32)
    path = folder / "shore-24-megapixels.jpg"
    picture = np.clip(large + noise, 0, 255).astype(np.uint8)
    Image.fromarray(picture).save(path, quality=92, exif=exif)
    return path


def recipe() -> dict[str, object]:
    """A recipe that levels it."""
    rise = 5000 * float(np.tan(np.deg2rad(2.3)))
    return {
        "format": "sequor-recipe",
        "version": 1,
        "photo": {"width": WIDTH, "height": HEIGHT},
        "references": [{"id": "r1", "kind": "level", "points": [[500, 1700], [5500, 1700 - rise]]}],
        "correction": {"free": ["roll"]},
    }
