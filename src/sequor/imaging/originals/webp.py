"""WebP (RFC 9649)."""

from __future__ import annotations

from pathlib import Path

from sequor.imaging.originals.pillow import PillowKind


class WebP(PillowKind):
    name = "webp"
    called = "WebP"

    def matches(self, path: Path, start: bytes) -> bool:
        return start[:4] == b"RIFF" and start[8:12] == b"WEBP"
