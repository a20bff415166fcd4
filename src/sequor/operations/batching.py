"""Many photos at once without server and database: each looked at, corrected where that is sure, written.

What was written is noted in the folder it was written to, by what it is made of: the same once more does
only what is not done. A process each for as many photos as are wanted at a time; one that dies takes its
photo with it and no other."""

from __future__ import annotations

import contextlib
import hashlib
import json
import multiprocessing
import os
from collections.abc import Generator, Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor, as_completed
from concurrent.futures.process import BrokenProcessPool
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any, Literal

import cv2

from sequor.imaging.decode import UnreadablePictureError
from sequor.imaging.formats.registry import FORMATS
from sequor.imaging.originals.registry import kind_of
from sequor.operations.exporting import decode_for, export
from sequor.operations.lenses import recipe_of_file
from sequor.operations.looking import METHOD, look_at, taken
from sequor.operations.sidecar import sidecar_of
from sequor.recipe.evolve import evolve
from sequor.recipe.model import Recipe
from sequor.recipe.parse import RecipeError, parse
from sequor.store.files import content_hash
from sequor.store.room import NoRoomError
from sequor.wording.found import Extent

NOTES = ".sequor-batch.jsonl"
"""In the folder that is written to: a line for each picture that was written, and of what it was made."""

State = Literal["written", "left", "failed"]


@dataclass(frozen=True)
class Wish:
    """What is to be done with each photo: how far what is found is taken, from which confidence on, what a
    recipe gives besides its lines (as text), the format."""

    take: Extent
    sure: float
    recipe: str | None
    format: str | None


@dataclass(frozen=True)
class Came:
    """What became of a photo; ``made_of`` tells what was written from everything else."""

    photo: str
    state: State
    confidence: float | None = None
    out: str | None = None
    reason: str | None = None
    made_of: str | None = None

    def told(self) -> dict[str, Any]:
        """As a plain document (docs/recipe.md)."""
        told = asdict(self)
        del told["made_of"]
        return told


def photos_in(paths: Sequence[Path]) -> list[Path]:
    """The photos of folders, sub-folders too, and files as they are named; each once, by name.

    Raises OSError.
    """
    found: dict[Path, Path] = {}
    for path in paths:
        if not path.is_dir():
            found.setdefault(path.resolve(), path)
            continue
        for file in sorted(path.rglob("*")):
            if not file.name.startswith(".") and file.is_file() and _is_photo(file):
                found.setdefault(file.resolve(), file)
    return list(found.values())


def _is_photo(file: Path) -> bool:
    with contextlib.suppress(UnreadablePictureError, OSError):
        kind_of(file)
        return True
    return False


def batch(photos: Sequence[Path], out: Path, wish: Wish, workers: int) -> Iterator[Came]:
    """Do them all; what became of each, as it ends. Raises OSError where ``out`` cannot be written to."""
    out.mkdir(parents=True, exist_ok=True)
    done = _noted(out)
    wanted = list(zip(photos, _names(photos), strict=True))
    broken = yield from _together(wanted, out, wish, workers, done)
    for single in broken:
        # A process that died took those beside it down: each is done by itself, so that it is known which.
        if (yield from _together([single], out, wish, 1, done)):
            yield Came(str(single[0]), "failed", reason="the program was ended while it worked on this photo")


def _together(
    wanted: list[tuple[Path, str]], out: Path, wish: Wish, workers: int, done: dict[str, str]
) -> Generator[Came, None, list[tuple[Path, str]]]:
    """Do photos in processes; returned are those whose process died."""
    broken: list[tuple[Path, str]] = []
    spawn = multiprocessing.get_context("spawn")
    with ProcessPoolExecutor(workers, spawn, initializer=_one_thread if workers > 1 else None) as pool:
        asked = {pool.submit(one, photo, out, name, wish, done): (photo, name) for photo, name in wanted}
        for future in as_completed(asked):
            try:
                came = future.result()
            except BrokenProcessPool:
                broken.append(asked[future])
                continue
            if came.made_of is not None and came.out is not None:
                _note(out, Path(came.out).name, came.made_of)
            yield came
    return broken


