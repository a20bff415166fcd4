"""What a camera wrote into the file, and how it is carried over to the export."""

from __future__ import annotations

import contextlib
import errno
import os
import struct
import tempfile
import threading
import warnings
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Any

import pyexiv2
from PIL import Image

if TYPE_CHECKING:
    from sequor.imaging.formats.base import ExportFormat


pyexiv2.set_log_level(4)

# Exiv2's XMP toolkit is not safe in several threads at once.
_ONE_AT_A_TIME = threading.Lock()


@dataclass(frozen=True)
class CameraFacts:
    """The recorded facts that matter here; None where the file says nothing."""

    make: str | None = None
    model: str | None = None
    lens: str | None = None
    focal_mm: float | None = None
    focal_35mm: float | None = None
    taken_at: str | None = None
    has_place: bool = False


def camera_facts(path: Path) -> CameraFacts:
    """Read them from a file; unreadable metadata counts as none."""
    exif = _read_exif(path)
    focal_35mm = _number(exif.get("Exif.Photo.FocalLengthIn35mmFilm"))
    return CameraFacts(
        make=_text(exif.get("Exif.Image.Make")),
        model=_text(exif.get("Exif.Image.Model")),
        lens=_text(exif.get("Exif.Photo.LensModel")),
        focal_mm=_number(exif.get("Exif.Photo.FocalLength")),
        focal_35mm=focal_35mm,
        taken_at=_text(exif.get("Exif.Photo.DateTimeOriginal")),
        has_place=any(key.startswith("Exif.GPSInfo.GPSL") for key in exif),
    )


def carry_over(
    source: Path,
    target: Path,
    width: int,
    height: int,
    kind: ExportFormat,
    ppi: float | None = None,
    new: float = 0.0,
    painted: bool = False,
) -> list[str]:
    """Copy EXIF, IPTC and XMP from the original to an export of ``width`` x ``height`` pixels.

    Orientation becomes 1 (the pixels are upright now), the pixel dimensions become true and the
    embedded small picture goes, because it shows the photo as taken. The colour profile is written
    with the pixels. With ``ppi`` the resolution is the print's, else what the original says. ``new``: the
    share of the pixels that no camera took, ``painted``: whether an outside painter made some of them; both
    are declared.

    Metadata never stops a picture: what cannot be read is left out, and a sentence on it is in the list that
    is returned. Raises OSError when the disk is full.
    """
    with _ONE_AT_A_TIME, tempfile.TemporaryDirectory() as folder:
        original = _opened(source, Path(folder))
        export = pyexiv2.Image(str(target))
        lost: list[str] = []
        try:
            for part in ("EXIF", "IPTC", "XMP") if original else ():
                if not _carried(lambda part=part: _copy(original, export, part, kind)):  # type: ignore[misc]
                    lost.append(part)
            for part, correct in (
                ("EXIF", lambda: _make_exif_true(export, width, height)),
                ("EXIF", lambda: None if ppi is None else _set_resolution(export, ppi)),
                ("XMP", lambda: _drop_xmp(export, *STALE_XMP)),
                ("XMP", lambda: _declare(export, new, painted) if new else None),
            ):
                if not _carried(correct):
                    # Better without than with what is not true of this picture.
                    _carried(export.clear_exif if part == "EXIF" else export.clear_xmp)
                    lost.append(part)
        finally:
            export.close()
            if original:
                original.close()
    if original is None:
        return ["The metadata in the photo's file is damaged. It was left out of the exported file."]
    return [
        f"The {part} metadata in the photo's file is damaged. It was left out of the exported file."
        for part in dict.fromkeys(lost)
    ]


STALE_XMP = (
    "Xmp.tiff.Orientation",
    "Xmp.exif.PixelXDimension",
    "Xmp.exif.PixelYDimension",
    "Xmp.tiff.ImageWidth",
    "Xmp.tiff.ImageLength",
)
"""What XMP may say of the photo as it was taken."""


def _carried(step: Callable[[], None]) -> bool:
    """Whether a step with damaged metadata went well. Raises OSError when the disk is full."""
    try:
        step()
        return True
    except (RuntimeError, ValueError, KeyError) as error:
        if "No space left" in str(error):
            raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC)) from None
        return False


def _copy(original: Any, export: Any, part: str, kind: ExportFormat) -> None:
    original.copy_to_another_image(
        export,
        exif=part == "EXIF",
        iptc=part == "IPTC",
        xmp=part == "XMP",
        icc=False,
        comment=kind.keeps_comment and part == "EXIF",
        thumbnail=False,
    )


def _opened(source: Path, folder: Path) -> Any:
    """The metadata of a file; where a damaged profile or the like stands in the way, that of a small file
    with the same blocks. None when they cannot be read either."""
    for file in (source, _carrier(source, folder / "blocks.jpg")):
        if file is not None:
            with contextlib.suppress(RuntimeError):
                return pyexiv2.Image(str(file))
    return None


