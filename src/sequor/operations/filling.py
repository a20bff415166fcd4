"""New pixels for the empty part of a frame: from patches that still hold, the rest by takes."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

import cv2
import numpy as np
from numpy.typing import NDArray

from sequor.core.fill.areas import Box, barred
from sequor.core.fill.parts import EmptyPart, parts
from sequor.core.raster.pixels import Picture, in_eight_bits
from sequor.core.raster.resample import resample, shown
from sequor.imaging.patches import read_patch
from sequor.painter.client import Painter, PainterError
from sequor.pipeline.evaluated import Evaluated
from sequor.pipeline.output import background_of
from sequor.pipeline.retouch import frame_size
from sequor.recipe.model.edges import PatchPart
from sequor.recipe.parse import RecipeError

if TYPE_CHECKING:
    from sequor.core.fill.patchmatch import Completion, Rough

Mask = NDArray[np.bool_]
Progress = Callable[[float], None]

FindPatch = Callable[[str], Path]
"""The file of a patch by the hash of its content; what it raises says where it should have been."""

PAINTED_AROUND = 64
"""Pixels about an area that a painter sees of the picture, at least; else half of what it is long."""

MOST_PAINTED = 6_000_000
"""Pixels that are sent to a painter at most; a larger area is sent reduced."""


@dataclass(frozen=True)
class Means:
    """What a fill may use: patches that were made, and an outside painter."""

    find: FindPatch | None = None
    painter: Painter | None = None


def rendered(picture: Picture, evaluation: Evaluated, progress: Progress | None = None) -> Picture:
    """The frame of a decoded photo at its own size."""
    frame = evaluation.frame
    size = frame_size(evaluation.frame)
    return resample(
        picture, evaluation.warp, frame.x, frame.y, *size, progress, background_of(evaluation.recipe)
    )


def empty_area(evaluation: Evaluated) -> Mask:
    """What of the frame at its own size the photo does not show, (height, width)."""
    frame = evaluation.frame
    return ~shown(evaluation.warp, frame.x, frame.y, *frame_size(evaluation.frame))


def no_sources(evaluation: Evaluated) -> Mask | None:
    """What of the frame new pixels must not come from; None where nothing was said."""
    return barred(evaluation.sources, *frame_size(evaluation.frame))


class Corners:
    """The empty area of a photo's frame, made ready once for all takes of it.

    ``whole`` renders the frame when its turn has come. Raises RecipeError.
    """

    def __init__(
        self,
        picture: Picture,
        evaluation: Evaluated,
        hole: Mask,
        whole: Callable[[], Picture],
        painter: Painter | None,
    ) -> None:
        self.parts = parts(hole)
        self._hole, self._whole, self._evaluation = hole, whole, evaluation
        plan = evaluation.filling
        self._hint, self._strips, self._painter = plan.hint, plan.strips, painter
        self._completion: Completion | None = None
        if self._hint is None and self._strips == 1:
            self._completion = _completion_of(picture, evaluation, hole, whole)

    def take(
        self,
        seed: int,
        progress: Progress,
        rough: Rough | None = None,
        wanted: Sequence[EmptyPart] | None = None,
    ) -> list[Picture]:
        """The pixels of each part, or of some, in its box. Raises RecipeError."""
        wanted = self.parts if wanted is None else wanted
        if self._completion is not None:
            colours = self._completion.take(seed, progress, rough)
            taken = np.zeros((*self._hole.shape, 3), colours.dtype)
            taken[self._completion.at] = colours
            return [taken[part.place] for part in wanted]
        whole = self._whole()
        if self._hint is not None:
            return [self._painted(whole, part, seed, progress) for part in wanted]
        from sequor.core.fill.levels import NothingToCopyError
        from sequor.core.fill.strips import fill_in_strips

        bar = no_sources(self._evaluation)
        try:
            filled = fill_in_strips(
                whole, self._hole, self._strips, seed, bar, progress, self._evaluation.recedes
            )
        except NothingToCopyError as error:
            raise RecipeError(str(error), "edges.mode") from None
        return [filled[part.place] for part in wanted]

    def _painted(self, whole: Picture, part: EmptyPart, seed: int, progress: Progress) -> Picture:
        """A part as the painter has it."""
        assert self._hint is not None
        x, y, width, height = part.box
        around = max(PAINTED_AROUND, max(width, height) // 2)
        left, top = max(0, x - around), max(0, y - around)
        place = np.s_[top : y + height + around, left : x + width + around]
        made = paint_over(
            whole[place], self._hole[place], self._hint, seed, self._painter, "edges.hint", progress
        )
        return made[y - top : y - top + height, x - left : x - left + width]


def paint_over(
    picture: Picture,
    hole: Mask,
    hint: str,
    seed: int,
    painter: Painter | None,
    field: str,
    progress: Progress,
) -> Picture:
    """A picture with its hole painted by the outside painter and blended in.

    Raises RecipeError without a painter, or when it does not paint.
    """
    from sequor.core.fill.painted import blended

    if painter is None:
        raise RecipeError(
            "This area is to be painted, but no painting service is set up. Start Sequor with --painter, or "
            "choose Fill from the picture",
            field,
        )
    picture, hole = np.ascontiguousarray(picture), np.ascontiguousarray(hole)
    scale = min(1.0, float(np.sqrt(MOST_PAINTED / hole.size)))
    size = (max(1, round(hole.shape[1] * scale)), max(1, round(hole.shape[0] * scale)))
    # Outside painters speak in 8 bits.
    sent, mask = in_eight_bits(picture), hole
    if scale < 1:
        sent = np.asarray(cv2.resize(sent, size, interpolation=cv2.INTER_AREA), np.uint8)
        mask = cv2.resize(hole.astype(np.float32), size, interpolation=cv2.INTER_AREA) > 0
    try:
        painted = painter.paint(sent, mask, hint, seed, lambda: progress(0.3))
    except PainterError as error:
        raise RecipeError(f"{error}. Nothing is lost; try again, or take the hint away", field) from None
    if scale < 1:
        painted = np.asarray(cv2.resize(painted, hole.shape[::-1], interpolation=cv2.INTER_CUBIC), np.uint8)
    return blended(picture, hole, painted)


def _completion_of(
    picture: Picture, evaluation: Evaluated, hole: Mask, whole: Callable[[], Picture]
) -> Completion:
    """How the hole of a photo's frame is filled: it is begun on the photo reduced, under the same map."""
    # numba takes half a second to load: the first hole waits for it, not every start.
    from sequor.core.fill.levels import NothingToCopyError, halvings_of
    from sequor.core.fill.patchmatch import Completion

    halvings = halvings_of(hole)
    bar = no_sources(evaluation)
    try:
        if not halvings:
            return Completion(whole(), hole, barred=bar, recedes=evaluation.recedes)
        scale = 0.5**halvings
        size = round(picture.shape[1] * scale), round(picture.shape[0] * scale)
        reduced = np.asarray(cv2.resize(picture, size, interpolation=cv2.INTER_AREA), picture.dtype)
        frame, warp = evaluation.frame, evaluation.warp.at_scale(scale)
        columns, rows = (-(-side // 2**halvings) for side in (hole.shape[1], hole.shape[0]))
        area = (warp, frame.x * scale, frame.y * scale, columns, rows)
        small = None if bar is None else cv2.resize(bar.astype(np.uint8), (columns, rows)) > 0
        return Completion(
            resample(reduced, *area),
            ~shown(*area),
            halvings,
            lambda: (whole(), hole, bar),
            small,
            [one.scaled(scale) for one in evaluation.recedes],
        )
    except NothingToCopyError as error:
        raise RecipeError(str(error), "edges.mode") from None


def fill_frame(
    picture: Picture,
    pixels: Picture,
    hole: Mask,
    evaluation: Evaluated,
    means: Means,
    progress: Progress,
) -> int:
    """Fill the hole of a rendered frame of a photo in place; how many stale patches were made anew for it.

    Raises RecipeError for a patch that is not there or does not fit, UnreadablePictureError, and what
    ``means.find`` raises.
    """
    edges = evaluation.recipe.edges
    chosen = {patch.part: (index, patch) for index, patch in enumerate(edges.patches)}
    now = evaluation.made_for[""]
    to_make: dict[int, list[EmptyPart]] = defaultdict(list)
    anew = 0
    for part in parts(hole):
        index, patch = chosen.get(part.name, (0, None))
        if patch is not None and patch.made_for == now:
            new, alpha = patch_for(patch, index, part.name, part.box, means)
            if not np.array_equal(alpha > 0, part.mask):
                raise _misfit(patch, index, part.name)
            pixels[part.place][part.mask] = new[part.mask]
            continue
        anew += patch is not None
        to_make[patch.seed if patch else edges.seed].append(part)
    if to_make:
        before = pixels.copy()
        corners = Corners(picture, evaluation, hole, lambda: before, means.painter)
        for count, (seed, some) in enumerate(sorted(to_make.items())):

            def told(share: float, done: int = count) -> None:
                progress((done + share) / len(to_make))

            for part, made in zip(some, corners.take(seed, told, wanted=some), strict=True):
                pixels[part.place][part.mask] = made[part.mask]
    return anew


def patch_for(
    patch: PatchPart, index: int, name: str, box: Box, means: Means
) -> tuple[Picture, NDArray[np.uint8]]:
    """The pixels of a listed patch and how much they cover, 0 to 255.

    Raises RecipeError, UnreadablePictureError, and what ``means.find`` raises.
    """
    if means.find is None:
        raise RecipeError(
            f"the patch {patch.sha256[:12]}… is listed in the recipe but the file was not found; give its "
            "folder with --patches, or remove it from edges.patches to have it made again",
            f"edges.patches.{index}",
        )
    new, alpha = read_patch(means.find(patch.sha256))
    if tuple(patch.box) != tuple(box) or alpha.shape != (box[3], box[2]):
        raise _misfit(patch, index, name)
    return new, alpha


def _misfit(patch: PatchPart, index: int, name: str) -> RecipeError:
    return RecipeError(
        f"the patch {patch.sha256[:12]}… does not fit the {name}; remove it from edges.patches to have it "
        "made again",
        f"edges.patches.{index}",
    )
