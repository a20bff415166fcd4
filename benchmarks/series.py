"""Photos of one tripod position solved together: how surely, whether intervals hold, what turns are seen.

    PYTHONPATH=src:.:tests:tests/core .venv/bin/python -m benchmarks.series

One level and two upright lines a photo, ends off by 1.5 px. Beside it one solve of all lines at once.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from core.test_series import TRUTH, lines, solved, together

from sequor.core.estimation.series import attitude_telling, put_together


def held(count: int, draws: int) -> None:
    """What so many photos tell together, and how often the truth lies within."""
    rng = np.random.default_rng(count)
    off, sds = [], []
    for _ in range(draws):
        shared = together(rng, count)
        off.append(shared.values - (TRUTH.roll, TRUTH.pitch))
        sds.append(np.sqrt(np.diag(shared.covariance)))
    inside = np.nanmean(np.abs(off) < 1.959964 * np.array(sds), axis=0)
    roll, pitch = np.nanmedian(sds, axis=0)
    print(
        f"{count:3} photos: sd of the tilt {roll:.3f}, of the aim {pitch:.3f}; within 95 %:"
        f" {100 * inside[0]:.1f} % and {100 * inside[1]:.1f} % of {draws} draws"
    )


def stacked(draws: int = 40) -> None:
    """The mean of five solved photos against one solve of all their lines."""
    rng = np.random.default_rng(9)
    apart = []
    for _ in range(draws):
        drawn = [lines(rng, TRUTH, 1, 2) for _ in range(5)]
        told = [one for each in drawn if (one := attitude_telling(solved(each))) is not None]
        every = [replace(one, id=f"{n} {one.id}") for n, each in enumerate(drawn) for one in each]
        whole = solved(every).attitude
        apart.append(put_together(told).values - (whole.roll, whole.pitch))
    roll, pitch = np.sqrt(np.nanmean(np.square(apart), axis=0))
    print(f"five photos against one solve of all lines: {roll:.4f}° in the tilt, {pitch:.4f}° in the aim")


def seen(draws: int = 150) -> None:
    """How often a photo that was turned is noticed, and named."""
    rng = np.random.default_rng(5)
    for turn in (0.0, 0.3, 0.5, 1.0, 2.0):
        found = [together(rng, 5, odd_by=turn) for _ in range(draws)]
        refused, named = (np.mean(one) for one in ([f.refused for f in found], [f.odd == 2 for f in found]))
        print(f"one of five turned by {turn:.1f}°: refused {100 * refused:.0f} %, named {100 * named:.0f} %")
    print(f"the smallest turn said to be seen: {np.median([one.noticed[0] for one in found]):.2f}°")


if __name__ == "__main__":
    for count, draws in ((2, 300), (5, 400), (20, 150)):
        held(count, draws)
    stacked()
    seen()
