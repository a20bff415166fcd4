"""Export: the original through the map, once, at full resolution, with its metadata and colour profile."""

from __future__ import annotations

import struct
import zipfile
from collections.abc import Sequence
from dataclasses import dataclass, replace
from pathlib import Path

import cv2
import numpy as np

from sequor.core.camera import Array
from sequor.core.raster.pixels import Picture
from sequor.core.raster.resample import resample, shown
from sequor.core.rectangle import Rectangle
from sequor.core.warp.base import Warp
from sequor.imaging.blocks import Blocks
from sequor.imaging.carrying import Through, stored_to_upright
from sequor.imaging.colour import ToScreen
from sequor.imaging.decode import colour_profile, decode, notices, read_header
from sequor.imaging.encode import reduce_to, small_jpeg, write_mask
from sequor.imaging.exif import Carrying
from sequor.imaging.formats.base import ExportFormat, Manner
from sequor.imaging.formats.registry import FORMATS
from sequor.imaging.metadata import camera_facts, carried
from sequor.imaging.originals.base import TRANSPARENT, TRANSPOSED
from sequor.pipeline.edges.registry import mode_of
from sequor.pipeline.evaluated import Evaluated, evaluate
from sequor.pipeline.retouch import frame_size
from sequor.recipe.model import Recipe
from sequor.recipe.model.export import CARRIES
from sequor.recipe.parse import RecipeError
from sequor.store.room import RESERVE, NoRoomError, refuse_without_room

from .developing import refuse_undevelopable
from .export_pixels import as_deep, in_colours, opacity_of, sharpened, without_white
from .filling import Mask, Means, empty_area, fill_frame, rendered
from .reporting import Report
from .shaping import looks_for_segments, with_segments
from .touching_up import TouchUps

NOTHING = Means()

SMALL_SIDE = 160
"""Pixels of the small picture in EXIF (DCF 2.0, 3.3.6: 160 x 120)."""

BYTES_DECODED, BYTES_RENDERED, BYTES_NEW = 7, 10, 16
"""Memory for each pixel: of the photo while it is decoded, of the file while it is written, of a frame in
which new pixels are made."""
MOST_MEMORY = 5_000_000_000
"""Bytes; a child may have 8 GB, of which the libraries take two."""


@dataclass(frozen=True)
class Exported:
    """The file that was written; ``keeps_place`` when it says where the photo was taken (GPS); ``filled``:
    the share of its pixels that are new; ``made_anew``: how many patches were stale."""

    width: int
    height: int
    bytes: int
    keeps_place: bool
    filled: float
    made_anew: int = 0
    notices: tuple[str, ...] = ()


def decode_for(recipe: Recipe, original: Path) -> Picture:
    """The photo as the recipe turns it.

    Raises RecipeError when its size is another, UnreadablePictureError.
    """
    refuse_undevelopable(recipe, original)
    picture = decode(original, recipe.photo.quarter_turns, recipe.develop)
    if picture.shape[:2] != (recipe.photo.height, recipe.photo.width):
        raise RecipeError(
            f"the photo is {picture.shape[1]} × {picture.shape[0]} pixels but the recipe is for "
            f"{recipe.photo.width} × {recipe.photo.height}; use the photo it was made for",
            "photo.width",
        )
    return picture


