"""The modes that there are."""

from __future__ import annotations

from sequor.core.discover import named
from sequor.pipeline.edges.base import EdgesMode
from sequor.recipe.model.edges import EdgesPart, Mode

MODES: dict[Mode, EdgesMode] = named("sequor.pipeline.edges", EdgesMode)


def mode_of(edges: EdgesPart) -> EdgesMode:
    """The mode of a recipe's edges."""
    return MODES[edges.mode]
