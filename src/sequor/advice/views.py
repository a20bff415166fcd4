"""How a picture may be put on paper, and what each way costs."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, get_args

from sequor.pipeline.evaluated import Evaluated, evaluate
from sequor.recipe.evolve import evolve
from sequor.recipe.model import Recipe
from sequor.recipe.model.view import ViewKind
from sequor.recipe.parse import RecipeError

KINDS: tuple[ViewKind, ...] = get_args(ViewKind)

NATURAL_35MM = 35.0
"""What a picture looks like that is not stretched to speak of (common practice, no source)."""

FURTHER = 1.5
"""By how much longer the focal length looks that is begun with, where the photo's own is not short."""


@dataclass(frozen=True)
class ViewRow:
    """One way: how many times as long as wide a thing near the border becomes (``drawn_out``), by which
    share of its length a line may ``bend``, and what of the picture is ``kept``; ``refused``: why it
    cannot be had."""

    kind: ViewKind
    chosen: bool
    drawn_out: float | None
    bend: float | None
    kept: float | None
    refused: str | None


def with_kind(recipe: Recipe, kind: ViewKind) -> Recipe:
    """The recipe with another view; where it never said how wide that looks, it looks natural."""
    changes: dict[str, Any] = {"kind": kind}
    if kind != "flat" and recipe.view.looks_like_35mm is None:
        own = Evaluated(recipe).camera.equivalent_mm
        changes["looks_like_35mm"] = round(max(NATURAL_35MM, FURTHER * own), 1)
    return evolve(recipe, view=evolve(recipe.view, **changes))


def view_rows(recipe: Recipe) -> list[ViewRow]:
    """Every way, and what it costs."""
    return [_row(recipe, kind) for kind in KINDS]


def _row(recipe: Recipe, kind: ViewKind) -> ViewRow:
    chosen = recipe.view.kind == kind
    try:
        seen = evaluate(with_kind(recipe, kind))
        stretches = (_as_wide(seen) if seen.wide is None else seen).stretches
        kept = seen.cost.kept
    except RecipeError as error:
        return ViewRow(kind, chosen, None, None, None, str(error))
    if stretches is None:
        return ViewRow(kind, chosen, None, None, kept, None)
    return ViewRow(kind, chosen, stretches.drawn_out, stretches.bend, kept, None)


def _as_wide(seen: Evaluated) -> Evaluated:
    """A flat picture as the wide view that it is, so that the same can be told of it."""
    recipe = seen.recipe
    view = evolve(recipe.view, kind="round", looks_like_35mm=None, uprights=0.0)
    edges = evolve(recipe.edges, mode="trim") if recipe.edges.mode == "reshape" else recipe.edges
    return Evaluated(evolve(recipe, view=view, edges=edges))
