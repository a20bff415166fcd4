"""Looking at a photo before somebody opens it."""

from __future__ import annotations

import contextlib

from sequor.imaging.decode import UnreadablePictureError
from sequor.operations.exporting import decode_for
from sequor.operations.looking import Looks
from sequor.operations.photos import PhotoUnknownError, get_photo
from sequor.recipe.parse import RecipeError
from sequor.store.database import Store
from sequor.store.files import OriginalMissingError


def look_ahead(store: Store, photo_id: int) -> None:
    """Look at a photo and keep what is found; one that is gone, or cannot be read, is left alone."""
    with contextlib.suppress(PhotoUnknownError, OriginalMissingError, UnreadablePictureError, RecipeError):
        now = get_photo(store, photo_id)
        original = store.originals.path(now.photo.sha256)
        Looks(store.looks).of(
            now.recipe, lambda: decode_for(now.recipe, original), now.photo.facts.get("held")
        )
