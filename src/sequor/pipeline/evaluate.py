"""A recipe evaluated: solved attitude, the one map, the frame and what it costs, every line's reading."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any

import numpy as np

from sequor.core.camera import Attitude, Intrinsics, corrected_camera, intrinsics
from sequor.core.distortion.fit import solve_bending
from sequor.core.distortion.models import Lens, database_lens, half_diagonal
from sequor.core.estimation import solve as solving
from sequor.core.estimation.next_line import Advice, most_telling
from sequor.core.estimation.priors import open_bending
from sequor.core.estimation.unknowns import ANGLES, Unknown
from sequor.core.frame import cost as frames
from sequor.core.frame.print import Printed, print_frame
from sequor.core.rectangle import Rectangle
from sequor.core.warp.base import Mapping
from sequor.core.warp.reshape import CannotReshapeError, Marked, Reshaped, reshape
from sequor.pipeline.frame import frame_of, ratio_of, refuse_too_large, subject_on
from sequor.pipeline.readings import ReferenceResult, View, as_reference, ideal_references, result_of
from sequor.recipe.evolve import evolve
from sequor.recipe.model import CorrectionPart, PerAngleShare, PerAngleSwitch, Recipe
from sequor.recipe.parse import RecipeError

TELLING: dict[str, Any] = {
    "format": True,
    "version": True,
    "photo": True,
    "lens": True,
    "references": True,
    "correction": {"free", "focal_px"},
}
"""The parts of a recipe that its solution rests on."""

STILL: dict[str, Any] = {"strips": 1, "hint": None, "donors": [], "touch_ups": []}
"""Parts of the edges that do not move a pixel."""

WHOLE = 1.0
"""Corrected pixels that a frame may have lost in rounding to whole pixels and still holds its subject."""


@dataclass(frozen=True, eq=False)
class Evaluation:
    """All that is true of a photo under its recipe. Each is its own: what is told of one is kept for it."""

    recipe: Recipe
    camera: Intrinsics
    solution: solving.Solution
    mapping: Mapping
    frame: Rectangle
    cost: frames.Cost
    references: tuple[ReferenceResult, ...]
    reshaped: Reshaped | None

    @property
    def ratio(self) -> tuple[float, float]:
        """The frame's ratio width : height; when it is free, that of its pixels."""
        return ratio_of(self.recipe) or (self.frame.width, self.frame.height)

    @property
    def subject(self) -> Rectangle | None:
        """The subject mark in corrected pixels; a point has no size. None without one, or where it is cut."""
        mark = self.recipe.frame.subject
        return None if mark is None else subject_on(self.mapping, mark)

    @property
    def subject_inside(self) -> bool | None:
        """Whether the frame holds the subject mark; None without one."""
        if self.recipe.frame.subject is None:
            return None
        mark = self.subject
        return mark is not None and self.frame.contains(mark, WHOLE)

    @property
    def printed(self) -> Printed | None:
        """The frame on the paper that is chosen."""
        part = self.recipe.frame.print
        return None if part is None else print_frame(self.frame.width, self.frame.height, part.sheet)

    @property
    def corner(self) -> float:
        """How far the photo's corner lies from its middle, in the unit that the lens counts in."""
        return half_diagonal(self.camera.width, self.camera.height) / self.mapping.lens.unit_px

    @property
    def corner_growth(self) -> float:
        """How far from the middle the lens recorded what belongs into the photo's corner, as a share."""
        return float(self.mapping.lens.growth(np.array([self.corner]))[0])

    @property
    def corner_sd(self) -> float | None:
        """The standard deviation of the same, where straight things told it."""
        bending = self.solution.bending
        if self.recipe.lens.source != "straight" or not bending.names:
            return None
        by = np.array([self.corner ** (2 if name == "k1" else 4) for name in bending.names])
        return float(np.sqrt(by @ bending.covariance @ by))

    @property
    def advice(self) -> Advice | None:
        """The one line that would leave least open of what is taken out."""
        return most_telling(self.solution, [as_reference(one) for one in self.recipe.references], self.camera)

    @property
    def counting(self) -> list[ReferenceResult]:
        """The references that the solve listened to."""
        return [result for result in self.references if result.counts]

    def taken_out(self, angle: Unknown) -> float:
        """The angle in degrees that the map takes out: the solved part by its amount, and the hand's part."""
        correction = self.recipe.correction
        amount = getattr(correction.amount, angle) * getattr(correction.on, angle)
        return float(amount * getattr(self.solution.attitude, angle) + getattr(correction.by_hand, angle))

    def left_in(self, angle: Unknown) -> float:
        """What of a solved angle the corrected picture still has, in degrees."""
        return float(getattr(self.solution.attitude, angle)) - self.taken_out(angle)


