"""Takes of a fill: asked for here, made by a worker, kept as patches."""

from __future__ import annotations

import json
import logging
import secrets
import shutil
from collections.abc import Sequence
from functools import partial
from typing import Any

import numpy as np
from numpy.typing import NDArray
from sqlalchemy import func, select, update
from sqlalchemy.exc import OperationalError

from sequor.core.fill import METHOD
from sequor.core.fill.areas import Box
from sequor.core.fill.parts import EmptyPart
from sequor.core.raster.pixels import Picture
from sequor.imaging.colour import ToScreen
from sequor.imaging.decode import UnreadablePictureError, colour_profile
from sequor.imaging.patches import screen_patch, write_patch
from sequor.operations.accounts import refuse_too_much
from sequor.operations.photos import (
    PhotoNow,
    PhotoUnknownError,
    UnreadableStateError,
    get_photo,
    put,
    told_of,
)
from sequor.operations.revising import revision_of
from sequor.painter.client import Painter
from sequor.pipeline.evaluated import Evaluated, evaluate
from sequor.pipeline.new_pixels import TOUCH_UP, patch_name
from sequor.recipe.model import Recipe
from sequor.recipe.parse import RecipeError
from sequor.store.database import Store
from sequor.store.files import OriginalMissingError, PatchMissingError, content_hash, write_whole
from sequor.store.models import Photo, Revision, Take

from .attach_patches import with_patches
from .exporting import decode_for
from .filling import Corners, Mask, Means, empty_area, rendered
from .telling import MOST_ATTEMPTS, UNFINISHED, StoppedError, Telling, write_unfinished
from .touching_up import TouchUps

MARGIN = 4
"""Pixels by which a picture for the screen reaches under the photo."""

LOCK, LOCK_HASH = "take-", 40
"""Who makes takes of one frame holds a lock of this name, and so many letters of its hash."""

log = logging.getLogger(__name__)

NO_MEMORY = (
    "There was not enough memory for this take. The photo is unchanged; make the frame smaller and try again."
)
UNEXPECTED = (
    "Something went wrong in Sequor. Nothing was changed; try again. "
    "If it happens again, see the logs in the "
    "data folder."
)


class TakeUnknownError(LookupError):
    """There is no such take of this photo."""


def takes_of(store: Store, photo_id: int, touch_up: str = "") -> tuple[str, list[Take]]:
    """The hash that takes of a photo's corners, or of a touch-up, are made for, and these by their seeds.

    Raises PhotoUnknownError, RecipeError.
    """
    key = _key(evaluate(get_photo(store, photo_id).recipe), touch_up)
    with store.transaction() as session:
        query = select(Take).where(Take.photo_id == photo_id, Take.made_for == key)
        return key, list(session.scalars(query.order_by(Take.seed)))


def _key(evaluation: Evaluated, touch_up: str) -> str:
    """What takes of the corners ("") or of a touch-up are made for. Raises RecipeError."""
    key = evaluation.made_for.get(touch_up)
    if key is None:
        raise RecipeError("This touch-up is hidden or no longer exists", "edges.touch_ups")
    return key


def ask(store: Store, photo_id: int, seeds: Sequence[int], touch_up: str = "") -> str:
    """Put down that these takes of the corners, or of a touch-up, are wanted; what they are made for.

    Those that are there, or on their way, stay; one that failed or was stopped is begun anew. Raises
    PhotoUnknownError, TooMuchWorkError, RecipeError when nothing is empty.
    """
    recipe = get_photo(store, photo_id).recipe
    evaluation = evaluate(recipe)
    if not touch_up and not empty_area(evaluation).any():
        raise RecipeError("No part of the frame is empty, so there is nothing to fill", "frame")
    key = _key(evaluation, touch_up)
    with store.transaction() as session:
        session.get(Photo, photo_id, with_for_update=True)
        refuse_too_much(session, len(seeds))
        query = select(Take).where(Take.photo_id == photo_id, Take.made_for == key)
        there = {take.seed: take for take in session.scalars(query)}
        for seed in seeds:
            take = there.get(seed)
            if take is None:
                take = Take(photo_id=photo_id, made_for=key, seed=seed, recipe=recipe.model_dump(mode="json"))
                session.add(take)
            elif take.state in ("failed", "cancelled"):
                take.state, take.progress, take.words, take.attempts = "waiting", 0.0, "Waiting", 0
    return key


def refuse_others(store: Store, sha256: str) -> None:
    """Let nobody see a patch that no take of a photo of theirs has. Raises TakeUnknownError."""
    query = select(Take.id).join(Photo, Photo.id == Take.photo_id)
    has = func.json_search(Take.parts, "one", sha256).is_not(None)
    with store.transaction() as session:
        if session.scalar(query.where(has).limit(1)) is None:
            raise TakeUnknownError("This patch belongs to no take of yours")


