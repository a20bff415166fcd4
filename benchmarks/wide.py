"""Wide views: how straight laid lines come, how little things at the edge are stretched, how long it takes.

    PYTHONPATH=src .venv/bin/python -m benchmarks.wide [square|facade|viaduct|drag|speed] ...

``square``: a made-up square (:mod:`square`) at 18 mm and through a 140 degree fisheye, looking like 50 mm,
with ten lines made right; beside it the sideways view of the same look (T. K. Sharpless et al., *Pannini*,
2010), a projection without lines. ``angle`` is Tissot's greatest angular error over the photo, ``ball`` the
worst ratio of the axes of the ellipse that OpenCV fits to the outline of a ball. ``facade``: the demo photo
of the mill's yard at 16 mm, four level lines, firm. ``viaduct``: the demo photo, its parapet laid, its lens
known. ``drag``: an end moved a hundred pixels. ``speed``: medians at 24 megapixels; the export against the
plain map in the same run."""

from __future__ import annotations

import json
import sys
import tempfile
import time
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from sequor.core.camera import Attitude, Intrinsics
from sequor.core.distortion.fisheye import Fisheye
from sequor.core.distortion.models import Lens, half_diagonal, no_lens
from sequor.core.raster.resample import resample
from sequor.core.references.line import bend, slope_of
from sequor.core.warp.homography import warp_of
from sequor.core.warp.wide.make import Spread, View, Wide, spread, wide_warp
from sequor.core.warp.wide.measured import places_on
from sequor.core.warp.wide.sphere import on_sphere, tissot
from sequor.core.warp.wide.view import Displaced, warp_over
from sequor.core.warp.wide.wish import Wish, arc
from sequor.core.warp.wide.wished import carry_out
from sequor.operations.exporting import export
from sequor.recipe.parse import build

from .photo import make, recipe
from .square import Array, TrueLine, balls, lines
from .timing import median

PHOTOS = Path(__file__).resolve().parents[1] / "demo" / "photos"
DOWN = np.array([0.0, 1.0, 0.0])
SLOPES = {"level": 0.0, "plumb": 90.0, "receding": None}
WIDE, HIGH = 1500, 1000
TAKEN, YAW = Attitude(roll=1.5, pitch=8.0), Attitude(yaw=28.0)
LAID = (
    "left course 0", "left far edge", "right course 0", "right course 2", "right foot", "right far edge",
    "right window 11.35", "front course 0", "paving -3", "horizon",
)  # fmt: skip
LENSES: dict[str, Lens] = {
    "18 mm": no_lens(WIDE, HIGH),
    "fisheye 140°": Fisheye((WIDE / 2, HIGH / 2), 653.8, law="equisolid"),
}
INSIDE = 6.0
SHORTEST = 60.0
REPEATS = 5


def camera_of(lens: Lens, focal_px: float) -> Intrinsics:
    """The camera behind a lens; a fisheye brings its own focal length."""
    width, height = (round(2 * value) for value in lens.centre)
    return Intrinsics(width, height, focal_px if lens.flat else lens.unit_px, 0.0, "photo")


def seen(exact_rays: Array, spread_: Spread) -> Array | None:
    """The part of a line, rays (N, 3) along it, that is in the photo: its end rays (2, 3)."""
    photo = spread_.exact.photo_of(exact_rays)
    width, height = spread_.exact.size
    with np.errstate(invalid="ignore"):
        inside = np.all((photo >= INSIDE) & (photo <= np.array([width, height]) - INSIDE), axis=1)
    inside &= spread_.exact.recorded(np.nan_to_num(photo)) & (exact_rays @ spread_.exact.turn[:, 2] > -0.9)
    at = np.flatnonzero(inside)
    if len(at) < 2 or np.linalg.norm(np.diff(photo[at], axis=0), axis=1).sum() < SHORTEST:
        return None
    return exact_rays[[at[0], at[-1]]]


def unit(rays: Array) -> Array:
    return np.asarray(rays / np.linalg.norm(rays, axis=-1, keepdims=True))


def of_square(one: TrueLine) -> Array:
    """Rays (N, 3) along a line of the square in level axes."""
    share = np.linspace(0, 1, 4000)[:, None]
    return unit((one.ends[0] + share * (one.ends[1] - one.ends[0])) @ YAW.rotation())


def in_square(spread_: Spread) -> dict[str, tuple[str, Array]]:
    """The lines of the square that are seen: kind and end rays."""
    found = {one.name: (one.kind, seen(of_square(one), spread_)) for one in lines()}
    return {name: (kind, rays) for name, (kind, rays) in found.items() if rays is not None}


def along(wide: Wide, rays: Array) -> Array:
    """Points of a line as they are exported: through the photo and the lattice."""
    exact = wide.warp.map.exact
    return wide.warp.to_corrected(exact.photo_of(arc(rays, np.linspace(0, 1, 300))))


