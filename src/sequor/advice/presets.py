"""What to correct is the photographer's choice: the tilt only, verticals too, or all of it, square-on.

Each says what it costs before it is taken.
"""

from __future__ import annotations

from dataclasses import dataclass

from sequor.core.estimation.unknowns import ANGLES, Unknown
from sequor.pipeline.evaluated import Evaluated, evaluate
from sequor.recipe.evolve import evolve
from sequor.recipe.model import Recipe
from sequor.recipe.parse import RecipeError
from sequor.recipe.reopen import taking_out
from sequor.wording.frame import percent

PRESETS: tuple[tuple[str, tuple[Unknown, ...], str], ...] = (
    ("Tilt only", ("roll",), "draw one line"),
    ("Verticals too", ("roll", "pitch"), "needs two verticals apart, or one and a horizontal"),
    ("Square-on", ANGLES, "needs horizontals too"),
)


@dataclass(frozen=True)
class Preset:
    """One of them: whether it is the present one, whether the lines determine it, its cost or what it
    needs in words, and the recipe that it leads to."""

    name: str
    chosen: bool
    determined: bool
    words: str
    recipe: Recipe


def presets(evaluation: Evaluated) -> list[Preset]:
    """The three of them; empty as long as the lines say nothing but the tilt, and no more is asked for."""
    recipe = evaluation.recipe
    tilt, walls, square_on = (_preset(recipe, *one) for one in PRESETS)
    asked = "yaw" in recipe.correction.free and square_on.determined
    return [tilt, walls, square_on] if walls.determined or asked else []


def _preset(recipe: Recipe, name: str, angles: tuple[Unknown, ...], needs: str) -> Preset:
    chosen = {unknown for unknown in recipe.correction.free if unknown in ANGLES} == set(angles)
    taken = taking_out(recipe, *angles)
    try:
        there = evaluate(evolve(taken, frame=evolve(recipe.frame, rect=None)))
    except RecipeError:
        return Preset(name, chosen, False, "turns the picture too far", taken)
    determined = there.solution.sd[angles[-1]] is not None
    cost = f"keeps {percent(there.cost.kept)}" + (", part of the picture is lost" if there.warp.cuts else "")
    return Preset(name, chosen, determined, cost if determined else needs, taken)
