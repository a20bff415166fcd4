"""Leave: what is empty stays so, clear or in a colour."""

from __future__ import annotations

from sequor.pipeline.edges.base import Colour, EdgesMode
from sequor.recipe.model.edges import EdgesPart


class Leave(EdgesMode):
    name = "leave"
    coloured = True
    open = True

    def background(self, edges: EdgesPart) -> Colour | None:
        if edges.colour is None:
            return None
        red, green, blue = (int(edges.colour[at : at + 2], 16) for at in (1, 3, 5))
        return red, green, blue
