"""Evaluations as plain documents: what the command line prints and other programs read (RECIPE.md)."""

from __future__ import annotations

from typing import Any

import numpy as np

from sequor.core.frame import Rectangle
from sequor.core.references import read

from .evaluate import Evaluation, as_reference
from .model import Recipe


def measure_report(recipe: Recipe) -> dict[str, Any]:
    """The readings of every reference as taken."""
    rows = []
    for part in recipe.references:
        reference = as_reference(part)
        reading = read(reference.points, reference.sigma_px)
        rows.append(
            {
                "id": part.id,
                "kind": part.kind,
                "slope_deg": reading.slope_deg,
                "lean_deg": reading.lean_deg,
                "length_px": reading.length_px,
                "sd_deg": reading.sd_deg,
            }
        )
    return {"references": rows}


def solve_report(evaluation: Evaluation) -> dict[str, Any]:
    """The solved attitude, how every line stands after it, and the frame."""
    solution, lens = evaluation.solution, evaluation.recipe.lens
    attitude = solution.attitude
    return {
        "roll": attitude.roll,
        "pitch": attitude.pitch,
        "yaw": attitude.yaw,
        "focal_px": evaluation.camera.focal_px,
        "focal_source": evaluation.camera.source,
        "lens": lens.model_dump(),
        "sd": {"roll": solution.sd_roll, "pitch": None, "yaw": None},
        "undetermined": list(solution.undetermined),
        "references": [
            {
                "id": result.id,
                "before_deg": result.before_deg,
                "after_deg": result.after_deg,
                "misfit_deg": result.misfit_deg,
                "after_px": result.after_px,
                "sd_deg": result.reading.sd_deg,
                "verdict": result.verdict,
            }
            for result in evaluation.references
        ],
        "conflicts": [
            {
                "ids": list(conflict.ids),
                "deg": conflict.deg,
                "sigmas": conflict.sigmas,
                "reason": conflict.reason,
            }
            for conflict in solution.conflicts
        ],
        "frame": {
            "rect": rect_values(evaluation.frame),
            "kept": evaluation.cost.kept,
            "empty": evaluation.cost.empty,
        },
    }


def rect_values(rectangle: Rectangle) -> tuple[float, float, int, int]:
    """A whole-pixel rectangle as the recipe writes it."""
    return rectangle.x, rectangle.y, round(rectangle.width), round(rectangle.height)


def with_solved_angles(recipe: Recipe, evaluation: Evaluation) -> Recipe:
    """The recipe with the solved values written in; unchanged when nothing was there to solve from."""
    if evaluation.solution.sd_roll is None:
        return recipe
    attitude = evaluation.solution.attitude
    angles = {name: float(np.round(getattr(attitude, name), 12)) for name in ("roll", "pitch", "yaw")}
    return recipe.model_copy(update={"correction": recipe.correction.model_copy(update=angles)})
