"""Pixels for the screen: regions of the real photo through the real map, and the small pictures."""

from __future__ import annotations

import base64
import contextlib
import json
import threading
from collections import OrderedDict
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

import numpy as np

from sequor.core.mapping import Mapping
from sequor.core.resample import resample
from sequor.imaging.colour import ToScreen
from sequor.imaging.decode import Picture, UnreadablePictureError, colour_profile, decode
from sequor.imaging.encode import reduce_to, small_jpeg
from sequor.operations.exporting import EMPTY
from sequor.operations.importing import SCREEN_SIDES, write_screen_pictures
from sequor.recipe.evaluate import Evaluation, evaluate, solved_map
from sequor.recipe.model import PhotoPart, Recipe
from sequor.recipe.reading import build
from sequor.recipe.report import solved_lens
from sequor.store.database import Store
from sequor.store.originals import OriginalMissingError

TILE = 256
KEPT_BYTES = 700_000_000
THUMBNAIL_SIDE = 560

# A page asks for many tiles at once: rendered two by two, the first is there long before the last.
_FEW_AT_A_TIME = threading.Semaphore(2)


@dataclass(frozen=True)
class Original:
    """A decoded original and the way its colours go to the screen."""

    pixels: Picture
    to_screen: ToScreen


class Originals:
    """Decoded originals, the most recently used ones kept up to ``KEPT_BYTES``."""

    def __init__(self, store: Store) -> None:
        self._store = store
        self._kept: OrderedDict[tuple[str, int], Original] = OrderedDict()
        self._decoding: dict[tuple[str, int], threading.Lock] = {}
        self._lock = threading.Lock()

    def get(self, sha256: str, quarter_turns: int) -> Original:
        """The decoded original; a second request for one that is being decoded waits for it."""
        key = (sha256, quarter_turns)
        with self._lock:
            turn = self._decoding.setdefault(key, threading.Lock())
        with turn:
            with self._lock:
                if key in self._kept:
                    self._kept.move_to_end(key)
                    return self._kept[key]
            path = self._store.originals.path(sha256)
            original = Original(decode(path, quarter_turns), ToScreen(colour_profile(path)))
            with self._lock:
                self._kept[key] = original
                while len(self._kept) > 1 and self._bytes() > KEPT_BYTES:
                    self._kept.popitem(last=False)
            return original

    def make_ready(self, sha256: str, quarter_turns: int) -> None:
        """Decode in the background what will be asked for soon; an error shows when it is."""

        def decode_it() -> None:
            with contextlib.suppress(OSError, UnreadablePictureError, OriginalMissingError):
                self.get(sha256, quarter_turns)

        if (sha256, quarter_turns) not in self._kept:
            threading.Thread(target=decode_it, daemon=True).start()

    def _bytes(self) -> int:
        return sum(original.pixels.nbytes for original in self._kept.values())


def map_token(evaluation: Evaluation) -> str:
    """The map of an evaluation as text for a URL: the recipe parts that make it, with solved angles."""
    recipe = evaluation.recipe
    attitude = evaluation.solution.attitude
    correction = recipe.correction.model_dump(exclude_defaults=True, exclude={"free"})
    correction.update(roll=attitude.roll, pitch=attitude.pitch, yaw=attitude.yaw, free=[])
    if evaluation.camera.source == "lines":
        correction["focal_px"] = evaluation.camera.focal_px
    document = {
        "format": recipe.format,
        "version": recipe.version,
        "photo": recipe.photo.model_dump(exclude={"sha256"}),
        "lens": solved_lens(evaluation).model_dump(exclude_defaults=True),
        "correction": correction,
    }
    return base64.urlsafe_b64encode(json.dumps(document, separators=(",", ":")).encode()).decode().rstrip("=")


def as_taken_token(recipe: Recipe) -> str:
    """The map that changes nothing."""
    return _as_taken_token(recipe.photo.model_dump_json())


@lru_cache(maxsize=64)
def _as_taken_token(photo: str) -> str:
    plain = Recipe(format="sequor-recipe", version=1, photo=PhotoPart.model_validate_json(photo))
    plain.correction.free = []
    return map_token(evaluate(plain))


@lru_cache(maxsize=64)
def map_from_token(token: str) -> tuple[Recipe, Mapping]:
    """The recipe parts and the map of a token. Raises RecipeError when it is not one of ours."""
    padded = token + "=" * (-len(token) % 4)
    try:
        document = json.loads(base64.urlsafe_b64decode(padded))
    except ValueError:
        document = None
    recipe = build(document)
    return recipe, solved_map(recipe)


def tile(originals: Originals, sha256: str, token: str, column: int, row: int) -> bytes:
    """One square of the corrected picture at 100 %, as an sRGB JPEG.

    Tile (c, r) covers corrected pixels from (c TILE, r TILE); outside the photo it is grey.
    """
    recipe, mapping = map_from_token(token)
    original = originals.get(sha256, recipe.photo.quarter_turns)
    with _FEW_AT_A_TIME:
        pixels = resample(
            original.pixels, mapping, column * TILE, row * TILE, TILE, TILE, background=(163, 163, 163)
        )
        return small_jpeg(original.to_screen(pixels), quality=93)


def screen_picture(store: Store, sha256: str, side: int, quarter_turns: int) -> bytes:
    """The photo as taken for the screen, its longest side at most ``side`` pixels."""
    path = _screen_file(store, sha256, side)
    if quarter_turns == 0:
        return path.read_bytes()
    turned = path.with_name(f"{side}-{quarter_turns}.jpg")
    if not turned.is_file():
        turned.write_bytes(small_jpeg(decode(path, quarter_turns), quality=92))
    return turned.read_bytes()


def thumbnail(store: Store, sha256: str, recipe: Recipe) -> bytes:
    """The framed picture, small: the same map on the reduced photo."""
    evaluation = evaluate(recipe)
    path = _screen_file(store, sha256, SCREEN_SIDES[1])
    reduced = reduce_to(decode(path, recipe.photo.quarter_turns), THUMBNAIL_SIDE)
    scale = max(reduced.shape[:2]) / max(recipe.photo.width, recipe.photo.height)
    frame = evaluation.frame
    pixels = resample(
        reduced,
        evaluation.mapping.at_scale(scale),
        frame.x * scale,
        frame.y * scale,
        max(1, int(np.floor(frame.width * scale))),
        max(1, int(np.floor(frame.height * scale))),
        background=EMPTY,
    )
    return small_jpeg(pixels)


def _screen_file(store: Store, sha256: str, side: int) -> Path:
    """The stored screen picture; made again when the folder was emptied."""
    path = store.screen / sha256 / f"{side}.jpg"
    if not path.is_file():
        original = store.originals.path(sha256)
        write_screen_pictures(decode(original), ToScreen(colour_profile(original)), path.parent)
    return path
