"""A touch-up and a widened frame on a 24-megapixel photograph, and the same painted by the stand-in.

    PYTHONPATH=src .venv/bin/python -m benchmarks.touching

The touch-up is a stroke of 400 x 180 pixels in the middle of the picture, from the decoded photo to its
pixels; OpenCV's Navier-Stokes inpainting fills the same hole in the same window in the same run. The frame is
widened from 3:2 to 16:9, filled at once and in three strips.
"""

from __future__ import annotations

import tempfile
from pathlib import Path

import cv2
import numpy as np
from PIL import Image

from sequor.advice.edges import widened, with_edges
from sequor.launch.painter import STAND_IN, painter_at
from sequor.operations.filling import Corners, Means, empty_area, rendered
from sequor.operations.touching_up import TouchUps
from sequor.painter.client import Painter
from sequor.pipeline.evaluated import evaluate
from sequor.pipeline.new_pixels import in_frame
from sequor.recipe.model import Recipe
from sequor.recipe.parse import build

from .photo import HEIGHT, WIDTH, make
from .timing import best

STROKE = {"id": "t1", "points": [[2900.0, 2000.0], [3120.0, 2000.0]], "radius": 90.0, "feather": 24.0}


def photo(**edges: object) -> Recipe:
    """A recipe of the photograph."""
    document = {"format": "sequor-recipe", "version": 1, "photo": {"width": WIDTH, "height": HEIGHT}}
    return build({**document, "edges": edges})


def touch_up(picture: np.ndarray, painter: Painter | None, **more: object) -> float:
    """How long a touch-up takes."""
    evaluation = evaluate(photo(touch_ups=[{**STROKE, **more}]))
    return best(lambda: TouchUps(picture, evaluation, Means(None, painter)).take(0, 1, lambda share: None))


def navier_stokes(picture: np.ndarray) -> float:
    """How long OpenCV takes for the same hole in the same window."""
    evaluation = evaluate(photo(touch_ups=[STROKE]))
    window = evaluation.placed.window(0)
    assert window is not None
    x, y, width, height = window
    area = in_frame(evaluation.recipe.edges.touch_ups[0], evaluation.frame).moved(-x, -y)
    part = np.ascontiguousarray(picture[y : y + height, x : x + width])
    hole = area.mask(width, height).astype(np.uint8)
    return best(lambda: cv2.inpaint(part, hole, 5, cv2.INPAINT_NS))


def widen(picture: np.ndarray, painter: Painter | None, **edges: object) -> float:
    """How long the new area of a widened frame takes."""
    evaluation = evaluate(with_edges(widened(photo(), "16:9", "both", 0.1).recipe, **edges))
    hole = empty_area(evaluation)

    def work() -> None:
        corners = Corners(picture, evaluation, hole, lambda: rendered(picture, evaluation), painter)
        corners.take(1, lambda share: None)

    return best(work)


def main() -> None:
    """Print all of it."""
    with tempfile.TemporaryDirectory() as folder, painter_at(STAND_IN, Path(folder)) as painter:
        picture = np.asarray(Image.open(make(Path(folder))).convert("RGB"))
        touch_up(picture, None)
        ours, theirs = touch_up(picture, None), navier_stokes(picture)
        print(f"touch-up {ours:.2f} s, {ours / theirs:.1f} x Navier-Stokes ({theirs:.2f} s)")
        print(f"touch-up painted by the stand-in {touch_up(picture, painter, hint='water'):.2f} s")
        at_once, in_strips = widen(picture, None), widen(picture, None, strips=3)
        print(f"16:9 at once {at_once:.1f} s, in three strips {in_strips:.1f} s")
        print(f"16:9 painted by the stand-in {widen(picture, painter, hint='sky'):.1f} s")


if __name__ == "__main__":
    main()
