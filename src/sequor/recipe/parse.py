"""A recipe from text or from a parsed document, with errors that name the field."""

from __future__ import annotations

import json
import re
from typing import Any

from pydantic import ValidationError

from sequor.recipe.model import Recipe
from sequor.recipe.model.base import UnknownKeyError

FORM = re.compile(r"[\[\]]")


class RecipeError(ValueError):
    """A recipe that cannot be used: ``field`` names where, the message says why and what to do."""

    def __init__(self, message: str, field: str) -> None:
        super().__init__(message)
        self.field = field

    def __reduce__(self) -> tuple[type[RecipeError], tuple[str, str]]:
        # Exceptions are pickled by their message alone; this one has two arguments.
        return type(self), (str(self), self.field)


def parse(text: str | bytes) -> Recipe:
    """The recipe in a JSON text. Raises RecipeError."""
    try:
        document = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise RecipeError(f"this is not a JSON document: {error}", "") from None
    return build(document)


def build(document: Any) -> Recipe:
    """The recipe in a parsed JSON document. Raises RecipeError."""
    if not isinstance(document, dict):
        raise RecipeError("a recipe is a JSON object", "")
    try:
        return Recipe.model_validate(document, strict=False)
    except ValidationError as error:
        raise refusal(error) from None


def refusal(error: ValidationError) -> RecipeError:
    """The first thing that is wrong with a document, in words, with the name of its field."""
    first = error.errors()[0]
    # Where several forms are let in, the form that was tried last is no part of the document.
    field = ".".join(str(part) for part in first["loc"] if not FORM.search(str(part)))
    cause = first.get("ctx", {}).get("error")
    if isinstance(cause, UnknownKeyError):
        field = f"{field}.{cause.key}" if field else cause.key
    return RecipeError(str(cause) if cause else first["msg"], field)
