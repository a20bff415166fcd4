"""The command line: the same code as the web application, without server and database.

Each command loads what it needs: reading a recipe must not wait for what only a picture needs. Prints one
JSON document a line. A bad recipe gets its error on its line, the others go on, and the exit status is 2 at
the end.
"""

from __future__ import annotations

import argparse
import json
import os
import sys
import tempfile
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

from sequor.operations.sidecar import sidecar_of
from sequor.store.files import content_hash
from sequor.store.room import NoRoomError

if TYPE_CHECKING:
    from sequor.core.raster.pixels import Picture
    from sequor.recipe.model import Recipe

Document = dict[str, Any]
FAILED = 2
EXTENTS = ("tilt", "walls", "square-on")


def main(arguments: Sequence[str] | None = None) -> int:
    """Run one command; the exit status."""
    options = _parser().parse_args(arguments)
    try:
        status: int = options.run(options)
        return status
    except BrokenPipeError:
        # Nobody listens any more; what is left unwritten must not be tried again at the end.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return FAILED


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="sequor", description="Level and straighten photographs from measured lines."
    )
    commands = parser.add_subparsers(required=True, metavar="COMMAND")

    def add(name: str, run: Callable[[argparse.Namespace], int], words: str) -> argparse.ArgumentParser:
        command = commands.add_parser(name, help=words, description=words)
        command.set_defaults(run=run)
        return command

    measure = add("measure", _measure, "print what each line measures, as taken")
    measure.add_argument("recipes", nargs="+", type=Path, metavar="RECIPE")
    solve = add(
        "solve", _solve, "work out the correction: angles, what remains on each line, and the crop frame"
    )
    solve.add_argument("recipes", nargs="+", type=Path, metavar="RECIPE")
    solve.add_argument("--write", action="store_true", help="write the results into the recipe files")
    snap = add("snap", _snap, "move rough lines onto the real edges in the photo")
    snap.add_argument("recipe", type=Path, metavar="RECIPE")
    snap.add_argument("photo", type=Path, metavar="PHOTO")
    snap.add_argument("--write", action="store_true", help="write the moved lines into the recipe")
    apply = add("apply", _apply, "write the corrected picture")
    apply.add_argument("recipe", type=Path, metavar="RECIPE")
    apply.add_argument("photo", type=Path, metavar="PHOTO")
    apply.add_argument("out", type=Path, metavar="OUT")
    apply.add_argument(
        "--patches", type=Path, metavar="DIR", help="folder with the patch files the recipe lists"
    )
    apply.add_argument(
        "--mask", type=Path, metavar="FILE", help="also write a mask of the new pixels (white = new), PNG"
    )
    info = add("info", _info, "print what the photo file says about camera, lens and size")
    info.add_argument("photo", type=Path, metavar="PHOTO")
    look = add("look", _look, "print what can be measured in a photo without help, and how sure that is")
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
        "batch", _batch, "look at many photos, correct those that are sure, and write them to a folder"
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
    add("schema", _schema, "print the JSON Schema of the recipe")
    return parser


def _measure(options: argparse.Namespace) -> int:
    from sequor.wording.measured import measure_report

    def one(path: Path) -> Document:
        return measure_report(_load(path))

    return _each(options.recipes, one)


def _solve(options: argparse.Namespace) -> int:
    from sequor.pipeline.evaluated import evaluate
    from sequor.wording.report import solve_report, with_solved_values

    def one(path: Path) -> Document:
        recipe = _load(path)
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

            _rewrite(path, put_in)
        return solve_report(evaluation)

    return _each(options.recipes, one)


def _snap(options: argparse.Namespace) -> int:
    from sequor.imaging.decode import UnreadablePictureError

    def one(path: Path) -> Document:
        from sequor.operations.snapping import report, snap_references

        recipe = _load(path)
        picture = _photo_of(recipe, options.photo)
        rows = report(snap_references(picture, recipe))
        if options.write:
            found = {row["id"]: row for row in rows if "points" in row}

            def put_in(document: Document) -> None:
                for reference in document.get("references", []):
                    if reference["id"] in found:
                        row = found[reference["id"]]
                        reference.update(points=row["points"], sigma_px=row["sigma_px"])

            _rewrite(path, put_in)
        return {"references": rows}

    return _each([options.recipe], one, (UnreadablePictureError,))


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


def _apply(options: argparse.Namespace) -> int:
    from sequor.imaging.decode import UnreadablePictureError

    def one(path: Path) -> Document:
        from sequor.operations.export_names import check_ending
        from sequor.operations.exporting import export
        from sequor.operations.filling import Means

        recipe = _load(sidecar_of(options.photo) if str(path) == "-" else path)
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

    return _each([options.recipe], one, (UnreadablePictureError,))


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


def _info(options: argparse.Namespace) -> int:
    from sequor.imaging.colour import profile_name
    from sequor.imaging.decode import UnreadablePictureError, colour_profile, read_header
    from sequor.imaging.metadata import camera_facts

    path: Path = options.photo
    try:
        if not path.is_file():
            raise FileNotFoundError(f"there is no file {path}")
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
                "bits": header.bits,
                "sha256": content_hash(path),
            }
        )
    except (UnreadablePictureError, OSError) as error:
        _print({"photo": str(path), "error": str(error), "field": None})
        return FAILED
    return 0


