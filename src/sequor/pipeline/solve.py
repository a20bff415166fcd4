"""What the lines say of the camera, and what of it the correction goes by."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any, Literal, cast

import numpy as np

from sequor.core.camera import Attitude, Intrinsics, intrinsics
from sequor.core.distortion.fisheye import Fisheye, Law
from sequor.core.distortion.models import Lens, Model, database_lens, half_diagonal
from sequor.core.estimation import solve as solving
from sequor.core.estimation.priors import open_distortion
from sequor.core.estimation.unknowns import ANGLES
from sequor.pipeline.references import as_reference, ideal_references
from sequor.pipeline.stage import Stage
from sequor.recipe.model import Recipe
from sequor.recipe.model.correction import CorrectionPart
from sequor.recipe.model.lens import BY_COUNT
from sequor.recipe.parse import RecipeError

TERMS: tuple[Literal["k1", "k2"], ...] = ("k1", "k2")
"""The terms of a lens that straight things can tell."""


class Solve(Stage[solving.Solution]):
    """What the lines of a recipe say, whatever is taken out of the picture."""

    reads = (
        "photo.width",
        "photo.height",
        "photo.focal_35mm",
        "photo.focal_px",
        "lens",
        "references",
        "correction.free",
        "correction.focal_px",
    )

    def ignores(self, recipe: Recipe) -> tuple[str, ...]:
        return ("references.*.become",)

    def run(self, recipe: Recipe, *upstream: Any) -> solving.Solution:
        lens, camera = lens_of(recipe), camera_of(recipe)
        if recipe.lens.fisheye and "focal_px" in recipe.correction.free:
            raise RecipeError(
                "The focal length of a fisheye is not found from lines; give it at Lens",
                "correction.free",
            )
        ideal_references(recipe, lens)
        if recipe.lens.model != "brown" and set(TERMS) & set(recipe.correction.free):
            raise RecipeError("k1 and k2 can only be solved for in the lens model brown", "correction.free")
        references = [as_reference(part) for part in recipe.references]
        distortion_sd = open_distortion(camera) if lens.flat else 0.0
        if lens.flat and recipe.lens.source in ("profile", "manual"):
            corner = half_diagonal(recipe.photo.width, recipe.photo.height)
            distortion_sd = recipe.lens.k1_sd * (corner / lens.unit_px) ** 2
        return solving.solve(references, recipe.correction.free, camera, lens, distortion_sd)


@dataclass(frozen=True)
class Standing:
    """The camera as it is gone by: by the lines, or by the recipe's numbers where they stand already."""

    camera: Intrinsics
    solution: solving.Solution
    lens: Lens


class Stand(Stage[Standing]):
    """The solved attitude, or the numbers that the recipe has in its place."""

    reads = (
        "photo",
        "lens",
        "correction.roll",
        "correction.pitch",
        "correction.yaw",
        "correction.focal_px",
        "correction.series",
    )
    after = (Solve,)

    def ignores(self, recipe: Recipe) -> tuple[str, ...]:
        return ("photo.sha256", "photo.quarter_turns")

    def run(self, recipe: Recipe, *upstream: Any) -> Standing:
        (solution,) = upstream
        camera, lens, correction = camera_of(recipe), lens_of(recipe), recipe.correction
        if correction.solved:
            solution = replace(solution, attitude=as_it_stands(correction))
            if correction.series is not None:
                told = {"roll": correction.series.roll_sd, "pitch": correction.series.pitch_sd}
                solution = replace(solution, sd={**solution.sd, **_of_free(told, correction.free)})
            return Standing(camera, solution, lens)
        attitude = Attitude(**{name: rounded(getattr(solution.attitude, name)) for name in ANGLES})
        if solution.distortion.names:
            lens = replace(
                lens, k1=rounded(solution.distortion.lens.k1), k2=rounded(solution.distortion.lens.k2)
            )
        if solution.focal_sd is not None:
            focal = rounded(solution.focal_px, 9)
            camera = replace(camera, focal_px=focal, focal_sd=solution.focal_sd, source="lines")
        return Standing(camera, replace(solution, attitude=attitude), lens)


@dataclass(frozen=True)
class Numbers:
    """What a picture is corrected by, however it was come by."""

    attitude: Attitude
    focal_px: float
    lens: Lens


class Settle(Stage[Numbers]):
    """The numbers that a correction comes down to: who stands on them minds no line that left them alone."""

    after = (Stand,)

    def run(self, recipe: Recipe, *upstream: Any) -> Numbers:
        (standing,) = upstream
        return Numbers(standing.solution.attitude, standing.camera.focal_px, standing.lens)

    def settles(self, result: Numbers) -> Any:
        angles = [getattr(result.attitude, name) for name in ANGLES]
        return [*angles, result.focal_px, *result.lens.numbers()]


def _of_free(told: dict[str, float | None], free: Sequence[str]) -> dict[str, float | None]:
    """Of what is left open of the angles, that of those which are taken out."""
    return {angle: sd for angle, sd in told.items() if angle in free}


def rounded(value: float, digits: int = 12) -> float:
    """A solved value as a recipe keeps it: so the picture is the same before and after it is kept."""
    return float(np.round(value, digits))


def as_it_stands(correction: CorrectionPart) -> Attitude:
    """The attitude that the recipe's numbers give; null counts as 0."""
    return Attitude(correction.roll or 0.0, correction.pitch or 0.0, correction.yaw or 0.0)


def camera_of(recipe: Recipe) -> Intrinsics:
    """The intrinsics by the first focal length that is known; that of a fisheye is its lens's own."""
    lens = recipe.lens
    if lens.focal_px is not None:
        return Intrinsics(recipe.photo.width, recipe.photo.height, lens.focal_px, 0.0, "lens")
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
    if lens.focal_px is not None:
        fisheye = Fisheye(
            centre, lens.focal_px, lens.k1, lens.k2, lens.k3, k4=lens.k4, law=cast(Law, lens.model)
        )
        if lens.profile is None or not lens.profile.terms:
            return fisheye
        model = BY_COUNT[len(lens.profile.terms)]
        return replace(fisheye, departs=database_lens(model, centre, unit, lens.profile.terms))
    if lens.profile is None or lens.model == "brown":
        return Lens(centre, unit, lens.k1, lens.k2, lens.k3, lens.p1, lens.p2)
    try:
        return database_lens(cast(Model, lens.model), centre, unit, lens.profile.terms)
    except ValueError as error:
        raise RecipeError(f"{error}; choose another profile or switch it off", "lens") from None
