"""Evaluations as plain documents: what the command line prints and other programs read (docs/recipe.md)."""

from __future__ import annotations

import csv
import io
from typing import Any

import numpy as np

from sequor.core.estimation.least_squares import HALF_WIDTH_95
from sequor.core.estimation.unknowns import ANGLES
from sequor.core.rectangle import Rectangle
from sequor.pipeline.address import solved_lens
from sequor.pipeline.evaluated import Evaluated
from sequor.recipe.evolve import evolve
from sequor.recipe.model import Recipe
from sequor.wording import kinds
from sequor.wording.measured import reading_document

FIELD_BOOK_COLUMNS = [
    "number",
    "id",
    "kind",
    "group",
    "as_taken",
    "slope_deg",
    "lean_deg",
    "length_px",
    "sd_deg",
    "before_deg",
    "after_deg",
    "misfit_deg",
    "after_px",
    "half_width_95_deg",
    "weight",
    "verdict",
    "verdict_words",
    "points",
]


def solve_report(evaluation: Evaluated) -> dict[str, Any]:
    """The solved attitude, how every line stands after it, and the frame."""
    solution, lens = evaluation.solution, solved_lens(evaluation)
    terms = [name for name in ("k1", "k2") if name in evaluation.recipe.correction.free]
    attitude = solution.attitude
    return {
        "roll": attitude.roll,
        "pitch": attitude.pitch,
        "yaw": attitude.yaw,
        "focal_px": evaluation.camera.focal_px,
        "focal_source": evaluation.camera.source,
        "lens": lens.model_dump(),
        "sd": {**solution.sd, **{name: solution.distortion.sd(name) for name in terms}},
        "sd_known": solution.sd_known,
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


def field_book_rows(evaluation: Evaluated) -> list[dict[str, Any]]:
    """The field book as it stands: a row for every reference, angles in degrees, lengths in photo pixels."""
    rows = []
    for number, (part, result) in enumerate(
        zip(evaluation.recipe.references, evaluation.references, strict=True), 1
    ):
        rows.append(
            {
                "number": number,
                "id": part.id,
                "kind": part.kind,
                "group": part.group,
                "as_taken": kinds.taken_words(result),
                **reading_document(result.reading),
                "before_deg": result.before_deg,
                "after_deg": result.after_deg,
                "misfit_deg": result.misfit_deg,
                "after_px": result.after_px,
                "half_width_95_deg": HALF_WIDTH_95 * result.reading.sd_deg,
                "weight": part.weight,
                "verdict": result.verdict,
                "verdict_words": kinds.verdict_words(result),
                "points": [list(point) for point in part.points],
            }
        )
    return rows


def as_csv(rows: list[dict[str, Any]]) -> str:
    """Rows as CSV (RFC 4180) with a header line; points as "x y; x y"."""
    out = io.StringIO()
    writer = csv.DictWriter(out, FIELD_BOOK_COLUMNS, lineterminator="\r\n")
    writer.writeheader()
    for row in rows:
        writer.writerow({**row, "points": "; ".join(f"{x:g} {y:g}" for x, y in row["points"])})
    return out.getvalue()


def rect_values(rectangle: Rectangle) -> tuple[float, float, int, int]:
    """A whole-pixel rectangle as the recipe writes it."""
    return rectangle.x, rectangle.y, round(rectangle.width), round(rectangle.height)


def with_solved_values(recipe: Recipe, evaluation: Evaluated) -> Recipe:
    """The recipe with the solved values written in; unchanged when nothing was there to solve from."""
    solution = evaluation.solution
    if not solution.solved and not solution.distortion.names:
        return recipe
    values: dict[str, float] = {
        name: float(np.round(getattr(solution.attitude, name), 12)) for name in ANGLES
    }
    if solution.focal_sd is not None:
        values["focal_px"] = float(np.round(solution.focal_px, 9))
    correction = evolve(recipe.correction, **values)
    return evolve(recipe, correction=correction, lens=solved_lens(evaluation))