def worst_ball(wide: Wide) -> float:
    """The worst ratio of axes of the balls that are wholly seen."""
    worst, exact = 1.0, wide.warp.map.exact
    around = np.linspace(0, 2 * np.pi, 90)
    for middle, radius in balls():
        towards = unit(middle)
        half = np.arcsin(radius / np.linalg.norm(middle))
        across = unit(np.cross([0.0, 1, 0], towards))
        up = np.cross(towards, across)
        ring = np.cos(around)[:, None] * across + np.sin(around)[:, None] * up
        rays = (np.cos(half) * towards + np.sin(half) * ring) @ YAW.rotation()
        if not exact.on_photo(exact.photo_of(rays)).all():
            continue
        axes = cv2.fitEllipse(wide.warp.map.from_level(rays).astype(np.float32))[1]
        worst = max(worst, max(axes) / min(axes))
    return worst


def angles(wide: Wide) -> tuple[float, float]:
    """Tissot's greatest angular error in degrees: its mean over the photo, and its greatest."""
    map_ = wide.warp.map
    rays = map_.exact.rays_of(places_on(wide.warp, 160))
    error = tissot(on_sphere(map_.from_level, rays, DOWN))[0]
    return float(error.mean()), float(error.max())


def off(points: Array, slope: float | None) -> float:
    """Degrees off a slope; 0 where none is asked for."""
    if slope is None:
        return 0.0
    return abs((slope_of(points[-1] - points[0]) - slope + 90) % 180 - 90)


def square() -> None:
    print(f"{'':34}{'angle mean':>11}{'max':>7}{'ball':>7}{'laid px':>9}{'° off':>8}{'not laid px':>13}")
    for name, lens in LENSES.items():
        camera = camera_of(lens, WIDE * 18 / 36)
        turn = TAKEN.rotation()
        for what, view, laid in (
            ("sideways, looks like 50 mm", View("sideways", 50.0), ()),
            ("round, looks like 50 mm", View("round", 50.0), ()),
            ("round, looks like 50 mm, 10 lines", View("round", 50.0), LAID),
        ):
            spread_ = spread(camera, lens, turn, DOWN, view)
            known = in_square(spread_)
            wishes = [Wish(one, known[one][1], slope=SLOPES[known[one][0]]) for one in laid if one in known]
            wide = wide_warp(spread_, wishes)
            drawn = {one: along(wide, rays) for one, (_, rays) in known.items()}
            straight = max((bend(drawn[wish.id]) for wish in wishes), default=0.0)
            turned = max((off(drawn[wish.id], wish.slope) for wish in wishes), default=0.0)
            other = max(bend(points) for one, points in drawn.items() if one not in laid)
            mean, most = angles(wide)
            row = f"{mean:11.1f}{most:7.1f}{worst_ball(wide):7.3f}{straight:9.3f}{turned:8.4f}{other:13.1f}"
            print(f"{name + ', ' + what:34}"[:48].ljust(48) + row)
        print(f"  {len(wishes)} lines laid; bar {0.1 if lens.flat else 0.15} px per 1,000 px of width, 0.01°")


def truth(name: str) -> dict[str, object]:
    found: dict[str, object] = json.loads((PHOTOS / f"wendlow_{name}.json").read_text())
    return found


def photographed(name: str, view: View) -> tuple[Spread, dict[str, Array]]:
    """A demo photo by its truth, seen from the front: the spread, and the photo points of its lines."""
    told = truth(name)
    width, height = told["width"], told["height"]
    k1 = (told["distortion"] or {}).get("k1", 0.0)
    lens = Lens((width / 2, height / 2), half_diagonal(width, height), k1=k1)
    camera = Intrinsics(width, height, told["f_px"], 0.0, "photo")
    taken = Attitude(told["roll_deg"], told["pitch_deg"], told["yaw_deg"])
    spread_ = spread(camera, lens, taken.rotation(), DOWN, view)
    return spread_, {one["id"]: np.array([one["p0"], one["p1"]]) for one in told["lines"]}


def facade() -> None:
    spread_, points = photographed("yard", View("round", 35.0, 20.0))
    laid = [name for name in points if name.startswith(("h1", "h2", "h3", "h6"))]
    rays = {name: spread_.exact.rays_of(ends) for name, ends in points.items()}
    wide = wide_warp(spread_, [Wish(name, rays[name], slope=0.0) for name in laid])
    jambs = [off(along(wide, rays[name]), 90.0) for name in points if name.startswith("v")]
    straight = max(bend(along(wide, rays[name])) for name in laid)
    mean, most = angles(wide)
    print(f"facade at 16 mm, four level lines, firm: jambs within {max(jambs):.2f}° (bar 1.2)")
    print(f"  lines {straight:.2f} px of 3,000; angle mean {mean:.1f}°, max {most:.1f}°")