@dataclass(frozen=True)
class Standing:
    """How a photo stands, whatever its frame: what an evaluation has besides it."""

    camera: Intrinsics
    solution: solving.Solution
    mapping: Mapping
    references: tuple[ReferenceResult, ...]
    reshaped: Reshaped | None


def evaluate(recipe: Recipe) -> Evaluation:
    """Evaluate a recipe. Raises RecipeError, naming the field, when it asks for what cannot be done."""
    standing = standing_of(standing_document(recipe))
    frame, cost = frame_of(recipe, standing.mapping)
    refuse_too_large(frame)
    return Evaluation(
        recipe,
        standing.camera,
        standing.solution,
        standing.mapping,
        frame,
        cost,
        standing.references,
        standing.reshaped,
    )


def standing_document(recipe: Recipe) -> str:
    """The parts of a recipe (JSON) that say how its photo stands: of the edges only what reshapes it."""
    if recipe.edges.mode != "reshape":
        return recipe.model_dump_json(exclude={"frame", "edges", "export"})
    edges = evolve(recipe.edges, seed=1, colour=None, patches=[], **STILL)
    return evolve(recipe, edges=edges).model_dump_json(exclude={"frame", "export"})


@lru_cache(maxsize=64)
def standing_of(document: str) -> Standing:
    """How the photo of a recipe (JSON, its frame left out) stands. Raises RecipeError.

    Remembered for a while: a frame is dragged, and its costs are compared, under one and the same map.
    """
    recipe = Recipe.model_validate_json(document)
    correction = recipe.correction
    camera = camera_of(recipe)
    lens = lens_of(recipe)
    ideal = ideal_references(recipe, lens)
    if recipe.lens.model != "brown" and {"k1", "k2"} & set(correction.free):
        raise RecipeError("k1 and k2 can only be solved for in the lens model brown", "correction.free")
    solution = solution_of(recipe.model_dump_json(include=TELLING))
    if correction.solved:
        solution = replace(solution, attitude=_as_it_stands(correction))
    elif solution.bending.names:
        lens = solution.bending.lens
        ideal = ideal_references(recipe, lens)
    if not correction.solved and solution.focal_sd is not None:
        camera = replace(camera, focal_px=solution.focal_px, focal_sd=solution.focal_sd, source="lines")
    try:
        views = _views(correction, camera, solution.attitude, lens)
    except ValueError as error:
        raise RecipeError(f"{error}; take less of it out by hand", "correction.by_hand") from None
    reshaped = None
    if recipe.edges.mode == "reshape":
        reshaped = reshaped_by(recipe, views[1].mapping)
        views = (views[0], replace(views[1], mapping=reshaped.mapping), views[2])
    references = [as_reference(part) for part in recipe.references]
    results = tuple(
        result_of(reference, straight, camera, views, solution)
        for reference, straight in zip(references, ideal, strict=True)
    )
    return Standing(camera, solution, views[1].mapping, results, reshaped)


@lru_cache(maxsize=64)
def solution_of(document: str) -> solving.Solution:
    """What the lines of a recipe (JSON) say; remembered while the hand eases off or on."""
    recipe = Recipe.model_validate_json(document)
    references = [as_reference(part) for part in recipe.references]
    camera = camera_of(recipe)
    bending_sd = 0.0 if recipe.lens.source in ("profile", "manual") else open_bending(camera)
    return solving.solve(references, recipe.correction.free, camera, lens_of(recipe), bending_sd)