def export(
    original: Path,
    recipe: Recipe,
    out: Path,
    report: Report,
    means: Means = NOTHING,
    mask: Path | None = None,
) -> Exported:
    """Carry out a recipe on an original and write the picture to ``out``, all or nothing.

    The size of the photo must be the recipe's. ``means`` get at the recipe's patches. ``mask``: what is new
    is written there too, as a grey PNG of the same size, white where it is. Raises RecipeError,
    UnreadablePictureError, NoRoomError, and what ``means.find`` raises.
    """
    picture: Picture | None = None
    if looks_for_segments(recipe):
        picture = decode_for(recipe, original)
        recipe = with_segments(picture, recipe)
    evaluation = evaluate(recipe)
    plan, frame = evaluation.output, evaluation.frame
    (width, height), wanted = plan.size, plan.export
    format_ = FORMATS[wanted.format]
    across, down = width / frame.width, height / frame.height
    ppi = None if plan.printed is None else plan.printed.ppi * across
    refuse_without_room(out.parent, format_.bytes_of(width * height))
    report(0.02, "Reading")
    picture = decode_for(recipe, original) if picture is None else picture
    report(0.25, "Correcting")
    warp = evaluation.warp.resized(across, down)
    pixels = resample(
        picture,
        warp,
        frame.x * across,
        frame.y * down,
        width,
        height,
        background=plan.background,
        progress=lambda share: report(0.25 + 0.3 * share, "Correcting"),
    )
    hole = ~shown(warp, frame.x * across, frame.y * down, width, height)
    fills = mode_of(recipe.edges).makes_pixels and bool(hole.any())
    new, anew = hole if fills else np.zeros_like(hole), 0
    if fills or any(one.active for one in recipe.edges.touch_ups):
        new, anew = _make_new(picture, pixels, hole, evaluation, means, report)
    del picture
    report(0.8, "Saving")
    place = Rectangle(frame.x * across, frame.y * down, width, height)
    opaque = None
    if CARRIES[wanted.format].alpha:
        opaque = opacity_of(original, recipe.photo.quarter_turns, warp, place, hole, new, plan.clear)
    if opaque is not None:
        pixels = without_white(pixels, opaque)
    filled = float(new.mean())
    unfinished = out.with_name(out.name + ".unfinished")
    pixels, profile = in_colours(sharpened(pixels, wanted, ppi), colour_profile(original), wanted)
    blocks, lost = carried(
        original,
        Carrying(
            width,
            height,
            *_way(original, recipe, warp, place),
            ppi=ppi,
            new=filled,
            painted=_some_painted(recipe, fills),
            place="place" not in wanted.leave_out,
            serials="serials" not in wanted.leave_out,
            small=small_jpeg(ToScreen(profile)(reduce_to(pixels, SMALL_SIDE)), quality=80),
            recipe=None if "recipe" in wanted.leave_out else recipe.model_dump_json().encode(),
        ),
    )
    manner = Manner(
        wanted.quality, wanted.subsampling, wanted.progressive, wanted.compression, ppi, profile, blocks
    )
    try:
        lost += _written(
            format_, pixels, unfinished, manner, None if opaque is None else as_deep(opaque, pixels)
        )
        if mask:
            write_mask(new, mask)
        size = unfinished.stat().st_size
        unfinished.replace(out)
    except OSError as error:
        raise _not_saved(error) from None
    finally:
        unfinished.unlink(missing_ok=True)
    told = [one for one in notices(original) if one != TRANSPARENT or not CARRIES[wanted.format].alpha]
    report(1.0, "Done")
    keeps_place = "place" not in wanted.leave_out and camera_facts(original).has_place
    return Exported(width, height, size, keeps_place, filled, anew, (*told, *lost))


def _way(original: Path, recipe: Recipe, warp: Warp, place: Rectangle) -> tuple[Through, tuple[int, int]]:
    """How the pixels of an original, as it is stored, get into the file; and how large it is."""
    header, turns = read_header(original), recipe.photo.quarter_turns
    upright = header.width, header.height
    stored = upright[::-1] if header.orientation in TRANSPOSED else upright

    def through(points: Array) -> Array:
        seen = stored_to_upright(points, header.orientation, *stored)
        width, height = upright
        for _ in range(turns):
            seen = np.column_stack([height - seen[:, 1], seen[:, 0]])
            width, height = height, width
        return warp.to_corrected(seen) - (place.x, place.y)

    return through, stored


def _written(
    format_: ExportFormat, pixels: Picture, path: Path, manner: Manner, opaque: Picture | None
) -> list[str]:
    """Write a file; sentences on metadata that it cannot carry."""
    blocks, told = manner.blocks, []
    if blocks.iptc and not format_.carries_iptc:
        called = CARRIES[format_.name].called
        told.append(f"A {called} carries no IPTC data. They were left out of the exported file.")
    try:
        format_.write(pixels, path, manner, opaque)
    except (ValueError, struct.error):
        # Blocks that are too long for the format, or that do not fit it: better without than no picture.
        format_.write(pixels, path, replace(manner, blocks=Blocks()), opaque)
        told.append("The metadata in the photo's file do not fit into this format. They were left out.")
    return told


def _not_saved(error: OSError) -> NoRoomError:
    return NoRoomError(
        f"The file could not be saved: {error.strerror}. The photo is unchanged; free some disk space and "
        "try again"
    )


