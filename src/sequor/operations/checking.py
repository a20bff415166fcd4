"""Whether all is there: files against rows, every byte against its hash, every recipe readable.

Nothing is deleted here but what is asked for by name: patches and small pictures that can be made again.
"""

from __future__ import annotations

import contextlib
import shutil
import time
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from sqlalchemy import func, select, text

from sequor.recipe.parse import RecipeError, build
from sequor.store.database import Store
from sequor.store.files import Files, OriginalMissingError
from sequor.store.models import Job, Photo, Revision, Take

YOUNG_SECONDS = 3600
HAS_PATCHES = text("JSON_LENGTH(JSON_EXTRACT(recipe, '$.edges.patches')) > 0")


@dataclass
class Findings:
    """What a check found. Each list has one line for each trouble."""

    photos: int = 0
    revisions: int = 0
    patches: int = 0
    missing: list[str] = field(default_factory=list)
    damaged: list[str] = field(default_factory=list)
    unreadable: list[str] = field(default_factory=list)
    unknown_originals: list[str] = field(default_factory=list)
    unknown_patches: list[str] = field(default_factory=list)

    @property
    def well(self) -> bool:
        """Whether nothing is missing or damaged; a file too many is no harm."""
        return not (self.missing or self.damaged or self.unreadable)


def check(store: Store, tell: Callable[[str], None] = lambda line: None) -> Findings:
    """Look at everything that is kept; every original and every patch is hashed again."""
    found = Findings()
    with store.transaction() as session:
        photos = {photo.sha256: photo.title for photo in session.scalars(select(Photo))}
        found.revisions = session.scalar(select(func.count(Revision.id))) or 0
    found.photos = len(photos)
    tell(f"{len(photos)} photos")
    for sha256, title in photos.items():
        _look_at(store.originals, sha256, f"the original of “{title}”", found)
    found.unknown_originals = sorted(set(store.originals.all()) - set(photos) - _on_their_way(store))
    wanted = known_patches(store)
    found.patches = len(wanted)
    tell(f"{len(wanted)} patches")
    for sha256 in sorted(wanted):
        _look_at(store.patches, sha256, "a patch", found)
    found.unknown_patches = sorted(set(store.patches.all()) - wanted)
    tell(f"{found.revisions} states")
    for revision in _revisions(store):
        try:
            build(revision.recipe)
        except RecipeError as error:
            where = f"photo {revision.photo_id}, state {revision.id} “{revision.action}”"
            found.unreadable.append(f"{where}: {error.field or 'recipe'}: {error}")
    return found


def _look_at(files: Files, sha256: str, what: str, found: Findings) -> None:
    match files.trouble(sha256):
        case "missing":
            found.missing.append(f"{what}, {sha256}")
        case "damaged":
            found.damaged.append(f"{what}, {sha256}")


def known_patches(store: Store, takes: bool = True) -> set[str]:
    """The patches that rows know: states list them, and, unless told otherwise, takes have made them."""
    known: set[str] = set()
    with store.transaction() as session:
        if takes:
            for parts in session.scalars(select(Take.parts).where(Take.state == "done")):
                known |= {part["sha256"] for part in parts if part.get("sha256")}
        listing = select(Revision.recipe).where(HAS_PATCHES)
        for recipe in session.scalars(listing.execution_options(yield_per=200)):
            known |= set(_listed(recipe))
    return known


def _listed(recipe: dict[str, Any]) -> Iterator[str]:
    for patch in recipe.get("edges", {}).get("patches", []):
        if isinstance(patch, dict) and isinstance(patch.get("sha256"), str):
            yield patch["sha256"]


def _on_their_way(store: Store) -> set[str]:
    """Originals of imports that were broken off between the file and its row."""
    with store.transaction() as session:
        query = select(Job.sha256).where(Job.state.in_(("waiting", "running")), Job.sha256.is_not(None))
        return {sha256 for sha256 in session.scalars(query) if sha256}


def set_aside_unknown(store: Store) -> list[tuple[str, Path]]:
    """Move files that no row knows into today's quarantine; of each what it is and where it lies now."""
    moved: list[tuple[str, Path]] = []
    with store.transaction() as session:
        known = set(session.scalars(select(Photo.sha256)))
    known |= _on_their_way(store)
    moved += _set_aside(store.originals, known, "original")
    unknown = set(store.patches.all())
    if unknown:
        moved += _set_aside(store.patches, known_patches(store), "patch")
    return moved


