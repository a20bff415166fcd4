"""Touch-ups: areas of the corrected picture that are filled like corners, one over the other."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from sequor.core.fill.areas import Box, box_of, feathered
from sequor.core.raster.pixels import Picture
from sequor.core.raster.resample import resample, shown
from sequor.pipeline.edges.registry import mode_of
from sequor.pipeline.evaluated import Evaluated
from sequor.pipeline.new_pixels import in_frame, patch_name
from sequor.pipeline.output import background_of
from sequor.recipe.parse import RecipeError

from .filling import (
    Mask,
    Means,
    Progress,
    empty_area,
    fill_frame,
    no_sources,
    paint_over,
    patch_for,
    rendered,
)

Alpha = NDArray[np.uint8]


@dataclass(frozen=True)
class Touched:
    """What a touch-up makes: pixels in a ``box`` of the frame, and how much they cover there, 0 to 255."""

    box: Box
    pixels: Picture
    alpha: Alpha

    def laid_over(self, picture: Picture, amount: float, at: tuple[int, int] = (0, 0)) -> None:
        """Lay it over a picture, in place, that begins at a pixel ``at`` of the frame."""
        x, y, width, height = self.box
        left, top = max(x, at[0]), max(y, at[1])
        right, bottom = (
            min(x + width, at[0] + picture.shape[1]),
            min(y + height, at[1] + picture.shape[0]),
        )
        if right <= left or bottom <= top:
            return
        there = picture[top - at[1] : bottom - at[1], left - at[0] : right - at[0]]
        own = np.s_[top - y : bottom - y, left - x : right - x]
        share = (self.alpha[own].astype(np.float32) * (amount / 255))[..., None]
        mixed = there + share * (self.pixels[own].astype(np.float32) - there)
        changed = share[..., 0] > 0
        most = np.iinfo(picture.dtype).max
        there[changed] = np.asarray(np.clip(mixed + 0.5, 0, most), picture.dtype)[changed]


class TouchUps:
    """The touch-ups of a photo's frame over what lies beneath them.

    ``picture`` is the decoded photo; ``whole``: the frame with its corners filled already, if it is there.
    """

    def __init__(
        self, picture: Picture, evaluation: Evaluated, means: Means, whole: Picture | None = None
    ) -> None:
        self._picture, self._evaluation, self._means = picture, evaluation, means
        self._placed = evaluation.placed
        self._whole = whole
        self._made: dict[int, Touched | None] = {}
        self.anew = 0

    def index_of(self, touch_up: str) -> int:
        """Which one has an id. Raises RecipeError."""
        for index, part in enumerate(self._evaluation.recipe.edges.touch_ups):
            if part.id == touch_up and part.active:
                return index
        raise RecipeError("This touch-up no longer exists. Reload the page", "edges.touch_ups")

    def all(self, progress: Progress) -> tuple[Picture, Mask]:
        """The whole frame with all of them, and which pixels they changed."""
        out = self._frame().copy()
        changed = np.zeros(out.shape[:2], np.bool_)
        active = [at for at, one in enumerate(self._evaluation.recipe.edges.touch_ups) if one.active]
        for count, index in enumerate(active):

            def told(share: float, done: int = count) -> None:
                progress((done + share) / len(active))

            touched, amount = self.made(index, told), self._evaluation.recipe.edges.touch_ups[index].amount
            if touched is not None and amount > 0:
                touched.laid_over(out, amount)
                x, y, width, height = touched.box
                changed[y : y + height, x : x + width] |= touched.alpha > 0
        return out, changed

    def made(self, index: int, progress: Progress) -> Touched | None:
        """One of them, from its patch or anew; None when it lies beside the picture."""
        if index not in self._made:
            self._made[index] = self._from_patch(index) or self.take(index, None, progress)
        return self._made[index]

    def take(self, index: int, seed: int | None, progress: Progress) -> Touched | None:
        """One of them made with a seed, None: its own. Raises RecipeError."""
        from sequor.core.fill.levels import NothingToCopyError
        from sequor.core.fill.patchmatch import fill

        part = self._evaluation.recipe.edges.touch_ups[index]
        field = f"edges.touch_ups.{index}"
        place = self._place(index)
        window = self._placed.window(index)
        if place is None or window is None:
            return None
        box, alpha = place
        x, y, width, height = window
        under = self._under(index, window, progress)
        hole = np.zeros((height, width), np.bool_)
        own = np.s_[box[1] - y : box[1] - y + box[3], box[0] - x : box[0] - x + box[2]]
        hole[own] = alpha > 0
        seed = part.seed if seed is None else seed
        if part.hint is not None:
            made = paint_over(under, hole, part.hint, seed, self._means.painter, field + ".hint", progress)
        else:
            bar = self._barred(index, window)
            try:
                recedes = [one.moved(-x, -y) for one in self._evaluation.recedes]
                made = fill(under, hole, seed, bar, recedes)
            except NothingToCopyError as error:
                raise RecipeError(str(error), field) from None
        progress(1.0)
        return Touched(box, np.ascontiguousarray(made[own]), alpha)

    def _place(self, index: int) -> tuple[Box, Alpha] | None:
        """The box of a touch-up and how much it covers there; what stays empty is left alone."""
        reach = self._placed.reach(index)
        if reach is None:
            return None
        x, y, width, height = reach
        part = self._evaluation.recipe.edges.touch_ups[index]
        area = in_frame(part, self._evaluation.frame).moved(-x, -y)
        alpha = feathered(area.mask(width, height), part.feather)
        if not mode_of(self._evaluation.recipe.edges).makes_pixels:
            alpha[~self._shown(reach)] = 0
        inner = box_of(alpha)
        if inner is None:
            return None
        left, top, wide, high = inner
        cut = np.ascontiguousarray(alpha[top : top + high, left : left + wide])
        return (x + left, y + top, wide, high), cut

    def _from_patch(self, index: int) -> Touched | None:
        edges = self._evaluation.recipe.edges
        name = patch_name(edges.touch_ups[index].id)
        for at, patch in enumerate(edges.patches):
            if patch.part != name:
                continue
            if (
                patch.made_for != self._evaluation.made_for.get(edges.touch_ups[index].id)
                or patch.seed != edges.touch_ups[index].seed
            ):
                self.anew += 1
                return None
            place = self._place(index)
            if place is None:
                return None
            new, alpha = patch_for(patch, at, name, place[0], self._means)
            return Touched(place[0], new, alpha)
        return None

    def _under(self, index: int, window: Box, progress: Progress) -> Picture:
        """The pixels of a window with all that lies beneath a touch-up."""
        x, y, width, height = window
        if self._whole is None and self._placed.all_photo(index):
            frame = self._evaluation.frame
            colour = background_of(self._evaluation.recipe)
            area = (frame.x + x, frame.y + y, width, height)
            under = resample(self._picture, self._evaluation.warp, *area, background=colour)
        else:
            under = self._frame()[y : y + height, x : x + width].copy()
        for before in self._placed.beneath(index):
            touched = self.made(before, progress)
            if touched is not None:
                touched.laid_over(under, self._evaluation.recipe.edges.touch_ups[before].amount, (x, y))
        return under

    def _frame(self) -> Picture:
        """The whole frame, its corners as the recipe has them."""
        if self._whole is None:
            self._whole = rendered(self._picture, self._evaluation)
            if mode_of(self._evaluation.recipe.edges).makes_pixels:
                hole = empty_area(self._evaluation)
                fill_frame(
                    self._picture, self._whole, hole, self._evaluation, self._means, lambda share: None
                )
        return self._whole

    def _shown(self, box: Box) -> Mask:
        """Where in a box of the frame the photo shows."""
        x, y, width, height = box
        frame = self._evaluation.frame
        return shown(self._evaluation.warp, frame.x + x, frame.y + y, width, height)

    def _barred(self, index: int, window: Box) -> Mask | None:
        """What in a window must not be copied: what the donors say, and what is empty."""
        x, y, width, height = window
        bar = no_sources(self._evaluation)
        part = None if bar is None else np.ascontiguousarray(bar[y : y + height, x : x + width])
        if mode_of(self._evaluation.recipe.edges).makes_pixels or self._placed.all_photo(index):
            return part
        empty = ~self._shown(window)
        return empty if part is None else part | empty
