"""The recipe of a photo that nothing has been done to."""

from __future__ import annotations

from sequor.recipe.model import Recipe
from sequor.recipe.model.photo import PhotoPart

SHORTEST_35MM, LONGEST_35MM = 1, 20_000


def first_recipe(width: int, height: int, sha256: str, recorded_35mm: float | None) -> Recipe:
    """For a photo of this size, upright, with the focal length at 35 mm that its camera has recorded.

    >>> first_recipe(6000, 4000, "ab" * 32, 0.0).photo.focal_35mm
    """
    photo = PhotoPart(
        width=width,
        height=height,
        sha256=sha256,
        # A number that no lens has tells nothing.
        focal_35mm=recorded_35mm
        if recorded_35mm and SHORTEST_35MM <= recorded_35mm <= LONGEST_35MM
        else None,
    )
    return Recipe(format="sequor-recipe", version=1, photo=photo)
