"""Commands on recipes: measure, solve, snap, apply, and the schema."""

from __future__ import annotations

import argparse
import json
import sys
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from sequor.operations.sidecar import sidecar_of
from sequor.store.files import content_hash
from sequor.store.room import NoRoomError

from .told import Document, each, load, rewrite

if TYPE_CHECKING:
    from sequor.core.raster.pixels import Picture
    from sequor.recipe.model import Recipe


def measure(options: argparse.Namespace) -> int:
    """What each line measures, as taken."""
    from sequor.wording.measured import measure_report

    def one(path: Path) -> Document:
        return measure_report(load(path))

    return each(options.recipes, one)


def solve(options: argparse.Namespace) -> int:
    """The correction, and what it does to each line; with --write it is put into the files."""
    from sequor.pipeline.evaluated import evaluate
    from sequor.wording.report import solve_report, with_solved_values

    def one(path: Path) -> Document:
        recipe = load(path)
        evaluation = evaluate(recipe)
        if options.write:
            solved = with_solved_values(recipe, evaluation)
            names = [
                "roll",
                "pitch",
                "yaw",
                *(["focal_px"] if solved.correction.focal_px is not None else []),
            ]
            values = {name: getattr(solved.correction, name) for name in names}

            def put_in(document: Document) -> None:
                document.setdefault("correction", {}).update(values)
                if solved.lens != recipe.lens:
                    terms = {
                        name: getattr(solved.lens, name) for name in evaluation.solution.distortion.names
                    }
                    document.setdefault("lens", {}).update(source="straight", **terms)

            rewrite(path, put_in)
        return solve_report(evaluation)

    return each(options.recipes, one)


def snap(options: argparse.Namespace) -> int:
    """Where the lines lie on the real edges; with --write they are put there."""
    from sequor.imaging.decode import UnreadablePictureError

    def one(path: Path) -> Document:
        from sequor.operations.snapping import report, snap_references

        recipe = load(path)
        picture = _photo_of(recipe, options.photo)
        rows = report(snap_references(picture, recipe))
        if options.write:
            found = {row["id"]: row for row in rows if "points" in row}

            def put_in(document: Document) -> None:
                for reference in document.get("references", []):
                    if reference["id"] in found:
                        row = found[reference["id"]]
                        reference.update(points=row["points"], sigma_px=row["sigma_px"])

            rewrite(path, put_in)
        return {"references": rows}

    return each([options.recipe], one, (UnreadablePictureError,))


def _photo_of(recipe: Recipe, path: Path) -> Picture:
    """The decoded photo of a recipe; another file of the same size goes on with a word on standard error."""
    from sequor.operations.exporting import decode_for

    if not path.is_file():
        raise FileNotFoundError(f"there is no file {path}")
    _say_if_another(recipe, path)
    return decode_for(recipe, path)


def _say_if_another(recipe: Recipe, photo: Path) -> None:
    if recipe.photo.sha256 not in (None, content_hash(photo)):
        print(
            "sequor: warning: this is not the file the recipe was made for; continuing, because the size is "
            "the same",
            file=sys.stderr,
        )


def apply(options: argparse.Namespace) -> int:
    """The corrected picture, written."""
    from sequor.imaging.decode import UnreadablePictureError

    def one(path: Path) -> Document:
        from sequor.operations.export_names import check_ending
        from sequor.operations.exporting import export
        from sequor.operations.filling import Means

        recipe = load(sidecar_of(options.photo) if str(path) == "-" else path)
        recipe = check_ending(options.out, recipe, "format" in recipe.export.model_fields_set)
        if not options.photo.is_file():
            raise FileNotFoundError(f"there is no file {options.photo}")
        if not options.out.parent.is_dir():
            raise NoRoomError(f"The folder {options.out.parent} does not exist. Nothing was written.")
        if options.out.exists() and options.out.samefile(options.photo):
            raise NoRoomError("the output is the photo itself; originals are never overwritten")
        if options.mask and not options.mask.parent.is_dir():
            raise NoRoomError(f"The folder {options.mask.parent} does not exist. Nothing was written.")
        _say_if_another(recipe, options.photo)
        means = Means(None if options.patches is None else _patches_in(options.patches))
        done = export(options.photo, recipe, options.out, lambda share, words: None, means, options.mask)
        if done.made_anew:
            print(f"sequor: {done.made_anew} out-of-date patches were made again", file=sys.stderr)
        for notice in done.notices:
            print(f"sequor: {notice}", file=sys.stderr)
        size = {"width": done.width, "height": done.height, "bytes": done.bytes}
        return {"out": str(options.out), **size, "filled": done.filled}

    return each([options.recipe], one, (UnreadablePictureError,))


def _patches_in(folder: Path) -> Callable[[str], Path]:
    """Patches by their hash: files of that name in a folder, or in one named by its first two digits."""
    from sequor.recipe.parse import RecipeError

    def find(sha256: str) -> Path:
        for path in (folder / sha256, folder / f"{sha256}.png", folder / sha256[:2] / sha256):
            if path.is_file():
                if content_hash(path) != sha256:
                    raise RecipeError(
                        f"the file {path.name} is not the patch that it is named after", "edges"
                    )
                return path
        raise RecipeError(
            f"the patch {sha256[:12]}… is listed in the recipe but is not in {folder}; give the right folder "
            "with --patches, or remove it from edges.patches to have it made again",
            "edges.patches",
        )

    return find


def schema(options: argparse.Namespace) -> int:
    """The JSON Schema of the recipe."""
    from sequor.recipe.model import json_schema

    print(json.dumps(json_schema(), indent=2))
    return 0