def cancel(store: Store, photo_id: int, take_id: int) -> None:
    """Stop a take that is not done; what was made of it goes. Raises TakeUnknownError."""
    with store.transaction() as session:
        take = session.get(Take, take_id, with_for_update=True)
        if take is None or take.photo_id != photo_id:
            raise TakeUnknownError("This take no longer exists")
        if take.state in UNFINISHED:
            take.state, take.words, take.rough = "cancelled", "Cancelled", 0


def wanted(store: Store, left_alone: bool = False) -> list[tuple[int, str]]:
    """Photos and hashes with takes that are still to be made; ``left_alone``: that no process anywhere
    is making just now."""
    query = select(Take.photo_id, Take.made_for).where(Take.state.in_(UNFINISHED)).distinct()
    if left_alone:
        lock = func.concat(LOCK, func.left(Take.made_for, LOCK_HASH))
        query = query.where(func.is_free_lock(lock) == 1)
    with store.transaction() as session:
        return [(photo_id, key) for photo_id, key in session.execute(query)]


def make(store: Store, photo_id: int, key: str, painter: Painter | None = None) -> None:
    """Make all takes that are wanted of one frame, one after another; again is harmless.

    Raises OperationalError when the database is away: they are to be asked for again.
    """
    with store.only_one(f"{LOCK}{key[:LOCK_HASH]}") as alone:
        making: Making | None = None
        while alone and (take := _next(store, photo_id, key)):
            try:
                making = making or Making(store, take, painter)
                making.make(take)
            except OperationalError:
                raise
            except StoppedError:
                log.info("take %s was stopped", take.id)
            except (
                RecipeError,
                UnreadablePictureError,
                OriginalMissingError,
                PatchMissingError,
                OSError,
            ) as error:
                _end(store, take, "failed", str(error))
            except MemoryError:
                _end(store, take, "failed", NO_MEMORY)
            except Exception:
                log.exception("take %s failed", take.id)
                _end(store, take, "failed", UNEXPECTED)


class Making:
    """The corners or the touch-up that takes are made of, made ready once for all of them."""

    def __init__(self, store: Store, first: Take, painter: Painter | None) -> None:
        self.store = store
        recipe = Recipe.model_validate(first.recipe)
        assert recipe.photo.sha256 is not None
        original = store.originals.path(recipe.photo.sha256)
        telling(store, first)(0.0, "Reading the photo")
        picture = decode_for(recipe, original)
        evaluation = evaluate(recipe)
        self.profile = colour_profile(original)
        self.touch_up = next(
            (name for name, key in evaluation.made_for.items() if name and key == first.made_for), ""
        )
        if self.touch_up:
            means = Means(store.patches.path, painter)
            self.touch_ups = TouchUps(picture, evaluation, means)
        else:
            hole = empty_area(evaluation)
            self.corners = Corners(picture, evaluation, hole, lambda: rendered(picture, evaluation), painter)

    def make(self, take: Take) -> None:
        """One take, from its seed to its patches."""
        tell = telling(self.store, take)
        if self.touch_up:
            self._touch_up(take, tell)
            return
        places = [{"part": part.name, "box": list(part.box)} for part in self.corners.parts]
        tell(0.0, "Filling", parts=places)

        def look(picture: Picture, reduced: int) -> None:
            self._first_look(take, picture, reduced)
            tell(0.1, "Filling", rough=reduced)

        taken = self.corners.take(take.seed, lambda share: tell(share, "Filling"), look)
        made = [
            {**place, "sha256": self._keep(take, part.name, part.box, pixels, _solid(part.mask))}
            for place, part, pixels in zip(places, self.corners.parts, taken, strict=True)
        ]
        _done(self.store, take, made)

    def _touch_up(self, take: Take, tell: Telling) -> None:
        name = patch_name(self.touch_up)
        index = self.touch_ups.index_of(self.touch_up)
        touched = self.touch_ups.take(index, take.seed, lambda share: tell(share, "Touching up"))
        if touched is None:
            raise RecipeError(
                "This touch-up is outside the frame. Move the frame, or remove the touch-up",
                "edges.touch_ups",
            )
        sha256 = self._keep(take, name, touched.box, touched.pixels, touched.alpha)
        _done(self.store, take, [{"part": name, "box": list(touched.box), "sha256": sha256}])

    def _first_look(self, take: Take, picture: Picture, reduced: int) -> None:
        folder = self.store.rough / str(take.id)
        folder.mkdir(parents=True, exist_ok=True)
        shown = ToScreen(self.profile)(picture)
        for index, part in enumerate(self.corners.parts):
            x, y = part.box[:2]
            # Cells of the reduced picture that the box reaches into.
            left, top = x // reduced, y // reduced
            mask = _reduced(part, reduced)
            place = np.s_[top : top + mask.shape[0], left : left + mask.shape[1]]
            there = shown[place]
            mask = mask[: there.shape[0], : there.shape[1]]
            write_whole(folder / f"{index}.png", screen_patch(there, mask, 1, MARGIN))

    def _keep(self, take: Take, name: str, box: Box, pixels: Picture, alpha: NDArray[np.uint8]) -> str:
        note = {"part": name, "box": box, "seed": take.seed, "made_for": take.made_for}
        file = self.store.work / f"patch-{secrets.token_hex(8)}"
        told = json.dumps({"format": "sequor-patch", "version": 1, "method": METHOD, **note})
        write_patch(pixels, alpha, file, told, self.profile)
        sha256 = content_hash(file)
        self.store.patches.put(file, sha256)
        file.unlink()
        return sha256


