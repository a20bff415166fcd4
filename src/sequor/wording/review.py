"""Why a photo wants a pair of eyes, in words with figures."""

from __future__ import annotations

from dataclasses import dataclass

from sequor.wording.found import LIKELY, confidence_words
from sequor.wording.frame import percent
from sequor.wording.numbers import degrees, plus_minus
from sequor.wording.words import tilted

WIDE_DEG = 0.25
"""A standard deviation of the tilt from which on its width is a reason of its own."""
FEW_LINES = 4
APART_DEG = 1.0
"""Between what was found and what the camera recorded."""


@dataclass(frozen=True)
class Reason:
    """A reason, and its figure; empty where there is none."""

    words: str
    figure: str = ""


@dataclass(frozen=True)
class Facts:
    """What reasons are made from: degrees, standard deviations, sureness from 0 to 1; None where it is not
    known. ``lens_open``: nobody told how the lens bends; ``assumed_mm``: a focal length that is a guess."""

    roll: float
    roll_sd: float
    sure_tilt: float
    sure_aim: float | None
    lines: int
    recorded_roll: float | None
    lens_open: bool
    assumed_mm: float | None


def headline(roll: float, sd: float) -> str:
    """How far a photo is tilted.

    >>> headline(1.14, 0.31)
    'Tilted 1.14° ± 0.6° to the left'
    """
    return f"Tilted {degrees(abs(roll))} {plus_minus(sd)} {tilted(roll)}"


def reasons(facts: Facts) -> list[Reason]:
    """Why it is not sure, what weighs most first; how sure it is in all at the end."""
    found = []
    if facts.recorded_roll is not None and abs(facts.recorded_roll - facts.roll) > APART_DEG:
        told = f"{degrees(abs(facts.recorded_roll))} {tilted(facts.recorded_roll)}"
        found.append(Reason("The camera recorded another tilt", told))
    if facts.roll_sd > WIDE_DEG:
        found.append(Reason("The lines leave the tilt open by", plus_minus(facts.roll_sd)))
    if facts.lines < FEW_LINES:
        found.append(Reason("Few lines agree", str(facts.lines)))
    if facts.sure_aim is not None and facts.sure_aim < facts.sure_tilt and facts.sure_aim >= LIKELY:
        found.append(Reason("The verticals are less sure than the tilt", percent(round(facts.sure_aim, 2))))
    if facts.lens_open:
        found.append(Reason("The lens’s distortion is not known"))
    if facts.assumed_mm is not None:
        found.append(Reason("The focal length is a guess", f"{facts.assumed_mm:.0f} mm"))
    sure = facts.sure_tilt if facts.sure_aim is None else min(facts.sure_tilt, facts.sure_aim)
    return [*found, Reason(f"Altogether {confidence_words(sure)}", percent(round(sure, 2)))]
