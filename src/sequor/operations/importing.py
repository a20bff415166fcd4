"""Import: look a file over, keep the original by the hash of its content, open its history."""

from __future__ import annotations

import contextlib
import re
from collections.abc import Sequence
from dataclasses import asdict, dataclass, replace
from datetime import datetime
from pathlib import Path
from typing import Any

from sqlalchemy import select, update
from sqlalchemy.exc import IntegrityError, OperationalError

from sequor.actions.base import no_takes
from sequor.actions.lens import ChooseLens
from sequor.imaging.colour import ToScreen, profile_name
from sequor.imaging.decode import as_shot, colour_profile, decode, embedded, notices, read_header
from sequor.imaging.encode import reduce_to, small_jpeg
from sequor.imaging.metadata import camera_facts
from sequor.operations.lenses import recognised
from sequor.operations.photos import put, told_of
from sequor.operations.revising import revision_of
from sequor.operations.steps import steps_in
from sequor.recipe.first import first_recipe
from sequor.recipe.model import Recipe
from sequor.recipe.parse import RecipeError
from sequor.store.database import Store
from sequor.store.files import content_hash, write_whole
from sequor.store.models import NEVER, Photo, Revision

from .reporting import Report

SCREEN_SIDES = (640, 1024, 2048)
"""Longest sides of the pictures kept for the screen, in pixels."""


LONGEST = 120
"""Characters of a camera's or a lens's name that are kept for lists."""

FIRST_LOOK = "look.jpg"


@dataclass(frozen=True)
class Inspection:
    """What an import found in a file that can be used; ``notices``: sentences on what of it cannot;
    ``steps``: the recipe by which it was made of another photo, where it tells."""

    sha256: str
    format: str
    bytes: int
    width: int
    height: int
    facts: dict[str, Any]
    profile: str | None
    notices: tuple[str, ...] = ()
    steps: dict[str, Any] | None = None


@dataclass(frozen=True)
class Imported:
    """The photo an import led to; ``known`` when the same file had been imported before."""

    photo_id: int
    known: bool


def inspect(file: Path, screen: Path, report: Report) -> Inspection:
    """Decode a file from end to end and write its screen pictures into ``screen``, a new folder; beside it,
    at once, what a raw photo shows of itself.

    Raises UnreadablePictureError. Meant to run where a crash or a runaway does no harm.
    """
    report(0.05, "Reading")
    header = read_header(file)
    look = embedded(file)
    if look is not None:
        write_whole(screen.with_name(FIRST_LOOK), small_jpeg(reduce_to(look, SCREEN_SIDES[0])))
    sha256 = content_hash(file)
    report(0.2, "Reading")
    facts = camera_facts(file)
    profile = colour_profile(file)
    picture = decode(file)
    report(0.6, "Making previews")
    write_screen_pictures(picture, ToScreen(profile), screen)
    report(1.0, "Done")
    return Inspection(
        sha256=sha256,
        format=header.format,
        bytes=file.stat().st_size,
        width=header.width,
        height=header.height,
        facts=asdict(replace(facts, as_shot=as_shot(file))),
        profile=profile_name(profile),
        notices=tuple(notices(file)),
        steps=steps_in(file),
    )


def write_screen_pictures(picture: Any, to_screen: ToScreen, folder: Path) -> None:
    """The pictures for the screen, each made from the next larger one."""
    folder.mkdir(parents=True, exist_ok=True)
    reduced = reduce_to(picture, SCREEN_SIDES[-1])
    reduced = to_screen(reduced)
    for side in reversed(SCREEN_SIDES):
        reduced = reduce_to(reduced, side)
        write_whole(folder / f"{side}.jpg", small_jpeg(reduced, profile=to_screen.target))


