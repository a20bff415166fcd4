"""Trim: the frame lies inside the picture."""

from __future__ import annotations

from sequor.pipeline.edges.base import EdgesMode, Suitability

LITTLE_LOST = 0.04
"""Of the picture (common practice, no source)."""


class Trim(EdgesMode):
    name = "trim"

    def suits(self, found: Suitability) -> bool:
        return found.lose <= LITTLE_LOST
