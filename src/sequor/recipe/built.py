"""What the recipe may ask for but this version does not carry out yet: refused by name, never ignored."""

from __future__ import annotations

from collections.abc import Iterator

from .model import Recipe
from .reading import RecipeError


def refuse_unbuilt(recipe: Recipe) -> None:
    """Raise RecipeError for the first thing in the recipe that is not built yet."""
    refuse_unbuilt_lens(recipe)
    for field, what in _unbuilt(recipe):
        raise RecipeError(f"{what} is not built yet", field)


def _unbuilt(recipe: Recipe) -> Iterator[tuple[str, str]]:
    frame = recipe.frame
    for term in ("k1", "k2", "k3", "p1", "p2"):
        if getattr(recipe.lens, term) != 0:
            yield f"lens.{term}", "taking out the bending of the lens"
    for name in recipe.correction.free:
        if name in ("k1", "k2"):
            yield "correction.free", f"solving for {name}"
    if frame.ratio != "original":
        yield "frame.ratio", f"the ratio {frame.ratio!r}"
    if frame.allow_empty:
        yield "frame.allow_empty", "a frame over empty corners"
    if frame.subject is not None:
        yield "frame.subject", "a subject mark"
    if frame.print is not None:
        yield "frame.print", "a print size"
    if recipe.edges.mode != "trim":
        yield "edges.mode", f"the edges mode {recipe.edges.mode!r}"


def refuse_unbuilt_lens(recipe: Recipe) -> None:
    """Raise RecipeError for a lens that cannot even be measured through yet."""
    lens = recipe.lens
    if lens.source not in ("none", "manual"):
        raise RecipeError(f"the lens source {lens.source!r} is not built yet", "lens.source")
    if lens.model != "brown":
        raise RecipeError(f"the lens model {lens.model!r} is not built yet", "lens.model")
    if lens.profile is not None:
        raise RecipeError("a lens profile is not built yet", "lens.profile")
