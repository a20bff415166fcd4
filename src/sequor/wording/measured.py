"""Readings as plain documents, without evaluating anything (docs/recipe.md)."""

from __future__ import annotations

from typing import Any

from sequor.core.references.line import Reading
from sequor.pipeline.references import ideal_references, readings_of
from sequor.pipeline.solve import lens_of
from sequor.recipe.model import Recipe


def measure_report(recipe: Recipe) -> dict[str, Any]:
    """The readings of every reference as taken, lens corrected. Raises RecipeError."""
    rows = []
    for ideal in ideal_references(recipe, lens_of(recipe)):
        readings = [reading_document(one) for one in readings_of(ideal)]
        rows.append(
            {
                "id": ideal.id,
                "kind": ideal.kind,
                **({"sides": readings} if len(readings) > 1 else readings[0]),
            }
        )
    return {"references": rows}


def reading_document(reading: Reading) -> dict[str, float]:
    """A reading as the command line writes it."""
    return {
        "slope_deg": reading.slope_deg,
        "lean_deg": reading.lean_deg,
        "length_px": reading.length_px,
        "sd_deg": reading.sd_deg,
    }
