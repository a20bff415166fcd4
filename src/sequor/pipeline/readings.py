"""How each reference stands: as taken, as it will be exported, and with all that was solved taken out."""

from __future__ import annotations

from collections.abc import Sequence
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
from sequor.core.warp.wide.wish import arcs
from sequor.pipeline.references import as_reference, ideal_references, readings_of
from sequor.pipeline.solve import Stand, Standing
from sequor.pipeline.stage import Stage
from sequor.pipeline.warp import Bend, Level, View
from sequor.recipe.model import Recipe

PATH_POINTS = 17
"""Points along a line between two that were laid, where it is drawn as a curve."""


@dataclass(frozen=True)
class ReferenceResult:
    """One reference: as taken, as it will be exported (``after``), and with all that was solved taken out.

    ``readings`` has one entry, or a rectangle's four sides. ``middle`` is where it lies on the photo, x and y
    as shares of width and height. ``bend_px``: how far the points of a straight thing are off a line.
    ``takes_part`` is False for a receding line that is alone in its group. ``true_proportion``: the
    proportion that would give a rectangle its known shape. ``paths``: where its sides run on the photo, (N,
    2) each, in photo pixels; None where they are straight in a flat picture."""

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
    paths: tuple[Array, ...] | None

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
        references = [as_reference(part) for part in recipe.references]
        ideal = ideal_references(recipe, standing.lens)
        looks = [_looked_at(references, view) for view in (views.taken, exported, views.full)]
        grouped = looks
        if warped.wide is not None and any(one.rules.grouped for one in references):
            # Where a wide view has a group run to is no one point.
            grouped = [looks[0], _looked_at(references, views.levelled), looks[2]]
        return tuple(
            _result(
                reference,
                straight,
                standing,
                [look[number] for look in (grouped if reference.rules.grouped else looks)],
                bowed=warped.wide is not None,
            )
            for number, (reference, straight) in enumerate(zip(references, ideal, strict=True))
        )


@dataclass(frozen=True)
class _Looked:
    """A reference under a view: where its ``sides`` lie in the corrected picture, (N, 2) each."""

    view: View
    sides: tuple[Array, ...]


def _looked_at(references: Sequence[Reference], view: View) -> list[_Looked]:
    """All references under a view, their points carried at once."""
    sides = [side for one in references for side in one.sides]
    if not sides:
        return []
    carried = view.warp.to_corrected(np.concatenate(sides))
    parts = iter(np.split(carried, np.cumsum([len(side) for side in sides])[:-1]))
    return [_Looked(view, tuple(next(parts) for _ in one.sides)) for one in references]


def _result(
    reference: Reference,
    ideal: Reference,
    standing: Standing,
    looks: Sequence[_Looked],
    bowed: bool,
) -> ReferenceResult:
    camera, solution, kind = standing.camera, standing.solution, reference.rules
    azimuth = solution.azimuths.get(reference.group or "", None) if kind.grouped else None
    taken, exported, full = (_standing(reference, look, standing, azimuth) for look in looks)
    bend_px = bend(ideal.points) if kind.tells_lens else 0.0
    sigma_px = max(reference.sigma_px, SMALLEST_SIGMA_PX)
    verdict = judge(reference, solution)
    if kind.tells_lens and reference.active:
        verdict = "disagrees" if bend_px > DISAGREE_SIGMAS * sigma_px else "agrees"
    shape = None
    if reference.shape is not None:
        turn = solution.attitude.rotation()
        rays = standing.lens.rays(reference.points, camera.focal_px)
        in_pixels = rays * [camera.focal_px, camera.focal_px, 1.0]
        measured = np.exp(log_shape(in_pixels, turn, camera.focal_px))
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
        paths=_paths(reference, standing) if bowed else None,
    )


def _paths(reference: Reference, standing: Standing) -> tuple[Array, ...]:
    """Where the sides of a reference run on the photo, through all of their points."""
    lens, focal, share = standing.lens, standing.camera.focal_px, np.linspace(0, 1, PATH_POINTS)
    paths = []
    for side in reference.sides:
        rays = lens.rays(side, focal)
        pairs = arcs(np.stack([rays[:-1], rays[1:]], axis=1), share)
        path = lens.recorded(pairs.reshape(-1, 3), focal)
        paths.append(path if np.all(np.isfinite(path)) else side)
    return tuple(paths)


def _standing(
    reference: Reference, look: _Looked, standing: Standing, azimuth: float | None
) -> tuple[float, float]:
    """Deviation in degrees from the kind's direction under a view, and the farther end's distance in pixels
    from the ideal direction through the other. Of a rectangle: its worst side."""
    view, found = look.view, []
    for index, side in enumerate(reference.sides):
        carried = look.sides[index]
        if not np.all(np.isfinite(carried)):
            rays = standing.lens.rays(side, standing.camera.focal_px)
            carried = _on_line(rays @ view.turn.T, view, float(np.ptp(side, axis=0).max()))
        along, positions = direction(carried)
        towards = None if azimuth is None else _vanishing(carried, view, azimuth)
        found.append(reference.rules.standing(index, carried, along, positions, towards))
    return max(found, key=lambda one: abs(one[0]))


def _on_line(rays: Array, view: View, long: float) -> Array:
    """Two points, so far apart, of the line in a flat picture on which rays (N, 3) of the corrected camera
    would lie that have no place there."""
    x, y, z = np.linalg.svd(rays)[2][2]
    across = max(float(np.hypot(x, y)), 1e-9)
    foot = -z / across**2 * np.array([x, y])
    ends = foot + np.outer([-0.5, 0.5], [y, -x]) * long / across / view.camera[0, 0]
    return np.asarray(ends * np.diag(view.camera)[:2] + view.camera[:2, 2])


def _vanishing(carried: Array, view: View, azimuth: float) -> Array:
    """The unit direction (2,) from a line to the point on the level horizon towards which its group runs."""
    angle = np.deg2rad(azimuth)
    towards = view.camera @ np.array([np.sin(angle), 0.0, np.cos(angle)])
    away = towards[:2] - towards[2] * carried.mean(axis=0)
    return np.asarray(away / np.linalg.norm(away))
