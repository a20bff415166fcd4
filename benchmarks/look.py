"""How well Sequor sees by itself how a camera was held: the demo scenes and conjugate views of them.

    PYTHONPATH=src:.:tests .venv/bin/python -m benchmarks.look

A conjugate view is the same picture as a camera in the same place would have taken it, held otherwise: truth
is known (R. Hartley, A. Zisserman, *Multiple View Geometry*, 2nd ed., 8.4). Focal length and lens known, and
not."""

from __future__ import annotations

import resource
import sys
import time

import cv2
import numpy as np
from scenes import SCENES, scene

from sequor.core.camera import Array, Attitude
from sequor.core.raster.pixels import Picture
from sequor.operations.looking import look_at, taken
from sequor.pipeline.evaluated import evaluate
from sequor.recipe.model import Recipe
from sequor.recipe.parse import build

VIEWS = ((0.0, 0.0), (3.5, 0.0), (-5.0, 4.0), (1.5, -6.0))
"""By how much a view is tilted and aimed otherwise, in degrees; the first is the photo itself."""


def view(picture: Picture, name: str, roll: float, pitch: float) -> tuple[Picture, Attitude]:
    """A scene as another camera sees it, its bending taken out, and how that one is held."""
    one = scene(name)
    truth = Attitude(one.truth["roll_deg"], one.truth["pitch_deg"], one.truth["yaw_deg"])
    held = Attitude(truth.roll + roll, truth.pitch + pitch, truth.yaw)
    width, height = one.size
    x, y = np.meshgrid(np.arange(width) + 0.5, np.arange(height) + 0.5)
    rays = np.linalg.inv(one.camera.matrix) @ np.stack([x.ravel(), y.ravel(), np.ones(x.size)])
    seen = one.camera.matrix @ (truth.rotation().T @ held.rotation()) @ rays
    ideal = (seen[:2] / seen[2]).T
    at: Array = one.lens.distorted(ideal).reshape(height, width, 2).astype(np.float32) - np.float32(0.5)
    seen_there = cv2.remap(picture, at[..., 0], at[..., 1], cv2.INTER_CUBIC, borderMode=cv2.BORDER_CONSTANT)
    inside = np.all((at > 0) & (at < [width - 1, height - 1]), axis=2)
    # The largest frame about the middle that the photo fills: what is empty beside it has edges of its own.
    share = next(s for s in np.arange(1.0, 0.3, -0.01) if inside[_middle(s, inside.shape)].all())
    return np.ascontiguousarray(seen_there[_middle(share, inside.shape)]), held


def _middle(share: float, shape: tuple[int, ...]) -> tuple[slice, slice]:
    rows, columns = int(shape[0] * share / 2) * 2, int(shape[1] * share / 2) * 2
    top, left = (shape[0] - rows) // 2, (shape[1] - columns) // 2
    return slice(top, top + rows), slice(left, left + columns)


def posed(name: str, roll: float, pitch: float, known: bool) -> tuple[Picture, Recipe, Attitude]:
    """A view of a scene with its first recipe, its focal length ``known`` or not, and how it is held."""
    one = scene(name)
    plain = (roll, pitch) == VIEWS[0]
    truth = Attitude(one.truth["roll_deg"], one.truth["pitch_deg"], one.truth["yaw_deg"])
    picture, held = (one.picture, truth) if plain else view(one.picture, name, roll, pitch)
    bent = one.truth["distortion"]["k1"] if plain else 0.0
    document = {
        "format": "sequor-recipe",
        "version": 1,
        "photo": {
            "width": picture.shape[1],
            "height": picture.shape[0],
            "focal_35mm": None,
            "focal_px": one.truth["f_px"] if known else None,
        },
        "lens": {"source": "manual", "k1": bent} if bent else {"source": "none"},
    }
    return picture, build(document), held


def main() -> None:
    """Print a row for each view, and the 90th percentiles."""
    off: dict[str, list[float]] = {"roll": [], "pitch": [], "roll, focal length unknown": []}
    spent, answered, asked = [], 0, 0
    for name in SCENES:
        for roll, pitch in VIEWS:
            for known in (True, False):
                picture, recipe, held = posed(name, roll, pitch, known)
                begun = time.process_time()
                seen = look_at(picture, recipe)
                spent.append(time.process_time() - begun)
                asked += known
                if seen.cannot_tell or seen.tilt is None:
                    print(f"{name:11} {roll:+.1f} {pitch:+.1f} known {known}: {seen.cannot_tell}")
                    continue
                answered += known
                found = evaluate(taken(recipe, seen.references, "walls" if known else "tilt"))
                attitude = found.solution.attitude
                errors = attitude.roll - held.roll, attitude.pitch - held.pitch
                off["roll" if known else "roll, focal length unknown"].append(abs(errors[0]))
                if known:
                    off["pitch"].append(abs(errors[1]))
                    sure = seen.aim.confidence if seen.aim else 0.0
                    print(
                        f"{name:11} {roll:+.1f} {pitch:+.1f}: "
                        f"roll {errors[0]:+.3f} ({seen.tilt.confidence:.2f}), "
                        f"pitch {errors[1]:+.3f} ({sure:.2f}), {len(seen.references)} lines"
                    )
    print(f"answered {answered} of {asked}")
    for what, values in off.items():
        middle, most = np.percentile(values, [50, 90])
        print(f"{what}: median {middle:.3f}, 90 % within {most:.3f}, worst {max(values):.3f} degrees")
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    print(f"CPU median {np.median(spent):.2f} s; peak {peak:.0f} MB")


if __name__ == "__main__":
    sys.exit(main())