def telling(store: Store, take: Take) -> Telling:
    """What tells how far a take is."""
    return Telling(partial(write_unfinished, store, take.id))


def _solid(mask: Mask) -> NDArray[np.uint8]:
    """Whole where a mask is set."""
    return np.where(mask, 255, 0).astype(np.uint8)


def _reduced(part: EmptyPart, reduced: int) -> Mask:
    """The mask of a part in cells of ``reduced`` pixels, from the cell that its box begins in."""
    x, y, width, height = part.box
    before = (y % reduced, x % reduced)
    after = (-(before[0] + height) % reduced, -(before[1] + width) % reduced)
    padded = np.pad(part.mask, ((before[0], after[0]), (before[1], after[1])))
    cells = padded.reshape(padded.shape[0] // reduced, reduced, padded.shape[1] // reduced, reduced)
    return np.asarray(cells.any(axis=(1, 3)), np.bool_)


def forget_first_looks(store: Store) -> None:
    """Remove the first looks at takes; a page that still shows one would miss it before the next start."""
    for folder in store.rough.iterdir():
        shutil.rmtree(folder, ignore_errors=True)


def _end(store: Store, take: Take, state: str, words: str) -> None:
    write_unfinished(store, take.id, state=state, words=words[:300], rough=0)


def _done(store: Store, take: Take, parts: list[dict[str, Any]]) -> None:
    """A take is done: in the same moment it is listed in its photo, where that shows it, whoever looks on.

    This counts as no change of the photo: an action that is on its way is kept all the same.
    """
    take.parts = parts
    while True:
        current, listed = _listing(store, take)
        with store.transaction() as session:
            photo = session.get_one(Photo, take.photo_id, with_for_update=True)
            if current is not None and photo.revision_id != current.revision.id:
                continue
            ended: dict[str, Any] = {"state": "done", "words": "done", "rough": 0, "progress": 1.0}
            going = update(Take).where(Take.id == take.id, Take.state.in_(UNFINISHED))
            session.execute(going.values(parts=parts, **ended))
            if session.get_one(Take, take.id, populate_existing=True).state != "done":
                raise StoppedError
            if current is not None and listed is not None:
                put(session, listed)
                session.get_one(Revision, current.revision.id).redo_id = listed.id
                session.execute(
                    update(Photo)
                    .where(Photo.id == photo.id)
                    .values(revision_id=listed.id, **told_of(session, listed))
                )
        return


def _listing(store: Store, take: Take) -> tuple[PhotoNow | None, Revision | None]:
    """The photo of a take, and the revision in which it is listed; None where it shows nothing of it."""
    try:
        current = get_photo(store, take.photo_id)
        before = current.recipe
        after = with_patches(store, take.photo_id, before, take)
    except (PhotoUnknownError, UnreadableStateError, RecipeError):
        return None, None
    part = take.parts[0]["part"]
    old = [patch for patch in before.edges.patches if patch not in after.edges.patches]
    if after == before:
        return current, None
    if part.startswith(TOUCH_UP):
        words = f"Touch-up {part.removeprefix(TOUCH_UP)[1:]} made"
    else:
        words = "Takes made again" if old else f"Take {before.edges.seed} in every corner"
    return current, revision_of(take.photo_id, after, words, current.revision.id)


def _next(store: Store, photo_id: int, key: str) -> Take | None:
    """The next take to be made. One that ended its worker too often is given up."""
    with store.transaction() as session:
        query = select(Take).where(
            Take.photo_id == photo_id, Take.made_for == key, Take.state.in_(UNFINISHED)
        )
        for take in session.scalars(query.order_by(Take.seed).with_for_update()):
            if take.attempts < MOST_ATTEMPTS:
                take.attempts += 1
                return take
            take.state = "failed"
            take.words = (
                f"This take failed {MOST_ATTEMPTS} times and was given up. "
                "The photo is unchanged; make the frame "
                "smaller and try again."
            )
        return None
