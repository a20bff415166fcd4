"""What the picture does under a line that stands still on the screen."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
import shapely

from sequor.core.camera import Array
from sequor.core.look.snap import NoEdgeError, Snapped, snap
from sequor.core.raster.pixels import Picture
from sequor.core.references.line import direction, lean_of, slope_of
from sequor.pipeline.evaluated import Evaluated

Runs = Literal["level", "upright"]

SHORTEST_PX = 12.0
PIECES = 4
"""Where no edge follows the whole of it, one may follow a part as long as this."""


@dataclass(frozen=True)
class Under:
    """Angles in degrees, slope or lean as the line runs: ``taken_deg`` what now lies along the line had
    in the photo; ``edge_deg`` is how a real edge there stands now. None: the line misses the picture, or
    there is no clear edge."""

    taken_deg: float | None
    edge_deg: float | None
    edge_sd_deg: float | None


def look_under(picture: Picture, evaluation: Evaluated, runs: Runs, ends: Array) -> Under:
    """``ends`` (2, 2) in corrected pixels; ``picture`` the photo's pixels, turned as the recipe says."""
    warp = evaluation.warp
    inside = shapely.LineString(ends).intersection(shapely.Polygon(warp.outline()).buffer(-2))
    pieces = [piece for piece in getattr(inside, "geoms", [inside]) if piece.length >= SHORTEST_PX]
    if not pieces:
        return Under(None, None, None)
    along = np.asarray(max(pieces, key=lambda piece: piece.length).coords)[[0, -1]]
    angle = slope_of if runs == "level" else lean_of
    taken = angle(direction(warp.to_photo(along))[0])
    found = _edge(picture, evaluation, along)
    if found is None:
        return Under(taken, None, None)
    edge = warp.to_corrected(found.points)
    length = float(np.hypot(*(edge[1] - edge[0])))
    sd = float(np.rad2deg(np.sqrt(2) * found.sigma_px / length))
    return Under(taken, angle(direction(edge)[0]), sd)


def _edge(picture: Picture, evaluation: Evaluated, along: Array) -> Snapped | None:
    """The edge that follows the line, or the clearest that follows a part of it."""
    warp = evaluation.warp
    shares = [(0.0, 1.0)] + [(at / PIECES, (at + 1) / PIECES) for at in range(PIECES)]
    found: list[Snapped] = []
    for first, last in shares:
        ends = along[0] + np.array([[first], [last]]) * (along[1] - along[0])
        try:
            found.append(snap(picture, warp.to_photo(ends), warp.lens))
        except NoEdgeError:
            continue
        if (first, last) == (0.0, 1.0):
            break
    return max(found, key=lambda one: one.clarity, default=None)
