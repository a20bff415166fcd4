"""The fill on photographs that it was never tuned on: corners, a side, and boxes over structure.

    benchmarks/fill-unseen-photographs FOLDER
    PYTHONPATH=src .venv/bin/python -m benchmarks.fill_unseen FOLDER [corners] [side] [boxes] [--tuning]
        [--ours] [--crops FOLDER]

The first brings together landscapes and buildings from Debian's packages (fill_unseen.json: those that are
held back, and others that may be tuned on, ``--tuning``), each brought to 1,280 pixels at most. ``corners``:
what a frame of the photo's own size leaves empty when it is turned by 6 degrees; ``side``: a tenth of the
width on the right or the left; ``boxes``: squares of 3 percent of the picture where it has most structure
that goes on around, up to three a photo. All is hidden, filled and compared with the truth, as
benchmarks/fill.py says; besides

- streaks: the gradients' anisotropy (mean across : mean down) of what was filled to that of what lies beside
  it, as wide as it;
- block: the tallest piece that was copied as it stands, to the filled height;
- phase: where what lies around a box repeats itself, by how many pixels the filled one is out of step.

OpenCV's Navier-Stokes and scikit-image's biharmonic inpainting do the same in the same run; ``--ours``
leaves them out.
"""

from __future__ import annotations

import argparse
import json
from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np
from PIL import Image

from benchmarks.fill import METHODS, Picture, hidden, judged, words
from sequor.core.fill.patchmatch import Completion

LIST = Path(__file__).with_name("fill_unseen.json")
LARGEST = 1280
BOX_SHARE = 0.03
BOXES = 3
REPEATS = 0.5
"""Autocorrelation from which what lies around a box counts as repeating itself."""
SHORTEST_PERIOD = 6


@dataclass(frozen=True)
class Task:
    """A part of a photo that is hidden."""

    name: str
    truth: Picture
    hole: np.ndarray


def photographs(folder: Path, tuning: bool) -> list[tuple[str, Picture]]:
    """Those that are held back, or those that may be tuned on, by name."""
    found = []
    for one in json.loads(LIST.read_text()):
        if one["tuning"] == tuning:
            with Image.open(folder / f"{one['name']}.png") as file:
                found.append((one["name"], np.asarray(file.convert("RGB"))))
    return found


def corners(name: str, picture: Picture, number: int) -> list[Task]:
    """The corners of a photo."""
    del number
    return [Task(name, picture, hidden(picture.shape[1], picture.shape[0], 6))]


def side(name: str, picture: Picture, number: int) -> list[Task]:
    """A tenth of the width, on the right of every other photo, on the left of the others."""
    hole = np.zeros(picture.shape[:2], np.bool_)
    wide = picture.shape[1] // 10
    hole[:, picture.shape[1] - wide if number % 2 else 0 :][:, :wide] = True
    return [Task(name, picture, hole)]


def boxes(name: str, picture: Picture, number: int) -> list[Task]:
    """Squares over the strongest structure, not over each other."""
    del number
    height, width = picture.shape[:2]
    size = round((BOX_SHARE * height * width) ** 0.5)
    grey = cv2.GaussianBlur(picture.astype(np.float32).mean(axis=2), (0, 0), 1.5)
    slopes = np.hypot(cv2.Sobel(grey, cv2.CV_32F, 1, 0), cv2.Sobel(grey, cv2.CV_32F, 0, 1))
    strength = cv2.blur(np.minimum(slopes, np.percentile(slopes, 95)), (size, size))
    # Structure that goes on around it: what is there once is nobody's to guess.
    margin, around = 3 * size // 2, np.roll
    strength = np.minimum.reduce(
        [strength, *(around(strength, way * size, axis) for axis in (0, 1) for way in (1, -1))]
    )
    allowed = np.zeros((height, width), np.bool_)
    allowed[margin : height - margin, margin : width - margin] = True
    found = []
    for count in range(BOXES):
        row, column = np.unravel_index(np.argmax(np.where(allowed, strength, -1)), allowed.shape)
        if not allowed[row, column]:
            break
        top, left = int(row) - size // 2, int(column) - size // 2
        hole = np.zeros((height, width), np.bool_)
        hole[top : top + size, left : left + size] = True
        found.append(Task(f"{name} {count + 1}", picture, hole))
        apart = 3 * size // 2
        allowed[max(0, row - apart) : row + apart, max(0, column - apart) : column + apart] = False
    return found


PARTS = {"corners": corners, "side": side, "boxes": boxes}


def ours(task: Task) -> tuple[Picture, float]:
    """The photo filled, and the tallest piece that was copied as it stands, to the hole's height."""
    covered = task.truth.copy()
    covered[task.hole] = 0
    whole = Completion.of(covered, task.hole)
    covered[whole.at] = whole.take(1)
    level = whole.levels[-1]
    ways = np.zeros((*task.hole.shape, 2), np.int32)
    ways[level.rows, level.columns, 0] = level.from_row - level.rows
    ways[level.rows, level.columns, 1] = level.from_column - level.columns
    inside = task.hole & (level.number >= 0)
    tallest = 0
    # Pieces of one shift: pixels are linked to the next where both come from equally far.
    _, names = np.unique(ways[inside].reshape(-1, 2), axis=0, return_inverse=True)
    of = np.full(task.hole.shape, -1)
    of[inside] = names.reshape(-1)
    counts = np.bincount(of[inside])
    for name in np.argsort(-counts)[:40]:
        _, _, stats, _ = cv2.connectedComponentsWithStats((of == name).astype(np.uint8), connectivity=8)
        tallest = max(tallest, *(int(one[cv2.CC_STAT_HEIGHT]) for one in stats[1:]))
    return covered, tallest / int(np.ptp(np.nonzero(task.hole.any(axis=1))[0]) + 1)


