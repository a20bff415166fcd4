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
from imagecodecs import jpeg8_decode, jpeg8_encode

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
    picture = jpeg8_decode(photo.read_bytes())
    size = (round(frame.width), round(frame.height))
    warped = cv2.warpPerspective(picture, matrix @ np.linalg.inv(SHIFT), size, flags=kernel)
    out.write_bytes(jpeg8_encode(warped, level=95, subsampling="444"))


def plain_lanczos(photo: Path, out: Path) -> None:
    """OpenCV's INTER_LANCZOS4."""
    chain(photo, out, cv2.INTER_LANCZOS4)


def plain_cubic(photo: Path, out: Path) -> None:
    """OpenCV's INTER_CUBIC."""
    chain(photo, out, cv2.INTER_CUBIC)


def timed(work: Callable[[Path, Path], None], photo: Path, out: Path, results: object) -> None:
    """Seconds, CPU seconds and peak memory in MB of the second run in a process: the first loads and
    compiles."""
    work(photo, out)
    begun, spent = time.perf_counter(), time.process_time()
    work(photo, out)
    seconds, cpu = time.perf_counter() - begun, time.process_time() - spent
    status = Path("/proc/self/status").read_text()
    peak = int(status.split("VmHWM:")[1].split()[0]) / 1024
    results.put((seconds, cpu, peak))  # type: ignore[attr-defined]


def main() -> None:
    """Print the medians and the ratios."""
    context = multiprocessing.get_context("spawn")
    results = context.Queue()
    told: dict[str, list[tuple[float, float, float]]] = {}
    with tempfile.TemporaryDirectory() as name:
        photo = make(Path(name))
        for _ in range(REPEATS):
            for work in (ours, plain_lanczos, plain_cubic):
                process = context.Process(target=timed, args=(work, photo, Path(name) / "out.jpg", results))
                process.start()
                told.setdefault(work.__name__, []).append(results.get())
                process.join()
    for label, values in told.items():
        seconds, cpu, peak = (statistics.median(column) for column in zip(*values, strict=True))
        print(f"{label:14} median {seconds:.2f} s, CPU {cpu:.2f} s, peak {peak:.0f} MB")
    for label in ("plain_lanczos", "plain_cubic"):
        for at, what in ((0, "time"), (1, "CPU")):
            ratios = [a[at] / b[at] for a, b in zip(told["ours"], told[label], strict=True)]
            print(f"ours / {label}, {what}: {statistics.median(ratios):.2f}")
    print(f"ours, CPU / time: {statistics.median(cpu / seconds for seconds, cpu, _ in told['ours']):.2f}")


if __name__ == "__main__":
    sys.exit(main())
