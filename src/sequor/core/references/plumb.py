"""A thing that stands upright in the world: a wall's edge."""

from __future__ import annotations

from sequor.core.camera import Array
from sequor.core.references.base import PLUMB, ReferenceKind, off_direction


class Plumb(ReferenceKind):
    name = "plumb"
    directions = (PLUMB,)
    after_quarter_turn = "level"

    def off(self, side: int, along: Array, towards: Array | None) -> float:
        return off_direction(PLUMB, along)
