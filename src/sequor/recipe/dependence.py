"""What new pixels depend on: the map, the frame, the way of filling. Under another they are stale."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Sequence
from typing import Any

import numpy as np

from sequor.core.fill import METHOD

from . import touching
from .evaluate import Evaluation
from .model import DonorPart, LensPart, PatchPart, TouchUpPart

TOUCH_UP = "touch-up "
"""How the names of patches of touch-ups begin."""


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
    """The hash of all that a take of the corners depends on but its seed: photo, map, frame, and the way of
    filling."""
    edges = evaluation.recipe.edges
    way = {} if edges.strips == 1 else {"strips": edges.strips}
    return _hash({**_ground(evaluation), **way, **_steered(edges.hint, edges.donors)})


def made_for_touch_up(evaluation: Evaluation, index: int) -> str:
    """The same for a touch-up: what it lies on counts too, as far as it looks."""
    edges = evaluation.recipe.edges
    window = touching.window(evaluation, index)
    beneath: dict[str, Any] = {}
    if window is not None and not touching.all_photo(evaluation, window):
        beneath = {"mode": edges.mode, "colour": edges.colour}
        if edges.mode == "fill":
            chosen = {
                patch.part: patch.seed
                for patch in edges.patches
                if patch.seed != edges.seed and not _of_touch_up(patch)
            }
            beneath |= {"fill": made_for(evaluation), "seed": edges.seed, "chosen": chosen}
    earlier = [
        _shape(edges.touch_ups[before])
        | {"amount": edges.touch_ups[before].amount, "seed": edges.touch_ups[before].seed}
        for before in touching.beneath(evaluation, index)
    ]
    part = edges.touch_ups[index]
    # Its name is in its patch.
    own = {"id": part.id, "area": _shape(part), "beneath": beneath, "earlier": earlier}
    return _hash({**_ground(evaluation), **own, **_steered(part.hint, edges.donors)})


def keys(evaluation: Evaluation) -> dict[str, str]:
    """What takes are made for: of each active touch-up by its id, and of the corners by ""."""
    found = {
        part.id: made_for_touch_up(evaluation, index)
        for index, part in enumerate(evaluation.recipe.edges.touch_ups)
        if part.active
    }
    return {"": made_for(evaluation), **found}


def patch_name(touch_up: str) -> str:
    """What the patch of a touch-up is called."""
    return f"{TOUCH_UP}{touch_up}"


def _of_touch_up(patch: PatchPart) -> bool:
    return patch.part.startswith(TOUCH_UP)


def _shape(part: TouchUpPart) -> dict[str, Any]:
    return part.model_dump(include={"points", "radius", "feather", "hint"})


def _ground(evaluation: Evaluation) -> dict[str, Any]:
    """What all new pixels of a frame depend on."""
    frame = evaluation.frame
    return {
        **map_document(evaluation),
        "sha256": evaluation.recipe.photo.sha256,
        # Under a millionth of a pixel nothing shows.
        "frame": [round(value, 6) for value in (frame.x, frame.y, frame.width, frame.height)],
        "method": METHOD,
    }


def _steered(hint: str | None, donors: Sequence[DonorPart]) -> dict[str, Any]:
    """Where the pixels come from, where that was said: a painter does not copy."""
    if hint is not None:
        return {"hint": hint}
    return {"donors": [one.model_dump(exclude={"id"}) for one in donors]} if donors else {}


def _hash(document: dict[str, Any]) -> str:
    return hashlib.sha256(json.dumps(document, sort_keys=True).encode()).hexdigest()


def stale(evaluation: Evaluation) -> list[PatchPart]:
    """The patches of a recipe that were made for something else than what it is now."""
    edges = evaluation.recipe.edges
    if not edges.patches:
        return []
    now = keys(evaluation)
    wanted = {patch_name(name): key for name, key in now.items() if name}
    found = []
    for patch in edges.patches:
        corners = now[""] if edges.mode == "fill" else None
        key = wanted.get(patch.part) if _of_touch_up(patch) else corners
        if key is not None and patch.made_for != key:
            found.append(patch)
    return found
