"""A thing that is level in the world and square-on to the camera: the horizon."""

from __future__ import annotations

from sequor.core.references.base import LEVEL, ReferenceKind


class Level(ReferenceKind):
    name = "level"
    becomes = "level"
    directions = (LEVEL,)
    may_run_away = True
    after_quarter_turn = "plumb"
