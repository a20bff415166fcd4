"""What to correct is the photographer's choice: nothing, the tilt only, verticals too, or square-on.

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
from sequor.wording.found import EXTENT_NAMES, EXTENTS
from sequor.wording.frame import loss_words, percent

PRESETS: tuple[tuple[str, tuple[Unknown, ...], str], ...] = (
    ("Nothing", (), ""),
    (EXTENT_NAMES["tilt"], EXTENTS["tilt"], "draw one line"),
    (EXTENT_NAMES["walls"], EXTENTS["walls"], "needs two verticals apart, or one and a horizontal"),
    (EXTENT_NAMES["square-on"], EXTENTS["square-on"], "needs horizontals too"),
)
"""How far a correction may go: its name, the angles that are corrected, what it needs to be determined."""


@dataclass(frozen=True)
class Preset:
    """One of them: whether it is the present one, whether the lines determine it, its cost or what it
    needs in words, and the recipe that it leads to. ``kept``: the share of the picture that is left, null
    where it cannot be had; ``loss``: what it cuts, in words, empty for nothing that matters."""

    name: str
    chosen: bool
    determined: bool
    words: str
    recipe: Recipe
    kept: float | None
    loss: str = ""


def presets(evaluation: Evaluated) -> list[Preset]:
    """All of them, how little first; empty as long as no line says anything."""
    if not evaluation.counting:
        return []
    return [_preset(evaluation, *one) for one in PRESETS]


def _preset(evaluation: Evaluated, name: str, angles: tuple[Unknown, ...], needs: str) -> Preset:
    recipe, sd = evaluation.recipe, evaluation.solution.sd
    # What may be corrected and no line tells is not corrected.
    chosen = {one for one in ANGLES if one in recipe.correction.free and sd[one] is not None} == set(angles)
    taken = taking_out(recipe, *angles)
    try:
        there = evaluate(evolve(taken, frame=evolve(recipe.frame, rect=None)))
    except RecipeError:
        return Preset(name, chosen, False, "turns the picture too far", taken, None)
    if angles and there.solution.sd[angles[-1]] is None:
        return Preset(name, chosen, False, needs, taken, None)
    kept = there.cost.kept
    cost = f"keeps {percent(kept)}" + (", part of the picture is lost" if there.warp.cuts else "")
    return Preset(name, chosen, True, cost, taken, kept, loss_words(there.cut_things, there.cut_off))


def preset_action(name: str) -> str:
    """That a preset was chosen, in words for the log.

    >>> preset_action("Square-on")
    'Correction: square-on'
    """
    return f"Correction: {name[0].lower()}{name[1:]}"
