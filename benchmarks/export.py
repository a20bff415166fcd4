"""Export of a 24-megapixel JPEG against the plain chain decode, cv2.warpPerspective, encode, in the same run.

    .venv/bin/python -m benchmarks.export

Each repetition is a process of its own, so that the peak memory is its own. The plain chain uses
OpenCV's kernel of the same class (Lanczos, 8 taps) and, for comparison, its cubic one (4 taps).
"""

from __future__ import annotations

import multiprocessing
import statistics
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import cv2
import numpy as np

from benchmarks.photo import make, recipe
from sequor.operations.exporting import export
from sequor.pipeline.evaluated import evaluate
from sequor.recipe.parse import build

REPEATS = 5
SHIFT = np.array([[1, 0, -0.5], [0, 1, -0.5], [0, 0, 1]])


def ours(photo: Path, out: Path) -> None:
    """The export as the application does it, metadata included."""
    export(photo, build(recipe()), out, lambda share, words: None)


def chain(photo: Path, out: Path, kernel: int) -> None:
    """The same frame by OpenCV alone; no metadata, no colour profile."""
    evaluation = evaluate(build(recipe()))
    frame = evaluation.frame
    matrix = SHIFT @ [[1, 0, -frame.x], [0, 1, -frame.y], [0, 0, 1]] @ evaluation.warp.homography
    picture = cv2.imread(str(photo))
    size = (round(frame.width), round(frame.height))
    warped = cv2.warpPerspective(picture, matrix @ np.linalg.inv(SHIFT), size, flags=kernel)
    full_colour = [cv2.IMWRITE_JPEG_SAMPLING_FACTOR, cv2.IMWRITE_JPEG_SAMPLING_FACTOR_444]
    cv2.imwrite(str(out), warped, [cv2.IMWRITE_JPEG_QUALITY, 95, *full_colour])


def plain_lanczos(photo: Path, out: Path) -> None:
    """OpenCV's INTER_LANCZOS4."""
    chain(photo, out, cv2.INTER_LANCZOS4)


def plain_cubic(photo: Path, out: Path) -> None:
    """OpenCV's INTER_CUBIC."""
    chain(photo, out, cv2.INTER_CUBIC)


def timed(work: Callable[[Path, Path], None], photo: Path, out: Path, results: object) -> None:
    """Seconds and peak memory in MB of one run, the second in a process (the first loads and compiles)."""
    work(photo, out)
    begun = time.perf_counter()
    work(photo, out)
    seconds = time.perf_counter() - begun
    status = Path("/proc/self/status").read_text()
    peak = int(status.split("VmHWM:")[1].split()[0]) / 1024
    results.put((seconds, peak))  # type: ignore[attr-defined]


def main() -> None:
    """Print the medians and the ratios."""
    context = multiprocessing.get_context("spawn")
    results = context.Queue()
    seconds: dict[str, list[float]] = {}
    peaks: dict[str, list[float]] = {}
    with tempfile.TemporaryDirectory() as name:
        photo = make(Path(name))
        for _ in range(REPEATS):
            for work in (ours, plain_lanczos, plain_cubic):
                process = context.Process(target=timed, args=(work, photo, Path(name) / "out.jpg", results))
                process.start()
                taken, peak = results.get()
                process.join()
                seconds.setdefault(work.__name__, []).append(taken)
                peaks.setdefault(work.__name__, []).append(peak)
    for label, values in seconds.items():
        print(f"{label:14} median {statistics.median(values):.2f} s, peak {max(peaks[label]):.0f} MB")
    for label in ("plain_lanczos", "plain_cubic"):
        ratios = [a / b for a, b in zip(seconds["ours"], seconds[label], strict=True)]
        print(f"ours / {label}: {statistics.median(ratios):.2f}")


if __name__ == "__main__":
    sys.exit(main())
