"""Reshape on real photographs: how straight, how far turned, how much stretched, how long.

    benchmarks/fill-photographs FOLDER
    PYTHONPATH=src .venv/bin/python -m benchmarks.reshape quality FOLDER [DEGREES] [SHEET.jpg]
    PYTHONPATH=src .venv/bin/python -m benchmarks.reshape speed

Each photograph is thought to be tilted by 3 degrees. Marked are the three longest straight things that lie
apart, not on the border, the longest the strongest; whatever else is found follows as it can. Angles and
bends are those of 50 points along each marked line; ``middle`` is the mean turn of the inner half of the
picture's width and height; ``stretch`` the greatest ratio of the singular values in any cell of the fine
lattice.

``speed`` compares a 24-megapixel export through the mesh with OpenCV's remap, Lanczos over 8 x 8 pixels, with
the whole map ready, and the sparse solve with numpy's dense least squares of the same rows.
"""

from __future__ import annotations

import sys
import tempfile
import time
from pathlib import Path

import cv2
import numpy as np
from PIL import Image

from sequor.core.camera import Attitude, intrinsics
from sequor.core.look.segments import find_segments
from sequor.core.raster.resample import resample
from sequor.core.warp.base import Warp
from sequor.core.warp.homography import warp_of
from sequor.core.warp.reshape import Marked, Mesh, Problem, Reshaped, reshape

from .photo import make
from .timing import best

APART = 0.2
INSIDE = 0.04


def marks(segments: np.ndarray, width: int, height: int) -> list[np.ndarray]:
    """The three longest that lie apart and well inside."""
    found: list[np.ndarray] = []
    for ends in segments:
        inside = np.minimum(ends, [width, height] - ends).min(axis=1).max()
        apart = all(np.linalg.norm(ends.mean(0) - one.mean(0)) > APART * max(width, height) for one in found)
        if apart and inside > INSIDE * min(width, height):
            found.append(ends)
        if len(found) == 3:
            break
    return found


def turned(width: int, height: int, degrees: float) -> Warp:
    """The plain correction."""
    return warp_of(intrinsics(width, height), Attitude(roll=degrees), Attitude())


def angle(points: np.ndarray) -> float:
    x, y = points[-1] - points[0]
    return float(np.rad2deg(np.arctan2(y, x)))


def bend(points: np.ndarray) -> float:
    x, y = (points[-1] - points[0]) / np.linalg.norm(points[-1] - points[0])
    return float(np.abs((points - points[0]) @ [-y, x]).max())


def folded(degrees: float) -> float:
    return abs((degrees + 90) % 180 - 90)


def middle(made: Warp, width: int, height: int) -> float:
    """The mean turn of the inner half, in degrees."""
    u, v = np.meshgrid(np.linspace(0.25, 0.75, 9) * width, np.linspace(0.25, 0.75, 9) * height)
    points = np.column_stack([u.ravel(), v.ravel()])
    along = made.to_corrected(points + [1, 0]) - made.to_corrected(points)
    down = made.to_corrected(points + [0, 1]) - made.to_corrected(points)
    return float(np.abs(np.rad2deg(np.arctan2(along[:, 1] - down[:, 0], along[:, 0] + down[:, 1])).mean()))


