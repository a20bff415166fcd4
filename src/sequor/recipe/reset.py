"""A recipe with one of its steps, or all of them, as it was when the photo was imported."""

from __future__ import annotations

from typing import Any, Literal

from sequor.recipe.evolve import evolve
from sequor.recipe.model import Recipe
from sequor.recipe.model.lens import LensPart
from sequor.recipe.reopen import to_solve_anew

Step = Literal["lens", "lines", "frame", "edges", "export"]

BY_HAND = "x-by-hand"
"""Where a recipe remembers the hand's own term while something else takes the bending out."""

LENS_TERMS = ("k1", "k2")


def hand_term(recipe: Recipe) -> float:
    """The term that the hand has given to the lens, or had given last."""
    lens = recipe.lens
    if lens.source == "manual" and not lens.fisheye:
        return lens.k1
    return float((lens.model_extra or {}).get(BY_HAND, 0.0))


def without_lens(recipe: Recipe) -> Recipe:
    """The recipe with nothing that takes the bending out; what its lines say is solved anew."""
    term = hand_term(recipe)
    remembered: dict[str, Any] = {BY_HAND: term} if term else {}
    free = [name for name in recipe.correction.free if name not in LENS_TERMS]
    return to_solve_anew(evolve(recipe, lens=LensPart(**remembered)), free=free)


def reset(recipe: Recipe, first: Recipe, step: Step | None) -> Recipe:
    """The recipe with a step as in ``first``; None: all steps."""
    if step == "lens":
        let_go = [evolve(one, become=None) for one in recipe.references]
        plain = evolve(without_lens(recipe), develop=first.develop, references=let_go)
        plain = evolve(plain, view=first.view, bend=first.bend)
        return evolve(plain, lens=first.lens) if first.lens.profile else plain
    if step == "frame":
        return _with_frame_of(recipe, first)
    if step == "export":
        return evolve(recipe, export=first.export)
    if step == "edges":
        frame = recipe.frame
        if frame.allow_empty:
            frame = evolve(frame, rect=None, allow_empty=False)
        return evolve(recipe, edges=first.edges, frame=frame)
    if step == "lines":
        return _without_lines(recipe, first)
    return evolve(
        recipe,
        references=[],
        correction=first.correction,
        lens=first.lens,
        develop=first.develop,
        view=first.view,
        bend=first.bend,
        frame=first.frame,
        edges=first.edges,
        export=first.export,
    )


def _with_frame_of(recipe: Recipe, first: Recipe) -> Recipe:
    export = recipe.export
    if first.frame.print is None and export.size == "print":
        export = evolve(export, size=None)
    return evolve(recipe, frame=first.frame, export=export)


def _without_lines(recipe: Recipe, first: Recipe) -> Recipe:
    """Without lines, but for what tells the lens: that belongs to its own step."""
    if recipe.lens.source != "straight":
        return evolve(recipe, references=[], correction=first.correction)
    straight = [one for one in recipe.references if one.kind == "straight"]
    terms = [name for name in recipe.correction.free if name in LENS_TERMS]
    correction = evolve(first.correction, free=[*first.correction.free, *terms])
    return evolve(recipe, references=straight, correction=correction)