def register(
    store: Store,
    file: Path,
    screen: Path,
    found: Inspection,
    file_name: str,
    import_id: int | None = None,
) -> Imported:
    """Keep an inspected file: its row decides who came first, its original is there before the row is.

    ``import_id``: the import that it came with. Several may bring the same file at once: one makes the photo,
    to the others it is known. ``file`` stays where it is. Raises SQLAlchemyError, OSError; no row is left
    then.
    """
    name = plain_name(file_name)
    recipe = first_recipe(found.width, found.height, found.sha256, found.facts["focal_35mm"])
    try:
        with store.transaction() as session:
            photo = Photo(
                sha256=found.sha256,
                title=title_from(name),
                file_name=name,
                format=found.format,
                bytes=found.bytes,
                width=found.width,
                height=found.height,
                facts=found.facts,
                profile=found.profile,
                import_id=import_id,
                taken_at=when_taken(found.facts.get("taken_at")),
                camera=" ".join(filter(None, map(found.facts.get, ("make", "model"))))[:LONGEST],
                lens=(found.facts.get("lens") or "")[:LONGEST],
            )
            session.add(photo)
            # Who brings the same file at the same time waits here until this transaction has ended.
            session.flush()
            revision = revision_of(photo.id, recipe, "Imported")
            put(session, revision)
            corrected = _lens_taken(photo.id, recipe, found, revision)
            if corrected is not None:
                put(session, corrected)
                revision.redo_id = corrected.id
                revision = corrected
            # Not through the photo: nobody has seen it yet, so this is no change of it.
            session.execute(
                update(Photo)
                .where(Photo.id == photo.id)
                .values(revision_id=revision.id, **told_of(session, revision))
            )
            _keep_files(store, file, screen, found.sha256, name)
            return Imported(photo.id, known=False)
    except IntegrityError:
        return _known(store, file, screen, found.sha256, name)
    except OperationalError:
        # The commit may have been carried out though its answer was lost: the row tells.
        photo_id = _photo_of(store, found.sha256)
        if photo_id is None:
            raise
        return Imported(photo_id, known=False)


def _lens_taken(photo_id: int, recipe: Recipe, found: Inspection, imported: Revision) -> Revision | None:
    """A revision of its own, so that it can be undone, with the profile of a lens that was recognised."""
    lens = recognised(found.facts, recipe.photo)
    if lens is None:
        return None
    made = ChooseLens(do="lens", source="profile", profile=lens).apply(recipe, no_takes)
    try:
        return revision_of(photo_id, made.recipe, f"{made.action}, recognised", imported.id)
    except RecipeError:
        # A profile that this photo cannot be corrected by: the step Lens tells why when it is chosen there.
        return None


def _photo_of(store: Store, sha256: str) -> int | None:
    with store.transaction() as session:
        return session.scalar(select(Photo.id).where(Photo.sha256 == sha256))


def _known(store: Store, file: Path, screen: Path, sha256: str, name: str) -> Imported:
    """A file whose photo is there already: it comes back if it was removed, its original is whole again."""
    with store.transaction() as session:
        photo = session.scalars(select(Photo).where(Photo.sha256 == sha256).with_for_update()).one()
        photo.removed_at = None
        _keep_files(store, file, screen, sha256, name)
        return Imported(photo.id, known=True)


def _keep_files(store: Store, file: Path, screen: Path, sha256: str, name: str) -> None:
    store.originals.put(file, sha256)
    if not store.originals.note(sha256).is_file():
        store.originals.remember(sha256, name)
    place = store.screen / sha256
    if not place.exists():
        # Whoever comes second finds the pictures of the first, which are the same.
        with contextlib.suppress(OSError):
            screen.rename(place)


def known_among(store: Store, hashes: Sequence[str]) -> set[str]:
    """Those of some files, by the hashes of their content, whose photos are on the contact sheet."""
    with store.transaction() as session:
        query = select(Photo.sha256).where(Photo.sha256.in_(hashes), Photo.removed_at.is_(None))
        return set(session.scalars(query))


def when_taken(recorded: str | None) -> datetime:
    """When a photo was taken, as its camera recorded it (Exif 2.32, DateTimeOriginal); NEVER where that does
    not tell.

    >>> when_taken("2026:05:14 06:31:09"), when_taken("0000:00:00 00:00:00") == NEVER
    (datetime.datetime(2026, 5, 14, 6, 31, 9), True)
    """
    try:
        return datetime.strptime((recorded or "")[:19].replace("-", ":"), "%Y:%m:%d %H:%M:%S")
    except ValueError:
        return NEVER


def plain_name(file_name: str) -> str:
    """A file's name without folders and control characters.

    >>> plain_name("card/IMG\\x00_1.jpg"), plain_name("\\n")
    ('IMG_1.jpg', 'photo')
    """
    return re.sub(r"[\x00-\x1f\x7f]", "", file_name.rsplit("/", 1)[-1]).strip()[:255] or "photo"


def title_from(file_name: str) -> str:
    """A title from a file name: no ending, no underscores, a capital at the start.

    >>> title_from("wendlow_water-tower.JPG"), title_from("IMG_2041.jpg"), title_from(".jpg")
    ('Wendlow water tower', 'IMG 2041', 'Untitled')
    """
    stem = re.sub(r"(^|\.)[^.]{0,5}$", "", file_name.rsplit("/", 1)[-1]) or "Untitled"
    words = re.sub(r"[_\-\s]+", " ", stem).strip()[:200] or "Untitled"
    return words[0].upper() + words[1:]