def _make_new(
    picture: Picture,
    pixels: Picture,
    hole: Mask,
    evaluation: Evaluated,
    means: Means,
    report: Report,
) -> tuple[Mask, int]:
    """Fill and touch up a rendered area in place; what is new in it, and how many patches were made anew.

    New pixels are made at the frame's own size: a file of another size shows them resized, so that it is the
    same take.
    """
    touched = any(one.active for one in evaluation.recipe.edges.touch_ups)
    fills = mode_of(evaluation.recipe.edges).makes_pixels

    def told(share: float) -> None:
        report(0.55 + (0.15 if touched else 0.25) * share, "Filling")

    own = hole.shape[::-1] == frame_size(evaluation.frame)
    whole, empty = (pixels, hole) if own else (rendered(picture, evaluation), empty_area(evaluation))
    new = empty if fills else np.zeros_like(empty)
    anew = fill_frame(picture, whole, empty, evaluation, means, told) if new.any() else 0
    if touched:
        touch_ups = TouchUps(picture, evaluation, means, whole)
        whole, changed = touch_ups.all(lambda share: report(0.7 + 0.1 * share, "Touching up"))
        new, anew = new | changed, anew + touch_ups.anew
    if own:
        pixels[new] = whole[new]
        return new, anew
    method = cv2.INTER_AREA if hole.size < empty.size else cv2.INTER_CUBIC
    there = np.asarray(cv2.resize(new.astype(np.float32), hole.shape[::-1], interpolation=method)) > 0.02
    there = (there & ~hole) | (hole & fills)
    pixels[there] = cv2.resize(whole, hole.shape[::-1], interpolation=method)[there]
    return there, anew


def _some_painted(recipe: Recipe, fills: bool) -> bool:
    """Whether an outside painter has made some of the picture."""
    touched = any(one.active and one.amount > 0 and one.hint for one in recipe.edges.touch_ups)
    return touched or (fills and recipe.edges.hint is not None)


def export_together(
    original: Path,
    named: Sequence[tuple[str, Recipe]],
    out: Path,
    report: Report,
    means: Means = NOTHING,
) -> list[Exported]:
    """Carry out several recipes on one original and write the pictures into one ZIP file, all or nothing.

    ``named``: the name of each picture in it, and its recipe. Raises as ``export`` does.
    """
    written = []
    files = [(out.with_name(f"{out.name}-{index}"), name) for index, (name, _) in enumerate(named)]
    unfinished = out.with_name(out.name + ".unfinished")
    try:
        for index, (name, recipe) in enumerate(named):

            def part(share: float, words: str, begun: int = index, called: str = name) -> None:
                report((begun + 0.98 * share) / len(named), f"{called}: {words}")

            written.append(export(original, recipe, files[index][0], part, means))
        try:
            # The pictures are compressed already.
            with zipfile.ZipFile(unfinished, "w", zipfile.ZIP_STORED) as together:
                for file, name in files:
                    together.write(file, name)
            unfinished.replace(out)
        except OSError as error:
            raise _not_saved(error) from None
    finally:
        for path in (unfinished, *(file for file, _ in files)):
            path.unlink(missing_ok=True)
    report(1.0, "Done")
    return written


def refuse_too_costly(recipes: Sequence[Recipe], folder: Path) -> None:
    """Look beforehand whether the memory and the disk of a folder suffice for some exports.

    Raises RecipeError, NoRoomError.
    """
    room = 0
    for recipe in recipes:
        evaluation = evaluate(recipe)
        frame, (width, height) = evaluation.frame, evaluation.output.size
        makes_new = mode_of(recipe.edges).makes_pixels or any(one.active for one in recipe.edges.touch_ups)
        own = frame.width * frame.height if makes_new else 0.0
        photo = recipe.photo.width * recipe.photo.height
        memory = photo * BYTES_DECODED + width * height * BYTES_RENDERED + own * BYTES_NEW
        if memory > MOST_MEMORY:
            raise RecipeError(
                f"a file of {width} × {height} pixels would need {memory / 1e9:.0f} GB of memory; "
                f"{MOST_MEMORY / 1e9:.0f} GB are allowed. Make the frame or the file smaller",
                "frame.rect",
            )
        room += FORMATS[recipe.export.format].bytes_of(width * height)
    refuse_without_room(folder, room, RESERVE)
