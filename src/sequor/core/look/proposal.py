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
from sequor.core.look.posterior import FarEdge, nadir
from sequor.core.look.snap import NoEdgeError, snap
from sequor.core.raster.pixels import Picture
from sequor.core.references.registry import Kind

STRIPS, TRIES = 8, 4
"""Lines of each kind: one a strip, so that they check each other; in each so many are tried, the best seen
first."""

GROUP_NAMES = ("A", "B")
MOVED = 12 / FINE
"""Of the longer side: an edge that is found farther from the line than that is another one."""

SHORTEST = 0.03
"""Of the longer side: what is seen of a line must be longer, or a cloud could give one."""

SAME, SAME_DEG = 2 / FINE, 1.0
"""Of the longer side, how near two lines lie, and how parallel, that are one edge."""

SQUARE_ON_DEG = 1.5

FAR_WEIGHT = 2.5
"""What a far level edge says, as the weight of a line."""

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
    found: list[Proposed] = []
    if seen.far:
        points, sigma = _horizon(picture, seen.far[0], camera, lens)
        weight = FAR_WEIGHT * seen.far[0].likely
        found.append(Proposed("found 1", "level", _pair(points), sigma, None, False, weight))
    for kind, group, faces, strips, towards in wanted:
        for strip in strips:
            for line in strip[seen.lines.support[strip] > SHORTEST * FINE][:TRIES]:
                ends = np.stack([seen.lines.starts[line], seen.lines.ends[line]])
                placed = _on_its_edge(picture, ends, towards, camera, lens)
                if placed is not None and not any(_same(placed[0], one, camera) for one in found):
                    name, weight = f"found {len(found) + 1}", float(seen.lines.weight[line])
                    found.append(Proposed(name, kind, _pair(placed[0]), placed[1], group, faces, weight))
                    break
    found = [one for one in found if one.group is None or _others(one, found)]
    total = sum(one.share for one in found)
    return [replace(one, share=one.share / total) for one in found]


def _same(points: Array, other: Proposed, camera: Intrinsics) -> bool:
    """Whether a line lies on the edge of another one: its middle on it, and as it runs."""
    (start, end), middle = np.array(other.points), points.mean(axis=0)
    length, own = np.linalg.norm(end - start), np.linalg.norm(points[1] - points[0])
    way = (end - start) / length
    across = np.array([-way[1], way[0]])
    parallel = abs((points[1] - points[0]) @ across) < np.radians(SAME_DEG) * own
    near = abs((middle - start) @ across) < SAME * max(camera.width, camera.height)
    return bool(parallel and near and 0 < (middle - start) @ way < length)


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


def _pair(points: Array) -> tuple[tuple[float, float], tuple[float, float]]:
    (ax, ay), (bx, by) = points.tolist()
    return (ax, ay), (bx, by)


def _recorded(ends: Array, camera: Intrinsics, lens: Lens) -> Array:
    """Ends (2, 2) in focal lengths as photo pixels."""
    size = np.array([camera.width, camera.height])
    return np.clip(lens.distorted(ends * camera.focal_px + size / 2), 0, size)


def _horizon(picture: Picture, edge: FarEdge, camera: Intrinsics, lens: Lens) -> tuple[Array, float]:
    """A far edge where it is found at full size; one that is too soft for that as it was followed."""
    followed = _recorded(edge.ends, camera, lens)
    placed = _on_its_edge(picture, edge.ends, None, camera, lens)
    if placed is not None:
        first, other = (np.degrees(np.arctan2(*(one[1] - one[0])[::-1])) for one in (followed, placed[0]))
        if abs(first - other) < max(ASTRAY_DEG, ASTRAY_SDS * edge.sd):
            return placed
    length = float(np.linalg.norm(followed[1] - followed[0]))
    return followed, float(np.radians(max(FLOOR_DEG, edge.sd))) * length / np.sqrt(2)


def _on_its_edge(
    picture: Picture, ends: Array, towards: Array | None, camera: Intrinsics, lens: Lens
) -> tuple[Array, float] | None:
    """A line, its ends (2, 2) in focal lengths, on the real edge under it, no surer than anything that is
    found can be; None without an edge, and where the edge does not run towards what the line pointed at."""
    try:
        found = snap(picture, _recorded(ends, camera, lens), lens)
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
