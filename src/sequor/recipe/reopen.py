"""A recipe whose angles are open again, so that its lines are solved anew."""

from __future__ import annotations

from sequor.core.estimation.unknowns import ANGLES
from sequor.recipe.evolve import evolve
from sequor.recipe.model import Recipe


def to_solve_anew(recipe: Recipe, **correction: object) -> Recipe:
    """The recipe with its angles open again, and what else was found from lines: focal length, lens;
    parts of its correction changed."""
    changed: dict[str, object] = {"roll": None, "pitch": None, "yaw": None, "series": None, **correction}
    if "focal_px" in recipe.correction.free:
        changed["focal_px"] = None
    lens = recipe.lens
    if lens.source == "straight":
        lens = evolve(lens, k1=0.0, k2=0.0)
    return evolve(recipe, lens=lens, correction=evolve(recipe.correction, **changed))


def taking_out(recipe: Recipe, *angles: str) -> Recipe:
    """The recipe with these angles free, and no others; what else is free stays so."""
    others = [name for name in recipe.correction.free if name not in ANGLES]
    return to_solve_anew(recipe, free=[*angles, *others])
