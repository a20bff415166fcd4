"""What exported files are called."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

from sequor.imaging.formats.registry import FORMATS, endings_words, format_of
from sequor.recipe.evolve import evolve
from sequor.recipe.model import Recipe
from sequor.recipe.model.export import Format
from sequor.recipe.parse import RecipeError
from sequor.store.models import Photo
from sequor.wording.frame import frame_ratio_words

ONE, TOGETHER = "{file}-level", "{file} {version}"
"""What a file is called where nothing is said: the only one, and one of several."""


@dataclass(frozen=True)
class File:
    """A file that is to be written: of which photo and version ("" for the current state), the ratio of its
    frame in words, its format."""

    of: About
    version: str
    ratio: str
    format: Format


@dataclass(frozen=True)
class About:
    """What names of a photo's files are made from; ``date``: when it was taken, or today, as YYYY-MM-DD."""

    file_name: str
    title: str
    date: str


def about(photo: Photo) -> About:
    """The same for a photo."""
    taken = re.match(r"(\d{4})[:-](\d\d)[:-](\d\d)", str(photo.facts.get("taken_at") or ""))
    date = "-".join(taken.groups()) if taken else datetime.now().astimezone().date().isoformat()
    return About(photo.file_name, photo.title, date)


def archive_name(file_name: str) -> str:
    """The name of the download that holds several pictures.

    >>> archive_name("IMG_2041.JPG")
    'IMG_2041-versions.zip'
    """
    return f"{safe_name(Path(file_name).stem)}-versions.zip"


def file_names(of: About, wanted: Sequence[tuple[str, Recipe]], template: str | None) -> list[str]:
    """The names of a photo's files, endings included, each its own: of what they hold the version, "" for the
    current state, and its recipe."""
    files = [File(of, version, frame_ratio_words(recipe), recipe.export.format) for version, recipe in wanted]
    return names_of(files, template or (ONE if len(wanted) == 1 else TOGETHER))


def names_of(files: Sequence[File], template: str, taken: Iterable[str] = ()) -> list[str]:
    """The names of files, endings included, each its own and none of those that are ``taken``."""
    names: list[str] = []
    known = {name.casefold() for name in taken}
    for number, file in enumerate(files, 1):
        values = {
            "file": Path(file.of.file_name).stem,
            "title": file.of.title,
            "version": file.version,
            "ratio": file.ratio.replace(":", "x"),
            "date": file.of.date,
            "n": str(number),
        }
        ending = FORMATS[file.format].ending
        stem = free = filled_in(template, values)
        again = 1
        while (free + ending).casefold() in known:
            again += 1
            free = f"{stem} {again}"
        known.add((free + ending).casefold())
        names.append(free + ending)
    return names


def filled_in(template: str, values: Mapping[str, str]) -> str:
    """A template as a name that every file system takes; what is empty leaves no gap.

    >>> filled_in("{title} {version} {ratio}", {"title": "Wendlow mill", "version": "", "ratio": "3:2"})
    'Wendlow mill 3_2'
    >>> filled_in("{version}", {"version": "wide: page"}), filled_in("{version}", {"version": ""})
    ('wide_ page', 'photo')
    """
    # In one pass: what is put in may have braces of its own.
    name = re.sub(r"{(\w+)}", lambda found: safe_name(values[found[1]], ""), template)
    return safe_name(re.sub(r"\s+", " ", name).strip(" -_"))


def safe_name(name: str, empty: str = "photo") -> str:
    """A name that every file system takes, ``empty`` where nothing is left of it."""
    return (re.sub(r'[\x00-\x1f<>:"/\\|?*]+', "_", name).strip(". ") or empty)[:120]


def check_ending(out: Path, recipe: Recipe, format_given: bool) -> Recipe:
    """The recipe with the format that a file name asks for. Raises RecipeError when the two disagree."""
    kind = format_of(out.suffix)
    if kind is None:
        raise RecipeError(f"{out.name} must end in {endings_words()}", "export.format")
    if format_given and kind != recipe.export.format:
        raise RecipeError(
            f"{out.name} and export.format {recipe.export.format!r} disagree; change one of them",
            "export.format",
        )
    return evolve(recipe, export=evolve(recipe.export, format=kind))