def viaduct() -> None:
    spread_, points = photographed("viaduct", View("round", 40.0, 3.0))
    level = [name for name in points if name.startswith("h")]
    rays = {name: spread_.exact.rays_of(ends) for name, ends in points.items()}
    length = {name: float(np.linalg.norm(np.diff(points[name], axis=0))) for name in level}
    parapet, neighbour = sorted(level, key=lambda name: -length[name])[:2]
    for laid in ((), (parapet,)):
        wide = wide_warp(spread_, [Wish(name, rays[name], slope=0.0) for name in laid])
        here, beside = along(wide, rays[parapet]), along(wide, rays[neighbour])
        what = "parapet laid" if laid else "nothing laid"
        print(
            f"viaduct, {what}: parapet {bend(here):.3f} px (bar 0.3 of 3,000), {off(here, 0.0):.4f}° (0.01)"
        )
        print(f"  its neighbour that nobody laid {bend(beside):.1f} px (bar 7)")


def drag() -> None:
    lens = LENSES["18 mm"]
    spread_ = spread(camera_of(lens, WIDE * 18 / 36), lens, TAKEN.rotation(), DOWN, View("round", 50.0))
    grid = places_on(wide_warp(spread_, []).warp, 60)
    fixed = [
        Wish(one, rays, slope=SLOPES[kind])
        for one, (kind, rays) in in_square(spread_).items()
        if one in LAID[:5]
    ]
    before, worst = None, 0.0
    for step in range(101):
        ends = np.array([[250.0, 150.0 + step], [1100.0, 240.0]])
        field = carry_out(spread_.ground, [*fixed, Wish("dragged", spread_.exact.rays_of(ends))]).field
        now = Displaced(spread_.exact, field).from_photo(grid)
        worst = worst if before is None else max(worst, float(np.hypot(*(now - before).T).max()))
        before = now
    print(f"an end dragged by 100 px: one pixel moves nothing by more than {worst:.2f} px (bar 1.5)")


def speed() -> None:
    width, height = 6000, 4000
    lens = Lens((width / 2, height / 2), half_diagonal(width, height), k1=-0.03)
    camera = Intrinsics(width, height, width * 18 / 36, 0.0, "photo")
    view = View("round", 50.0)
    spread_ = spread(camera, lens, TAKEN.rotation(), DOWN, view)
    known = in_square(spread_)
    wishes = [Wish(one, known[one][1], slope=SLOPES[known[one][0]]) for one in LAID if one in known]
    wide = wide_warp(spread_, wishes)
    set_up = median(lambda: spread(camera, lens, TAKEN.rotation(), DOWN, view))
    for count in (2, 5, len(wishes)):
        spent = median(lambda count=count: carry_out(spread_.ground, wishes[:count]))
        print(f"  {count} lines {1000 * spent:.0f} ms (bar for one more 60)")
    lattice = median(lambda: warp_over(wide.warp.map, spread_.border))
    print(f"  set-up {set_up:.2f} s (bar 0.4), lattice at 24 megapixels {lattice:.2f} s (bar 0.3)")
    ratios = []
    with tempfile.TemporaryDirectory() as folder:
        photo = make(Path(folder))
        told = {
            "lens": {"source": "manual", "k1": -0.03},
            "correction": {"roll": 1.5, "pitch": 8.0, "yaw": 0.0},
        }
        recipes = [
            build(
                recipe()
                | told
                | {
                    "references": [],
                    "photo": {"width": width, "height": height, "focal_35mm": 18.0},
                    "view": view_of,
                }
            )
            for view_of in ({}, {"kind": "round", "looks_like_35mm": 50.0})
        ]
        for _ in range(REPEATS + 1):
            spent_on = []
            for number, one in enumerate(recipes):
                begun = time.perf_counter()
                export(photo, one, Path(folder) / f"{number}.jpg", lambda share, words: None)
                spent_on.append(time.perf_counter() - begun)
            ratios.append(spent_on[1] / spent_on[0])
    print(f"  export, 24 megapixels, against the plain map: {np.median(ratios[1:]):.2f} x (bar 1.3)")
    picture: NDArray[np.uint8] = np.random.default_rng(1).integers(0, 256, (height, width, 3), np.uint8)
    picture = cv2.GaussianBlur(picture, (0, 0), 2.0)
    plain = warp_of(camera, TAKEN, Attitude(), lens=lens)
    low = wide.warp.outline().min(axis=0)
    columns, rows = 4200, 2800
    alone = []
    for _ in range(REPEATS):
        begun = time.perf_counter()
        resample(picture, plain, 900.0, 600.0, columns, rows)
        middle = time.perf_counter()
        resample(picture, wide.warp, float(low[0]) + 300, float(low[1]) + 300, columns, rows)
        alone.append((time.perf_counter() - middle) / (middle - begun))
    print(f"  resampling alone, as many pixels: {np.median(alone):.2f} x (what is shrunk takes more taps)")


PARTS = {"square": square, "facade": facade, "viaduct": viaduct, "drag": drag, "speed": speed}

if __name__ == "__main__":
    for part in sys.argv[1:] or PARTS:
        PARTS[part]()
