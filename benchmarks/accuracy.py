"""How well snapped lines give the demo photos' true attitudes, and how often the snap finds or refuses.

    PYTHONPATH=src:tests:tests/core .venv/bin/python -m benchmarks.accuracy

The same photos, starts and definitions as in the tests, which hold the bars; here the figures are printed.
"""

from __future__ import annotations

import sys

import numpy as np
from scenes import KINDS, SCENES, scene
from test_snap import SKY_AND_WATER, frame_of, is_clear, random_line, rough_starts

from sequor.core.distortion.models import no_lens
from sequor.core.estimation.solve import solve
from sequor.core.estimation.unknowns import ANGLES, Unknown
from sequor.core.look.snap import NoEdgeError, snap
from sequor.core.references.reference import Reference


def attitudes() -> None:
    """Ends up to 7 px off, snapped, solved: the worst error of ten draws in every photo."""
    rng = np.random.default_rng(7)
    for name in SCENES:
        seen = scene(name)
        free: list[Unknown] = list(ANGLES) if seen.truth["yaw_deg"] else ["roll", "pitch"]
        worst = dict.fromkeys(free, 0.0)
        for _ in range(10):
            lines = []
            for one in seen.truth["lines"]:
                flat = one["kind"] in ("vertical", "horizontal-facing")
                if not flat or "axis" in one["id"] or one["visible_fraction"] < 0.85:
                    continue
                angle, far = rng.uniform(0, 2 * np.pi, (2, 1)), rng.uniform(0, 7, (2, 1))
                off = far * np.hstack([np.cos(angle), np.sin(angle)])
                rough = np.clip(np.array([one["p0"], one["p1"]]) + off, 0, seen.size)
                try:
                    edge = snap(seen.picture, rough, seen.lens)
                except NoEdgeError:
                    continue
                lines.append(Reference(one["id"], KINDS[one["kind"]], edge.points, edge.sigma_px))
            found = solve(lines, free, seen.camera, seen.lens)
            for angle_name in free:
                error = abs(getattr(found.attitude, angle_name) - seen.truth[f"{angle_name}_deg"])
                worst[angle_name] = max(worst[angle_name], error)
        print(f"{name:11}", ", ".join(f"{angle} {error:.3f}°" for angle, error in worst.items()))


def snapping() -> None:
    """Clear true lines found, and sky and water refused."""
    tried = hit = 0
    for name in SCENES:
        seen = scene(name)
        for line in seen.truth["lines"]:
            ideal = seen.lens.undistorted(np.array([line["p0"], line["p1"]]))
            if "axis" in line["id"] or line["visible_fraction"] < 0.85:
                continue
            if not is_clear(seen.picture, ideal, seen.lens):
                continue
            _, across, _ = frame_of(ideal)
            for rough in rough_starts(ideal, seen.lens, seen.size):
                tried += 1
                try:
                    found = snap(seen.picture, rough, seen.lens)
                except NoEdgeError:
                    continue
                off = float(np.abs((seen.lens.undistorted(found.points) - ideal[0]) @ across).max())
                hit += off <= min(0.5, 3 * found.sigma_px)
    print(f"clear true lines from 12 px off: {hit} of {tried} ({100 * hit / tried:.1f} %)")
    rng, refused = np.random.default_rng(11), 0
    for name, box in SKY_AND_WATER * 5:
        seen = scene(name)
        for _ in range(25):
            try:
                snap(seen.picture, random_line(rng, box), no_lens(*seen.size))
            except NoEdgeError:
                refused += 1
    print(f"sky and water: {refused} of 1000 refused")


if __name__ == "__main__":
    snapping()
    sys.exit(attitudes())
