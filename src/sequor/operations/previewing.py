"""Looking at a recipe while something is dragged: nothing is stored."""

from __future__ import annotations

from sequor.operations.revising import solved, with_frame_carried
from sequor.pipeline.evaluated import Evaluated, evaluate
from sequor.recipe.model import Recipe


def preview(recipe: Recipe, before: Recipe | None) -> Evaluated:
    """Evaluate a recipe; a hand-made frame that ``before`` had too follows the angles that changed."""
    if before is not None and recipe.frame.rect is not None:
        recipe = with_frame_carried(before, solved(recipe))
    return evaluate(recipe)
