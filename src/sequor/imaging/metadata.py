"""What a camera wrote into the file, and how it is carried over to the export."""

from __future__ import annotations

import base64
import warnings
import zlib
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from PIL import Image

from sequor.imaging.blocks import Blocks, blocks_of
from sequor.imaging.exif import HEADER, Carrying, DamagedExifError, made_true
from sequor.imaging.held import held
from sequor.imaging.regions import carry_regions
from sequor.imaging.xmp import (
    NAMES,
    DamagedXmpError,
    Packet,
    is_place,
    is_resolution,
    is_serial,
    is_stale,
)

AGENT = "Sequor"

LONGEST_RECIPE = 4_000_000
"""Bytes of a recipe that is taken out of a file."""


@dataclass(frozen=True)
class CameraFacts:
    """The recorded facts that matter here; None where the file says nothing. ``as_shot``: the light of a
    raw photo, see ``decode.as_shot``; ``held``: recorded roll and pitch in degrees, see ``held.held``."""

    make: str | None = None
    model: str | None = None
    lens: str | None = None
    focal_mm: float | None = None
    focal_35mm: float | None = None
    taken_at: str | None = None
    has_place: bool = False
    as_shot: tuple[float, float] | None = None
    held: tuple[float | None, float | None] | None = None


def camera_facts(path: Path) -> CameraFacts:
    """Read them from a file; unreadable metadata counts as none."""
    blocks = blocks_of(path)
    block = blocks.exif
    if block is None:
        return CameraFacts(held=held({}, blocks.xmp))
    exif = Image.Exif()
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            exif.load(HEADER + block)
            details, place = exif.get_ifd(0x8769), exif.get_ifd(0x8825)
    except Exception:  # broken EXIF comes as many kinds of error
        return CameraFacts(held=held({}, blocks.xmp))
    return CameraFacts(
        make=_text(exif.get(0x010F)),
        model=_text(exif.get(0x0110)),
        lens=_text(details.get(0xA434)),
        focal_mm=_number(details.get(0x920A)),
        focal_35mm=_number(details.get(0xA405)),
        taken_at=_text(details.get(0x9003)),
        has_place=2 in place or 4 in place,
        held=held(details, blocks.xmp),
    )


SOURCE_TYPE = "http://cv.iptc.org/newscodes/digitalsourcetype/compositeSynthetic"
"""Several elements, at least one of them made and not taken (IPTC NewsCodes, Digital Source Type).

The terms as the types of the C2PA standard list them (npm @contentauth/c2pa-types 0.7.6), their definitions
from memory. Nothing was trained to make these pixels, so neither trainedAlgorithmicMedia nor
compositeWithTrainedAlgorithmicMedia is true; algorithmicMedia is for a whole picture that no camera took,
algorithmicallyEnhanced for one in which nothing is added.
"""


PAINTED_TYPE = "http://cv.iptc.org/newscodes/digitalsourcetype/compositeWithTrainedAlgorithmicMedia"
"""The same where an outside painter made some of it: those are trained, as a rule."""


def carried(source: Path, wanted: Carrying) -> tuple[Blocks, list[str]]:
    """The metadata of an original for an export, made true, and sentences on what is left out of it.

    Orientation becomes 1 (the pixels are upright now), the pixel dimensions become true; the small picture is
    renewed; faces and the subject are marked where they lie now. New pixels are declared. Metadata never
    stops a picture: what cannot be read is left out."""
    blocks = blocks_of(source)
    told: list[str] = []
    exif = None
    if blocks.exif is not None:
        try:
            exif = made_true(blocks.exif, wanted)
        except DamagedExifError:
            told.append(_left_out("EXIF"))
    try:
        xmp, gone = _true_xmp(blocks.xmp, wanted)
    except DamagedXmpError:
        told.append(_left_out("XMP"))
        xmp, gone = _true_xmp(None, wanted)
    if gone:
        told.append(
            "Some marked faces or panorama data were left out of the exported file: they no longer fit."
        )
    return replace(blocks, exif=exif, xmp=xmp), told


def recipe_in(path: Path) -> bytes | None:
    """The recipe that an exported picture carries, as JSON; None where there is none that can be read."""
    try:
        told = Packet(blocks_of(path).xmp).text("sequor", "Recipe")
        if told is None:
            return None
        unpack = zlib.decompressobj()
        return unpack.decompress(base64.b64decode(told, validate=True), LONGEST_RECIPE)
    except (DamagedXmpError, ValueError, zlib.error):
        return None


def _left_out(part: str) -> str:
    return f"The {part} metadata in the photo's file is damaged. It was left out of the exported file."


def _true_xmp(before: bytes | None, wanted: Carrying) -> tuple[bytes | None, bool]:
    """The packet of the export, None where there is nothing to say; whether something was taken out of it
    that people may look for."""
    if before is None and not wanted.new and wanted.recipe is None:
        return None, False
    packet = Packet(before)
    marked = False
    if wanted.through is not None:
        marked = carry_regions(packet, wanted.through, wanted.stored, (wanted.width, wanted.height))
    marked |= packet.drop(lambda space, name: is_stale(space, name) and name == "RegionInfo")
    marked |= packet.drop(lambda space, name: is_stale(space, name) and "panorama" in space)
    packet.drop(is_stale)
    if wanted.ppi is not None:
        packet.drop(is_resolution)
    if not wanted.place:
        packet.drop(is_place)
    if not wanted.serials:
        packet.drop(is_serial)
    now = datetime.now(UTC)
    packet.put("xmp", "ModifyDate", now.astimezone().isoformat(timespec="seconds"))
    packet.put("xmp", "CreatorTool", AGENT)
    packet.add_event("saved", AGENT, now, "corrected and cropped")
    packet.drop(lambda space, _: space == NAMES["sequor"])
    if wanted.recipe is not None:
        packet.put("sequor", "Recipe", base64.b64encode(zlib.compress(wanted.recipe, 9)).decode())
    if wanted.new:
        _declare(packet, wanted.new, wanted.painted)
    return packet.written(), marked


def _declare(packet: Packet, new: float, painted: bool) -> None:
    """Say in XMP what kind of picture it is (IPTC Photo Metadata Standard: Digital Source Type), and in its
    log how much of it is new (xmpDM:logComment, XMP Specification part 2)."""
    how = "filled from the rest of the picture"
    if painted:
        how = "new, some of them painted by an external service"
    words = f"{100 * new:.2f}% of the pixels {how}"
    before = packet.text("xmpDM", "logComment")
    packet.put("Iptc4xmpExt", "DigitalSourceType", PAINTED_TYPE if painted else SOURCE_TYPE)
    packet.put("xmpDM", "logComment", f"{before}\n{words}" if before else words)


def _text(value: Any) -> str | None:
    if not isinstance(value, str):
        return None
    plain = "".join(sign for sign in value if sign.isprintable()).strip()
    return plain[:200] or None


def _number(value: Any) -> float | None:
    """A positive EXIF number, also a fraction such as 205/10."""
    try:
        number = float(value)
    except (TypeError, ValueError, ZeroDivisionError):
        return None
    return number if 0 < number < 100_000 else None
