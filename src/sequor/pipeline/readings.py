"""How each reference stands: as taken, as it will be exported, and with all that was solved taken out."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from sequor.core.camera import Array
from sequor.core.estimation.consistency import DISAGREE_SIGMAS
from sequor.core.estimation.equations import log_shape
from sequor.core.estimation.solve import Verdict, judge
from sequor.core.references.line import SMALLEST_SIGMA_PX, Reading, bend, direction
from sequor.core.references.reference import Reference
from sequor.core.references.registry import Kind, kind_of
from sequor.pipeline.references import as_reference, ideal_references, readings_of
from sequor.pipeline.solve import Stand, Standing
from sequor.pipeline.stage import Stage
from sequor.pipeline.warp import Bend, Level, View
from sequor.recipe.model import Recipe


@dataclass(frozen=True)
class ReferenceResult:
    """One reference: as taken, as it will be exported (``after``), and with all that was solved taken out.

    ``readings`` has one entry, or a rectangle's four sides. ``middle`` is where it lies on the photo, x and y
    as shares of width and height. ``bend_px``: how far the points of a straight thing are off a line.
    ``takes_part`` is False for a receding line that is alone in its group.
    ``true_proportion``: the proportion that would give a rectangle its known shape.
    """

    id: str
    kind: Kind
    readings: tuple[Reading, ...]
    middle: tuple[float, float]
    before_deg: float
    after_deg: float
    misfit_deg: float
    after_px: float
    bend_px: float
    sigma_px: float
    takes_part: bool
    verdict: Verdict
    true_proportion: float | None

    @property
    def reading(self) -> Reading:
        """The reading, of a rectangle its longest side's."""
        return max(self.readings, key=lambda reading: reading.length_px)

    @property
    def counts(self) -> bool:
        """Whether the solve could listen to it."""
        return self.verdict != "off" and bool(kind_of(self.kind).directions)


class Read(Stage[tuple[ReferenceResult, ...]]):
    """How each reference of a recipe stands."""

    reads = ("references", "photo.width", "photo.height")
    after = (Stand, Level, Bend)

    def run(self, recipe: Recipe, *upstream: Any) -> tuple[ReferenceResult, ...]:
        standing, views, warped = upstream
        exported = replace(views.levelled, warp=warped.warp)
        ideal = ideal_references(recipe, standing.lens)
        looks = (views.taken, exported, views.full)
        return tuple(
            _result(as_reference(part), straight, standing, looks)
            for part, straight in zip(recipe.references, ideal, strict=True)
        )


def _result(
    reference: Reference, ideal: Reference, standing: Standing, views: tuple[View, View, View]
) -> ReferenceResult:
    camera, solution, kind = standing.camera, standing.solution, reference.rules
    azimuth = solution.azimuths.get(reference.group or "", None) if kind.grouped else None
    taken, exported, full = (_standing(ideal, view, azimuth) for view in views)
    bend_px = bend(ideal.points) if kind.tells_lens else 0.0
    sigma_px = max(reference.sigma_px, SMALLEST_SIGMA_PX)
    verdict = judge(reference, solution)
    if kind.tells_lens and reference.active:
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


def _standing(ideal: Reference, view: View, azimuth: float | None) -> tuple[float, float]:
    """Deviation in degrees from the kind's direction under a warp, and the farther end's distance in pixels
    from the ideal direction through the other. Of a rectangle: its worst side."""
    standing = []
    for index, side in enumerate(ideal.sides):
        carried = view.warp.turned(side)
        along, positions = direction(carried)
        towards = None if azimuth is None else _vanishing(carried, view, azimuth)
        standing.append(ideal.rules.standing(index, carried, along, positions, towards))
    return max(standing, key=lambda one: abs(one[0]))


def _vanishing(carried: Array, view: View, azimuth: float) -> Array:
    """The unit direction (2,) from a line to the point on the level horizon towards which its group runs."""
    angle = np.deg2rad(azimuth)
    towards = view.camera @ np.array([np.sin(angle), 0.0, np.cos(angle)])
    away = towards[:2] - towards[2] * carried.mean(axis=0)
    return np.asarray(away / np.linalg.norm(away))
