"""How far a look at real photographs tells the truth, and whether it is as sure as it should be.

    benchmarks/look-photographs FOLDER
    PYTHONPATH=src:.:tests .venv/bin/python -m benchmarks.look_photographs FOLDER [--fit] [--curve SVG]

``look-photographs.json`` names the photographs, with lines laid by hand along what is upright or far and
level, and says which have nothing to go by. Each is looked at as it is and turned; nothing is known of its
lens. Of every kind one half tunes, the other half is told apart. ``--fit`` prints the weights that
core/look/confidence.py holds, from the half that tunes and from the demo scenes' views."""

from __future__ import annotations

import argparse
import itertools
import json
import sys
from collections.abc import Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from scenes import SCENES
from scipy.optimize import least_squares
from sklearn.linear_model import LogisticRegression
from sklearn.preprocessing import StandardScaler

from benchmarks.look import VIEWS, posed
from sequor.core.camera import Array
from sequor.core.look.confidence import TILT, parts_of
from sequor.core.look.posterior import nadir
from sequor.core.raster.pixels import Picture
from sequor.operations.looking import look_at, seen_in, taken
from sequor.pipeline.evaluated import evaluate
from sequor.recipe.first import first_recipe

LIST = Path(__file__).with_name("look-photographs.json")
TURNS, TURNS_WITHOUT = (0.0, 3.0, -4.5, 7.0), (0.0, 3.0)
SIDE = 1600
RIGHT_DEG = 0.5
WATER_FROM = (0.3, 0.5)
"""Of the width of the scene by the shore: what lies right of it has no walls."""
STIFFNESS = 0.3
"""Of the regression: how far its weights may go (C of scikit-learn)."""
BINS = (0.0, 0.1, 0.3, 0.5, 0.75, 0.9, 1.0)


@dataclass(frozen=True)
class Answer:
    """What a look at one view of a photograph said: the tilt in degrees, by how much that is off (None: there
    is no truth), how sure it was, whether it answered, and what the evidence is made of."""

    photograph: dict[str, Any]
    turn: float
    tilt: float
    off: float | None
    sure: float
    answered: bool
    parts: Array | None

    @property
    def right(self) -> bool:
        """Whether the tilt is right within half a degree."""
        return self.off is not None and abs(self.off) <= RIGHT_DEG


def laid(lines: Sequence[dict[str, Any]], width: int, height: int) -> float:
    """The roll in degrees that lines laid by hand tell: upright ones point at the nadir, far level ones lie
    at right angles to the way there. The focal length is not known: pitch is let go where it likes."""
    middle, unit = np.array([width, height]) / 2, max(width, height)

    def off(angles: Array) -> Array:
        down = nadir(angles[0], angles[1])
        said = []
        for line in lines:
            ends = (np.reshape(line["points"], (2, 2)) - middle) / unit
            way = ends[1] - ends[0]
            length = float(np.linalg.norm(way))
            if line["kind"] == "level":
                towards, sd = np.array([down[1], -down[0]]), 0.1
            else:
                towards, sd = down[:2] - down[2] * ends.mean(axis=0), max(0.12, np.degrees(0.0007 / length))
            sine = (towards[0] * way[1] - towards[1] * way[0]) / (np.linalg.norm(towards) * length)
            said.append(np.degrees(np.arcsin(sine)) / sd)
        return np.array([*said, angles[0] / 10, angles[1] / 15])

    return float(least_squares(off, [0.0, 0.0], loss="cauchy", f_scale=1.5).x[0])


def turned(picture: Picture, degrees: float) -> Picture:
    """A picture as a camera that is rolled by so much more has it: the largest part that the photo fills."""
    scale = min(1.0, SIDE / max(picture.shape[:2]))
    if degrees == 0:
        return picture
    small = cv2.resize(picture, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)
    height, width = small.shape[:2]
    turn = cv2.getRotationMatrix2D((width / 2, height / 2), degrees, 1)
    whole = cv2.warpAffine(small, turn, (width, height), flags=cv2.INTER_CUBIC)
    cosine, sine = np.cos(np.radians(abs(degrees))), np.sin(np.radians(abs(degrees)))
    share = 0.995 * min(width / (width * cosine + height * sine), height / (width * sine + height * cosine))
    columns, rows = int(width * share / 2) * 2, int(height * share / 2) * 2
    top, left = (height - rows) // 2, (width - columns) // 2
    return np.ascontiguousarray(whole[top : top + rows, left : left + columns])


