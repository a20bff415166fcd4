"""New pixels for the empty part of a frame: from patches that still hold, the rest by takes."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

import cv2
import numpy as np
from numpy.typing import NDArray

from sequor.core.fill.parts import EmptyPart, parts
from sequor.core.resample import resample, shown
from sequor.imaging.decode import Picture
from sequor.imaging.patches import read_patch
from sequor.recipe.dependence import made_for
from sequor.recipe.evaluate import Evaluation
from sequor.recipe.model import PatchPart, Recipe
from sequor.recipe.reading import RecipeError

if TYPE_CHECKING:
    from sequor.core.fill.complete import Completion

Mask = NDArray[np.bool_]
Progress = Callable[[float], None]

FindPatch = Callable[[str], Path]
"""The file of a patch by the hash of its content; what it raises says where it should have been."""

EMPTY = (255, 255, 255)
"""What empty area is written as where nothing else is said: bare paper."""


def background(recipe: Recipe, clear: tuple[int, int, int] = EMPTY) -> tuple[int, int, int]:
    """What empty area is rendered as before anything is filled; ``clear``: where it is to be clear."""
    colour = recipe.edges.colour
    if recipe.edges.mode != "leave":
        return EMPTY
    if colour is None:
        return clear
    red, green, blue = (int(colour[at : at + 2], 16) for at in (1, 3, 5))
    return red, green, blue


def rendered(picture: Picture, evaluation: Evaluation, progress: Progress | None = None) -> Picture:
    """The frame of a decoded photo at its own size."""
    frame = evaluation.frame
    size = round(frame.width), round(frame.height)
    return resample(picture, evaluation.mapping, frame.x, frame.y, *size, progress, EMPTY)


def empty_area(evaluation: Evaluation) -> Mask:
    """What of the frame at its own size the photo does not show, (height, width)."""
    frame = evaluation.frame
    return ~shown(evaluation.mapping, frame.x, frame.y, round(frame.width), round(frame.height))


def completion_of(
    picture: Picture, evaluation: Evaluation, hole: Mask, whole: Callable[[], Picture]
) -> Completion:
    """How the hole of a photo's frame is filled: it is begun on the photo reduced, under the same map.

    ``whole`` renders the frame when its turn has come. Raises RecipeError.
    """
    # numba takes half a second to load: the first hole waits for it, not every start.
    from sequor.core.fill.complete import Completion, NothingToCopyError, halvings_of

    halvings = halvings_of(hole)
    try:
        if not halvings:
            return Completion(whole(), hole)
        scale = 0.5**halvings
        size = round(picture.shape[1] * scale), round(picture.shape[0] * scale)
        reduced = np.asarray(cv2.resize(picture, size, interpolation=cv2.INTER_AREA), np.uint8)
        frame, mapping = evaluation.frame, evaluation.mapping.at_scale(scale)
        columns, rows = (-(-side // 2**halvings) for side in (hole.shape[1], hole.shape[0]))
        area = (mapping, frame.x * scale, frame.y * scale, columns, rows)
        return Completion(resample(reduced, *area), ~shown(*area), halvings, lambda: (whole(), hole))
    except NothingToCopyError as error:
        raise RecipeError(str(error), "edges.mode") from None


def fill_frame(
    picture: Picture,
    pixels: Picture,
    hole: Mask,
    evaluation: Evaluation,
    find: FindPatch | None,
    progress: Progress,
) -> int:
    """Fill the hole of a rendered frame of a photo in place; how many stale patches were made anew for it.

    Raises RecipeError for a patch that is not there or does not fit, UnreadablePictureError, and what
    ``find`` raises.
    """
    edges = evaluation.recipe.edges
    chosen = {patch.part: (index, patch) for index, patch in enumerate(edges.patches)}
    now = made_for(evaluation) if chosen else ""
    to_make: dict[int, list[EmptyPart]] = defaultdict(list)
    anew = 0
    for part in parts(hole):
        index, patch = chosen.get(part.name, (0, None))
        if patch is not None and patch.made_for == now:
            _lay(pixels, part, patch, f"edges.patches.{index}", find)
            continue
        anew += patch is not None
        to_make[patch.seed if patch else edges.seed].append(part)
    if to_make:
        completion = completion_of(picture, evaluation, hole, lambda: pixels)
        _take(pixels, completion, to_make, progress)
    return anew


def _lay(pixels: Picture, part: EmptyPart, patch: PatchPart, field: str, find: FindPatch | None) -> None:
    if find is None:
        raise RecipeError(
            f"the patch {patch.sha256[:12]}… is listed but not at hand; name its folder with --patches, or "
            "take it out of edges.patches to have it made anew",
            field,
        )
    new, mask = read_patch(find(patch.sha256))
    if patch.box != part.box or not np.array_equal(mask, part.mask):
        raise RecipeError(
            f"the patch {patch.sha256[:12]}… does not fit the {part.name}; take it out of edges.patches to "
            "have it made anew",
            field,
        )
    pixels[part.place][part.mask] = new[part.mask]


def _take(
    pixels: Picture, completion: Completion, wanted: dict[int, list[EmptyPart]], progress: Progress
) -> None:
    taken = np.zeros_like(pixels)
    for count, (seed, some) in enumerate(sorted(wanted.items())):

        def told(share: float, done: int = count) -> None:
            progress((done + share) / len(wanted))

        colours = completion.take(seed, told)
        taken[completion.at] = colours
        for part in some:
            pixels[part.place][part.mask] = taken[part.place][part.mask]
