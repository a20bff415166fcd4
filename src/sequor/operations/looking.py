"""Looking at a photo before anybody has measured it: the lines that Sequor would go by, and how sure it
is."""

from __future__ import annotations

import contextlib
import hashlib
import json
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from threading import Lock
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray
from pydantic import TypeAdapter, ValidationError

from sequor.core.camera import Intrinsics
from sequor.core.distortion.models import Lens
from sequor.core.look.attitude import Seen, look
from sequor.core.look.confidence import SURE, confidence
from sequor.core.look.posterior import Recorded
from sequor.core.look.proposal import Proposed, proposed
from sequor.core.look.texture import is_one_texture
from sequor.core.raster.pixels import Picture, in_eight_bits
from sequor.pipeline.evaluated import Evaluated, evaluate
from sequor.recipe.evolve import evolve
from sequor.recipe.model import Recipe
from sequor.recipe.model.references import ReferencePart
from sequor.recipe.parse import RecipeError
from sequor.recipe.reopen import taking_out
from sequor.store.files import write_whole
from sequor.store.models import NOT_LOOKED
from sequor.wording.found import EXTENTS, Extent

LOOKED_AT = 1600
"""Pixels of the longer side at which straight things are found; they are snapped at full size."""

Held = Sequence[float | None] | None

SURE_COLUMNS: dict[Extent, str] = {"tilt": "sure_tilt", "walls": "sure_walls", "square-on": "sure_square"}
"""Where a photo's row tells how sure each extent is."""

METHOD = 3
"""Raised when another look at the same photo may say something else."""

KEEPS_MOST = 0.75
"""Of the picture: what keeps less is not suggested."""

UNSURE_AT_MOST = 0.49

STRUCK_OUT = 8
"""So many lines at most that do not agree with the others are struck out, one after the other."""

NOTHING = (
    "There are too few straight things whose direction is known. Draw a line along the horizon or a vertical "
    "edge."
)
TEXTURE = (
    "The whole photo is one texture, which may run as it likes. Draw a line along something whose direction "
    "is known."
)
UNSURE = (
    "What is straight in this photo does not agree on what is level. Draw a line along something that is."
)


@dataclass(frozen=True)
class Angle:
    """An angle in degrees, its standard deviation, and how sure it is, 0 to 1."""

    deg: float
    sd: float
    confidence: float


@dataclass(frozen=True)
class Cost:
    """How much of the picture an extent keeps, as a share."""

    extent: Extent
    kept: float


@dataclass(frozen=True)
class Look:
    """A proposal. ``aim`` and ``turn`` are null where the focal length is not known, or nothing tells them;
    ``references`` with the share of each, none where ``cannot_tell`` says why."""

    tilt: Angle | None
    aim: Angle | None
    turn: Angle | None
    extents: tuple[Cost, ...]
    references: tuple[Proposed, ...]
    cannot_tell: str | None
    focal_source: str

    @property
    def confidence(self) -> float:
        """How sure what is suggested is; less than likely where nothing is."""
        if self.suggested is not None:
            return self.sureness(self.suggested)
        return 0.0 if self.tilt is None else min(self.tilt.confidence, UNSURE_AT_MOST)

    def sureness(self, extent: Extent) -> float:
        """How sure a correction as far as this is, as its least sure angle; below 0 where it is not
        offered."""
        if extent not in {one.extent for one in self.extents}:
            return NOT_LOOKED
        angles = {"roll": self.tilt, "pitch": self.aim, "yaw": self.turn}
        return min(angle.confidence for name in EXTENTS[extent] if (angle := angles[name]) is not None)

    @property
    def suggested(self) -> Extent | None:
        """How far it should go: upright walls, where that leaves most of the picture; being square-on is a
        wish that no photo tells."""
        offered = {one.extent: one.kept for one in self.extents}
        if offered.get("walls", 0.0) >= KEEPS_MOST:
            return "walls"
        return "tilt" if "tilt" in offered else None


KEPT = TypeAdapter(Look)
"""How a look is written into a file."""


@dataclass(frozen=True)
class Sight:
    """What was seen, through which camera and lens, in photo pixels; nothing where the photo is
    ``one_texture``."""

    seen: Seen | None
    camera: Intrinsics
    lens: Lens
    one_texture: bool