def streaks(made: Picture, hole: np.ndarray) -> float:
    """The anisotropy of what was filled to that of what lies beside it."""
    wide = int(hole.any(axis=0).sum())
    right = bool(hole[:, -1].any())
    first, beside = (
        (np.s_[:, -wide:], np.s_[:, -2 * wide : -wide])
        if right
        else (np.s_[:, :wide], np.s_[:, wide : 2 * wide])
    )

    def of(part: Picture) -> float:
        grey = cv2.GaussianBlur(part.astype(np.float32).mean(axis=2), (0, 0), 1)
        return float(np.abs(np.diff(grey, axis=1)).mean() / max(np.abs(np.diff(grey, axis=0)).mean(), 1e-6))

    return of(made[first]) / of(made[beside])


def period_of(around: np.ndarray) -> tuple[int, float]:
    """How far apart what repeats along the rows of (h, w) lies, and how alike it is."""
    rows = around - cv2.blur(around, (4 * SHORTEST_PERIOD + 1, 1))
    rows = rows - rows.mean(axis=1, keepdims=True)
    spectrum = np.abs(np.fft.rfft(rows, 2 * rows.shape[1], axis=1)) ** 2
    raw = np.fft.irfft(spectrum.sum(axis=0))[: rows.shape[1] // 2]
    like = raw / np.maximum(raw[0] * (1 - np.arange(len(raw)) / rows.shape[1]), 1e-9)
    below = int(np.argmax(like < 0.2)) if (like < 0.2).any() else len(like)
    start = max(below, SHORTEST_PERIOD)
    if start >= len(like):
        return 0, 0.0
    best = start + int(np.argmax(like[start:]))
    return best, float(like[best])


def phase(made: Picture, task: Task) -> float | None:
    """By how many pixels what was filled is out of step, where what lies around repeats itself."""
    rows, columns = (np.nonzero(task.hole.any(axis=axis))[0] for axis in (1, 0))
    top, bottom, left, right = rows[0], rows[-1] + 1, columns[0], columns[-1] + 1
    size = bottom - top
    grey, told = (one.astype(np.float32).mean(axis=2) for one in (task.truth, made))
    worst = None
    for turned in (False, True):
        a, b = (grey.T, told.T) if turned else (grey, told)
        (t, u), (v, w) = ((left, right), (top, bottom)) if turned else ((top, bottom), (left, right))
        around = a[t:u, max(0, v - size) : w + size]
        lag, alike = period_of(around)
        if alike < REPEATS or lag < SHORTEST_PERIOD or lag > size:
            continue
        one, other = a[t:u, v:w], b[t:u, v:w]
        one, other = (x - x.mean(axis=1, keepdims=True) for x in (one, other))
        half = max(lag // 2, 2)
        scores = []
        for shift in range(-half, half + 1):
            x = one[:, max(0, shift) : size + min(0, shift)]
            y = other[:, max(0, -shift) : size - max(0, shift)]
            scores.append(float((x * y).mean() / (x.std() * y.std() + 1e-9)))
        off = abs(int(np.argmax(scores)) - half)
        worst = off if worst is None else max(worst, off)
    return worst


def run(part: str, photos: list[tuple[str, Picture]], only_ours: bool, crops: Path | None) -> None:
    """Print all figures of a part, photo by photo, and their means."""
    results: dict[str, list[dict[str, float]]] = {name: [] for name in METHODS}
    out_of_step = []
    for number, (photo, picture) in enumerate(photos):
        for task in PARTS[part](photo, picture, number):
            covered = task.truth.copy()
            covered[task.hole] = 0
            made, block = ours(task)
            found = judged(made, task.truth, task.hole)
            if part == "side":
                found |= {
                    "streaks": streaks(made, task.hole),
                    "of the truth": streaks(task.truth, task.hole),
                    "block": block,
                }
            results["ours"].append(found)
            told = f"{part}, {task.name}: {words(found)}"
            if part == "boxes":
                off = phase(made, task)
                if off is not None:
                    out_of_step.append(off)
                    told += f", phase {off}"
            print(told, flush=True)
            if crops is not None:
                Image.fromarray(made).save(crops / f"{part} {task.name}.png")
            for name, method in METHODS.items():
                if name != "ours" and not only_ours:
                    results[name].append(judged(method(covered, task.hole), task.truth, task.hole))
    for name, all_ in results.items():
        if all_:
            mean = {key: float(np.mean([one[key] for one in all_])) for key in all_[0]}
            print(f"{part}, mean of {len(all_)}, {name}: {words(mean)}")
    if out_of_step:
        inside = sum(one <= 1 for one in out_of_step)
        print(f"{part}: {inside} of {len(out_of_step)} that repeat are within a pixel")


def main() -> None:
    """All parts that are asked for, or all."""
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("folder", type=Path)
    parser.add_argument("parts", nargs="*", choices=[*PARTS, []])
    parser.add_argument("--tuning", action="store_true")
    parser.add_argument("--ours", action="store_true")
    parser.add_argument("--crops", type=Path)
    options = parser.parse_args()
    photos = photographs(options.folder, options.tuning)
    for part in options.parts or PARTS:
        run(part, photos, options.ours, options.crops)


if __name__ == "__main__":
    main()
