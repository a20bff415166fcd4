"""What a camera wrote into the file, and how it is carried over to the export."""

from __future__ import annotations

import warnings
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from PIL import Image

from sequor.imaging.blocks import Blocks, blocks_of
from sequor.imaging.exif import HEADER, DamagedExifError, made_true
from sequor.imaging.xmp import DamagedXmpError, Packet, is_place, is_resolution, is_serial, is_stale

AGENT = "Sequor"


@dataclass(frozen=True)
class CameraFacts:
    """The recorded facts that matter here; None where the file says nothing. ``as_shot``: the light of a
    raw photo, see ``decode.as_shot``."""

    make: str | None = None
    model: str | None = None
    lens: str | None = None
    focal_mm: float | None = None
    focal_35mm: float | None = None
    taken_at: str | None = None
    has_place: bool = False
    as_shot: tuple[float, float] | None = None


def camera_facts(path: Path) -> CameraFacts:
    """Read them from a file; unreadable metadata counts as none."""
    block = blocks_of(path).exif
    if block is None:
        return CameraFacts()
    exif = Image.Exif()
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            exif.load(HEADER + block)
            details, place = exif.get_ifd(0x8769), exif.get_ifd(0x8825)
    except Exception:  # broken EXIF comes as many kinds of error
        return CameraFacts()
    return CameraFacts(
        make=_text(exif.get(0x010F)),
        model=_text(exif.get(0x0110)),
        lens=_text(details.get(0xA434)),
        focal_mm=_number(details.get(0x920A)),
        focal_35mm=_number(details.get(0xA405)),
        taken_at=_text(details.get(0x9003)),
        has_place=2 in place or 4 in place,
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


@dataclass(frozen=True)
class Carrying:
    """What is to be true of the metadata: the size in pixels; ``ppi`` of the print, else the original's
    resolution stays; ``new``: the share of the pixels that no camera took, ``painted``: whether an outside
    painter made some of them; ``place``, ``serials``: whether these go along."""

    width: int
    height: int
    ppi: float | None = None
    new: float = 0.0
    painted: bool = False
    place: bool = True
    serials: bool = True


def carried(source: Path, wanted: Carrying) -> tuple[Blocks, list[str]]:
    """The metadata of an original for an export, made true, and sentences on what is left out of it.

    Orientation becomes 1 (the pixels are upright now), the pixel dimensions become true; the embedded small
    picture goes, because it shows the photo as taken, and where faces or the subject lay, which is no longer
    so. New pixels are declared. Metadata never stops a picture: what cannot be read is left out.
    """
    blocks = blocks_of(source)
    told: list[str] = []
    exif = None
    if blocks.exif is not None:
        try:
            exif = made_true(
                blocks.exif, wanted.width, wanted.height, wanted.ppi, wanted.place, wanted.serials
            )
        except DamagedExifError:
            told.append(_left_out("EXIF"))
    try:
        xmp, regions = _true_xmp(blocks.xmp, wanted)
    except DamagedXmpError:
        told.append(_left_out("XMP"))
        xmp, regions = _true_xmp(None, wanted)
    if regions:
        told.append("Marked faces and panorama data were left out of the exported file: they no longer fit.")
    return replace(blocks, exif=exif, xmp=xmp), told


def _left_out(part: str) -> str:
    return f"The {part} metadata in the photo's file is damaged. It was left out of the exported file."


def _true_xmp(before: bytes | None, wanted: Carrying) -> tuple[bytes | None, bool]:
    """The packet of the export, None where there is nothing to say; whether something was taken out of it
    that people may look for."""
    if before is None and not wanted.new:
        return None, False
    packet = Packet(before)
    marked = packet.drop(lambda space, name: is_stale(space, name) and name in ("Regions", "RegionInfo"))
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