def _set_aside(files: Files, known: set[str], what: str) -> list[tuple[str, Path]]:
    return [
        (what, files.quarantine(sha256, files.folder.name)) for sha256 in files.all() if sha256 not in known
    ]


def note_names(store: Store) -> None:
    """Note the names of originals that came before names were noted."""
    if store.originals.objects is not None:
        return
    with store.transaction() as session:
        rows = session.execute(select(Photo.sha256, Photo.file_name)).all()
    for sha256, name in rows:
        if store.originals.place(sha256).is_file() and not store.originals.note(sha256).is_file():
            store.originals.remember(sha256, name)


def missing_originals(store: Store) -> list[str]:
    """Titles of photos whose original is not there."""
    with store.transaction() as session:
        rows = session.execute(select(Photo.sha256, Photo.title)).all()
    there = set(store.originals.all()) if rows else set()
    return [title for sha256, title in rows if sha256 not in there]


def lost_database(store: Store, ours: Callable[[], set[str]]) -> int:
    """How many originals there are when the database knows of no photo at all; else 0.

    ``ours``: hashes that do not count, because they come with the program.
    """
    with store.transaction() as session:
        if session.scalar(select(Photo.id).limit(1)) is not None:
            return 0
    there = set(store.originals.all()) - _on_their_way(store)
    return len(there - ours()) if there else 0


def adoptable(store: Store) -> list[tuple[str, Path, str]]:
    """Originals that no photo has, in their place or in quarantine: hash, file, the name it came under."""
    with store.transaction() as session:
        known = set(session.scalars(select(Photo.sha256)))
    found: dict[str, tuple[Path, str]] = {}
    for sha256 in store.originals.all():
        if sha256 not in known:
            with contextlib.suppress(OriginalMissingError):
                found[sha256] = (store.originals.path(sha256), store.originals.name(sha256))
    for file in sorted((store.folder / "quarantine").glob("*/originals/*")):
        sha256 = file.name[:64]
        if file.suffix != ".name" and len(sha256) == 64:
            note = file.with_name(f"{sha256}.name")
            name = note.read_text(errors="replace") if note.is_file() else sha256[:12]
            found.setdefault(sha256, (file, name))
    return [(sha256, *where) for sha256, where in sorted(found.items()) if sha256 not in known]


def collect(store: Store) -> tuple[int, int]:
    """Remove patches that no state of a photo lists, with their takes, and small pictures of no photo.

    A take that is asked for again is made again from its seed, with the same pixels. How many files were
    removed, and their bytes. Nothing of what several machines share is removed.
    """
    if store.patches.objects is not None:
        # What other machines have made may be on its way into a row.
        return 0, 0
    listed = known_patches(store, takes=False)
    dropped: set[str] = set()
    with store.transaction() as session:
        for take in session.scalars(select(Take).where(Take.state == "done").with_for_update()):
            if not any(part.get("sha256") in listed for part in take.parts):
                dropped |= {part["sha256"] for part in take.parts if part.get("sha256")}
                session.delete(take)
        photos = set(session.scalars(select(Photo.sha256)))
    kept = known_patches(store)
    unknown = [store.patches.place(sha256) for sha256 in store.patches.all() if sha256 not in kept]
    unknown += [folder for folder in store.screen.iterdir() if folder.name not in photos]
    # What is young may be on its way into a row at this moment.
    before = time.time() - YOUNG_SECONDS
    goes = [path for path in unknown if path.name in dropped or path.stat().st_ctime < before]
    return len(goes), sum(_remove(path) for path in goes)


def _remove(path: Path) -> int:
    files: Iterable[Path] = path.rglob("*") if path.is_dir() else [path]
    size = sum(file.stat().st_size for file in files if file.is_file())
    if path.is_dir():
        shutil.rmtree(path)
    else:
        path.unlink()
    return size


def _revisions(store: Store) -> Iterator[Revision]:
    """All states, a few at a time."""
    last = 0
    while True:
        with store.transaction() as session:
            query = select(Revision).where(Revision.id > last).order_by(Revision.id).limit(200)
            rows = list(session.scalars(query))
        if not rows:
            return
        yield from rows
        last = rows[-1].id
