"""What photos tell together, in words."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from sequor.core.camera import Array
from sequor.core.estimation.series import Shared
from sequor.wording.numbers import degrees, plus_minus
from sequor.wording.words import pointed, tilted

LARGEST_DEG = 10.0
"""A difference that would only have been seen if it were larger is not told."""


@dataclass(frozen=True)
class Member:
    """A photo of a series: what it is called, and what it tells with its information."""

    title: str
    values: Array
    own: Array


def series_words(
    what: Literal["attitude", "lens"], members: Sequence[Member], shared: Shared | None
) -> tuple[str, ...]:
    """Sentences: what they tell, how well they agree, and what would have been seen."""
    if shared is None:
        tells = "lines that tell how they were tilted" if what == "attitude" else "straight edges"
        return (f"At least two of the photos need {tells}. Draw some, or take their proposals first.",)
    count = f"{len(members)} photos"
    if shared.refused:
        odd = "" if shared.odd is None else f" “{members[shared.odd].title}” does not belong to the others."
        return (
            f"These {count} do not share it: they differ by more than their lines explain.{odd} Leave it out "
            "and try again.",
        )
    said = [f"{count}: {_found(what, shared)}."]
    alone = _alone(members)
    if what == "attitude":
        said.append(f"One photo alone tells the tilt to {plus_minus(alone)}.")
    if shared.odd is not None:
        said.append(f"“{members[shared.odd].title}” is farther from the others than chance explains.")
    if what == "attitude" and shared.noticed[0] < LARGEST_DEG:
        noticed = degrees(float(shared.noticed[0]), 1)
        said.append(f"They agree; that one was turned by {noticed} would have been seen, less may be missed.")
    else:
        said.append("They agree.")
    return tuple(said)


def _found(what: str, shared: Shared) -> str:
    if what == "lens":
        return f"distortion k1 {shared.values[0]:.4f} ± {1.96 * shared.sd(0):.4f}".replace("-", "−")
    roll, pitch = float(shared.values[0]), float(shared.values[1])
    words = f"tilted {degrees(abs(roll))} {plus_minus(shared.sd(0))} {tilted(roll)}"
    if math.isnan(pitch):
        return words
    return f"{words}, pointed {degrees(abs(pitch))} {plus_minus(shared.sd(1))} {pointed('pitch', pitch)}"


def _alone(members: Sequence[Member]) -> float:
    sds = sorted(1 / math.sqrt(one.own[0, 0]) for one in members if one.own[0, 0] > 0)
    return sds[len(sds) // 2] if sds else math.inf
