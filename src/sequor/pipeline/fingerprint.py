"""What a result was made from, as a hash: the fields that its stage reads, and what it stands on."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterable, Iterator
from functools import lru_cache
from types import UnionType
from typing import Any, Union, get_args, get_origin

from pydantic import BaseModel

from sequor.pipeline.stage import Stage
from sequor.recipe.model import Recipe

EACH = "*"


def leaves(model: type[BaseModel] = Recipe, before: str = "") -> Iterator[str]:
    """The paths of all fields of a recipe that hold a value, parts of parts opened up.

    >>> found = list(leaves())
    >>> "references.*.points" in found, "lens.profile.terms" in found, "lens" in found
    (True, True, False)
    """
    for name, field in model.model_fields.items():
        part, each = _part_in(field.annotation)
        path = f"{before}{name}" + (f".{EACH}" if each else "")
        if part is None:
            yield f"{before}{name}"
        else:
            yield from leaves(part, f"{path}.")


def _part_in(annotation: Any) -> tuple[type[BaseModel] | None, bool]:
    """The part that a field holds, or none, and whether it holds a list of them."""
    if isinstance(annotation, type) and issubclass(annotation, BaseModel):
        return annotation, False
    inner = get_args(annotation)
    if get_origin(annotation) is list:
        return _part_in(inner[0])[0], True
    if get_origin(annotation) in (Union, UnionType):
        # What may be one of several things is a value of its own, whatever it is made of.
        kinds = [one for one in inner if one is not type(None)]
        return _part_in(kinds[0]) if len(kinds) == 1 else (None, False)
    return None, False


@lru_cache(maxsize=256)
def meant(paths: tuple[str, ...], without: tuple[str, ...] = ()) -> tuple[str, ...]:
    """The leaves that paths name, but for those that ``without`` names. Raises ValueError for a path of
    none."""
    found: dict[str, None] = {}
    for path in paths:
        own = [leaf for leaf in leaves() if leaf == path or leaf.startswith(f"{path}.")]
        if not own:
            raise ValueError(f"the recipe has no field {path!r}")
        found |= dict.fromkeys(own)
    left_out = meant(without) if without else ()
    return tuple(leaf for leaf in found if leaf not in left_out)


@lru_cache(maxsize=256)
def _included(paths: tuple[str, ...]) -> dict[str, Any]:
    """The same as pydantic wants to be told what to write."""
    tree: dict[str, Any] = {}
    for path in paths:
        at = tree
        *before, last = ["__all__" if step == EACH else step for step in path.split(".")]
        for step in before:
            at = at.setdefault(step, {})
        at[last] = True
    return tree


def pick(recipe: Recipe, paths: tuple[str, ...], without: tuple[str, ...] = ()) -> str:
    """Some fields of a recipe as JSON, defaults written out, own keys left out: always the same text for the
    same values."""
    chosen = meant(paths, without)
    return recipe.model_dump_json(include=_included(chosen)) if chosen else "{}"


def told(parts: Iterable[str]) -> bytes:
    """Some texts in a row; where one ends and the next begins is told, too."""
    texts = [part.encode() for part in parts]
    return b"".join([b"%d:" % len(text) + text for text in texts])


def digest(parts: Iterable[str]) -> str:
    """The SHA-256 of some texts, in hexadecimal; where one ends and the next begins counts."""
    return hashlib.sha256(told(parts)).hexdigest()


def fingerprint(stage: Stage[Any], recipe: Recipe, upstream: Iterable[str]) -> str:
    """The fingerprint of a stage's result for a recipe; ``upstream``: what it stands on, in its order."""
    picked = pick(recipe, stage.reads, stage.ignores(recipe))
    return digest([type(stage).__name__, str(stage.version), picked, *upstream])


def settled(values: Any) -> str:
    """The numbers that a result comes down to, as text to chain."""
    return json.dumps(values, separators=(",", ":"))