def _look(options: argparse.Namespace) -> int:
    from sequor.imaging.decode import UnreadablePictureError
    from sequor.recipe.parse import RecipeError

    if options.write and options.take is None:
        print("sequor look: --write needs --take", file=sys.stderr)
        return FAILED
    status = 0
    for path in options.photos:
        try:
            _print({"photo": str(path), **_looked(path, options.take if options.write else None)})
        except (UnreadablePictureError, RecipeError, OSError) as error:
            _print({"photo": str(path), "error": str(error), "field": getattr(error, "field", None)})
            status = FAILED
    return status


def _looked(path: Path, write: Any) -> Document:
    """What is seen in a photo; ``write``: the extent at which a recipe is written beside it, if it is
    sure."""
    import time

    from sequor.imaging.decode import decode
    from sequor.operations.lenses import recipe_of_file
    from sequor.operations.looking import look_at, report, taken

    if not path.is_file():
        raise FileNotFoundError(f"there is no file {path}")
    recipe, facts = recipe_of_file(path, content_hash(path))
    picture = decode(path)
    begun = time.perf_counter()
    seen = look_at(picture, recipe, facts.held)
    seconds = time.perf_counter() - begun
    told = {**report(seen), "recorded": facts.held, "seconds": round(seconds, 2)}
    if write is not None and seen.cannot_tell is None:
        if write not in {one.extent for one in seen.extents}:
            return {**told, "written": None}
        document = taken(recipe, seen.references, write).model_dump(mode="json")
        out = sidecar_of(path)
        out.write_text(json.dumps(document, indent=1, ensure_ascii=False) + "\n")
        return {**told, "written": str(out)}
    return told


def _batch(options: argparse.Namespace) -> int:
    import time
    from collections import Counter

    from sequor.imaging.formats.registry import FORMATS
    from sequor.operations.batching import Wish, batch, photos_in
    from sequor.recipe.parse import RecipeError

    if options.format is not None and options.format not in FORMATS:
        print(f"sequor batch: the formats are {', '.join(FORMATS)}", file=sys.stderr)
        return FAILED
    try:
        recipe = None if options.recipe is None else _load(options.recipe).model_dump_json()
    except RecipeError as error:
        print(f"sequor batch: {options.recipe}: {error}", file=sys.stderr)
        return FAILED
    wish = Wish(options.take, options.sure, recipe, options.format)
    begun = time.perf_counter()
    states: Counter[str] = Counter(written=0, left=0, failed=0)
    try:
        for came in batch(photos_in(options.photos), options.out, wish, max(1, options.workers)):
            states[came.state] += 1
            _print(came.told())
    except OSError as error:
        print(f"sequor batch: {error}", file=sys.stderr)
        return FAILED
    _print({**states, "seconds": round(time.perf_counter() - begun, 1)})
    return FAILED if states["failed"] else 0


def _schema(options: argparse.Namespace) -> int:
    from sequor.recipe.model import json_schema

    print(json.dumps(json_schema(), indent=2))
    return 0


def _each(
    paths: Sequence[Path], one: Callable[[Path], Document], refused: tuple[type[Exception], ...] = ()
) -> int:
    """Print what comes of each; ``refused``: errors besides those of recipes and files that are told."""
    from sequor.recipe.parse import RecipeError

    told: tuple[type[Exception], ...] = (OSError, *refused)
    status = 0
    for path in paths:
        try:
            document = {"recipe": str(path), **one(path)}
        except RecipeError as error:
            document = {"recipe": str(path), "error": str(error), "field": error.field or None}
            status = FAILED
        except told as error:
            document = {"recipe": str(path), "error": str(error), "field": None}
            status = FAILED
        except MemoryError:
            document = {"recipe": str(path), "error": "there is not enough memory for this", "field": None}
            status = FAILED
        except Exception as error:
            words = f"something went wrong that should not have ({type(error).__name__}: {error})"
            document = {"recipe": str(path), "error": words, "field": None}
            status = FAILED
        _print(document)
    return status


def _load(path: Path) -> Recipe:
    from sequor.recipe.parse import RecipeError, parse

    try:
        return parse(path.read_bytes())
    except OSError as error:
        raise RecipeError(f"the recipe cannot be read: {error.strerror}", "") from None


def _rewrite(path: Path, change: Callable[[Document], None]) -> None:
    """Replace the file in one step, so that a stop half way leaves the old one."""
    original = json.loads(path.read_text())
    change(original)
    with tempfile.NamedTemporaryFile("w", dir=path.parent, delete=False, suffix=".json") as file:
        file.write(json.dumps(original, indent=2) + "\n")
        file.flush()
        os.fsync(file.fileno())
    Path(file.name).chmod(path.stat().st_mode)
    Path(file.name).replace(path)


def _print(document: Document) -> None:
    line = json.dumps(document, ensure_ascii=False)
    # A name need not be text; what cannot be written is written escaped.
    print(line.encode(errors="backslashreplace").decode(), flush=True)


def command() -> None:
    """The command that an installation brings."""
    sys.exit(main())


if __name__ == "__main__":
    command()
