"""Masts and eaves that cross the border of the fill: whether they run on straight.

    PYTHONPATH=src .venv/bin/python -m benchmarks.crossings

Twenty things that are straight cross the border of an empty strip of 120 pixels, 5 to 45 degrees off its
perpendicular: ten masts, dark bars of 6 to 14 pixels before a sky with grain, and ten eaves, edges between
two rough surfaces. The strip is filled; over the first 100 pixels the thing is found again, row by row, and a
line laid through what is found. Told are its mean distance from where it should be and its angle to that.
"""

from __future__ import annotations

import cv2
import numpy as np

from sequor.core.fill.patchmatch import fill

DEPTH, LONG = 120, 100
SIZE = (700, 560)


def surface(rng: np.random.Generator, level: float, coarse: float, fine: float) -> np.ndarray:
    """A rough surface: slow change, texture of some pixels, grain."""
    width, height = SIZE
    out = np.full((height, width), level, float)
    for sigma, amount in ((60, coarse), (3, coarse), (0.7, fine)):
        noise = cv2.GaussianBlur(rng.normal(size=(height, width)), (0, 0), sigma)
        out += amount * noise / noise.std()
    return out


def crossing(index: int) -> tuple[np.ndarray, np.ndarray, float, float, bool]:
    """Picture, hole, where the thing meets the border, its slope dx/dy, whether it is a mast."""
    rng = np.random.default_rng(index)
    width, height = SIZE
    degrees = (5 + 40 * (index // 2) / 9) * (1 if index % 4 < 2 else -1)
    slope = np.tan(np.deg2rad(degrees))
    mast = index % 2 == 0
    y, x = np.mgrid[0:height, 0:width] + 0.5
    meets = width / 2 + slope * DEPTH / 2
    off = (x - meets - slope * (DEPTH - y)) * np.cos(np.deg2rad(degrees))
    if mast:
        wide = 6 + index % 9
        share = np.clip(wide / 2 - np.abs(off) + 0.5, 0, 1)
        grey = surface(rng, 190, 3, 4) * (1 - share) + surface(rng, 60, 4, 4) * share
    else:
        share = np.clip(off + 0.5, 0, 1)
        grey = surface(rng, 150, 10, 6) * (1 - share) + surface(rng, 80, 8, 6) * share
    picture = np.repeat(np.clip(grey, 0, 255)[..., None], 3, axis=2).astype(np.uint8)
    hole = np.zeros((height, width), bool)
    hole[:DEPTH] = True
    return picture, hole, meets, slope, mast


def found_again(made: np.ndarray, meets: float, slope: float, mast: bool) -> tuple[float, float]:
    """Mean distance in pixels from the true line, and the angle to it in degrees."""
    grey = cv2.GaussianBlur(made[..., 0].astype(np.float32), (0, 0), 1.0)
    rows, places = np.arange(DEPTH - LONG, DEPTH), []
    for row in rows:
        true = meets + slope * (DEPTH - row - 0.5)
        first = max(0, int(true) - 25)
        profile = grey[row, first : int(true) + 26]
        if mast:
            dark = np.clip((np.percentile(profile, 80) - profile) - 40, 0, None)
            place = (
                (dark * np.arange(len(profile))).sum() / max(dark.sum(), 1e-6) if dark.sum() > 0 else np.nan
            )
        else:
            # The place that parts the row best into a bright left and a dark right side.
            left = np.cumsum(profile - profile.mean())
            place = float(np.argmax(left)) + 0.5
        places.append(first + place + 0.5)
    found = np.array(places)
    good = np.isfinite(found)
    if good.sum() < LONG / 2:
        return 25.0, 45.0
    true = meets + slope * (DEPTH - rows - 0.5)
    lean = np.cos(np.arctan(slope))
    fitted = np.polyfit(DEPTH - rows[good] - 0.5, found[good], 1)[0]
    angle = abs(np.rad2deg(np.arctan(fitted) - np.arctan(slope)))
    return float(np.abs(found[good] - true[good]).mean() * lean), float(angle)


def main() -> None:
    """Print all twenty and their mean."""
    results = []
    for index in range(20):
        picture, hole, meets, slope, mast = crossing(index)
        covered = picture.copy()
        covered[hole] = 0
        made = fill(covered, hole)
        pixels, angle = found_again(made, meets, slope, mast)
        itself = found_again(picture, meets, slope, mast)
        results.append((pixels, angle))
        what = "mast" if mast else "eave"
        print(
            f"{what} at {np.rad2deg(np.arctan(slope)):+.0f} degrees: {pixels:.2f} px, {angle:.2f} degrees "
            f"off (the truth, measured alike: {itself[0]:.2f} px, {itself[1]:.2f})"
        )
    pixels, angle = np.array(results).T
    print(f"mean of 20: {pixels.mean():.2f} px, {angle.mean():.2f} degrees; worst {pixels.max():.2f} px")


if __name__ == "__main__":
    main()
