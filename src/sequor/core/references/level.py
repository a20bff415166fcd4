"""A thing that is level in the world and square-on to the camera: the horizon."""

from __future__ import annotations

from sequor.core.camera import Array
from sequor.core.references.base import LEVEL, ReferenceKind, off_direction


class Level(ReferenceKind):
    name = "level"
    directions = (LEVEL,)
    may_run_away = True
    after_quarter_turn = "plumb"

    def off(self, side: int, along: Array, towards: Array | None) -> float:
        return off_direction(LEVEL, along)
