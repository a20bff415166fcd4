"""Fill: what is empty is made up from the picture, or by an outside painter."""

from __future__ import annotations

from sequor.pipeline.edges.base import EdgesMode, Suitability

LITTLE_NEW = 0.05
"""Of the frame (common practice, no source)."""


class Fill(EdgesMode):
    name = "fill"
    makes_pixels = True
    open = True

    def suits(self, found: Suitability) -> bool:
        return found.new <= LITTLE_NEW and not found.lines_at_edge
