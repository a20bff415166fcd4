"""The one way to change a part of a recipe: by a new part that has been validated."""

from __future__ import annotations

from typing import Any, TypeVar

from pydantic import ValidationError

from sequor.recipe.model.base import Part
from sequor.recipe.parse import refusal

Changed = TypeVar("Changed", bound=Part)


def evolve(part: Changed, **changes: Any) -> Changed:
    """The part with some fields changed, validated as if it had been read; the given one stays as it is.

    A field of the part that is itself a part is taken as it stands: it was validated when it was made.
    Raises RecipeError, which names the field.

    >>> from sequor.recipe.model import ExportPart
    >>> evolve(ExportPart(), quality=80).quality
    80
    >>> evolve(ExportPart(), qualty=80)
    Traceback (most recent call last):
    sequor.recipe.parse.RecipeError: the key 'qualty' is not known; keys of your own must begin with x-
    """
    try:
        return type(part).model_validate({**dict(part), **changes})
    except ValidationError as error:
        raise refusal(error) from None
