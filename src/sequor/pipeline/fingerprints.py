"""What new pixels depend on: the map, the frame, the way of filling. Under another they are stale."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Mapping
from functools import cached_property, lru_cache
from typing import Any

import numpy as np

from sequor.core.fill import METHOD
from sequor.pipeline import retouch
from sequor.pipeline.evaluate import Evaluation
from sequor.recipe.evolve import evolve
from sequor.recipe.model import LensPart, PatchPart, TouchUpPart

TOUCH_UP = "touch-up "
"""How the names of patches of touch-ups begin."""
SHAPE = {"id", "points", "radius", "feather", "hint"}


def solved_lens(evaluation: Evaluation) -> LensPart:
    """The recipe's lens with the terms that straight things determined."""
    part, bending = evaluation.recipe.lens, evaluation.solution.bending
    if evaluation.recipe.correction.solved or not bending.names:
        return part
    values = {name: float(np.round(getattr(bending.lens, name), 12)) for name in bending.names}
    return evolve(part, source="straight", profile=None, **values)


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
    return Dependence(evaluation).corners


class Dependence:
    """What takes under an evaluation are made for. What several of them rest on is written down once, so that
    fifty touch-ups cost little more than one."""

    def __init__(self, evaluation: Evaluation) -> None:
        self._edges = evaluation.recipe.edges
        self._ground = {key: _json(value) for key, value in _ground(evaluation).items()}
        self._donors = _json([one.model_dump(exclude={"id"}) for one in self._edges.donors])
        self.placed = retouch.Placed(evaluation)
        strips = self._edges.strips
        way = {} if strips == 1 else {"strips": _json(strips)}
        self.corners = _hash({**self._ground, **way, **self._steered(self._edges.hint)})

    def touch_up(self, index: int) -> str:
        """What takes of a touch-up are made for: what it lies on counts too, as far as it looks."""
        edges, placed = self._edges, self.placed
        window = placed.window(index)
        beneath: dict[str, Any] = {}
        if window is not None and not placed.all_photo(window):
            beneath = {"mode": edges.mode, "colour": edges.colour}
            if edges.mode == "fill":
                beneath |= {"fill": self.corners, "seed": edges.seed, "chosen": self._chosen}
        earlier = ", ".join(self._as_earlier[before] for before in placed.beneath(index))
        part = edges.touch_ups[index]
        # Its name is in its patch.
        own = {
            "id": _json(part.id),
            "area": self._shapes[index],
            "beneath": _json(beneath),
            "earlier": f"[{earlier}]",
        }
        return _hash({**self._ground, **own, **self._steered(part.hint)})

    @cached_property
    def _shapes(self) -> list[str]:
        return [_shape(part.model_dump_json(include=SHAPE)) for part in self._edges.touch_ups]

    @cached_property
    def _as_earlier(self) -> list[str]:
        """Each touch-up as what lies beneath another: its shape, how much of it shows, its seed."""
        return [
            f'{{"amount": {_json(part.amount)}, {shape[1:-1]}, "seed": {_json(part.seed)}}}'
            for part, shape in zip(self._edges.touch_ups, self._shapes, strict=True)
        ]

    @cached_property
    def _chosen(self) -> dict[str, int]:
        return {
            patch.part: patch.seed
            for patch in self._edges.patches
            if patch.seed != self._edges.seed and not _of_touch_up(patch)
        }

    def _steered(self, hint: str | None) -> dict[str, str]:
        """Where the pixels come from, where that was said: a painter does not copy."""
        if hint is not None:
            return {"hint": _json(hint)}
        return {"donors": self._donors} if self._edges.donors else {}


@lru_cache(maxsize=8)
def keys(evaluation: Evaluation) -> Mapping[str, str]:
    """What takes are made for: of each active touch-up by its id, and of the corners by ""."""
    dependence = Dependence(evaluation)
    found = {
        part.id: dependence.touch_up(index)
        for index, part in enumerate(evaluation.recipe.edges.touch_ups)
        if part.active
    }
    return {"": dependence.corners, **found}


def patch_name(touch_up: str) -> str:
    """What the patch of a touch-up is called."""
    return f"{TOUCH_UP}{touch_up}"


def _of_touch_up(patch: PatchPart) -> bool:
    return patch.part.startswith(TOUCH_UP)


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


@lru_cache(maxsize=512)
def _shape(document: str) -> str:
    """The shape of a touch-up as it is hashed; what did not change from one evaluation to the next is not
    written anew."""
    part = TouchUpPart.model_validate_json(document)
    return _json(part.model_dump(include=SHAPE - {"id"}))


def _json(value: Any) -> str:
    return json.dumps(value, sort_keys=True)


def _hash(written: dict[str, str]) -> str:
    """The hash of a document whose values are JSON already."""
    document = ", ".join(f'"{key}": {value}' for key, value in sorted(written.items()))
    return hashlib.sha256(f"{{{document}}}".encode()).hexdigest()


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
