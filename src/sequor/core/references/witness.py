"""A line that has no say: it shows how something stands."""

from __future__ import annotations

from sequor.core.camera import Array
from sequor.core.references.base import ReferenceKind, nearer


class Witness(ReferenceKind):
    name = "witness"
    becomes = None
    reshape_follows = False

    def off(self, side: int, along: Array, towards: Array | None) -> float:
        return nearer(along)
