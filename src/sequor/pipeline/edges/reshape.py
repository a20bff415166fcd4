"""Reshape: the picture is stretched into its rectangle."""

from __future__ import annotations

from sequor.pipeline.edges.base import EdgesMode, Suitability

HURTS = 0.2
"""Stretches from which faces, wheels and windows look wrong (common practice, no source)."""


class Reshape(EdgesMode):
    name = "reshape"
    moves_map = True

    def suits(self, found: Suitability) -> bool:
        return found.stretch is not None and found.stretch <= HURTS