def answer(photograph: dict[str, Any], turn: float, folder: Path) -> Answer:
    """Look at one view."""
    file = next(folder.glob(photograph["name"] + ".*"))
    whole = cv2.cvtColor(cv2.imread(str(file)), cv2.COLOR_BGR2RGB)
    truth = laid(photograph["lines"], whole.shape[1], whole.shape[0]) if photograph["evidence"] else None
    picture = turned(np.asarray(whole, np.uint8), turn)
    recipe = first_recipe(picture.shape[1], picture.shape[0], "0" * 64, None)
    found, seen = look_at(picture, recipe), seen_in(picture, recipe).seen
    tilt, sure = (found.tilt.deg, found.tilt.confidence) if found.tilt else (0.0, 0.0)
    if found.cannot_tell is None:
        tilt = evaluate(taken(recipe, found.references, "tilt")).solution.attitude.roll
    return Answer(
        photograph=photograph,
        turn=turn,
        tilt=tilt,
        off=None if truth is None or found.tilt is None else tilt - truth - turn,
        sure=sure,
        answered=found.cannot_tell is None,
        parts=None if seen is None else parts_of(seen, seen.roll_sd),
    )


def _judged(photographs: list[dict[str, Any]], folder: Path) -> list[Answer]:
    views = [
        (one, turn)
        for one in photographs
        for turn in (TURNS if one["evidence"] else TURNS_WITHOUT if one["evidence"] is False else TURNS[:1])
    ]
    with ProcessPoolExecutor(2) as pool:
        return list(pool.map(partial(answer, folder=folder), *zip(*views, strict=True), chunksize=4))


def _told(answers: list[Answer]) -> None:
    """Print the shares of answers, and of those that are right."""
    of, without = ([one for one in answers if one.photograph["evidence"] is kind] for kind in (True, False))
    given = [one for one in of if one.answered]
    print(
        f"  with evidence: {len(given)} of {len(of)} views answered ({len(given) / len(of):.0%}), "
        f"{np.mean([one.right for one in given]):.0%} of those within {RIGHT_DEG} degrees; "
        f"median {np.median([abs(one.off or 0) for one in given]):.2f} degrees"
    )
    wrong = [one for one in without if one.answered]
    print(f"  without: {len(wrong)} of {len(without)} views answered ({len(wrong) / len(without):.0%})")


def _bins(answers: list[Answer]) -> Iterator[tuple[float, float, int, float, float]]:
    """Bin by bin: from where to where, how many, how sure they were, how often they were right."""
    sure, right = (np.array([getattr(one, name) for one in answers]) for name in ("sure", "right"))
    for low, high in itertools.pairwise(BINS):
        within = (sure >= low) & ((sure < high) | (high == BINS[-1]))
        if within.any():
            yield low, high, int(within.sum()), float(sure[within].mean()), float(right[within].mean())


def _reliable(answers: list[Answer]) -> None:
    """Print, bin by bin, how sure the looks were and how often they were right."""
    for low, high, count, said, true in _bins(answers):
        print(f"  {low:.2f} to {high:.2f}: {count:3} views, said {said:.2f}, true {true:.2f}")


