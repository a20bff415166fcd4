"""A word on which way with the empty corners suits a picture. Nothing is applied by it.

The limits are common practice, no source.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from sequor.advice.edges import EdgeChoice, Mode
from sequor.core.estimation.unknowns import ANGLES
from sequor.pipeline.evaluate import Evaluation
from sequor.pipeline.stretching import HURTS
from sequor.wording.frame import percent

TURNED_DEG = 0.05
ON_PURPOSE = 0.03
LITTLE_LOST = 0.04
LITTLE_NEW = 0.05
NEAR_BORDER = 0.06
"""Of the photo's shorter side: what ends so near to the border would have to be made up beyond it."""


def suits(evaluation: Evaluation, choices: Sequence[EdgeChoice]) -> tuple[Mode, str] | None:
    """The way that suits, and why, in a sentence; None when nothing was turned, or when the frame reaches far
    beyond the picture on purpose."""
    plain = next(choice for choice in choices if choice.extent == "same size")
    trim, reshape = (next(one for one in choices if one.mode == mode) for mode in ("trim", "reshape"))
    turned = any(abs(evaluation.taken_out(angle)) >= TURNED_DEG for angle in ANGLES)
    if not turned or plain.empty == 0 or evaluation.cost.empty > plain.empty + ON_PURPOSE:
        return None
    empty, stretch = plain.empty, reshape.stretch
    lost = f"only {percent(1 - trim.kept)} of the picture is lost"
    if 1 - trim.kept <= LITTLE_LOST:
        return "trim", f"Trim suits this picture: {lost}."
    runs = _lines_near_border(evaluation)
    if empty <= LITTLE_NEW and not runs:
        return "fill", (
            f"Fill suits this picture: only {percent(empty)} would be new, and no line runs to the edge."
        )
    if stretch is not None and stretch <= HURTS:
        why = "lines run to the edge" if runs else f"{percent(empty)} would be much to make up"
        return "reshape", (
            f"Reshape suits this picture: {why}, and it stretches no part by more than {percent(stretch)}."
        )
    return "trim", (
        f"Trim suits this picture: {percent(empty)} would be much to make up, and reshaping "
        + ("cannot be done." if stretch is None else f"would stretch a part by {percent(stretch)}.")
    )


def _lines_near_border(evaluation: Evaluation) -> bool:
    """Whether a line that counts ends near the photo's border."""
    width, height = evaluation.camera.width, evaluation.camera.height
    near = NEAR_BORDER * min(width, height)
    for part in evaluation.recipe.references:
        points = np.array(part.points)
        inside = np.minimum(points, [width, height] - points).min()
        if part.active and part.kind != "witness" and inside < near:
            return True
    return False
