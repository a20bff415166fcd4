"""The camera's attitude, and the bending of its lens, from reference lines.

Straight things say how the lens bends (:mod:`bending`); the rest is looked at with that taken out.
What is free and determined enters (:mod:`entry`), is estimated (:mod:`estimate`), and whoever cannot be met
is named (:mod:`disagreement`).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from .bending import Bending, solve_bending
from .camera import Array, Attitude, Intrinsics
from .disagreement import CHECKED_FROM, Conflict, explained, redundancy_of, settle
from .entry import enter
from .estimate import azimuth_names, deviations, standardised
from .lens import Lens, half_diagonal, no_lens
from .observations import ANGLES, Unknown, Unknowns, observe
from .references import Reference, fold

Verdict = Literal["agrees", "disagrees", "receding?", "alone", "off", "witness"]


@dataclass(frozen=True)
class Solution:
    """What the lines ask for.

    ``sd`` holds the standard deviation of every angle in degrees, None where it was not solved;
    ``focal_sd`` is None unless the focal length was. ``redundancy`` says for every reference that took
    part how much the others check it, 0 (not at all) to 1; ``azimuths`` the direction in degrees in which
    each group of receding lines runs, 0 straight ahead. ``bending`` is the lens that was held or solved for.
    """

    attitude: Attitude
    focal_px: float
    sd: dict[str, float | None]
    focal_sd: float | None
    undetermined: tuple[str, ...]
    conflicts: tuple[Conflict, ...]
    redundancy: dict[str, float]
    azimuths: dict[str, float]
    bending: Bending

    @property
    def solved(self) -> bool:
        """Whether any angle was."""
        return any(value is not None for value in self.sd.values())


def solve(
    references: Sequence[Reference],
    free: Sequence[Unknown],
    camera: Intrinsics,
    lens: Lens | None = None,
) -> Solution:
    """Solve what is free and determined from the active references.

    Raises ValueError when a reference reaches beyond what the lens terms describe.

    >>> from sequor.core.camera import intrinsics
    >>> line = Reference("r1", "level", np.array([[0.0, 100.0], [1000.0, 100.0 - 1000 * 0.0401640]]))
    >>> round(solve([line], ["roll"], intrinsics(3000, 2000)).attitude.roll, 3)
    2.3
    """
    lens = lens or no_lens(camera.width, camera.height)
    bending = solve_bending(references, free, lens, half_diagonal(camera.width, camera.height))
    with_shapes = "focal_px" in free
    seen, single = observe(references, camera, bending.lens, with_shapes)
    used, at = enter(seen, free, camera)
    entered = (*used, *bending.names)
    undetermined = (*(name for name in free if name not in entered), *single)
    if not used:
        nothing: dict[str, float | None] = dict.fromkeys(ANGLES)
        return Solution(Attitude(), camera.focal_px, nothing, None, undetermined, (), {}, {}, bending)
    wanted = (*used, *azimuth_names(seen))
    _, jacobian = standardised(seen, at, wanted)
    at, weights, conflicts = settle(seen, at, wanted, camera)
    by_bending = _by_bending(references, camera, bending, with_shapes, at, wanted)
    sds, focal_sd = deviations(seen, at, wanted, weights, camera, by_bending)
    redundancy = redundancy_of(seen, jacobian)
    conflicts = tuple(explained(conflict, references, seen, at, used, camera) for conflict in conflicts)
    attitude = at.attitude()
    return Solution(
        replace(attitude, roll=fold(attitude.roll)),
        at.focal_px,
        sds,
        focal_sd,
        undetermined,
        conflicts,
        redundancy,
        {name: fold(float(np.rad2deg(at.azimuths[index]))) for index, name in enumerate(seen.group_names)},
        bending,
    )


def _by_bending(
    references: Sequence[Reference],
    camera: Intrinsics,
    bending: Bending,
    with_shapes: bool,
    at: Unknowns,
    wanted: Sequence[str],
) -> Array:
    """How the residuals (rows, terms) move by one standard deviation each way that the lens may be off."""
    if not bending.names:
        return np.zeros((0, 0))
    columns = []
    for way in np.linalg.cholesky(bending.covariance).T:
        there = {name: getattr(bending.lens, name) + by for name, by in zip(bending.names, way, strict=True)}
        seen, _ = observe(references, camera, replace(bending.lens, **there), with_shapes)
        columns.append(standardised(seen, at, wanted)[0])
    seen, _ = observe(references, camera, bending.lens, with_shapes)
    return np.stack(columns, axis=1) - standardised(seen, at, wanted)[0][:, None]


def judge(reference: Reference, solution: Solution) -> Verdict:
    """The word on one reference."""
    if not reference.active:
        return "off"
    if reference.kind in ("witness", "straight"):
        return "witness"
    for conflict in solution.conflicts:
        if reference.id in conflict.ids:
            return "receding?" if conflict.reason == "receding-as-level" else "disagrees"
    return "agrees" if solution.redundancy.get(reference.id, 0.0) > CHECKED_FROM else "alone"