def _carrier(source: Path, file: Path) -> Path | None:
    """A JPEG of one pixel with the EXIF and XMP blocks of another file, byte by byte."""
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            with Image.open(source) as image:
                xmp = image.info.get("xmp") or image.info.get("XML:com.adobe.xmp") or b""
                exif = image.info.get("exif", b"")
        blocks = {"exif": exif, "xmp": xmp.encode() if isinstance(xmp, str) else xmp}
        Image.new("RGB", (1, 1)).save(file, "JPEG", **blocks)
        return file
    except (OSError, ValueError, SyntaxError, struct.error):
        return None


def _drop_xmp(export: Any, *keys: str) -> None:
    """Take away what is no longer true."""
    known = export.read_xmp()
    stale = {key: None for key in keys if key in known}
    if stale:
        export.modify_xmp(stale)


def _set_resolution(export: Any, ppi: float) -> None:
    """The resolution in EXIF (CIPA DC-008, 4.6.4: XResolution, YResolution, ResolutionUnit 2 = inch)."""
    rational = f"{round(100 * ppi)}/100"
    export.modify_exif(
        {
            "Exif.Image.XResolution": rational,
            "Exif.Image.YResolution": rational,
            "Exif.Image.ResolutionUnit": "2",
        }
    )
    _drop_xmp(export, "Xmp.tiff.XResolution", "Xmp.tiff.YResolution", "Xmp.tiff.ResolutionUnit")


SOURCE_TYPE = "http://cv.iptc.org/newscodes/digitalsourcetype/compositeSynthetic"
"""Several elements, at least one of them made and not taken (IPTC NewsCodes, Digital Source Type).

The terms as the types of the C2PA standard list them (npm @contentauth/c2pa-types 0.7.6), their definitions
from memory. Nothing was trained to make these pixels, so neither trainedAlgorithmicMedia nor
compositeWithTrainedAlgorithmicMedia is true; algorithmicMedia is for a whole picture that no camera took,
algorithmicallyEnhanced for one in which nothing is added.
"""


PAINTED_TYPE = "http://cv.iptc.org/newscodes/digitalsourcetype/compositeWithTrainedAlgorithmicMedia"
"""The same where an outside painter made some of it: those are trained, as a rule."""


def _declare(export: Any, new: float, painted: bool) -> None:
    """Say in XMP what kind of picture it is (IPTC Photo Metadata Standard: Digital Source Type), and in its
    log how much of it is new (xmpDM:logComment, XMP Specification part 2)."""
    how = "filled from the rest of the picture"
    if painted:
        how = "new, some of them painted by an external service"
    words = f"{100 * new:.2f}% of the pixels {how}"
    before = export.read_xmp().get("Xmp.xmpDM.logComment")
    export.modify_xmp(
        {
            "Xmp.iptcExt.DigitalSourceType": PAINTED_TYPE if painted else SOURCE_TYPE,
            "Xmp.xmpDM.logComment": f"{before}\n{words}" if before else words,
        }
    )


def _make_exif_true(export: Any, width: int, height: int) -> None:
    exif = _told(export)
    if not exif:
        return
    export.clear_thumbnail()
    true = {"Exif.Image.Orientation": "1"}
    for key, value in (("PixelXDimension", width), ("PixelYDimension", height)):
        true[f"Exif.Photo.{key}"] = str(value)
    for key, value in (("ImageWidth", width), ("ImageLength", height)):
        if f"Exif.Image.{key}" in exif:
            true[f"Exif.Image.{key}"] = str(value)
    export.modify_exif(true)


def _told(image: Any) -> dict[str, str]:
    """The EXIF of an open file; texts that are not UTF-8 are read as Latin-1, in which every byte is one."""
    try:
        exif: dict[str, str] = image.read_exif()
    except UnicodeDecodeError:
        exif = image.read_exif(encoding="latin-1")
    return exif


def _read_exif(path: Path) -> dict[str, str]:
    with _ONE_AT_A_TIME, tempfile.TemporaryDirectory() as folder:
        image = _opened(path, Path(folder))
        if image is None:
            return {}
        try:
            return _told(image)
        except (RuntimeError, ValueError):
            return {}
        finally:
            image.close()


def _text(value: str | None) -> str | None:
    plain = "".join(sign for sign in value or "" if sign.isprintable()).strip()
    return plain[:200] or None


def _number(value: str | None) -> float | None:
    """A positive EXIF number, also a fraction such as 205/10."""
    if not value:
        return None
    top, _, bottom = value.partition("/")
    try:
        number = float(top) / float(bottom or 1)
    except (ValueError, ZeroDivisionError):
        return None
    return number if 0 < number < 100_000 else None
