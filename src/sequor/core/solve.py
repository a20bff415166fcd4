"""The camera's attitude from reference lines.

What is free and determined enters (:mod:`entry`), is estimated (:mod:`estimate`), and whoever cannot be met
is named (:mod:`disagreement`).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from .camera import Attitude, Intrinsics
from .disagreement import CHECKED_FROM, Conflict, explained, redundancy_of, settle
from .entry import enter
from .estimate import azimuth_names, deviations, standardised
from .lens import Lens, no_lens
from .observations import ANGLES, Unknown, observe
from .references import Reference, fold

Verdict = Literal["agrees", "disagrees", "receding?", "alone", "off", "witness"]


@dataclass(frozen=True)
class Solution:
    """What the lines ask for.

    ``sd`` holds the standard deviation of every angle in degrees, None where it was not solved;
    ``focal_sd`` is None unless the focal length was. ``redundancy`` says for every reference that took
    part how much the others check it, 0 (not at all) to 1; ``azimuths`` the direction in degrees in which
    each group of receding lines runs, 0 straight ahead.
    """

    attitude: Attitude
    focal_px: float
    sd: dict[str, float | None]
    focal_sd: float | None
    undetermined: tuple[str, ...]
    conflicts: tuple[Conflict, ...]
    redundancy: dict[str, float]
    azimuths: dict[str, float]

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
    seen, single = observe(references, camera, lens, with_shapes="focal_px" in free)
    used, at = enter(seen, free, camera)
    undetermined = (*(name for name in free if name not in used), *single)
    if not used:
        nothing: dict[str, float | None] = dict.fromkeys(ANGLES)
        return Solution(Attitude(), camera.focal_px, nothing, None, undetermined, (), {}, {})
    wanted = (*used, *azimuth_names(seen))
    _, jacobian = standardised(seen, at, wanted)
    at, weights, conflicts = settle(seen, at, wanted, camera)
    sds, focal_sd = deviations(seen, at, wanted, weights, camera)
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
    )


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