def _one_thread() -> None:
    """Beside other processes each keeps to a core of its own."""
    cv2.setNumThreads(1)


def one(photo: Path, out: Path, name: str, wish: Wish, done: dict[str, str]) -> Came:
    """Do one photo, its file to be called ``name`` without the ending."""
    try:
        return _one(photo, out, name, wish, done)
    except (RecipeError, UnreadablePictureError, NoRoomError, OSError) as error:
        return Came(str(photo), "failed", reason=str(error))
    except MemoryError:
        return Came(str(photo), "failed", reason="there is not enough memory for this")


def _one(photo: Path, out: Path, name: str, wish: Wish, done: dict[str, str]) -> Came:
    sidecar = sidecar_of(photo)
    own = sidecar.read_text() if sidecar.is_file() else None
    sha256 = content_hash(photo)
    key = json.dumps([METHOD, sha256, own, asdict(wish)])
    made_of = hashlib.sha256(key.encode()).hexdigest()
    before = next((file for file in out.glob(f"{name}.*") if done.get(file.name) == made_of), None)
    if before is not None:
        return Came(str(photo), "written", out=str(before), reason="already there")
    confidence = None
    if own is not None:
        recipe = parse(own)
    else:
        plain, facts = recipe_of_file(photo, sha256)
        plain = _given(plain, wish)
        seen = look_at(decode_for(plain, photo), plain, facts.held)
        confidence = None if seen.tilt is None else round(seen.tilt.confidence, 3)
        reason = seen.cannot_tell
        if reason is None and (confidence or 0.0) < wish.sure:
            reason = f"less sure than {wish.sure:g}"
        if reason is None and wish.take not in {each.extent for each in seen.extents}:
            reason = "its lines do not tell as much as is to be corrected"
        if reason is not None:
            return Came(str(photo), "left", confidence, reason=reason)
        recipe = taken(plain, seen.references, wish.take)
    if wish.format is not None:
        recipe = evolve(recipe, export=evolve(recipe.export, format=wish.format))
    file = out / f"{name}{FORMATS[recipe.export.format].ending}"
    if file.exists() and file.samefile(photo):
        raise NoRoomError("the output is the photo itself; originals are never overwritten")
    export(photo, recipe, file, lambda share, words: None)
    return Came(str(photo), "written", confidence, str(file), made_of=made_of)


def _given(plain: Recipe, wish: Wish) -> Recipe:
    """A first recipe with what another one gives besides its lines: ratio, edges, export."""
    if wish.recipe is None:
        return plain
    given = parse(wish.recipe)
    edges = evolve(given.edges, patches=[], touch_ups=[], donors=[], segments=None)
    frame = evolve(given.frame, rect=None, subject=None)
    return evolve(plain, frame=frame, edges=edges, export=given.export)


def _names(photos: Sequence[Path]) -> list[str]:
    """The names of the files, without endings: as the photos are called, each its own.

    >>> _names([Path("a/one.jpg"), Path("b/One.png"), Path("two.jpg")])
    ['one', 'One-2', 'two']
    """
    taken_: set[str] = set()
    names = []
    for photo in photos:
        name, again = photo.stem, 1
        while name.casefold() in taken_:
            again += 1
            name = f"{photo.stem}-{again}"
        taken_.add(name.casefold())
        names.append(name)
    return names


def _noted(out: Path) -> dict[str, str]:
    """What was written before, by the names of the files that are still there."""
    noted: dict[str, str] = {}
    with contextlib.suppress(FileNotFoundError):
        for line in (out / NOTES).read_text().splitlines():
            # The last line may have been broken off.
            with contextlib.suppress(ValueError, KeyError, TypeError):
                told = json.loads(line)
                noted[told["file"]] = told["made_of"]
    return {name: made_of for name, made_of in noted.items() if (out / name).is_file()}


def _note(out: Path, file: str, made_of: str) -> None:
    with (out / NOTES).open("a") as notes:
        notes.write(json.dumps({"file": file, "made_of": made_of}) + "\n")
        notes.flush()
        os.fsync(notes.fileno())
