"""Commands on photographs: info, look, and batch for many."""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path
from typing import Any

from sequor.operations.sidecar import sidecar_of
from sequor.store.files import content_hash

from .told import FAILED, Document, load, print_line


def info(options: argparse.Namespace) -> int:
    """What the file says of camera, lens and size."""
    from sequor.imaging.colour import profile_name
    from sequor.imaging.decode import UnreadablePictureError, colour_profile, read_header
    from sequor.imaging.metadata import camera_facts

    path: Path = options.photo
    try:
        if not path.is_file():
            raise FileNotFoundError(f"there is no file {path}")
        header, facts = read_header(path), camera_facts(path)
        print_line(
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
        print_line({"photo": str(path), "error": str(error), "field": None})
        return FAILED
    return 0


def look(options: argparse.Namespace) -> int:
    """What can be measured without help; with --write a recipe beside each photo that is sure."""
    from sequor.imaging.decode import UnreadablePictureError
    from sequor.recipe.parse import RecipeError

    if options.write and options.take is None:
        print("sequor look: --write needs --take", file=sys.stderr)
        return FAILED
    status = 0
    for path in options.photos:
        try:
            print_line({"photo": str(path), **_looked(path, options.take if options.write else None)})
        except (UnreadablePictureError, RecipeError, OSError) as error:
            print_line({"photo": str(path), "error": str(error), "field": getattr(error, "field", None)})
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


def batch(options: argparse.Namespace) -> int:
    """Many photos looked at, and those that are sure corrected and written."""
    import time
    from collections import Counter

    from sequor.imaging.formats.registry import FORMATS
    from sequor.operations import batching
    from sequor.recipe.parse import RecipeError

    if options.format is not None and options.format not in FORMATS:
        print(f"sequor batch: the formats are {', '.join(FORMATS)}", file=sys.stderr)
        return FAILED
    try:
        recipe = None if options.recipe is None else load(options.recipe).model_dump_json()
    except RecipeError as error:
        print(f"sequor batch: {options.recipe}: {error}", file=sys.stderr)
        return FAILED
    wish = batching.Wish(options.take, options.sure, recipe, options.format)
    begun = time.perf_counter()
    states: Counter[str] = Counter(written=0, left=0, failed=0)
    try:
        photos = batching.photos_in(options.photos)
        for came in batching.batch(photos, options.out, wish, max(1, options.workers)):
            states[came.state] += 1
            print_line(came.told())
    except OSError as error:
        print(f"sequor batch: {error}", file=sys.stderr)
        return FAILED
    print_line({**states, "seconds": round(time.perf_counter() - begun, 1)})
    return FAILED if states["failed"] else 0
