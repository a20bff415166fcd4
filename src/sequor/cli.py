"""The command line: the same code as the web application, without server and database.

Prints one JSON document a line. A bad recipe gets its error on its line, the others go on, and the exit
status is 2 at the end.
"""

from __future__ import annotations

import argparse
import json
import os
import sys
import tempfile
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

from sequor.imaging.colour import profile_name
from sequor.imaging.decode import UnreadablePictureError, colour_profile, read_header
from sequor.imaging.metadata import camera_facts
from sequor.operations.exporting import NoRoomError, check_ending, export
from sequor.recipe.built import refuse_unbuilt
from sequor.recipe.evaluate import evaluate
from sequor.recipe.model import Recipe, json_schema
from sequor.recipe.reading import RecipeError, parse
from sequor.recipe.report import measure_report, solve_report, with_solved_angles
from sequor.store.originals import content_hash

Document = dict[str, Any]
FAILED = 2


def main(arguments: Sequence[str] | None = None) -> int:
    """Run one command; the exit status."""
    options = _parser().parse_args(arguments)
    status: int = options.run(options)
    return status


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="sequor", description="Level photographs by measured lines.")
    commands = parser.add_subparsers(required=True, metavar="COMMAND")

    def add(name: str, run: Callable[[argparse.Namespace], int], words: str) -> argparse.ArgumentParser:
        command = commands.add_parser(name, help=words, description=words)
        command.set_defaults(run=run)
        return command

    measure = add("measure", _measure, "the readings of every reference, as taken")
    measure.add_argument("recipes", nargs="+", type=Path, metavar="RECIPE")
    solve = add("solve", _solve, "the camera's attitude, how every line stands after it, and the frame")
    solve.add_argument("recipes", nargs="+", type=Path, metavar="RECIPE")
    solve.add_argument("--write", action="store_true", help="put the solved values into the recipe files")
    apply = add("apply", _apply, "write the corrected picture")
    apply.add_argument("recipe", type=Path, metavar="RECIPE")
    apply.add_argument("photo", type=Path, metavar="PHOTO")
    apply.add_argument("out", type=Path, metavar="OUT")
    info = add("info", _info, "what a photo's file says of itself")
    info.add_argument("photo", type=Path, metavar="PHOTO")
    add("schema", _schema, "the JSON Schema of the recipe")
    return parser


def _measure(options: argparse.Namespace) -> int:
    def one(path: Path) -> Document:
        recipe = _load(path)
        refuse_unbuilt(recipe)
        return measure_report(recipe)

    return _each(options.recipes, one)


def _solve(options: argparse.Namespace) -> int:
    def one(path: Path) -> Document:
        recipe = _load(path)
        evaluation = evaluate(recipe)
        if options.write:
            _write_recipe(path, with_solved_angles(recipe, evaluation))
        return solve_report(evaluation)

    return _each(options.recipes, one)


def _apply(options: argparse.Namespace) -> int:
    def one(path: Path) -> Document:
        recipe = _load(path)
        recipe = check_ending(options.out, recipe, "format" in recipe.export.model_fields_set)
        if not options.photo.is_file():
            raise UnreadablePictureError(f"there is no file {options.photo}")
        if not options.out.parent.is_dir():
            raise NoRoomError(f"there is no folder {options.out.parent}")
        if options.out.exists() and options.out.samefile(options.photo):
            raise NoRoomError("the output is the photo itself; originals are never overwritten")
        if recipe.photo.sha256 not in (None, content_hash(options.photo)):
            print("sequor: the photo is not the file this recipe was made for; going on", file=sys.stderr)
        done = export(options.photo, recipe, options.out, lambda share, words: None)
        return {"out": str(options.out), "width": done.width, "height": done.height, "bytes": done.bytes}

    return _each([options.recipe], one)


def _info(options: argparse.Namespace) -> int:
    path: Path = options.photo
    try:
        if not path.is_file():
            raise UnreadablePictureError(f"there is no file {path}")
        header, facts = read_header(path), camera_facts(path)
        _print(
            {
                "width": header.width,
                "height": header.height,
                "make": facts.make,
                "model": facts.model,
                "lens": facts.lens,
                "focal_mm": facts.focal_mm,
                "focal_35mm": facts.focal_35mm,
                "focal_px": None,
                "profile": profile_name(colour_profile(path)),
                "bits": 8,
                "sha256": content_hash(path),
            }
        )
    except (UnreadablePictureError, OSError) as error:
        _print({"photo": str(path), "error": str(error), "field": None})
        return FAILED
    return 0


def _schema(options: argparse.Namespace) -> int:
    print(json.dumps(json_schema(), indent=2))
    return 0


def _each(paths: Sequence[Path], one: Callable[[Path], Document]) -> int:
    status = 0
    for path in paths:
        try:
            document = {"recipe": str(path), **one(path)}
        except RecipeError as error:
            document = {"recipe": str(path), "error": str(error), "field": error.field or None}
            status = FAILED
        except (UnreadablePictureError, OSError) as error:
            document = {"recipe": str(path), "error": str(error), "field": None}
            status = FAILED
        _print(document)
    return status


def _load(path: Path) -> Recipe:
    try:
        return parse(path.read_bytes())
    except OSError as error:
        raise RecipeError(f"the recipe cannot be read: {error.strerror}", "") from None


def _write_recipe(path: Path, recipe: Recipe) -> None:
    """Replace the file in one step, so that a stop half way leaves the old one."""
    original = json.loads(path.read_text())
    correction = recipe.correction
    original.setdefault("correction", {}).update(
        roll=correction.roll, pitch=correction.pitch, yaw=correction.yaw
    )
    with tempfile.NamedTemporaryFile("w", dir=path.parent, delete=False, suffix=".json") as file:
        file.write(json.dumps(original, indent=2) + "\n")
        file.flush()
        os.fsync(file.fileno())
    Path(file.name).chmod(path.stat().st_mode)
    Path(file.name).replace(path)


def _print(document: Document) -> None:
    print(json.dumps(document, ensure_ascii=False), flush=True)


if __name__ == "__main__":
    sys.exit(main())
