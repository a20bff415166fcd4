"""Two of the renders as what cameras and scanners write: the shore as a DNG, the glasshouse as a TIFF of 16 bits in Adobe
RGB. Needs ExifTool, for the camera's words. Run with: PYTHONPATH=src:tests python demo/scenes/as_originals.py"""

from __future__ import annotations

import subprocess
from pathlib import Path

import cv2
import numpy as np
from originals import dng_bytes, tiff_bytes
from PIL import Image

from sequor.imaging.colour import adobe_rgb, converted, light_of

PHOTOS = Path(__file__).resolve().parents[1] / "photos"
SIZE = 1500, 1000
PREVIEW = 480, 320
TWELVE_BITS = 0xFFF0
"""What a sensor of 12 bits tells, so that the file is not four times as large for noise."""


def light(name: str, size: tuple[int, int]) -> np.ndarray:
    """The light of a render, 0 to 1, reduced."""
    with Image.open(PHOTOS / f"wendlow_{name}.jpg") as image:
        return np.asarray(cv2.resize(light_of(np.asarray(image) / 255), size, interpolation=cv2.INTER_AREA))


def with_camera(name: str, file: Path) -> None:
    """Copy what the camera says of a render into another file."""
    source = PHOTOS / f"wendlow_{name}.jpg"
    tags = ["-Make", "-Model", "-LensModel", "-FocalLength", "-FocalLengthIn35mmFormat", "-DateTimeOriginal"]
    subprocess.run(["exiftool", "-q", "-overwrite_original", "-TagsFromFile", source, *tags, file], check=True)


if __name__ == "__main__":
    shore = PHOTOS / "wendlow_shore.dng"
    with Image.open(PHOTOS / "wendlow_shore.jpg") as render:
        preview = np.asarray(render.resize(PREVIEW))
    shore.write_bytes(dng_bytes(light("shore", SIZE), preview=preview))
    with_camera("shore", shore)
    small = light("glasshouse", (1200, 800))
    codes = np.where(small <= 0.0031308, small * 12.92, 1.055 * small ** (1 / 2.4) - 0.055)
    wide = converted(np.asarray(codes * 65535 + 0.5, np.uint16), None, adobe_rgb()) & TWELVE_BITS
    house = PHOTOS / "wendlow_glasshouse.tif"
    house.write_bytes(tiff_bytes(wide, photometric="rgb", compression="zlib", predictor=True, iccprofile=adobe_rgb()))
    with_camera("glasshouse", house)