def solved_map(recipe: Recipe) -> Mapping:
    """The map of a recipe whose angles are numbers, without looking at anything else. Raises RecipeError."""
    correction = recipe.correction
    try:
        mapping = _view(correction, camera_of(recipe), _as_it_stands(correction), lens_of(recipe)).mapping
    except ValueError as error:
        raise RecipeError(str(error), "correction") from None
    return reshaped_by(recipe, mapping).mapping if recipe.edges.mode == "reshape" else mapping


def reshaped_by(recipe: Recipe, mapping: Mapping) -> Reshaped:
    """A plain map made to fill its rectangle, the recipe's lines followed. Raises RecipeError."""
    marked = [
        Marked(side, part.weight)
        for part in recipe.references
        if part.active and part.kind != "witness"
        for side in as_reference(part).sides
    ]
    segments = np.array(recipe.edges.segments or []).reshape(-1, 2, 2)
    try:
        return reshape(mapping, marked, segments, recipe.correction.proportion)
    except CannotReshapeError as error:
        raise RecipeError(
            f"{error}; take less of the tilt out, or take another way with the corners", "edges.mode"
        ) from None


def _as_it_stands(correction: CorrectionPart) -> Attitude:
    """The attitude that the recipe's numbers give; null counts as 0."""
    return Attitude(correction.roll or 0.0, correction.pitch or 0.0, correction.yaw or 0.0)


def camera_of(recipe: Recipe) -> Intrinsics:
    """The intrinsics by the first focal length that is known."""
    return intrinsics(
        recipe.photo.width,
        recipe.photo.height,
        corrected_focal_px=recipe.correction.focal_px,
        photo_focal_px=recipe.photo.focal_px,
        focal_35mm=recipe.photo.focal_35mm,
    )


def lens_of(recipe: Recipe) -> Lens:
    """The bending of the lens that the recipe holds. Raises RecipeError."""
    width, height, lens = recipe.photo.width, recipe.photo.height, recipe.lens
    unit, centre = lens.unit_px or half_diagonal(width, height), (width / 2, height / 2)
    if lens.profile is None or lens.model == "brown":
        return Lens(centre, unit, lens.k1, lens.k2, lens.k3, lens.p1, lens.p2)
    try:
        return database_lens(lens.model, centre, unit, lens.profile.terms)
    except ValueError as error:
        raise RecipeError(f"{error}; choose another profile or switch it off", "lens") from None


def lens_in_use(recipe: Recipe) -> Lens:
    """The lens of the recipe, solved from its straight things where that is still to be done."""
    lens = lens_of(recipe)
    if recipe.correction.solved:
        return lens
    references = [as_reference(part) for part in recipe.references]
    corner = half_diagonal(recipe.photo.width, recipe.photo.height)
    return solve_bending(references, recipe.correction.free, lens, corner).lens


def _views(
    correction: CorrectionPart, camera: Intrinsics, solved: Attitude, lens: Lens
) -> tuple[View, View, View]:
    """The photo as taken, the lens corrected; as exported; and the same with every amount 1 and on."""
    full = evolve(correction, amount=PerAngleShare(), on=PerAngleSwitch())
    taken = View(Mapping(camera.width, camera.height, np.eye(3), lens), camera.matrix)
    return taken, _view(correction, camera, solved, lens), _view(full, camera, solved, lens)


def _view(correction: CorrectionPart, camera: Intrinsics, solved: Attitude, lens: Lens) -> View:
    """The map of a correction whose angles are solved (GEOMETRY: the correction)."""
    taken, left_in = {}, {}
    for angle in ANGLES:
        value = getattr(solved, angle)
        amount = getattr(correction.amount, angle) * getattr(correction.on, angle)
        taken[angle] = value + getattr(correction.by_hand, angle)
        left_in[angle] = (1 - amount) * value
    attitudes = (camera, Attitude(**taken), Attitude(**left_in), correction.proportion)
    return View(Mapping.compile(*attitudes, lens), corrected_camera(*attitudes)[1])
