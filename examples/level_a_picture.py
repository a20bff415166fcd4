"""The core as a library: measure a line, solve the camera, level a picture.

    python examples/level_a_picture.py IN OUT x1 y1 x2 y2

The line from (x1, y1) to (x2, y2), in pixels, is one that should be level.
"""

from __future__ import annotations

import sys

import numpy as np
from PIL import Image

from sequor.core.camera import Attitude, intrinsics
from sequor.core.estimation.solve import solve
from sequor.core.frame.largest import largest
from sequor.core.raster.resample import resample
from sequor.core.references.reference import Reference
from sequor.core.warp.homography import warp_of


def level(picture: np.ndarray, ends: np.ndarray) -> tuple[np.ndarray, float]:
    """The picture (height, width, 3) with a line (2, 2) level, in its largest frame of the same ratio, and
    the degrees by which it was off."""
    height, width = picture.shape[:2]
    camera = intrinsics(width, height)
    solution = solve([Reference("line", "level", ends)], ["roll"], camera)
    warp = warp_of(camera, solution.attitude, Attitude())
    frame = largest(warp.outline(), width, height, np.array([width / 2, height / 2])).inwards()
    pixels = resample(picture, warp, frame.x, frame.y, round(frame.width), round(frame.height))
    return pixels, solution.attitude.roll


def main() -> None:
    """From a file to a file."""
    source, target, *numbers = sys.argv[1:]
    picture = np.asarray(Image.open(source).convert("RGB"))
    pixels, degrees = level(picture, np.array(numbers, float).reshape(2, 2))
    Image.fromarray(pixels).save(target)
    print(f"levelled by {degrees:.2f}°")


if __name__ == "__main__":
    main()
