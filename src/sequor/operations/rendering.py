"""Pixels for the screen: regions of the real photo through the real map, and the small pictures."""

from __future__ import annotations

import contextlib
import threading
from collections import OrderedDict
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from sequor.advice.edges import taken
from sequor.core.raster.pixels import Picture
from sequor.core.raster.resample import resample, shown
from sequor.core.rectangle import Rectangle
from sequor.imaging.colour import ToScreen
from sequor.imaging.decode import UnreadablePictureError, colour_profile, decode
from sequor.imaging.encode import reduce_to, small_jpeg
from sequor.imaging.patches import over_patch, read_patch, screen_patch
from sequor.operations.attach_patches import patch_of
from sequor.operations.filling import Mask
from sequor.operations.importing import SCREEN_SIDES
from sequor.operations.map_tokens import map_from_token
from sequor.operations.screen_pictures import screen_file
from sequor.operations.takes import MARGIN
from sequor.pipeline.edges.registry import mode_of
from sequor.pipeline.evaluated import Evaluated, evaluate
from sequor.pipeline.new_pixels import patch_name
from sequor.recipe.evolve import evolve
from sequor.recipe.model import Recipe
from sequor.recipe.model.develop import DevelopPart
from sequor.store.database import Store
from sequor.store.files import OriginalMissingError, PatchMissingError
from sequor.store.models import Take

TILE = 256
KEPT_BYTES = 700_000_000
THUMBNAIL_SIDE = 560
LONGEST_ON_SCREEN = 2048
SMALL_TAKE = 300
SURROUND = (163, 163, 163)


@dataclass(frozen=True)
class Original:
    """A decoded original, and the way its colours go to the screen and to a wide one."""

    pixels: Picture
    to_screen: ToScreen
    to_wide: ToScreen


Wanted = tuple[str, int, DevelopPart | None]


def _wanted(sha256: str, recipe: Recipe) -> Wanted:
    return sha256, recipe.photo.quarter_turns, recipe.develop


class Originals:
    """Decoded originals, the most recently used ones kept up to so many bytes."""

    def __init__(self, store: Store, most: int = KEPT_BYTES) -> None:
        self._store, self._most = store, most
        self._kept: OrderedDict[Wanted, Original] = OrderedDict()
        self._decoding: dict[Wanted, threading.Lock] = {}
        self._lock = threading.Lock()

    def get(self, sha256: str, recipe: Recipe) -> Original:
        """The decoded original as a recipe turns and develops it; a second request for one that is being
        decoded waits for it."""
        key = _wanted(sha256, recipe)
        with self._lock:
            turn = self._decoding.setdefault(key, threading.Lock())
        with turn:
            with self._lock:
                if key in self._kept:
                    self._kept.move_to_end(key)
                    return self._kept[key]
            path = self._store.originals.path(sha256)
            pixels = decode(path, recipe.photo.quarter_turns, recipe.develop)
            profile = colour_profile(path)
            original = Original(pixels, ToScreen(profile), ToScreen(profile, wide=True))
            with self._lock:
                self._kept[key] = original
                while len(self._kept) > 1 and self._bytes() > self._most:
                    self._kept.popitem(last=False)
            return original

    def make_ready(self, sha256: str, recipe: Recipe) -> None:
        """Decode in the background what will be asked for soon; an error shows when it is."""

        def decode_it() -> None:
            with contextlib.suppress(OSError, UnreadablePictureError, OriginalMissingError):
                self.get(sha256, recipe)

        if _wanted(sha256, recipe) not in self._kept:
            threading.Thread(target=decode_it, daemon=True).start()

    def _bytes(self) -> int:
        return sum(original.pixels.nbytes for original in self._kept.values())


def tile(originals: Originals, sha256: str, token: str, column: int, row: int, wide: bool = False) -> bytes:
    """One square of the corrected picture at 100 %, as a JPEG in sRGB, or for a ``wide`` screen.

    Tile (c, r) covers corrected pixels from (c TILE, r TILE); outside the photo it is grey.
    """
    recipe, warp = map_from_token(token)
    original = originals.get(sha256, recipe)
    pixels = resample(original.pixels, warp, column * TILE, row * TILE, TILE, TILE, background=SURROUND)
    screen = original.to_wide if wide else original.to_screen
    return small_jpeg(screen(pixels), quality=93, profile=screen.target)


def thumbnail(store: Store, sha256: str, recipe: Recipe) -> bytes:
    """The framed picture, small: the same map on the reduced photo."""
    return small_jpeg(_framed(store, sha256, recipe, THUMBNAIL_SIDE))


def for_review(store: Store, sha256: str, recipe: Recipe) -> bytes:
    """The framed picture as large as a window shows it."""
    return small_jpeg(_framed(store, sha256, recipe, SCREEN_SIDES[1]))


