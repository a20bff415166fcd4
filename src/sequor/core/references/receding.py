"""A thing that is level in the world and runs away from the camera, like others of its group."""

from __future__ import annotations

from sequor.core.camera import Array
from sequor.core.references.base import RECEDING, ReferenceKind
from sequor.core.references.line import fold, slope_of


class Receding(ReferenceKind):
    name = "receding"
    directions = (RECEDING,)
    grouped = True

    def off(self, side: int, along: Array, towards: Array | None) -> float:
        return 0.0 if towards is None else fold(slope_of(along) - slope_of(towards))