def _curve(answers: list[Answer]) -> str:
    """How sure the looks were against how often they were right, as an SVG; a dot is as large as its bin."""
    side = 300
    dots = ""
    for _, _, count, said, true in _bins(answers):
        x, y = side * said, side * (1 - true)
        dots += f'<circle cx="{x:.1f}" cy="{y:.1f}" r="{2 + count**0.5:.1f}" fill="#1f6f93"/>'
        dots += f'<text x="{x + 12:.1f}" y="{y + 4:.1f}">{count}</text>'
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="-40 -14 {side + 70} {side + 56}" '
        'font-family="sans-serif" font-size="11">'
        f'<rect x="-40" y="-14" width="{side + 70}" height="{side + 56}" fill="#fff"/>'
        f'<path d="M0 0V{side}H{side}" fill="none" stroke="#333"/>'
        f'<path d="M0 {side}L{side} 0" stroke="#999" stroke-dasharray="4 4"/>{dots}'
        f'<text x="{side - 60}" y="{side + 32}">how sure</text><text x="-34" y="-2">how often right</text>'
        + "".join(
            f'<text x="{side * at - 8:.0f}" y="{side + 15}">{at:.2g}</text>'
            f'<text x="-24" y="{side * (1 - at) + 4:.0f}">{at:.2g}</text>'
            for at in (0.25, 0.5, 0.75, 1.0)
        )
        + "</svg>\n"
    )


def _fitted(answers: list[Answer]) -> None:
    """Print weights for core/look/confidence.py."""
    parts = np.array([one.parts for one in answers])[:, TILT.parts]
    scaled = StandardScaler().fit(parts)
    model = LogisticRegression(C=STIFFNESS, max_iter=2000)
    model.fit(scaled.transform(parts), [one.right for one in answers])
    for name, values in (
        ("mean", scaled.mean_),
        ("spread", scaled.scale_),
        ("weights", model.coef_[0]),
        ("added", model.intercept_),
    ):
        print(f"{name}: ({', '.join(f'{value:.4f}' for value in values)})")


def _of_scenes() -> list[Answer]:
    """The demo scenes' views, their focal lengths known and not, and water and hills alone out of the one by
    the shore."""
    found = []
    for name, (roll, pitch), known in itertools.product(SCENES, VIEWS, (True, False)):
        picture, recipe, held = posed(name, roll, pitch, known)
        seen = [seen_in(picture, recipe).seen]
        if name == "shore" and not known:
            for share in WATER_FROM:
                part = np.ascontiguousarray(picture[:, int(share * picture.shape[1]) :])
                seen.append(seen_in(part, first_recipe(part.shape[1], part.shape[0], "0" * 64, None)).seen)
        for one in seen:
            if one is not None:
                parts = parts_of(one, one.roll_sd)
                found.append(Answer({"name": name}, roll, one.roll, one.roll - held.roll, 0.0, False, parts))
    return found


def main() -> None:
    """Print a row for each photograph, then the shares and the reliability of each half."""
    asked = argparse.ArgumentParser(description=__doc__)
    asked.add_argument("folder", type=Path)
    asked.add_argument("--fit", action="store_true")
    asked.add_argument("--curve", type=Path)
    given = asked.parse_args()
    photographs = json.loads(LIST.read_text())
    answers = _judged(photographs, given.folder)
    for one in answers:
        if one.turn == 0:
            photograph = one.photograph
            about = photograph.get("what") or photograph.get("why") or "nothing to go by"
            truth = "" if one.off is None else f"{one.tilt - one.off:+.2f}"
            told = f"{one.tilt:+.2f}" if one.answered else "-"
            word = ("right" if one.right else "wrong") if one.answered and one.off is not None else ""
            print(f"| {photograph['name']} | {about} | {truth} | {told} | {one.sure:.2f} | {word} |")
    counted = [one for one in answers if one.photograph["evidence"] is not None]
    for half in (True, False):
        print("The half that tunes" if half else "The half that was held back")
        of_half = [one for one in counted if one.photograph["tuned"] is half]
        _told(of_half)
        _reliable(of_half)
    print("All")
    _told(counted)
    _reliable(counted)
    if given.curve:
        given.curve.write_text(_curve(counted))
    if given.fit:
        tuning = [one for one in counted if one.photograph["tuned"] and one.parts is not None]
        _fitted([*tuning, *_of_scenes()])


if __name__ == "__main__":
    sys.exit(main())
