"""The references of a recipe as the core has them."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from sequor.core.distortion.models import Lens
from sequor.core.references.line import Reading, read
from sequor.core.references.reference import Reference
from sequor.recipe.model import Recipe
from sequor.recipe.model.references import ReferencePart
from sequor.recipe.parse import RecipeError

NEAREST_AHEAD = 0.17
"""The cosine of the angle from the axis, about 80 degrees, up to which a line of a fisheye is read as in a
flat picture."""


def ideal_references(recipe: Recipe, lens: Lens) -> list[Reference]:
    """The core's references with the bending of the lens taken out of their points.

    Raises RecipeError for a reference with a point that the lens terms say nothing about.
    """
    references = [as_reference(part) for part in recipe.references]
    if lens.straight or not references:
        return references
    recorded = np.concatenate([one.points for one in references])
    ideal = lens.undistorted(recorded)
    if not lens.flat:
        # What has no place in a flat picture is read as it was recorded, where it was recorded at all.
        rays = lens.rays(recorded, lens.unit_px)
        flat = (rays[:, 2] > NEAREST_AHEAD)[:, None]
        ideal = np.where(flat, ideal, np.where(np.isfinite(rays[:, 2:]), recorded, np.nan))
    ends = np.cumsum([len(one.points) for one in references])[:-1]
    found = []
    for index, (one, points) in enumerate(zip(references, np.split(ideal, ends), strict=True)):
        if not np.all(np.isfinite(points)):
            raise RecipeError(
                "One end of the line is outside the area the lens profile covers. "
                "Move it inwards, or choose another profile",
                f"references.{index}.points",
            )
        found.append(replace(one, points=points))
    return found


def as_reference(part: ReferencePart) -> Reference:
    """The core's reference of a recipe's."""
    return Reference(
        part.id,
        part.kind,
        np.array(part.points),
        1.0 if part.sigma_px is None else part.sigma_px,
        part.weight,
        part.active,
        part.group,
        part.shape,
    )


def readings_of(ideal: Reference) -> tuple[Reading, ...]:
    """What a reference says as taken, the lens corrected; a rectangle's top, right, bottom and left."""
    return tuple(read(side, ideal.sigma_px) for side in ideal.sides)
