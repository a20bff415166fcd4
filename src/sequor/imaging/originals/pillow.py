"""What Pillow reads in eight bits: shared by the kinds of files that it opens."""

from __future__ import annotations

import re
import warnings
from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image

from sequor.core.raster.pixels import Picture
from sequor.imaging.colour import adobe_rgb, cmyk_to_rgb, colour_space, grey_to_srgb, usable, wide_rgb
from sequor.imaging.originals.base import (
    BAND_ROWS,
    MANY,
    TRANSPARENT,
    TRANSPOSED,
    Header,
    OriginalKind,
    UnreadablePictureError,
    alpha_of,
    damaged,
    refuse_too_large,
    refused,
    upright,
)

# Our own limit is the stricter one and words its refusal itself.
Image.MAX_IMAGE_PIXELS = None

MODES = {"RGB", "L", "P", "1", "LA", "PA", "RGBA", "CMYK", "YCCK", "I;16", "RGBX"}
GREY = {"L", "LA", "1"}
INKS = {"CMYK", "YCCK"}
XMP_ORIENTATION = re.compile(rb"""tiff:Orientation(?:\s*=\s*["']|>)\s*([1-8])""")

UNCALIBRATED, ADOBE_SPACE = 65535, 2
"""EXIF ColorSpace (CIPA DC-008, tag 0xA001): 1 is sRGB, 65535 none of its own; 2 is written for Adobe RGB."""


def opened(path: Path) -> Image.Image:
    """A file, not yet decoded. Raises UnreadablePictureError."""
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            return Image.open(path)
    except Exception:  # a damaged header comes as many kinds of error
        raise UnreadablePictureError(
            "This file cannot be read as a picture. Nothing was added; Sequor opens photos as cameras, "
            "phones and scanners write them"
        ) from None


def profile_in(image: Image.Image) -> bytes | None:
    """The profile as it stands in a file."""
    profile: Any = image.info.get("icc_profile")
    return bytes(profile) if profile else None


def orientation_of(image: Image.Image) -> int:
    """The orientation by EXIF (tag 0x0112), or by XMP where EXIF says none."""
    try:
        value = image.getexif().get(0x0112)
    except Exception:  # broken EXIF comes as many kinds of error and is no reason to refuse the picture
        value = None
    if isinstance(value, int) and 1 <= value <= 8:
        return value
    xmp = image.info.get("xmp") or image.info.get("XML:com.adobe.xmp") or b""
    told = XMP_ORIENTATION.search(xmp.encode() if isinstance(xmp, str) else xmp)
    return int(told.group(1)) if told else 1


def says_adobe_rgb(image: Image.Image) -> bool:
    """Whether a file without a profile says that its colours are Adobe RGB: by its colour space, or as DCF's
    optional colour space (JEITA CP-3461B: interoperability index "R03")."""
    try:
        exif = image.getexif()
        space = exif.get_ifd(0x8769).get(0xA001)
        index = exif.get_ifd(0xA005).get(1, "") if space == UNCALIBRATED else ""
    except Exception:  # broken EXIF says nothing
        return False
    return space == ADOBE_SPACE or (isinstance(index, str) and index.startswith("R03"))


def about_inks(profile: bytes | None) -> str:
    """What became of a picture in inks."""
    known = profile is not None and colour_space(profile) == "CMYK"
    how = "by its profile" if known else "without a profile, so its colours are approximate"
    return f"The photo is in CMYK. It was converted to RGB, {how}."


class PillowKind(OriginalKind):
    """A kind that Pillow opens."""

    def header(self, path: Path) -> Header:
        with opened(path) as image:
            if image.mode not in MODES:
                raise refused(f"Sequor cannot open a {self.called} with colours of the kind {image.mode}")
            width, height = image.size
            # Before anything else is asked of it: Pillow decodes some files to tell their orientation.
            refuse_too_large(width, height)
            orientation = orientation_of(image)
            if orientation in TRANSPOSED:
                width, height = height, width
            return Header(self.name, width, height, orientation)

    def decode(self, path: Path) -> Picture:
        with opened(path) as image:
            try:
                image.load()
            except Exception as error:
                raise damaged(error) from None
            return upright(self._in_bands(image), orientation_of(image))

    def _in_bands(self, image: Image.Image) -> Picture:
        """The picture in RGB, made band by band: each conversion takes several times the picture, and a plain
        copy twice."""
        width, height = image.size
        pixels = np.empty((height, width, 3), np.uint8)
        for top in range(0, height, BAND_ROWS):
            bottom = min(top + BAND_ROWS, height)
            pixels[top:bottom] = np.asarray(self._rgb(image.crop((0, top, width, bottom))))
        return pixels

    def opacity(self, path: Path) -> Picture | None:
        with opened(path) as image:
            if not _has_alpha(image):
                return None
            try:
                alpha = alpha_of(np.asarray(image.convert("RGBA")))
            except Exception as error:
                raise damaged(error) from None
            return None if alpha is None else upright(alpha, orientation_of(image))

    def profile(self, path: Path) -> bytes | None:
        with opened(path) as image:
            if image.mode in INKS:
                return wide_rgb()
            profile = profile_in(image)
            if profile is None and says_adobe_rgb(image):
                return adobe_rgb()
            return usable(profile)

    def notices(self, path: Path) -> list[str]:
        with opened(path) as image:
            found = [*self._about_colours(image)]
            if getattr(image, "n_frames", 1) > 1:
                found.append(MANY.format(getattr(image, "n_frames", 1)))
            if _has_alpha(image):
                found.append(TRANSPARENT)
            return found

    def _about_colours(self, image: Image.Image) -> list[str]:
        profile = profile_in(image)
        if image.mode in INKS:
            return [about_inks(profile)]
        if profile is None:
            return []
        if usable(profile):
            return []
        kind = colour_space(profile)
        if kind == "GRAY" and image.mode in GREY:
            return ["The photo's grey profile was applied. The exported file is in sRGB."]
        if kind in (None, "RGB", "GRAY"):
            return [
                "The colour profile in the photo's file is damaged or does not fit. The photo counts as sRGB."
            ]
        return [f"The colour profile in the photo's file is for {kind} pictures. The photo counts as sRGB."]

    def _rgb(self, image: Image.Image) -> Image.Image:
        profile = profile_in(image)
        if image.mode in INKS:
            return cmyk_to_rgb(image.convert("CMYK"), profile)
        if profile is not None and image.mode in GREY and colour_space(profile) == "GRAY":
            grey = image if image.mode == "L" else _on_white(image).convert("L")
            in_srgb = grey_to_srgb(grey, profile)
            if in_srgb is not None:
                return in_srgb
        return _on_white(image)


def _has_alpha(image: Image.Image) -> bool:
    return image.mode in ("RGBA", "LA", "PA") or "transparency" in image.info


def _on_white(image: Image.Image) -> Image.Image:
    if _has_alpha(image):
        rgba = image.convert("RGBA")
        white = Image.new("RGBA", rgba.size, (255, 255, 255, 255))
        return Image.alpha_composite(white, rgba).convert("RGB")
    return image if image.mode == "RGB" else image.convert("RGB")
