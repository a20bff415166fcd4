"""Whether the ± tells the truth: cameras drawn as people aim them, lines laid as hands lay them.

    PYTHONPATH=src:tests:tests/core .venv/bin/python -m benchmarks.honest [draws]

For every mix of lines, with the lens known and not, and every source of the focal length: how many of the
stated 95 % intervals hold the truth, each angle apart (aim: 92 to 98 %), the median ± of each, and how many
draws are called a disagreement (three standard deviations of good lines: about 0.3 % for each line that is
checked).
"""

from __future__ import annotations

import sys

import numpy as np
from drawn import (
    CASES,
    FOCALS,
    HALF_WIDTH_95,
    drawn,
    honesty,
    horizon_and_wall,
    solved,
    with_a_leaning_wall,
)


def main(draws: int) -> int:
    missed = 0
    for case in CASES:
        for lens_known in (True, False):
            for focal in FOCALS:
                found = honesty(case, focal, lens_known, draws)
                words = []
                for angle, rows in found.angles.items():
                    covered = found.covered(angle)
                    missed += not 0.92 <= covered <= 0.98
                    half = HALF_WIDTH_95 * float(np.median(rows[:, 1]))
                    words.append(
                        f"{angle} {100 * covered:.1f} % at ± {half:.2f}°"
                        + ("" if 0.92 <= covered <= 0.98 else " !")
                    )
                lens = "lens known" if lens_known else "lens open "
                print(
                    f"{case:30} {lens} {focal:8}",
                    ", ".join(words),
                    f"; disagree {100 * found.disagreed:.1f} %",
                    flush=True,
                )
    print(f"{missed} outside 92 to 98 %")
    horizon_and_a_wall(draws)
    a_wall_that_leans(draws)
    return 0


def horizon_and_a_wall(draws: int) -> None:
    """Roll, pitch and disagreements of a far horizon and one wall, the lens known."""
    rng = np.random.default_rng(3)
    rolls, sigmas, disagreed = [], [], 0
    for _ in range(draws):
        draw = drawn(rng, "EXIF", True, False)
        found = solved(draw, horizon_and_wall(draw), "EXIF", True)
        disagreed += bool(found.conflicts)
        rolls.append(abs(found.attitude.roll - draw.held.roll))
        assert found.known is not None
        off = abs(found.known.attitude.pitch - draw.held.pitch)
        sigmas.append(off / (found.sd_known["pitch"] or np.inf))
    within = 100 * np.mean(np.array(sigmas) <= 3)
    print(
        f"horizon and wall: roll within {np.percentile(rolls, 95):.3f}° (95th percentile), "
        f"pitch within 3 sd in {within:.1f} %, called a disagreement in {100 * disagreed / draws:.1f} %"
    )


def a_wall_that_leans(draws: int) -> None:
    """How often the one of three walls that really leans is named, and alone."""
    rng = np.random.default_rng(4)
    named = told = 0
    for _ in range(draws):
        draw = drawn(rng, "EXIF", True, False)
        found = solved(draw, with_a_leaning_wall(draw), "EXIF", True)
        named += [one.ids for one in found.conflicts] == [("leaning",)]
        told += bool(found.conflicts)
    print(f"a wall that leans 3°: told in {100 * told / draws:.1f} %, named in {100 * named / draws:.1f} %")


if __name__ == "__main__":
    sys.exit(main(int(sys.argv[1]) if len(sys.argv) > 1 else 2000))
