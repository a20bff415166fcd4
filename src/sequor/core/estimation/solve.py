"""The camera's attitude, and the bending of its lens, from reference lines.

Two questions are kept apart: what is known of the camera, and what is taken out of the picture. Straight
things say how the lens bends (:mod:`distortion.fit`); the rest is looked at with that taken out, always
in full, with what is known without any line (:mod:`priors`), estimated (:mod:`least_squares`), and whoever
cannot be met is named (:mod:`consistency`). Taken out are the angles that are free and determined.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from sequor.core.camera import Array, Attitude, Intrinsics
from sequor.core.distortion.fit import DistortionFit, fit_distortion
from sequor.core.distortion.models import Lens, half_diagonal, no_lens
from sequor.core.estimation.consistency import (
    CHECKED_FROM,
    Conflict,
    explained,
    redundancy_numbers,
    robust_refit,
)
from sequor.core.estimation.equations import Observations
from sequor.core.estimation.least_squares import covariance_matrix, least_squares, with_focal, with_open_focal
from sequor.core.estimation.observe import observe
from sequor.core.estimation.priors import BEYOND_SDS, Prior
from sequor.core.estimation.select import (
    SETTLED_AIM_SD_DEG,
    WIDEST_AIM_SD_DEG,
    pitch_determined,
    pitch_standard_error_alone,
    select_parameters,
)
from sequor.core.estimation.unknowns import ANGLES, Unknown, Unknowns
from sequor.core.references.line import fold
from sequor.core.references.reference import Reference

Verdict = Literal["agrees", "disagrees", "receding?", "alone", "off", "witness"]


@dataclass(frozen=True)
class Known:
    """What the lines and the priors say together: the unknowns' names, their values, and their covariance (N,
    N) in radians, the focal length by its logarithm; ``seen`` is what it rests on, ``lens`` how surely the
    lens is known."""

    seen: Observations
    names: tuple[str, ...]
    at: Unknowns
    covariance: Array
    lens: DistortionFit

    def sd_deg(self, angle: str) -> float | None:
        """The standard deviation of an angle in degrees, None where it was not looked for."""
        if angle not in self.names:
            return None
        index = self.names.index(angle)
        return float(np.rad2deg(np.sqrt(self.covariance[index, index])))

    @property
    def focal_sd(self) -> float:
        """The standard deviation of a focal length that was solved for, in pixels."""
        index = self.names.index("focal_px")
        return float(np.sqrt(self.covariance[index, index])) * self.at.focal_px

    @property
    def attitude(self) -> Attitude:
        """The attitude in degrees, what is left in the picture included."""
        found = self.at.attitude()
        return replace(found, roll=fold(found.roll))


@dataclass(frozen=True)
class Solution:
    """What the lines ask for.

    ``attitude`` is what is to be taken out of the picture, 0 for an angle that is left in; ``sd`` holds the
    standard deviation of every angle that is taken out in degrees, else None; ``known`` what is known of the
    camera besides, None when the lines do not say how it was held. ``focal_sd`` is None unless the focal
    length was solved for. ``also_determined`` names angles that could be taken out and are not free.
    ``redundancy`` says for every reference that took part how much the others check it, 0 (not at all) to 1;
    ``azimuths`` the direction in degrees in which each group of receding lines runs, 0 straight ahead.
    ``distortion`` is the lens that was held or solved for.
    """

    attitude: Attitude
    focal_px: float
    sd: dict[str, float | None]
    focal_sd: float | None
    known: Known | None
    undetermined: tuple[str, ...]
    also_determined: tuple[Unknown, ...]
    conflicts: tuple[Conflict, ...]
    redundancy: dict[str, float]
    azimuths: dict[str, float]
    distortion: DistortionFit

    @property
    def solved(self) -> bool:
        """Whether any angle was."""
        return any(value is not None for value in self.sd.values())

    @property
    def sd_known(self) -> dict[str, float | None]:
        """The standard deviation in degrees of every angle, whether it is taken out or left in; None for what
        was not looked for."""
        return {angle: None if self.known is None else self.known.sd_deg(angle) for angle in ANGLES}


def solve(
    references: Sequence[Reference],
    free: Sequence[Unknown],
    camera: Intrinsics,
    lens: Lens | None = None,
    distortion_sd: float = 0.0,
) -> Solution:
    """Solve in full from the active references, and take out what is free and determined.

    ``distortion_sd``: the standard deviation of the lens's k1, counted in half diagonals of the photo, where
    straight things do not tell it; 0 when the lens is known.

    Raises ValueError when a reference reaches beyond what the lens terms describe.

    >>> from sequor.core.camera import intrinsics
    >>> line = Reference("r1", "level", np.array([[0.0, 100.0], [1000.0, 100.0 - 1000 * 0.0401640]]))
    >>> round(solve([line], ["roll"], intrinsics(3000, 2000)).attitude.roll, 3)
    2.3
    """
    lens = lens or no_lens(camera.width, camera.height)
    corner = half_diagonal(camera.width, camera.height)
    distortion = fit_distortion(references, free, lens, corner)
    open_distortion = distortion
    if not distortion.names and distortion_sd > 0:
        sd = distortion_sd * (lens.unit_px / corner) ** 2
        open_distortion = replace(distortion, names=("k1",), covariance=np.array([[sd**2]]))
    seen, single = observe(references, camera, open_distortion, "focal_px" in free)
    seen, wanted, at = select_parameters(seen, free, camera)
    if not wanted:
        return _nothing_known(free, single, camera, distortion)
    if _needs_too_strong_an_aim(seen, at, wanted, camera):
        wanted = tuple(name for name in wanted if name != "pitch")
        at = least_squares(seen, replace(at, pitch=0.0), wanted)
    at, weights, conflicts = robust_refit(seen, at, wanted, camera)
    settled = math.isinf(seen.prior.aim_sd)
    if (
        conflicts
        and settled
        and pitch_standard_error_alone(seen, at, wanted, weights) > math.radians(SETTLED_AIM_SD_DEG)
    ):
        seen = seen.with_aim(Prior().aim_sd)
        at = least_squares(seen, at, wanted, weights)
    covariance = covariance_matrix(seen, at, wanted, weights)
    if covariance is None:
        return _nothing_known(free, single, camera, distortion)
    known = Known(
        seen, wanted, at, with_open_focal(covariance, seen, at, wanted, weights, camera), open_distortion
    )
    determined = {name for name in wanted if name != "pitch" or pitch_determined(seen, at, wanted)}
    taken = [name for name in free if name in determined]
    attitude = _taken_out(known, taken, weights).attitude()
    return Solution(
        attitude=replace(attitude, roll=fold(attitude.roll)),
        focal_px=at.focal_px,
        sd={name: known.sd_deg(name) if name in taken else None for name in ANGLES},
        focal_sd=known.focal_sd if "focal_px" in taken else None,
        known=known,
        undetermined=(*(name for name in free if name not in (*taken, *distortion.names)), *single),
        also_determined=tuple(name for name in ANGLES if name in determined and name not in taken),
        conflicts=tuple(explained(conflict, references, seen, at, wanted, camera) for conflict in conflicts),
        redundancy=redundancy_numbers(seen, at, wanted, covariance),
        azimuths={
            name: fold(float(np.rad2deg(at.azimuths[index]))) for index, name in enumerate(seen.group_names)
        },
        distortion=distortion,
    )


def _nothing_known(
    free: Sequence[Unknown], single: Sequence[str], camera: Intrinsics, distortion: DistortionFit
) -> Solution:
    """The lines do not say how the camera was held."""
    undetermined = (*(name for name in free if name not in distortion.names), *single)
    nothing: dict[str, float | None] = dict.fromkeys(ANGLES)
    return Solution(
        Attitude(), camera.focal_px, nothing, None, None, undetermined, (), (), {}, {}, distortion
    )


def _needs_too_strong_an_aim(
    seen: Observations, at: Unknowns, wanted: Sequence[str], camera: Intrinsics
) -> bool:
    """Whether a level and a plumb line differ by more than how people aim can explain, with a focal length as
    it may be: then they disagree. Walls that tell the aim among themselves may tell any."""
    if "pitch" not in wanted or abs(at.pitch) <= BEYOND_SDS * seen.prior.aim_sd:
        return False
    if pitch_standard_error_alone(seen, at, wanted) <= math.radians(WIDEST_AIM_SD_DEG):
        return False
    seen, names = with_focal(seen, wanted, camera)
    there = least_squares(seen, at, names)
    return bool(np.linalg.norm(seen.prior.rows(there, names)[0]) > BEYOND_SDS)


def _taken_out(known: Known, taken: Sequence[str], weights: Array) -> Unknowns:
    """The values to take out. Left in, an angle stays in the picture as it is; only when the turn aside is
    taken out without the aim do the lines have to be met once more."""
    at = known.at
    if "yaw" in taken and "pitch" in known.names and "pitch" not in taken:
        others = tuple(name for name in known.names if name != "pitch")
        at = least_squares(known.seen, replace(at, pitch=0.0), others, weights)
    roll, pitch, yaw = (getattr(at, angle) if angle in taken else 0.0 for angle in ANGLES)
    return replace(at, roll=roll, pitch=pitch, yaw=yaw)


def judge(reference: Reference, solution: Solution) -> Verdict:
    """The word on one reference."""
    if not reference.active:
        return "off"
    if not reference.rules.directions:
        return "witness"
    for conflict in solution.conflicts:
        if reference.id in conflict.ids:
            return "receding?" if conflict.reason == "receding-as-level" else "disagrees"
    return "agrees" if solution.redundancy.get(reference.id, 0.0) > CHECKED_FROM else "alone"