def worst_corner(store: Store, sha256: str, before: Recipe, after: Recipe) -> bytes:
    """What ``after`` makes of the part of the picture where a frame that is filled under ``before`` has most
    to fill; the whole picture where there would be nothing to fill."""
    window = _emptiest(before)
    if window is None:
        return thumbnail(store, sha256, after)
    frame, whole = evaluate(after).frame, _framed(store, sha256, after, SCREEN_SIDES[1])
    scale = whole.shape[1] / frame.width
    rows, columns = max(1, round(window.height * scale)), max(1, round(window.width * scale))
    top, left = round((window.y - frame.y) * scale), round((window.x - frame.x) * scale)
    seen = np.empty((rows, columns, 3), np.uint8)
    seen[...] = SURROUND
    there = whole[max(top, 0) : max(top + rows, 0), max(left, 0) : max(left + columns, 0)]
    down, across = max(-top, 0), max(-left, 0)
    seen[down : down + there.shape[0], across : across + there.shape[1]] = there
    return small_jpeg(reduce_to(seen, SMALL_TAKE))


def _emptiest(recipe: Recipe) -> Rectangle | None:
    """The ninth of a filled frame that has most to fill, in corrected pixels; None when it has nothing."""
    there = evaluate(taken(recipe, "fill").recipe)
    frame = there.frame
    scale = SMALL_TAKE / max(frame.width, frame.height)
    size = max(1, int(frame.width * scale)), max(1, int(frame.height * scale))
    empty = ~shown(there.warp.at_scale(scale), frame.x * scale, frame.y * scale, *size)
    if not empty.any():
        return None
    top, left, high, wide = _most(empty.astype(np.float32))
    return Rectangle(frame.x + left / scale, frame.y + top / scale, wide / scale, high / scale)


def _framed(store: Store, sha256: str, recipe: Recipe, side: int) -> Picture:
    """The framed picture in sRGB, from the photo reduced to ``side``."""
    evaluation = evaluate(recipe)
    path = screen_file(store, sha256, SCREEN_SIDES[1], recipe.develop)
    reduced = reduce_to(decode(path, recipe.photo.quarter_turns), side)
    scale = max(reduced.shape[:2]) / max(recipe.photo.width, recipe.photo.height)
    frame, warp = evaluation.frame, evaluation.warp.at_scale(scale)
    columns = max(1, int(np.floor(frame.width * scale)))
    rows = max(1, int(np.floor(frame.height * scale)))
    area = (warp, frame.x * scale, frame.y * scale, columns, rows)
    pixels = resample(reduced, *area, background=mode_of(recipe.edges).background(recipe.edges) or SURROUND)
    if mode_of(recipe.edges).makes_pixels:
        _fill_small(pixels, ~shown(*area), evaluation, store, scale)
    _touch_small(pixels, evaluation, store, scale)
    return pixels


def _touch_small(pixels: Picture, evaluation: Evaluated, store: Store, scale: float) -> None:
    """Lay the touch-ups whose patches hold over a small picture, in place."""
    edges = evaluation.recipe.edges
    now = evaluation.made_for
    listed = {patch.part: patch for patch in edges.patches}
    for part in edges.touch_ups:
        patch = listed.get(patch_name(part.id))
        if not part.active or patch is None or patch.made_for != now.get(part.id):
            continue
        with contextlib.suppress(PatchMissingError, UnreadablePictureError):
            place, share, shown_ = _small_patch(store.patches.path(patch.sha256), patch.box, scale)
            there = pixels[place]
            rows, columns = there.shape[:2]
            amount = share[:rows, :columns, None] * part.amount
            mixed = there * (1 - amount) + shown_[:rows, :columns] * amount
            there[...] = np.clip(mixed + 0.5, 0, 255).astype(np.uint8)


def _fill_small(pixels: Picture, hole: Mask, evaluation: Evaluated, store: Store, scale: float) -> None:
    """Fill the hole of a small picture in place: by the patches that hold, the rest by a small take."""
    # numba takes half a second to load: the first hole waits for it, not every start.
    from sequor.core.fill.levels import NothingToCopyError
    from sequor.core.fill.patchmatch import fill

    edges, now = evaluation.recipe.edges, evaluation.made_for[""]
    for patch in edges.patches:
        if patch.made_for == now:
            with contextlib.suppress(PatchMissingError, UnreadablePictureError):
                _lay_small(pixels, hole, store.patches.path(patch.sha256), patch.box, scale)
    with contextlib.suppress(NothingToCopyError):
        recedes = [one.scaled(scale) for one in evaluation.recedes]
        pixels[...] = fill(pixels, hole, edges.seed, recedes=recedes)


def _lay_small(
    pixels: Picture, hole: Mask, patch: Path, box: tuple[int, int, int, int], scale: float
) -> None:
    """Lay a patch, reduced, over the hole of a small picture, and take from the hole what it covers."""
    place, share, shown_ = _small_patch(patch, box, scale)
    there = pixels[place]
    rows, columns = there.shape[:2]
    own = hole[place] & (share[:rows, :columns] > 0)
    there[own] = shown_[:rows, :columns][own]
    hole[place] &= ~own


