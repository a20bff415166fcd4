"""How each reference stands: as taken, as it will be exported, and with all that was solved taken out."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from sequor.core.camera import Array, Intrinsics
from sequor.core.distortion.models import Lens
from sequor.core.estimation import solve as solving
from sequor.core.estimation.consistency import DISAGREE_SIGMAS
from sequor.core.estimation.equations import log_shape
from sequor.core.references import base as lines
from sequor.core.warp.base import Mapping
from sequor.recipe.model import Recipe, ReferencePart
from sequor.recipe.parse import RecipeError


@dataclass(frozen=True)
class ReferenceResult:
    """One reference: as taken, as it will be exported (``after``), and with all that was solved taken out.

    ``readings`` has one entry, or a rectangle's four sides. ``middle`` is where it lies on the photo, x and y
    as shares of width and height. ``bend_px``: how far the points of a straight thing are off a line.
    ``takes_part`` is False for a receding line that is alone in its group.
    ``true_proportion``: the proportion that would give a rectangle its known shape.
    """

    id: str
    kind: lines.Kind
    readings: tuple[lines.Reading, ...]
    middle: tuple[float, float]
    before_deg: float
    after_deg: float
    misfit_deg: float
    after_px: float
    bend_px: float
    sigma_px: float
    takes_part: bool
    verdict: solving.Verdict
    true_proportion: float | None

    @property
    def reading(self) -> lines.Reading:
        """The reading, of a rectangle its longest side's."""
        return max(self.readings, key=lambda reading: reading.length_px)

    @property
    def counts(self) -> bool:
        """Whether the solve could listen to it."""
        return self.verdict not in ("off", "witness") and self.kind != "straight"


@dataclass(frozen=True)
class View:
    """A map that lines are looked at under, and the matrix (3, 3) of the camera that it makes."""

    mapping: Mapping
    camera: Array


def ideal_references(recipe: Recipe, lens: Lens) -> list[lines.Reference]:
    """The core's references with the bending of the lens taken out of their points.

    Raises RecipeError for a reference with a point that the lens terms say nothing about.
    """
    references = [as_reference(part) for part in recipe.references]
    if lens.straight or not references:
        return references
    ideal = lens.undistorted(np.concatenate([one.points for one in references]))
    ends = np.cumsum([len(one.points) for one in references])[:-1]
    found = []
    for index, (one, points) in enumerate(zip(references, np.split(ideal, ends), strict=True)):
        if not np.all(np.isfinite(points)):
            raise RecipeError(
                "a point lies beyond what the lens terms describe; move it inwards or change the terms",
                f"references.{index}.points",
            )
        found.append(replace(one, points=points))
    return found


def as_reference(part: ReferencePart) -> lines.Reference:
    """The core's reference of a recipe's."""
    return lines.Reference(
        part.id,
        part.kind,
        np.array(part.points),
        1.0 if part.sigma_px is None else part.sigma_px,
        part.weight,
        part.active,
        part.group,
        part.shape,
    )


def readings_of(ideal: lines.Reference) -> tuple[lines.Reading, ...]:
    """What a reference says as taken, the lens corrected; a rectangle's top, right, bottom and left."""
    return tuple(lines.read(side, ideal.sigma_px) for side in ideal.sides)


def result_of(
    reference: lines.Reference,
    ideal: lines.Reference,
    camera: Intrinsics,
    views: tuple[View, View, View],
    solution: solving.Solution,
) -> ReferenceResult:
    azimuth = solution.azimuths.get(reference.group or "", None)
    taken, exported, full = (_standing(ideal, view, azimuth) for view in views)
    bend_px = lines.bend(ideal.points) if reference.kind == "straight" else 0.0
    sigma_px = max(reference.sigma_px, lines.SMALLEST_SIGMA_PX)
    verdict = solving.judge(reference, solution)
    if reference.kind == "straight" and reference.active:
        verdict = "disagrees" if bend_px > DISAGREE_SIGMAS * sigma_px else "agrees"
    shape = None
    if reference.shape is not None:
        middle = np.array([camera.width / 2, camera.height / 2])
        turn = solution.attitude.rotation()
        measured = np.exp(log_shape(ideal.points - middle, turn, camera.focal_px))
        shape = float(measured * reference.shape[1] / reference.shape[0])
    x, y = reference.points.mean(axis=0)
    return ReferenceResult(
        id=reference.id,
        kind=reference.kind,
        readings=readings_of(ideal),
        middle=(float(x / camera.width), float(y / camera.height)),
        before_deg=taken[0],
        after_deg=exported[0],
        misfit_deg=full[0],
        after_px=exported[1],
        bend_px=bend_px,
        sigma_px=sigma_px,
        takes_part=reference.id not in solution.undetermined,
        verdict=verdict,
        true_proportion=shape,
    )


def _standing(ideal: lines.Reference, view: View, azimuth: float | None) -> tuple[float, float]:
    """Deviation in degrees from the kind's direction under a map, and the farther end's distance in pixels
    from the ideal direction through the other. Of a rectangle: its worst side."""
    standing = []
    for index, side in enumerate(ideal.sides):
        carried = view.mapping.turned(side)
        along, positions = lines.direction(carried)
        if ideal.kind == "straight":
            bend = lines.bend(carried)
            standing.append((float(np.rad2deg(np.arctan2(2 * bend, np.ptp(positions)))), bend))
            continue
        kind = ideal.kind
        if kind == "rectangle":
            kind = "plumb" if index % 2 else "level"
        if kind == "receding":
            off = _off_receding(carried, along, view, azimuth)
        else:
            off = lines.off_direction(kind, along)
        standing.append((off, float(np.ptp(positions)) * abs(float(np.sin(np.deg2rad(off))))))
    return max(standing, key=lambda one: abs(one[0]))


def _off_receding(carried: Array, along: Array, view: View, azimuth: float | None) -> float:
    """How far a receding line is off the point on the level horizon towards which its group runs; a line that
    is alone in its group has none and is off by nothing."""
    if azimuth is None:
        return 0.0
    angle = np.deg2rad(azimuth)
    towards = view.camera @ np.array([np.sin(angle), 0.0, np.cos(angle)])
    way = towards[:2] - towards[2] * carried.mean(axis=0)
    return lines.fold(lines.slope_of(along) - lines.slope_of(way / np.linalg.norm(way)))
