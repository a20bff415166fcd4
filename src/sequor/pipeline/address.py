"""The warp of a recipe as a document of its own: what a tile's address holds."""

from __future__ import annotations

import json
from typing import Any

from sequor.core.estimation.unknowns import ANGLES
from sequor.pipeline.edges.registry import mode_of
from sequor.pipeline.evaluated import Evaluated
from sequor.pipeline.fingerprint import pick
from sequor.pipeline.solve import TERMS
from sequor.pipeline.warp import Bend, Follow, Level
from sequor.pipeline.wide import is_wide
from sequor.recipe.evolve import evolve
from sequor.recipe.model.lens import LensPart

PHOTO = ("photo.width", "photo.height", "photo.quarter_turns", "develop")


def solved_lens(evaluated: Evaluated) -> LensPart:
    """The recipe's lens with the terms that straight things determined."""
    part, distortion = evaluated.recipe.lens, evaluated.solution.distortion
    if evaluated.recipe.correction.solved or not distortion.names:
        return part
    values = {name: getattr(evaluated.standing.lens, name) for name in TERMS if name in distortion.names}
    return evolve(part, source="straight", profile=None, **values)


def warp_document(evaluated: Evaluated) -> dict[str, Any]:
    """The parts of a recipe that make its warp, with solved values: a recipe that has the same one."""
    recipe, attitude = evaluated.recipe, evaluated.solution.attitude
    reads: tuple[str, ...] = (*PHOTO, *Level.reads, *Bend.reads)
    if mode_of(recipe.edges).moves_map or is_wide(recipe):
        reads = (*reads, *Follow.reads, "references.*.id")
    picked: dict[str, Any] = json.loads(pick(recipe, reads))
    solved: dict[str, Any] = {angle: getattr(attitude, angle) for angle in ANGLES}
    picked["correction"] |= {**solved, "focal_px": evaluated.camera.focal_px, "free": []}
    lens = solved_lens(evaluated).model_dump(mode="json", exclude_defaults=True)
    return {"format": recipe.format, "version": recipe.version, **picked, "lens": lens}
