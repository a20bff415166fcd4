"""Import: look a file over, keep the original by the hash of its content, open its history."""

from __future__ import annotations

import re
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any

from sqlalchemy import select
from sqlalchemy.exc import SQLAlchemyError

from sequor.imaging.colour import ToScreen, profile_name
from sequor.imaging.decode import colour_profile, decode, read_header
from sequor.imaging.encode import reduce_to, small_jpeg
from sequor.imaging.metadata import camera_facts
from sequor.recipe.model import PhotoPart, Recipe
from sequor.store.database import Store
from sequor.store.files import content_hash
from sequor.store.models import Photo

from .reporting import Report
from .revising import revision_of

SCREEN_SIDES = (640, 1024, 2048)
"""Longest sides of the pictures kept for the screen, in pixels."""


@dataclass(frozen=True)
class Inspection:
    """What an import found in a file that can be used."""

    sha256: str
    format: str
    bytes: int
    width: int
    height: int
    facts: dict[str, Any]
    profile: str | None


@dataclass(frozen=True)
class Imported:
    """The photo an import led to; ``known`` when the same file had been imported before."""

    photo_id: int
    known: bool


def inspect(file: Path, screen: Path, report: Report) -> Inspection:
    """Decode a file from end to end and write its screen pictures into ``screen``, a new folder.

    Raises UnreadablePictureError. Meant to run where a crash or a runaway does no harm.
    """
    report(0.05, "reading")
    header = read_header(file)
    sha256 = content_hash(file)
    report(0.2, "reading")
    facts = camera_facts(file)
    profile = colour_profile(file)
    picture = decode(file)
    report(0.6, "making the screen picture")
    write_screen_pictures(picture, ToScreen(profile), screen)
    report(1.0, "done")
    return Inspection(
        sha256=sha256,
        format=header.format,
        bytes=file.stat().st_size,
        width=header.width,
        height=header.height,
        facts=asdict(facts),
        profile=profile_name(profile),
    )


def write_screen_pictures(picture: Any, to_screen: ToScreen, folder: Path) -> None:
    """The sRGB pictures for the screen, each made from the next larger one."""
    folder.mkdir(parents=True, exist_ok=True)
    reduced = reduce_to(picture, SCREEN_SIDES[-1])
    reduced = to_screen(reduced)
    for side in reversed(SCREEN_SIDES):
        reduced = reduce_to(reduced, side)
        (folder / f"{side}.jpg").write_bytes(small_jpeg(reduced))


def register(store: Store, file: Path, screen: Path, found: Inspection, file_name: str) -> Imported:
    """Keep an inspected file: original first, then the row. On failure nothing of it remains."""
    with store.transaction() as session:
        known = session.scalar(select(Photo).where(Photo.sha256 == found.sha256).with_for_update())
        if known is not None:
            known.removed_at = None
            known.changes += 1
            store.originals.put(file, found.sha256)
            return Imported(known.id, known=True)
    place = store.screen / found.sha256
    fresh = store.originals.put(file, found.sha256)
    try:
        if not place.exists():
            screen.rename(place)
        with store.transaction() as session:
            photo = Photo(
                sha256=found.sha256,
                title=title_from(file_name),
                file_name=file_name[:255],
                format=found.format,
                bytes=found.bytes,
                width=found.width,
                height=found.height,
                facts=found.facts,
                profile=found.profile,
            )
            session.add(photo)
            session.flush()
            photo.revision = revision_of(photo.id, first_recipe(found), "Imported")
            session.flush()
            return Imported(photo.id, known=False)
    except (SQLAlchemyError, OSError):
        if fresh:
            store.originals.remove(found.sha256)
        raise


def first_recipe(found: Inspection) -> Recipe:
    """The recipe of a photo that nothing has been done to."""
    photo = PhotoPart(
        width=found.width, height=found.height, sha256=found.sha256, focal_35mm=found.facts["focal_35mm"]
    )
    return Recipe(format="sequor-recipe", version=1, photo=photo)


def title_from(file_name: str) -> str:
    """A title from a file name: no ending, no underscores, a capital at the start.

    >>> title_from("wendlow_water-tower.JPG"), title_from("IMG_2041.jpg"), title_from(".jpg")
    ('Wendlow water tower', 'IMG 2041', 'Untitled')
    """
    stem = re.sub(r"(^|\.)[^.]{0,5}$", "", file_name.rsplit("/", 1)[-1]) or "Untitled"
    words = re.sub(r"[_\-\s]+", " ", stem).strip()[:200] or "Untitled"
    return words[0].upper() + words[1:]
