"""A word on which way with the empty corners suits a picture. Nothing is applied by it.

The limits are common practice, no source.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import get_args

import numpy as np

from sequor.advice.edges import EdgeChoice
from sequor.core.estimation.unknowns import ANGLES
from sequor.core.references.registry import kind_of
from sequor.pipeline.edges.base import Suitability
from sequor.pipeline.edges.registry import MODES
from sequor.pipeline.evaluated import Evaluated
from sequor.recipe.model.edges import Mode
from sequor.wording.edges import MODE_WORDS, no_better_words

TURNED_DEG = 0.05
ON_PURPOSE = 0.03
NEAR_BORDER = 0.06
"""Of the photo's shorter side: what ends so near to the border would have to be made up beyond it."""


def suits(evaluation: Evaluated, choices: Sequence[EdgeChoice]) -> tuple[Mode, str] | None:
    """The way that suits, and why, in a sentence; None when nothing was turned, or when the frame reaches far
    beyond the picture on purpose."""
    plain = next(choice for choice in choices if choice.extent == "same size")
    trim, reshape = (next(one for one in choices if one.mode == mode) for mode in ("trim", "reshape"))
    turned = any(abs(evaluation.taken_out(angle)) >= TURNED_DEG for angle in ANGLES)
    if not turned or plain.empty == 0 or evaluation.cost.empty > plain.empty + ON_PURPOSE:
        return None
    found = Suitability(1 - trim.kept, plain.empty, reshape.stretch, _lines_near_border(evaluation))
    for mode in get_args(Mode):
        if MODES[mode].suits(found):
            return mode, MODE_WORDS[mode].suits(found)
    return "trim", no_better_words(found)


def _lines_near_border(evaluation: Evaluated) -> bool:
    """Whether a line that counts ends near the photo's border."""
    width, height = evaluation.camera.width, evaluation.camera.height
    near = NEAR_BORDER * min(width, height)
    for part in evaluation.recipe.references:
        points = np.array(part.points)
        inside = np.minimum(points, [width, height] - points).min()
        if part.active and kind_of(part.kind).reshape_follows and inside < near:
            return True
    return False
