"""Looking at a photo before somebody opens it, and telling what was found in its row."""

from __future__ import annotations

from sqlalchemy import update

from sequor.operations.exporting import decode_for
from sequor.operations.looking import Look, Looks, look_key, looked_of
from sequor.operations.photos import PhotoNow, current, get_photo
from sequor.operations.rendering import Originals
from sequor.store.database import Store
from sequor.store.models import Photo


def look_ahead(store: Store, photo_id: int, anew: bool = False) -> Look:
    """Look at a photo, keep what is found and let its row tell it; ``anew``: also where that was done.

    Raises PhotoUnknownError, OriginalMissingError, UnreadablePictureError, RecipeError.
    """
    now = get_photo(store, photo_id)
    held = now.photo.facts.get("held")
    original = store.originals.path(now.photo.sha256)
    looks = Looks(store.looks)
    if anew:
        looks.forget(now.recipe, held)
    seen = looks.of(now.recipe, lambda: decode_for(now.recipe, original), held)
    tell_look(store, now, seen)
    return seen


def look_now(looks: Looks, originals: Originals, now: PhotoNow) -> Look:
    """The look at a photo that somebody has before them. Raises RecipeError, UnreadablePictureError."""
    return looks.of(
        now.recipe, lambda: originals.get(now.photo.sha256, now.recipe).pixels, now.photo.facts.get("held")
    )


def tell_look(store: Store, looked_at: PhotoNow, seen: Look) -> None:
    """Let a photo's row tell of a look; not where it is seen through another lens by now."""
    held = looked_at.photo.facts.get("held")
    key = look_key(looked_at.recipe, held)
    if looked_at.photo.looked == key:
        return
    with store.transaction() as session:
        now = current(session, looked_at.photo.id, lock=True)
        if look_key(now.recipe, held) == key:
            # Not through the photo: nobody has changed it.
            session.execute(update(Photo).where(Photo.id == now.photo.id).values(**looked_of(seen, key)))