def _small_patch(
    patch: Path, box: Sequence[int], scale: float
) -> tuple[tuple[slice, slice], NDArray[np.float32], Picture]:
    """Where a patch lies in a small picture, the share of each pixel that it covers, its sRGB colours."""
    new, alpha = read_patch(patch)
    cover = alpha.astype(np.float32) / 255
    place, share = _small_mask(cover, box, scale)
    colour = cv2.resize(new * cover[..., None], share.shape[::-1], interpolation=cv2.INTER_AREA)
    plain = np.asarray(colour / np.maximum(share, 1e-6)[..., None], new.dtype)
    return place, share, ToScreen(colour_profile(patch))(plain)


def _small_mask(
    mask: NDArray[np.generic], box: Sequence[int], scale: float
) -> tuple[tuple[slice, slice], NDArray[np.float32]]:
    """Where a patch's box lies in a small picture, which may end before it, and the share of each pixel there
    that the patch covers."""
    left, top, width, height = (value * scale for value in box)
    size = max(1, round(width)), max(1, round(height))
    share = cv2.resize(mask.astype(np.float32), size, interpolation=cv2.INTER_AREA)
    place = np.s_[int(top) : int(top) + size[1], int(left) : int(left) + size[0]]
    return place, np.asarray(share, np.float32)


def first_look(store: Store, photo_id: int, take_id: int, part: int) -> bytes | None:
    """A part of a take that is being made as a PNG; None when there is none."""
    take = _take(store, photo_id, take_id)
    file = store.rough / str(take_id) / f"{part}.png"
    try:
        return file.read_bytes() if take else None
    except FileNotFoundError:
        return None


def small_take(store: Store, photo_id: int, take_id: int, part: str | None) -> bytes | None:
    """Where a take that is done has most that is new, in one part or in all; None when there is none."""
    take = _take(store, photo_id, take_id)
    if take is None or take.state != "done":
        return None
    chosen = next((one for one in take.parts if one["part"] == part), None)
    if part is not None and chosen is None:
        return None
    whole = _with_take(store, take_id)
    new = np.zeros(whole.shape[:2], np.float32)
    scale = len(whole) / evaluate(Recipe.model_validate(take.recipe)).frame.height
    for one in [chosen] if chosen is not None else take.parts:
        mask = read_patch(store.patches.path(one["sha256"]))[1] > 0
        place, share = _small_mask(mask, one["box"], scale)
        there = new[place]
        there[...] = np.maximum(there, share[: there.shape[0], : there.shape[1]])
    top, left, high, wide = _most(new)
    return small_jpeg(
        reduce_to(np.ascontiguousarray(whole[top : top + high, left : left + wide]), SMALL_TAKE)
    )


@lru_cache(maxsize=6)
def _with_take(store: Store, take_id: int) -> Picture:
    """The frame with a take that is done; remembered, because its parts are looked at one by one."""
    with store.transaction() as session:
        take = session.get_one(Take, take_id)
    recipe = Recipe.model_validate(take.recipe)
    patches = [patch_of(take, one["part"]) for one in take.parts]
    names = {patch.part for patch in patches}
    others = [patch for patch in recipe.edges.patches if patch.part not in names]
    changes: dict[str, object] = {"patches": [*others, *patches]}
    if not any(patch_name(one.id) in names for one in recipe.edges.touch_ups):
        changes["mode"] = "fill"
    edges = evolve(recipe.edges, **changes)
    assert recipe.photo.sha256 is not None
    filled = evolve(recipe, edges=edges)
    return _framed(store, recipe.photo.sha256, filled, LONGEST_ON_SCREEN)


def _most(new: NDArray[np.float32]) -> tuple[int, int, int, int]:
    """The ninth of a picture that has most of what is new, of twenty-five: top, left, height, width."""
    height, width = new.shape
    high, wide = max(1, height // 3), max(1, width // 3)
    places = [
        (down * (height - high) // 4, across * (width - wide) // 4)
        for down in range(5)
        for across in range(5)
    ]
    top, left = max(places, key=lambda at: float(new[at[0] : at[0] + high, at[1] : at[1] + wide].sum()))
    return top, left, high, wide


def patch_picture(store: Store, sha256: str, reduced: int, over: bool = False) -> bytes:
    """A patch as a PNG for the screen, to lie under the picture or over it.

    Raises PatchMissingError, UnreadablePictureError.
    """
    path = store.patches.path(sha256)
    pixels, alpha = read_patch(path)
    on_screen = ToScreen(colour_profile(path))(pixels)
    if over:
        return over_patch(on_screen, alpha, reduced)
    return screen_patch(on_screen, alpha > 0, reduced, MARGIN)


def _take(store: Store, photo_id: int, take_id: int) -> Take | None:
    with store.transaction() as session:
        take = session.get(Take, take_id)
    return take if take is not None and take.photo_id == photo_id else None
