"""A thing that stands upright in the world: a wall's edge."""

from __future__ import annotations

from sequor.core.references.base import PLUMB, ReferenceKind


class Plumb(ReferenceKind):
    name = "plumb"
    becomes = "upright"
    directions = (PLUMB,)
    after_quarter_turn = "level"
