"""Reshaping and wide views look at the photo: the straight things that they follow become a part of the
recipe."""

from __future__ import annotations

import numpy as np

from sequor.core.look.segments import find_segments
from sequor.core.raster.pixels import Picture, in_eight_bits
from sequor.imaging.encode import reduce_to
from sequor.pipeline.edges.registry import mode_of
from sequor.pipeline.wide import is_wide
from sequor.recipe.evolve import evolve
from sequor.recipe.model import Recipe

LOOKED_AT = 2048
"""Pixels on the longer side in which straight things are looked for: grain breaks them in larger pictures."""


def looks_for_segments(recipe: Recipe) -> bool:
    """Whether the photo is still to be looked at, while somebody works on it."""
    return needs_segments(recipe) or (is_wide(recipe) and recipe.edges.segments is None)


def needs_segments(recipe: Recipe) -> bool:
    """Whether it cannot be carried out without: a wide view that was written without goes as it stands."""
    return mode_of(recipe.edges).moves_map and recipe.edges.segments is None


def with_segments(picture: Picture, recipe: Recipe) -> Recipe:
    """The recipe with the straight things of its photo, if they are followed and were not looked for yet.

    ``picture`` is (height, width, 3), upright and turned as the recipe says.
    """
    if not looks_for_segments(recipe):
        return recipe
    reduced = in_eight_bits(reduce_to(picture, LOOKED_AT))
    found = find_segments(reduced) * (max(picture.shape[:2]) / max(reduced.shape[:2]))
    segments = [tuple(float(value) for value in ends) for ends in np.round(found, 1).reshape(-1, 4)]
    return evolve(recipe, edges=evolve(recipe.edges, segments=segments))
