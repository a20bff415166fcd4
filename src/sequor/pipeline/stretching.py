"""How much a reshaped picture is stretched, and from which angle on that hurts."""

from __future__ import annotations

from functools import lru_cache

from sequor.core.camera import Attitude
from sequor.core.estimation.unknowns import ANGLES
from sequor.core.warp.base import Mapping
from sequor.pipeline.evaluate import Evaluation, evaluate, reshaped_by, standing_document
from sequor.recipe.evolve import evolve
from sequor.recipe.model import Recipe
from sequor.recipe.parse import RecipeError

HURTS = 0.2
"""Stretches from which faces, wheels and windows look wrong (common practice, no source)."""

NEARER = 4
NEAR = 0.03
"""Steps by which the angle is found, at most; fewer when one moves it by no more than a share of it."""


def hurts_from(evaluation: Evaluation) -> float | None:
    """The angle in degrees from which on reshaping would stretch a part by more than ``HURTS``; None when
    nothing is taken out. Of several angles the largest is meant, the others growing with it."""
    recipe = evaluation.recipe
    edges = evolve(recipe.edges, mode="reshape")
    return _hurts_from(standing_document(evolve(recipe, edges=edges)))


@lru_cache(maxsize=64)
def _hurts_from(document: str) -> float | None:
    recipe = Recipe.model_validate_json(document)
    plain = evolve(recipe, edges=evolve(recipe.edges, mode="trim"))
    now = evaluate(plain)
    angles = {name: now.taken_out(name) for name in ANGLES}
    largest = max(abs(angle) for angle in angles.values())
    if largest < 0.05:
        return None

    def stretched(share: float) -> float:
        attitude = Attitude(**{name: share * angle for name, angle in angles.items()})
        lens, proportion = now.mapping.lens, recipe.correction.proportion
        try:
            mapping = Mapping.compile(now.camera, attitude, Attitude(), proportion, lens)
            return reshaped_by(recipe, mapping).greatest - 1
        except (RecipeError, ValueError):
            return 10.0

    # It grows nearly in proportion to the angle: from a small one the first guess is a good one.
    share = 2.0 / largest
    for _ in range(NEARER):
        nearer = min(max(HURTS / max(stretched(share), 1e-4), 0.2), 4.0)
        share *= nearer
        if abs(nearer - 1) < NEAR:
            break
    return share * largest
