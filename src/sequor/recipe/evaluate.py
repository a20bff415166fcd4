"""A recipe evaluated: solved attitude, the one map, the frame and what it costs, every line's reading."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from sequor.core import frame as frames
from sequor.core import references as lines
from sequor.core import solve as solving
from sequor.core.camera import Attitude, Intrinsics, intrinsics
from sequor.core.mapping import Mapping

from .built import refuse_unbuilt
from .model import CorrectionPart, PerAngleShare, PerAngleSwitch, Recipe, ReferencePart
from .reading import RecipeError


@dataclass(frozen=True)
class ReferenceResult:
    """One line: as taken, as it will be exported (``after``), and with all that was solved taken out."""

    id: str
    kind: lines.Kind
    reading: lines.Reading
    before_deg: float
    after_deg: float
    misfit_deg: float
    after_px: float
    verdict: solving.Verdict


@dataclass(frozen=True)
class Maps:
    """The maps that lines are looked at under: as exported; the same with every amount 1 and on; and the
    solved part alone, which judges the lines whatever the hand has added."""

    exported: Mapping
    full: Mapping
    solved: Mapping


@dataclass(frozen=True)
class Evaluation:
    """All that is true of a photo under its recipe."""

    recipe: Recipe
    camera: Intrinsics
    solution: solving.Solution
    mapping: Mapping
    frame: frames.Rectangle
    cost: frames.Cost
    references: tuple[ReferenceResult, ...]

    @property
    def counting(self) -> list[ReferenceResult]:
        """The lines that the solve listened to."""
        return [result for result in self.references if result.verdict not in ("off", "witness")]

    @property
    def taken_out(self) -> float:
        """The roll in degrees that the map takes out: the solved part by its amount, and the hand's part."""
        correction = self.recipe.correction
        amount = correction.amount.roll * correction.on.roll
        return amount * self.solution.attitude.roll + correction.by_hand.roll


def evaluate(recipe: Recipe) -> Evaluation:
    """Evaluate a recipe. Raises RecipeError, naming the field, when it asks for what cannot be done."""
    refuse_unbuilt(recipe)
    photo, correction = recipe.photo, recipe.correction
    camera = intrinsics(
        photo.width,
        photo.height,
        corrected_focal_px=correction.focal_px,
        photo_focal_px=photo.focal_px,
        focal_35mm=photo.focal_35mm,
    )
    references = [as_reference(part) for part in recipe.references]
    solution = solving.solve(references, correction.free)
    if correction.solved:
        attitude = Attitude(correction.roll or 0.0, correction.pitch or 0.0, correction.yaw or 0.0)
        solution = replace(solution, attitude=attitude)
    mapping = compile_map(correction, camera, solution.attitude)
    frame, cost = _frame(recipe, mapping)
    full = correction.model_copy(update={"amount": PerAngleShare(), "on": PerAngleSwitch()})
    maps = Maps(
        mapping,
        compile_map(full, camera, solution.attitude),
        Mapping.compile(camera, solution.attitude, Attitude()),
    )
    counting = sum(reference.counts for reference in references)
    results = tuple(_result(reference, maps, solution, counting == 1) for reference in references)
    return Evaluation(recipe, camera, solution, mapping, frame, cost, results)


def compile_map(correction: CorrectionPart, camera: Intrinsics, solved: Attitude) -> Mapping:
    """The map of a correction whose angles are solved (GEOMETRY: the correction)."""
    taken, left_in = {}, {}
    for angle in ("roll", "pitch", "yaw"):
        value = getattr(solved, angle)
        amount = getattr(correction.amount, angle) * getattr(correction.on, angle)
        taken[angle] = value + getattr(correction.by_hand, angle)
        left_in[angle] = (1 - amount) * value
    return Mapping.compile(camera, Attitude(**taken), Attitude(**left_in), correction.proportion)


def as_reference(part: ReferencePart) -> lines.Reference:
    """The core's reference of a recipe's."""
    return lines.Reference(
        part.id,
        part.kind,
        np.array(part.points),
        1.0 if part.sigma_px is None else part.sigma_px,
        part.weight,
        part.active,
    )


def ratio_of(recipe: Recipe) -> tuple[int, int]:
    """The frame's ratio width : height; the photo's own is the only one built so far."""
    return recipe.photo.width, recipe.photo.height


def agrees_with_ratio(width: int, height: int, ratio: tuple[int, int]) -> bool:
    """Whether whole pixels are the ratio as near as rounding either side lets them be."""
    return abs(width * ratio[1] - height * ratio[0]) <= max(ratio)


def _frame(recipe: Recipe, mapping: Mapping) -> tuple[frames.Rectangle, frames.Cost]:
    ratio = ratio_of(recipe)
    if recipe.frame.rect is None:
        middle = np.array([mapping.width / 2, mapping.height / 2])
        exact = frames.largest(mapping.outline(), *ratio, middle)
        # Kept is the share in the exact rectangle: rounding to whole pixels is not a choice that costs.
        return exact.inwards(), frames.cost(exact, mapping)
    rectangle = frames.Rectangle(*recipe.frame.rect)
    if not agrees_with_ratio(recipe.frame.rect[2], recipe.frame.rect[3], ratio):
        raise RecipeError(
            f"the frame of {rectangle.width:g} x {rectangle.height:g} pixels disagrees with the ratio "
            f"{ratio[0]}:{ratio[1]}; change it or set rect to null",
            "frame.rect",
        )
    if not frames.HalfPlanes.of(mapping.outline()).hold(rectangle):
        raise RecipeError("the frame covers empty area; move it inside or set rect to null", "frame.rect")
    return rectangle, frames.cost(rectangle, mapping)


def _result(
    reference: lines.Reference, maps: Maps, solution: solving.Solution, alone: bool
) -> ReferenceResult:
    reading = lines.read(reference.points, reference.sigma_px)
    along, _ = lines.direction(reference.points)
    after_deg, after_px = _after(reference, maps.exported)
    misfit, _ = _after(reference, maps.full)
    residual, _ = _after(reference, maps.solved)
    sd = float(np.hypot(reading.sd_deg, solution.sd_roll or 0.0))
    return ReferenceResult(
        id=reference.id,
        kind=reference.kind,
        reading=reading,
        before_deg=lines.off_direction(reference.kind, along),
        after_deg=after_deg,
        misfit_deg=misfit,
        after_px=after_px,
        verdict=solving.judge(reference, solution, residual, sd, alone),
    )


def _after(reference: lines.Reference, mapping: Mapping) -> tuple[float, float]:
    """Deviation in degrees under a map, and the farther end's distance in pixels from the ideal direction."""
    carried = mapping.to_corrected(reference.points)
    along, positions = lines.direction(carried)
    off = lines.off_direction(reference.kind, along)
    return off, float(np.ptp(positions)) * abs(float(np.sin(np.deg2rad(off))))
