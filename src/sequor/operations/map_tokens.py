"""The map of a recipe as text for an address, and back."""

from __future__ import annotations

import base64
import json
from functools import lru_cache

from sequor.core.warp.base import Warp
from sequor.pipeline.address import warp_document
from sequor.pipeline.evaluated import Evaluated
from sequor.recipe.model import Recipe
from sequor.recipe.model.correction import CorrectionPart
from sequor.recipe.model.develop import DevelopPart
from sequor.recipe.model.photo import PhotoPart
from sequor.recipe.parse import build


def map_token(evaluation: Evaluated) -> str:
    """The map of an evaluation as text for a URL: the recipe parts that make it, with solved angles."""
    written = json.dumps(warp_document(evaluation), separators=(",", ":"))
    return base64.urlsafe_b64encode(written.encode()).decode().rstrip("=")


def as_taken_token(recipe: Recipe) -> str:
    """The map that changes nothing."""
    return _as_taken_token(recipe.photo.model_dump_json(), recipe.develop)


@lru_cache(maxsize=64)
def _as_taken_token(photo: str, develop: DevelopPart | None) -> str:
    plain = Recipe(
        format="sequor-recipe",
        version=1,
        photo=PhotoPart.model_validate_json(photo),
        develop=develop,
        correction=CorrectionPart(free=[]),
    )
    return map_token(Evaluated(plain))


@lru_cache(maxsize=64)
def map_from_token(token: str) -> tuple[Recipe, Warp]:
    """The recipe parts and the map of a token. Raises RecipeError when it is not one of ours."""
    padded = token + "=" * (-len(token) % 4)
    try:
        document = json.loads(base64.urlsafe_b64decode(padded))
    except ValueError:
        document = None
    recipe = build(document)
    return recipe, Evaluated(recipe).warp