def seen_in(picture: Picture, recipe: Recipe, held: Held = None) -> Sight:
    """See a photo (height, width, 3), turned as its recipe says, through the recipe's lens and camera;
    ``held``: the roll and pitch that its camera has recorded."""
    standing = Evaluated(taking_out(recipe, "roll", "pitch")).standing
    camera, lens = standing.camera, standing.lens
    small = _small(picture)
    if is_one_texture(np.asarray(cv2.cvtColor(small, cv2.COLOR_RGB2GRAY), np.uint8)):
        return Sight(None, camera, lens, one_texture=True)
    # A photo that stands on its side was recorded as it lay.
    recorded = None if held is None or recipe.photo.quarter_turns else Recorded(*held)
    return Sight(look(small, *_scaled(camera, lens, picture), recorded), camera, lens, one_texture=False)


def look_at(picture: Picture, recipe: Recipe, held: Held = None) -> Look:
    """Look at a photo (height, width, 3), turned as its recipe says, through the recipe's lens and camera;
    ``held``: the roll and pitch that its camera has recorded.

    Its lines are not looked at. Raises RecipeError.
    """
    plain = evolve(recipe, references=[], frame=evolve(recipe.frame, rect=None))
    sight = seen_in(picture, plain, held)
    camera, lens, seen = sight.camera, sight.lens, sight.seen
    if seen is None:
        return Look(None, None, None, (), (), TEXTURE if sight.one_texture else NOTHING, camera.source)
    known = camera.source != "assumed"
    sure_tilt, sure_aim = confidence(seen)
    tilt = Angle(seen.roll, seen.roll_sd, sure_tilt)
    aim = Angle(seen.pitch, seen.pitch_sd, sure_aim) if known else None
    if sure_tilt < SURE:
        return Look(tilt, aim, None, (), (), UNSURE if len(seen.uprights) else NOTHING, camera.source)
    lines = _agreeing(plain, proposed(in_eight_bits(picture), seen, camera, lens))
    if not lines:
        return Look(tilt, aim, None, (), (), NOTHING, camera.source)
    turn = _turn(seen, sure_aim) if known else None
    return Look(
        tilt, aim, turn, tuple(_costs(plain, lines, known and sure_aim >= SURE)), lines, None, camera.source
    )


def look_key(recipe: Recipe, held: Held) -> str:
    """The hash of all that a look at a recipe's photo depends on."""
    parts = recipe.photo.model_dump(mode="json"), recipe.lens.model_dump(mode="json")
    return hashlib.sha256(json.dumps([METHOD, *parts, held]).encode()).hexdigest()


def looked_of(seen: Look | None, key: str = "") -> dict[str, Any]:
    """The columns of a photo that tell of a look at it; None: of none."""
    if seen is None:
        return {
            "looked": "",
            "found_roll": None,
            "confidence": NOT_LOOKED,
            **dict.fromkeys(SURE_COLUMNS.values(), NOT_LOOKED),
        }
    return {
        "looked": key,
        "found_roll": None if seen.tilt is None else seen.tilt.deg,
        "confidence": seen.confidence,
        **{column: seen.sureness(extent) for extent, column in SURE_COLUMNS.items()},
    }


class Looks:
    """Looks that were taken, kept as files named by what they are made of; one is taken at a time, since each
    takes a core."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder
        self._turn = Lock()

    def of(self, recipe: Recipe, pixels: Callable[[], Picture], held: Held = None) -> Look:
        """The look at a recipe's photo, through its lens; ``pixels`` are asked for where it was not taken
        yet; ``held`` as for ``look_at``.

        What cannot be kept, or read again, is looked at anew. Raises RecipeError.
        """
        file = self._file(recipe, held)
        with self._turn:
            try:
                return KEPT.validate_json(file.read_bytes())
            except (OSError, ValidationError):
                pass
            found = look_at(pixels(), recipe, held)
            with contextlib.suppress(OSError):
                self._folder.mkdir(exist_ok=True)
                write_whole(file, KEPT.dump_json(found))
            return found

    def forget(self, recipe: Recipe, held: Held) -> None:
        """Let the next look at a recipe's photo be a new one."""
        self._file(recipe, held).unlink(missing_ok=True)

    def _file(self, recipe: Recipe, held: Held) -> Path:
        return self._folder / f"{look_key(recipe, held)}.json"


