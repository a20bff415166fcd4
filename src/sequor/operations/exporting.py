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
from sequor.imaging.rows import Rows, rows_of
from sequor.pipeline.edges.base import Colour
from sequor.pipeline.edges.registry import mode_of
from sequor.pipeline.evaluated import Evaluated, evaluate
from sequor.pipeline.retouch import frame_size
from sequor.recipe.model import Recipe
from sequor.recipe.model.export import CARRIES
from sequor.recipe.parse import RecipeError
from sequor.store.room import RESERVE, NoRoomError, refuse_without_room

from .developing import refuse_undevelopable
from .export_pixels import finished, opacity_of
from .filling import Mask, Means, empty_area, fill_frame, rendered
from .reporting import Report
from .shaping import needs_segments, with_segments
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
    if needs_segments(recipe):
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
    place = Rectangle(frame.x * across, frame.y * down, width, height)
    makes = mode_of(recipe.edges).makes_pixels
    touched = any(one.active for one in recipe.edges.touch_ups)
    hole = ~shown(warp, place.x, place.y, width, height) if makes or touched or plan.clear else None
    fills = makes and hole is not None and bool(hole.any())
    source = _rendered(picture, warp, place, plan.background, report)
    new, anew = None, 0
    if hole is not None and (fills or touched):
        pixels = source.whole()
        new, anew = _make_new(picture, pixels, hole, evaluation, means, report)
        source = rows_of(pixels)
        report(0.8, "Saving")
    opaque = None
    if CARRIES[wanted.format].alpha:
        clear = hole if plan.clear else None
        opaque = opacity_of(original, recipe.photo.quarter_turns, warp, place, clear, new)
    filled = 0.0 if new is None else float(new.mean())
    own = colour_profile(original)
    rows, profile = finished(source, opaque, own, wanted, ppi)
    small = _small(picture, evaluation, plan.background) if new is None else source.whole()
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
            small=small_jpeg(ToScreen(own)(reduce_to(small, SMALL_SIDE)), quality=80),
            recipe=None if "recipe" in wanted.leave_out else recipe.model_dump_json().encode(),
        ),
    )
    manner = Manner(
        wanted.quality, wanted.subsampling, wanted.progressive, wanted.compression, ppi, profile, blocks
    )
    try:
        if mask:
            write_mask(np.zeros((height, width), np.bool_) if new is None else new, mask)
        size = _saved(format_, rows, out, manner, lost)
    except OSError as error:
        raise _not_saved(error) from None
    told = [one for one in notices(original) if one != TRANSPARENT or not CARRIES[wanted.format].alpha]
    report(1.0, "Done")
    keeps_place = "place" not in wanted.leave_out and camera_facts(original).has_place
    return Exported(width, height, size, keeps_place, filled, anew, (*told, *lost))


def _rendered(picture: Picture, warp: Warp, place: Rectangle, background: Colour, report: Report) -> Rows:
    """The corrected picture, rendered as it is asked for."""
    width, height = round(place.width), round(place.height)

    def read(top: int, count: int) -> Picture:
        def told(share: float) -> None:
            report(0.25 + 0.3 * (top + share * count) / height, "Correcting")

        return resample(picture, warp, place.x, place.y + top, width, count, told, background)

    return Rows(width, height, read, deep=picture.dtype == np.uint16)


def _small(picture: Picture, evaluation: Evaluated, background: Colour) -> Picture:
    """The framed picture a few times as large as its small picture, from every so many pixels of the
    photo."""
    frame = evaluation.frame
    step = max(1, int(max(frame.width, frame.height) / (4 * SMALL_SIDE)))
    seen = np.ascontiguousarray(picture[::step, ::step])
    scale = seen.shape[1] / picture.shape[1]
    size = max(1, round(scale * frame.width)), max(1, round(scale * frame.height))
    warp = evaluation.warp.at_scale(scale)
    return resample(seen, warp, scale * frame.x, scale * frame.y, *size, background=background)


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


def _saved(format_: ExportFormat, rows: Rows, out: Path, manner: Manner, lost: list[str]) -> int:
    """Write a file, all or nothing; its size in bytes. What its metadata lose is told at the end of
    ``lost``."""
    unfinished = out.with_name(out.name + ".unfinished")
    try:
        lost += _written(format_, rows, unfinished, manner)
        size = unfinished.stat().st_size
        unfinished.replace(out)
    finally:
        unfinished.unlink(missing_ok=True)
    return size


def _written(format_: ExportFormat, rows: Rows, path: Path, manner: Manner) -> list[str]:
    """Write a file; sentences on metadata that it cannot carry."""
    blocks, told = manner.blocks, []
    if blocks.iptc and not format_.carries_iptc:
        called = CARRIES[format_.name].called
        told.append(f"A {called} carries no IPTC data. They were left out of the exported file.")
    try:
        format_.write(rows, path, manner)
    except (ValueError, struct.error):
        # Blocks that are too long for the format, or that do not fit it: better without than no picture.
        format_.write(rows, path, replace(manner, blocks=Blocks()))
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
