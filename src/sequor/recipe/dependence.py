"""What new pixels depend on: the map, the frame, the way of filling. Under another they are stale."""

from __future__ import annotations

import hashlib
import json
from typing import Any

import numpy as np

from sequor.core.fill import METHOD

from .evaluate import Evaluation
from .model import LensPart, PatchPart


def solved_lens(evaluation: Evaluation) -> LensPart:
    """The recipe's lens with the terms that straight things determined."""
    part, bending = evaluation.recipe.lens, evaluation.solution.bending
    if evaluation.recipe.correction.solved or not bending.names:
        return part
    values = {name: float(np.round(getattr(bending.lens, name), 12)) for name in bending.names}
    return part.model_copy(update={"source": "straight", "profile": None, **values})


def map_document(evaluation: Evaluation) -> dict[str, Any]:
    """The parts of a recipe that make its map, with solved values: nothing else of it moves a pixel."""
    recipe = evaluation.recipe
    attitude = evaluation.solution.attitude
    correction = recipe.correction.model_dump(exclude_defaults=True, exclude={"free"})
    correction.update(roll=attitude.roll, pitch=attitude.pitch, yaw=attitude.yaw, free=[])
    if evaluation.camera.source == "lines":
        correction["focal_px"] = evaluation.camera.focal_px
    document = {
        "format": recipe.format,
        "version": recipe.version,
        "photo": recipe.photo.model_dump(exclude={"sha256"}),
        "lens": solved_lens(evaluation).model_dump(exclude_defaults=True),
        "correction": correction,
    }
    if recipe.edges.mode == "reshape":
        # The mesh follows the lines too.
        document["references"] = [
            part.model_dump(include={"id", "kind", "points", "weight"})
            for part in recipe.references
            if part.active and part.kind != "witness"
        ]
        document["edges"] = {"mode": "reshape", "segments": recipe.edges.segments}
    return document


def made_for(evaluation: Evaluation) -> str:
    """The hash of all that a take depends on but its seed: photo, map, frame, and the way of filling."""
    frame = evaluation.frame
    document = {
        **map_document(evaluation),
        "sha256": evaluation.recipe.photo.sha256,
        # Under a millionth of a pixel nothing shows.
        "frame": [round(value, 6) for value in (frame.x, frame.y, frame.width, frame.height)],
        "method": METHOD,
    }
    return hashlib.sha256(json.dumps(document, sort_keys=True).encode()).hexdigest()


def stale(evaluation: Evaluation) -> list[PatchPart]:
    """The patches of a recipe that were made for something else than what it is now."""
    patches = evaluation.recipe.edges.patches
    if not patches or evaluation.recipe.edges.mode != "fill":
        return []
    now = made_for(evaluation)
    return [patch for patch in patches if patch.made_for != now]