def with_lines(recipe: Recipe, lines: tuple[Proposed, ...], square_on: bool = False) -> Recipe:
    """A recipe with the lines of a proposal as its references; ``square_on``: what faces the camera is
    level."""
    return evolve(recipe, references=parts_of(lines, square_on))


def parts_of(lines: tuple[Proposed, ...], square_on: bool = False) -> list[ReferencePart]:
    """The lines of a proposal as references."""
    return [
        ReferencePart(
            id=one.id,
            kind="level" if square_on and one.faces else one.kind,
            points=[(round(x, 3), round(y, 3)) for x, y in one.points],
            sigma_px=round(one.sigma_px, 3),
            group=None if square_on and one.faces else one.group,
        )
        for one in lines
    ]


def taken(recipe: Recipe, lines: tuple[Proposed, ...], extent: Extent) -> Recipe:
    """The recipe that a proposal makes at an extent."""
    return taking_out(with_lines(recipe, lines, extent == "square-on"), *EXTENTS[extent])


def report(seen: Look) -> dict[str, Any]:
    """A look as a plain document (docs/recipe.md)."""
    return {
        "tilt": _angle(seen.tilt),
        "aim": _angle(seen.aim),
        "turn": _angle(seen.turn),
        "extents": [{"extent": one.extent, "kept": round(one.kept, 4)} for one in seen.extents],
        "references": [
            {
                "id": one.id,
                "kind": one.kind,
                "group": one.group,
                "points": [[round(x, 3), round(y, 3)] for x, y in one.points],
                "sigma_px": round(one.sigma_px, 3),
                "share": round(one.share, 4),
            }
            for one in seen.references
        ],
        "cannot_tell": seen.cannot_tell,
        "focal_source": seen.focal_source,
    }


def _angle(angle: Angle | None) -> dict[str, float] | None:
    if angle is None:
        return None
    return {"deg": round(angle.deg, 3), "sd": round(angle.sd, 3), "confidence": round(angle.confidence, 3)}


def _small(picture: Picture) -> NDArray[np.uint8]:
    """The picture at the size at which it is looked at."""
    scale = LOOKED_AT / max(picture.shape[:2])
    small = picture
    if scale < 1:
        small = np.asarray(cv2.resize(picture, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA))
    return np.asarray(in_eight_bits(small), np.uint8)


def _scaled(camera: Intrinsics, lens: Lens, picture: Picture) -> tuple[Intrinsics, Lens]:
    """The camera and the lens in the pixels of the small picture."""
    scale = min(1.0, LOOKED_AT / max(picture.shape[:2]))
    size = round(picture.shape[1] * scale), round(picture.shape[0] * scale)
    small = Intrinsics(*size, camera.focal_px * scale, camera.focal_sd * scale, camera.source)
    return small, lens.scaled(scale)


def _turn(seen: Seen, sure_aim: float) -> Angle | None:
    """The turn against what faces the camera; as sure as the aim, since both rest on the same directions."""
    if seen.yaw is None:
        return None
    return Angle(seen.yaw, seen.pitch_sd, sure_aim)


def _agreeing(recipe: Recipe, lines: list[Proposed]) -> tuple[Proposed, ...]:
    """Those of the lines that agree: the one that is farthest off is struck out until none disagrees."""
    for _ in range(STRUCK_OUT):
        if not lines:
            break
        found = evaluate(taking_out(with_lines(recipe, tuple(lines)), "roll", "pitch"))
        wrong = {name for conflict in found.solution.conflicts for name in conflict.ids}
        off = [
            one for one in found.references if one.id in wrong or one.verdict in ("disagrees", "receding?")
        ]
        if not off:
            break
        worst = max(off, key=lambda one: abs(one.misfit_deg))
        lines = [one for one in lines if one.id != worst.id]
    total = sum(one.share for one in lines)
    return tuple(replace(one, share=one.share / total) for one in lines)


def _costs(recipe: Recipe, lines: tuple[Proposed, ...], aimed: bool) -> list[Cost]:
    """What each extent keeps that the lines determine; where the aim is not ``aimed`` surely, the tilt
    only."""
    found = []
    for extent, angles in EXTENTS.items():
        if extent != "tilt" and not aimed:
            break
        try:
            there = evaluate(taken(recipe, lines, extent))
        except RecipeError:
            continue
        if there.solution.sd[angles[-1]] is not None:
            found.append(Cost(extent, float(there.cost.kept)))
    return found
