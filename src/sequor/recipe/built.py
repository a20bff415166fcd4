"""What the recipe may ask for but this version does not carry out yet: refused by name, never ignored."""

from __future__ import annotations

from collections.abc import Iterator

from .model import Recipe
from .reading import RecipeError

KINDS = ("level", "plumb", "witness")


def refuse_unbuilt(recipe: Recipe) -> None:
    """Raise RecipeError for the first thing in the recipe that is not built yet."""
    for field, what in _unbuilt(recipe):
        raise RecipeError(f"{what} is not built yet", field)


def _unbuilt(recipe: Recipe) -> Iterator[tuple[str, str]]:
    lens, correction, frame = recipe.lens, recipe.correction, recipe.frame
    if lens.source != "none":
        yield "lens.source", f"the lens source {lens.source!r}"
    if lens.model != "brown":
        yield "lens.model", f"the lens model {lens.model!r}"
    for term in ("k1", "k2", "k3", "p1", "p2"):
        if getattr(lens, term) != 0:
            yield f"lens.{term}", "a lens term"
    if lens.profile is not None:
        yield "lens.profile", "a lens profile"
    for index, reference in enumerate(recipe.references):
        if reference.kind not in KINDS:
            yield f"references.{index}.kind", f"the kind {reference.kind!r}"
    for name in correction.free:
        if name != "roll":
            yield "correction.free", f"solving for {name}"
    for angle in ("pitch", "yaw"):
        if getattr(correction, angle):
            yield f"correction.{angle}", f"taking out {angle}"
        if getattr(correction.by_hand, angle):
            yield f"correction.by_hand.{angle}", f"{angle} by hand"
    if correction.proportion != 1:
        yield "correction.proportion", "a proportion other than 1"
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
