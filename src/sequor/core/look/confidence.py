"""How sure a look is: the chance that its tilt, and its aim, are right within half a degree.

A logistic regression on what the evidence is made of (D. R. Cox, *The Regression Analysis of Binary
Sequences*, Journal of the Royal Statistical Society B 20, 1958)."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from sequor.core.camera import Array
from sequor.core.look.attitude import Seen
from sequor.core.look.posterior import level_off, nadir

SURE = 0.5
"""From here on there is an answer."""


@dataclass(frozen=True)
class Logistic:
    """Weights for some ``parts`` of the evidence, less ``mean`` and over ``spread``, and what is added to
    them."""

    parts: tuple[int, ...]
    mean: tuple[float, ...]
    spread: tuple[float, ...]
    weights: tuple[float, ...]
    added: float

    def chance(self, parts: Array) -> float:
        """The chance (0 to 1) that evidence of such parts (9,) tells the truth."""
        of = parts[list(self.parts)]
        value = self.added + float(((of - self.mean) / self.spread) @ np.array(self.weights))
        return float(1 / (1 + np.exp(-value)))


TILT = Logistic(
    (3, 5, 7, 8),
    (0.5942, -1.8581, 0.1430, 0.8461),
    (0.2159, 1.1611, 0.2850, 0.3051),
    (0.9990, -1.8010, 0.1722, 0.7553),
    0.1908,
)
"""Fitted to half the photographs of benchmarks/look_photographs.py and to the demo scenes' views."""

AIM = Logistic(
    tuple(range(9)),
    (1.5851, 1.8312, 2.0632, 0.4949, 1.7208, -0.4819, 1.0249, 0.1395, 0.6213),
    (1.5004, 2.0069, 1.6666, 0.2466, 1.2910, 1.4479, 0.7370, 0.2236, 0.3622),
    (1.2875, 0.1913, 0.4990, 0.0557, 0.4040, -0.8043, 0.4077, -0.0287, 0.4814),
    -2.1193,
)
"""Fitted to 105 views of 47 real pictures and 24 of renders whose pitch is known."""


def confidence(seen: Seen) -> tuple[float, float]:
    """Of the tilt and of the aim, 0 to 1. Where the seeds do not agree within half a degree it is none; a
    horizon alone tells the tilt."""
    down = nadir(seen.roll, seen.pitch)
    horizon = max(
        (one.likely for one in seen.far if abs(float(level_off(down, one)[0])) < ON_IT_DEG), default=0.0
    )
    tilt = _chance(TILT, seen, seen.roll_sd, seen.apart[0])
    return max(tilt, horizon - ALONE), _chance(AIM, seen, seen.pitch_sd, seen.apart[1])


ON_IT_DEG, ALONE = 0.3, 0.2
"""A horizon that the answer leaves by more does not speak for it; by how much less sure it is alone: a
ceiling's edge looks like one."""
AGREE_DEG = 0.5


def _chance(model: Logistic, seen: Seen, sd: float, apart: float) -> float:
    if apart > AGREE_DEG:
        return 0.0
    return model.chance(parts_of(seen, sd))


def parts_of(seen: Seen, sd: float) -> Array:
    """What the evidence is made of (9,): how much uprights say, how heavy and how pure they are, how strong
    the level directions are and how many, the margin to another roll, the deviation, a far edge, how far the
    uprights spread."""
    across = seen.lines.middle[seen.uprights][:, 0]
    return np.array(
        [
            np.log1p(seen.said_by_uprights),
            np.log1p(seen.lines.weight[seen.uprights].sum()),
            np.log1p(sum(one.strength for one in seen.level)),
            seen.purity,
            np.log1p(seen.margin),
            np.log(sd),
            np.log1p(len(seen.level)),
            max((one.likely for one in seen.far), default=0.0),
            float(np.ptp(np.percentile(across, [5, 95]))) if len(across) > 1 else 0.0,
        ]
    )