def quality(folder: Path, degrees: float, sheet: Path | None) -> None:
    print(f"{'photograph':18} strongest  others  bend px  middle  stretch  folds  solve s")
    rows, pictures = [], []
    for file in sorted(folder.iterdir()):
        picture = np.asarray(Image.open(file).convert("RGB"))
        height, width = picture.shape[:2]
        segments = find_segments(picture)
        plain, lines = turned(width, height, degrees), marks(segments, width, height)
        marked = [Marked(ends, 2.0 if index == 0 else 1.0) for index, ends in enumerate(lines)]
        begun = time.perf_counter()
        made = reshape(plain, marked, segments)
        took = time.perf_counter() - begun
        points = [ends[0] + np.linspace(0, 1, 50)[:, None] * (ends[1] - ends[0]) for ends in lines]
        carried = [(made.warp.to_corrected(one), plain.to_corrected(one)) for one in points]
        off = [folded(angle(one) - angle(other)) for one, other in carried]
        bends = max(bend(one) for one, _ in carried)
        turn = middle(made.warp, width, height)
        rows.append((off[0], max(off[1:]), bends, turn, made.greatest, folds(made), took))
        print(words(file.stem[:18], rows[-1]))
        pictures.append((picture, resample(picture, made.warp, 0, 0, width, height)))
    most, least = np.max(rows, axis=0), np.min(rows, axis=0)
    print(words("worst", (*most[:3], least[3], *most[4:])))
    if sheet:
        strips = [
            np.hstack([np.asarray(Image.fromarray(one).resize((420, 280))) for one in pair])
            for pair in pictures
        ]
        Image.fromarray(np.vstack(strips)).save(sheet, quality=90)


def words(name: str, row: tuple[float, ...]) -> str:
    strongest, others, bends, turn, stretch, folds_, took = row
    return (
        f"{name:18} {strongest:9.3f} {others:7.3f} {bends:8.2f} {turn:7.2f} {stretch:8.3f} "
        f"{int(folds_):6d} {took:8.2f}"
    )


def folds(made: Reshaped) -> int:
    assert made.warp.lattice is not None
    return int(made.warp.lattice.folds)


def speed() -> None:
    with tempfile.TemporaryDirectory() as folder:
        picture = np.asarray(Image.open(make(Path(folder))).convert("RGB"))
    height, width = picture.shape[:2]
    segments = find_segments(picture)
    marked = [Marked(ends) for ends in marks(segments, width, height)]
    made = reshape(turned(width, height, 3.0), marked, segments).warp
    resample(picture[:64, :64], turned(64, 64, 1.0), 0, 0, 64, 64)
    v, u = np.mgrid[0:height, 0:width].astype(np.float32) + np.float32(0.5)
    rows = [made.to_photo(np.column_stack([u[at], v[at]]).astype(np.float64)) for at in range(height)]
    source = np.stack(rows).astype(np.float32) - np.float32(0.5)
    across, down = np.ascontiguousarray(source[..., 0]), np.ascontiguousarray(source[..., 1])
    del u, v, rows, source

    def remap() -> None:
        cv2.remap(picture, across, down, cv2.INTER_LANCZOS4, None, cv2.BORDER_REPLICATE)

    ours = best(lambda: resample(picture, made, 0, 0, width, height))
    theirs = best(remap)
    plain = best(lambda: resample(picture, turned(width, height, 3.0), 0, 0, width, height))
    print(
        f"24 MP through the mesh {ours:.2f} s, through the plain map {plain:.2f} s, cv2.remap {theirs:.2f} s:"
        f" {ours / theirs:.2f} times OpenCV's"
    )
    mesh = Mesh.over(turned(width, height, 3.0))
    problem, shares = Problem(mesh, marked, segments), np.ones(mesh.count)
    matrix = np.vstack([problem.shapes.toarray(), problem.rest.toarray()])
    right = np.zeros(len(matrix))
    sparse, dense = (
        best(lambda: problem.solve(shares)),
        best(lambda: np.linalg.lstsq(matrix, right, rcond=None)),
    )
    whole = best(lambda: reshape(turned(width, height, 3.0), marked, segments))
    print(
        f"one solve {1000 * sparse:.0f} ms, dense {1000 * dense:.0f} ms: {sparse / dense:.3f} of numpy's; "
        f"all rounds and the lattice {whole:.2f} s"
    )


if __name__ == "__main__":
    if sys.argv[1] == "quality":
        more = sys.argv[3:]
        numbers = [float(one) for one in more if not one.endswith("jpg")]
        sheets = [Path(one) for one in more if one.endswith("jpg")]
        quality(Path(sys.argv[2]), numbers[0] if numbers else 3.0, sheets[0] if sheets else None)
    else:
        speed()
