"""Snapping the references of a recipe onto the real edges of its photo."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from typing import Any

import numpy as np

from sequor.core.distortion.models import Lens
from sequor.core.look.snap import NoEdgeError, Snapped, snap, snap_rectangle
from sequor.core.raster.pixels import Picture
from sequor.core.references.registry import kind_of
from sequor.pipeline.evaluated import Evaluated
from sequor.pipeline.solve import lens_of
from sequor.recipe.evolve import evolve
from sequor.recipe.model import Recipe
from sequor.recipe.model.references import NOTE, ReferencePart
from sequor.recipe.parse import RecipeError


@dataclass(frozen=True)
class Outcome:
    """What became of one reference: the edge that was found, or why there is none."""

    id: str
    found: Snapped | None
    refused: str | None


def snap_references(picture: Picture, recipe: Recipe, ids: Collection[str] | None = None) -> list[Outcome]:
    """Look for the edges under the references (all, or those with these ids) in the photo's pixels.

    ``picture`` is (height, width, 3), upright and turned as the recipe says.
    """
    wanted = [part for part in recipe.references if ids is None or part.id in ids]
    lens = _lens_in_use(recipe)
    return [_outcome(picture, lens, part) for part in wanted]


def _lens_in_use(recipe: Recipe) -> Lens:
    """The lens of the recipe, with what straight things tell of it; without, where a line lies beyond it."""
    try:
        return Evaluated(recipe).standing.lens
    except RecipeError:
        return lens_of(recipe)


def with_snapped(recipe: Recipe, outcomes: list[Outcome]) -> Recipe:
    """The recipe with the found edges in place of the rough lines; it remembers how each was laid."""
    by_id = {outcome.id: outcome for outcome in outcomes}
    references = [_changed(part, by_id[part.id]) if part.id in by_id else part for part in recipe.references]
    return evolve(recipe, references=references)


def report(outcomes: list[Outcome]) -> list[dict[str, Any]]:
    """The outcomes as a plain document (docs/recipe.md)."""
    rows: list[dict[str, Any]] = []
    for outcome in outcomes:
        if outcome.found is None:
            rows.append({"id": outcome.id, "refused": outcome.refused})
            continue
        found = outcome.found
        rows.append(
            {
                "id": outcome.id,
                "points": _points(found),
                "sigma_px": found.sigma_px,
                "clarity": found.clarity,
                "moved_px": found.moved_px,
            }
        )
    return rows


def _outcome(picture: Picture, lens: Lens, part: ReferencePart) -> Outcome:
    rough = np.array(part.points)
    try:
        if not np.all(np.isfinite(lens.undistorted(rough))):
            raise NoEdgeError("an end is outside the area the lens profile covers")
        if kind_of(part.kind).joined:
            return Outcome(part.id, snap_rectangle(picture, rough, lens), None)
        if len(rough) > 2:
            raise NoEdgeError("a straight edge keeps its points: they say how the lens bends")
        return Outcome(part.id, snap(picture, rough, lens), None)
    except NoEdgeError as error:
        return Outcome(part.id, None, str(error))


def _changed(part: ReferencePart, outcome: Outcome) -> ReferencePart:
    if outcome.found is None:
        return evolve(part, **{NOTE: {"refused": outcome.refused}})
    found = outcome.found
    note = {
        "laid": [list(point) for point in part.points],
        "laid_sigma_px": part.sigma_px,
        "clarity": round(found.clarity, 3),
        "moved_px": round(found.moved_px, 2),
    }
    return evolve(part, points=_points(found), sigma_px=round(found.sigma_px, 3), **{NOTE: note})


def _points(found: Snapped) -> list[tuple[float, float]]:
    return [(round(float(x), 3), round(float(y), 3)) for x, y in found.points]
