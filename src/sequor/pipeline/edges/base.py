"""What a mode is: something that can be done with the empty corners of a frame."""

from __future__ import annotations

from abc import ABC
from dataclasses import dataclass
from typing import ClassVar, Literal

from sequor.recipe.model.edges import EdgesPart, Mode

Extent = Literal["as it is", "same size", "nothing cut", "at most"]
"""How far the frame reaches: as it stands; as large as if the photo had not been turned; so far that all of
the photo is in it; or so far that at most a share of it is empty."""

Colour = tuple[int, int, int]

WHITE: Colour = (255, 255, 255)
"""What empty area is written as where nothing else is said: bare paper."""


@dataclass(frozen=True)
class Suitability:
    """What tells which mode suits a picture: shares of it that trimming would ``lose`` and filling would make
    ``new``, how much reshaping would ``stretch`` (None: it cannot), and whether lines run to the edge."""

    lose: float
    new: float
    stretch: float | None
    lines_at_edge: bool


class EdgesMode(ABC):
    """One mode; what it is called in recipes is its ``name``."""

    name: ClassVar[Mode]
    moves_map: ClassVar[bool] = False
    """Whether it changes where the photo's pixels lie: then the picture fills its rectangle."""
    makes_pixels: ClassVar[bool] = False
    """Whether it makes up pixels, which takes time and is declared."""
    coloured: ClassVar[bool] = False
    """Whether a colour may be chosen for what is empty."""
    open: ClassVar[bool] = False
    """Whether the frame may reach beyond the picture, and how far is asked."""

    def background(self, edges: EdgesPart) -> Colour | None:
        """What empty area is rendered as, before anything is filled; None: it is clear."""
        return WHITE

    def clear(self, edges: EdgesPart) -> bool:
        """Whether empty area is clear in the file, for which its format must have an alpha channel."""
        return self.background(edges) is None

    def suits(self, found: Suitability) -> bool:
        """Whether it suits a picture; modes are asked in their order."""
        return False
