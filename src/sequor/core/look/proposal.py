"""From what was seen to lines that a person could have drawn: the best of each strip of the picture, on the
real edges."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from sequor.core.camera import Array, Indices, Intrinsics
from sequor.core.distortion.models import Lens
from sequor.core.look.attitude import FLOOR_DEG, Seen
from sequor.core.look.directions import off_deg
from sequor.core.look.lines import FINE
from sequor.core.look.posterior import nadir
from sequor.core.look.snap import NoEdgeError, snap
from sequor.core.raster.pixels import Picture
from sequor.core.references.registry import Kind

STRIPS, TRIES = 8, 4
"""Lines of each kind: one a strip, so that they check each other; in each so many are tried, the best seen
first."""

GROUP_NAMES = ("A", "B")
MOVED = 12 / FINE
"""Of the longer side: an edge that is found farther from the line than that is another one."""

SQUARE_ON_DEG = 1.5

ASTRAY_DEG, ASTRAY_SDS = 0.2, 3.0
"""By how much an edge may run past what its line pointed at."""


@dataclass(frozen=True)
class Proposed:
    """A line: its two ends in photo pixels as recorded, their standard deviation across it, the ``group``
    of a receding one, whether that is the one that faces the camera, and its share of what was seen."""

    id: str
    kind: Kind
    points: tuple[tuple[float, float], tuple[float, float]]
    sigma_px: float
    group: str | None
    faces: bool
    share: float


def proposed(picture: Picture, seen: Seen, camera: Intrinsics, lens: Lens) -> list[Proposed]:
    """The lines of a look at a picture (h, w, 3); camera and lens in its pixels."""
    down = nadir(seen.roll, seen.pitch)
    wanted: list[tuple[Kind, str | None, bool, list[Indices], Array | None]] = [
        ("plumb", None, False, _strips(seen, seen.uprights, 0), down)
    ]
    level = sorted(zip(seen.level, seen.azimuths, strict=True), key=lambda each: -each[0].strength)[
        : len(GROUP_NAMES)
    ]
    for number, (one, azimuth) in enumerate(level):
        faces = seen.yaw is not None and abs(azimuth - seen.yaw) < SQUARE_ON_DEG
        wanted.append(("receding", GROUP_NAMES[number], faces, _strips(seen, one.lines, 1), one.towards))
    if seen.far:
        wanted.append(("level", None, False, [np.array([one.line for one in seen.far])], None))
    found: list[Proposed] = []
    for kind, group, faces, strips, towards in wanted:
        for strip in strips:
            for line in strip[:TRIES]:
                placed = _on_its_edge(picture, seen, int(line), towards, camera, lens)
                if placed is not None:
                    name, weight = f"found {len(found) + 1}", float(seen.lines.weight[line])
                    (a, b), sigma = placed
                    ends = (float(a[0]), float(a[1])), (float(b[0]), float(b[1]))
                    found.append(Proposed(name, kind, ends, sigma, group, faces, weight))
                    break
    found = [one for one in found if one.group is None or _others(one, found)]
    total = sum(one.share for one in found)
    return [replace(one, share=one.share / total) for one in found]


def _others(one: Proposed, found: list[Proposed]) -> bool:
    """Whether others of its group are there: alone a receding line says nothing."""
    return sum(other.group == one.group for other in found) > 1


def _strips(seen: Seen, chosen: Indices, axis: int) -> list[Indices]:
    """Lines by ``STRIPS`` strips along an axis, in each those of most support first."""
    if not len(chosen):
        return []
    at = seen.lines.middle[chosen, axis]
    strip = np.minimum((STRIPS * (at - at.min()) / (np.ptp(at) + 1e-9)).astype(int), STRIPS - 1)
    groups = [chosen[strip == one] for one in np.unique(strip)]
    return [some[np.argsort(-seen.lines.support[some], kind="stable")] for some in groups]


def _on_its_edge(
    picture: Picture, seen: Seen, line: int, towards: Array | None, camera: Intrinsics, lens: Lens
) -> tuple[Array, float] | None:
    """A line on the real edge under it, no surer than anything that is found can be; None without an edge,
    and where the edge does not run towards what the line pointed at."""
    ends = np.stack([seen.lines.starts[line], seen.lines.ends[line]]) * camera.focal_px
    rough = lens.distorted(ends + [camera.width / 2, camera.height / 2])
    rough = np.clip(rough, 0, [camera.width, camera.height])
    try:
        found = snap(picture, rough, lens)
    except (NoEdgeError, ValueError):
        return None
    if found.moved_px > MOVED * max(camera.width, camera.height):
        return None
    length = float(np.linalg.norm(found.points[1] - found.points[0]))
    sigma = max(found.sigma_px, float(np.radians(FLOOR_DEG)) * length / np.sqrt(2))
    if towards is not None:
        ideal = (lens.undistorted(found.points) - [camera.width / 2, camera.height / 2]) / camera.focal_px
        way = (ideal[1] - ideal[0]) / np.linalg.norm(ideal[1] - ideal[0])
        off = abs(float(off_deg(towards, ideal.mean(axis=0)[None], way[None])[0]))
        if off > max(ASTRAY_DEG, ASTRAY_SDS * float(np.degrees(sigma * np.sqrt(2) / length))):
            return None
    return found.points, sigma
