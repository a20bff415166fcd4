"""The commands and their options."""

from __future__ import annotations

import argparse
import os
import sys
from collections.abc import Callable, Sequence
from pathlib import Path

from . import photos, recipes
from .told import FAILED

EXTENTS = ("tilt", "walls", "square-on")


def main(arguments: Sequence[str] | None = None) -> int:
    """Run one command; the exit status."""
    options = parser().parse_args(arguments)
    try:
        status: int = options.run(options)
        return status
    except BrokenPipeError:
        # Nobody listens any more; what is left unwritten must not be tried again at the end.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return FAILED


def parser() -> argparse.ArgumentParser:
    """All commands with their options."""
    line = argparse.ArgumentParser(
        prog="sequor", description="Level and straighten photographs from measured lines."
    )
    commands = line.add_subparsers(required=True, metavar="COMMAND")

    def add(name: str, run: Callable[[argparse.Namespace], int], words: str) -> argparse.ArgumentParser:
        command = commands.add_parser(name, help=words, description=words)
        command.set_defaults(run=run)
        return command

    measure = add("measure", recipes.measure, "print what each line measures, as taken")
    measure.add_argument("recipes", nargs="+", type=Path, metavar="RECIPE")
    solve = add(
        "solve",
        recipes.solve,
        "work out the correction: angles, what remains on each line, and the crop frame",
    )
    solve.add_argument("recipes", nargs="+", type=Path, metavar="RECIPE")
    solve.add_argument("--write", action="store_true", help="write the results into the recipe files")
    snap = add("snap", recipes.snap, "move rough lines onto the real edges in the photo")
    snap.add_argument("recipe", type=Path, metavar="RECIPE")
    snap.add_argument("photo", type=Path, metavar="PHOTO")
    snap.add_argument("--write", action="store_true", help="write the moved lines into the recipe")
    apply = add("apply", recipes.apply, "write the corrected picture")
    apply.add_argument("recipe", type=Path, metavar="RECIPE")
    apply.add_argument("photo", type=Path, metavar="PHOTO")
    apply.add_argument("out", type=Path, metavar="OUT")
    apply.add_argument(
        "--patches", type=Path, metavar="DIR", help="folder with the patch files the recipe lists"
    )
    apply.add_argument(
        "--mask", type=Path, metavar="FILE", help="also write a mask of the new pixels (white = new), PNG"
    )
    info = add("info", photos.info, "print what the photo file says about camera, lens and size")
    info.add_argument("photo", type=Path, metavar="PHOTO")
    look = add(
        "look", photos.look, "print what can be measured in a photo without help, and how sure that is"
    )
    look.add_argument("photos", nargs="+", type=Path, metavar="PHOTO")
    look.add_argument(
        "--take",
        choices=EXTENTS,
        help="how far the correction goes that --write writes",
    )
    look.add_argument(
        "--write", action="store_true", help="write NAME.sequor.json beside each photo that is sure enough"
    )
    batch = add(
        "batch", photos.batch, "look at many photos, correct those that are sure, and write them to a folder"
    )
    batch.add_argument("photos", nargs="+", type=Path, metavar="FOLDER|PHOTO")
    batch.add_argument(
        "--out", type=Path, required=True, metavar="DIR", help="where the pictures are written"
    )
    batch.add_argument("--take", choices=EXTENTS, default="tilt", help="how far the correction goes")
    batch.add_argument(
        "--sure", type=float, default=0.8, metavar="SHARE", help="from which confidence on (0 to 1)"
    )
    batch.add_argument(
        "--recipe", type=Path, metavar="RECIPE", help="what ratio, edges and export are taken from"
    )
    batch.add_argument("--format", metavar="NAME", help="the format that is written")
    batch.add_argument("--workers", type=int, default=1, metavar="N", help="so many photos at a time")
    add("schema", recipes.schema, "print the JSON Schema of the recipe")
    return line


def command() -> None:
    """The command that an installation brings."""
    sys.exit(main())
