"""PNG (W3C Recommendation, third edition) in every depth, with what it says of its colours."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np

from sequor.core.raster.pixels import Picture
from sequor.imaging.colour import made_profile, usable
from sequor.imaging.originals.base import Header, alpha_of, damaged, refused, three_colours, upright
from sequor.imaging.originals.pillow import PillowKind, opened, orientation_of, profile_in

SIGNATURE = b"\x89PNG\r\n\x1a\n"
MOST_CHUNKS = 60_000
"""Chunks: 8 KB each is usual, of which the largest file has 50,000."""

SRGB_GAMMA = 45455
"""What gAMA says of a picture in sRGB, in hundred-thousandths (3rd ed., 11.3.2.2)."""

CODE_POINTS: dict[int, tuple[float, ...]] = {
    9: (0.708, 0.292, 0.170, 0.797, 0.131, 0.046),
    12: (0.680, 0.320, 0.265, 0.690, 0.150, 0.060),
}
"""Primaries by their code points (ITU-T H.273, table 2): 9 is BT.2020, 12 is P3 with the white of D65."""
WHITE_D65 = (0.3127, 0.3290)
SRGB_TRANSFER = {13, 1, 6, 14, 15}


class Png(PillowKind):
    name = "png"
    called = "PNG"

    def matches(self, path: Path, start: bytes) -> bool:
        return start[:8] == SIGNATURE

    def header(self, path: Path) -> Header:
        if len(_chunks(path)) > MOST_CHUNKS:
            raise refused(
                f"This file has more than {MOST_CHUNKS} pieces, which no camera writes",
                "save a copy with another program and import that",
            )
        return replace(super().header(path), bits=16 if bits_of(path) == 16 else 8)

    def decode(self, path: Path) -> Picture:
        return three_colours(self._deep(path))[0] if bits_of(path) == 16 else super().decode(path)

    def opacity(self, path: Path) -> Picture | None:
        return alpha_of(self._deep(path)) if bits_of(path) == 16 else super().opacity(path)

    def _deep(self, path: Path) -> Picture:
        # Pillow reduces colours of 16 bits to 8 without a word.
        from imagecodecs import png_decode

        try:
            pixels = np.asarray(png_decode(path.read_bytes()))
        except Exception as error:
            raise damaged(error) from None
        with opened(path) as image:
            return upright(pixels, orientation_of(image))

    def profile(self, path: Path) -> bytes | None:
        """By what stands highest: cICP, then iCCP, then sRGB, then gAMA and cHRM (3rd ed., 4.3)."""
        chunks = _chunks(path)
        with opened(path) as image:
            embedded = profile_in(image)
        if "cICP" in chunks:
            primaries, transfer = chunks["cICP"][0], chunks["cICP"][1]
            if primaries in CODE_POINTS and transfer in SRGB_TRANSFER:
                return made_profile(WHITE_D65, CODE_POINTS[primaries], None)
            if primaries == 1 and transfer in SRGB_TRANSFER:
                return None
        if embedded is not None:
            return super().profile(path)
        if "sRGB" in chunks or not ("gAMA" in chunks or "cHRM" in chunks):
            return super().profile(path)
        gamma = int.from_bytes(chunks.get("gAMA", b"")[:4], "big") or SRGB_GAMMA
        points = [
            int.from_bytes(chunks.get("cHRM", b"")[at : at + 4], "big") / 100_000 for at in range(0, 32, 4)
        ]
        if not all(points):
            points = [*WHITE_D65, 0.64, 0.33, 0.30, 0.60, 0.15, 0.06]
        return usable(made_profile((points[0], points[1]), tuple(points[2:]), 100_000 / gamma))


def bits_of(path: Path) -> int:
    """How deep a PNG is; 0 for what is none."""
    # The depth stands at byte 24 (11.2.1).
    with path.open("rb") as file:
        start = file.read(25)
    return start[24] if len(start) == 25 else 0


def _chunks(path: Path) -> dict[str, bytes]:
    """The chunks of a file by their types, in short (5.3: length, type, data, check sum); those that are many
    are counted under numbers of their own."""
    found: dict[str, bytes] = {}
    end = path.stat().st_size
    with path.open("rb") as file:
        at = 8
        while at + 12 <= end and len(found) <= MOST_CHUNKS:
            file.seek(at)
            start = file.read(8 + 64)
            kind = start[4:8].decode("latin-1")
            length = int.from_bytes(start[:4], "big")
            found[kind if kind not in found else f"{kind} {at}"] = start[8 : 8 + min(length, 64)]
            at += 12 + length
    return found
