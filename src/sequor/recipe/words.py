"""What is true, in words: readings, verdicts, the state of a photo and the finding.

People are told "the right side was 1.2° too low", never a sign. The ± is the 95 % half-width and the
decimals follow it.
"""

from __future__ import annotations

import math
from fractions import Fraction
from typing import Literal

from sequor.core.references import Reading
from sequor.core.solve import DISAGREE_SIGMAS

from .evaluate import Evaluation, ReferenceResult, ratio_of

State = Literal["not measured", "lines laid, nothing taken out", "level", "turned by hand", "lines disagree"]

HALF_WIDTH_95 = 1.959964
"""Two-sided 95 % point of the normal distribution."""

UNNOTICED_DEG = 0.005
"""Under half of the last decimal that is shown, an angle is called exactly level."""

VERDICT_WORDS = {
    "agrees": "agrees",
    "disagrees": "disagrees",
    "receding?": "may run away from you",
    "alone": "alone",
    "off": "switched off",
}


def decimals_for(half_width: float | None) -> int:
    """How many decimals an angle deserves: the half-width keeps one figure, between 1 and 3 decimals.

    >>> decimals_for(0.04), decimals_for(0.3), decimals_for(None)
    (2, 1, 2)
    """
    if half_width is None or half_width <= 0:
        return 2
    return min(3, max(1, -math.floor(math.log10(half_width))))


def degrees(value: float, decimals: int = 2) -> str:
    """An angle without its sign."""
    return f"{abs(value):.{decimals}f}°"


def plus_minus(sd: float) -> str:
    """The 95 % half-width of a standard deviation in degrees."""
    half = HALF_WIDTH_95 * sd
    return f"± {half:.{decimals_for(half)}f}°"


def slope_words(reading: Reading) -> str:
    """How a line stands as taken, in words."""
    half = HALF_WIDTH_95 * reading.sd_deg
    decimals = decimals_for(half)
    if abs(reading.slope_deg) <= 45:
        return side_words(reading.slope_deg, "right end", "left end", "lower", "runs level", decimals)
    return side_words(reading.lean_deg, "leans right", "leans left", "", "stands upright", decimals)


def side_words(value: float, positive: str, negative: str, what: str, zero: str, decimals: int) -> str:
    """A signed angle as words: ``positive`` or ``negative`` with the size, or ``zero``."""
    if abs(value) < max(UNNOTICED_DEG, 0.5 * 10**-decimals):
        return zero
    return f"{positive if value > 0 else negative} {degrees(value, decimals)} {what}".strip()


def after_words(result: ReferenceResult) -> str:
    """How the line will stand in the export."""
    return degrees(result.after_deg, decimals_for(HALF_WIDTH_95 * result.reading.sd_deg))


def verdict_words(result: ReferenceResult) -> str:
    """The verdict in words; a witness says whether it stands as it should."""
    if result.verdict == "witness":
        if abs(result.after_deg) <= DISAGREE_SIGMAS * result.reading.sd_deg:
            return "stands as it should"
        return f"stands {after_words(result)} off"
    return VERDICT_WORDS[result.verdict]


def roll_words(roll: float) -> str:
    """Which side of the camera was too low, for the vernier."""
    if abs(roll) < UNNOTICED_DEG:
        return "level as taken"
    return f"camera's {low_side(roll)} side was too low"


def low_side(roll: float) -> str:
    """The camera's side that was too low: a camera turned clockwise has its right side down."""
    return "right" if roll > 0 else "left"


def ratio_words(width: int, height: int) -> str:
    """A ratio the way people say it: small whole numbers, else to 1 with two decimals.

    >>> ratio_words(6000, 4000), ratio_words(1000, 667), ratio_words(1234, 999)
    ('3:2', '3:2', '1.24:1')
    """
    exact = width / height
    for bottom in range(1, 17):
        simple = Fraction(round(exact * bottom), bottom)
        close = abs(float(simple) - exact) <= 1.0 / min(width, height)
        if simple and simple.numerator <= 21 and close and abs(float(simple) / exact - 1) < 0.002:
            return f"{simple.numerator}:{simple.denominator}"
    return f"{exact:.2f}:1" if exact >= 1 else f"1:{1 / exact:.2f}"


def percent(share: float) -> str:
    """A share as a percentage with one decimal, none when it is whole."""
    return f"{100 * share:.1f} %".replace("100.0 %", "100 %")


def state(evaluation: Evaluation) -> State:
    """The state of a photo. "Level" only when all of it is taken out and nothing disagrees."""
    counting = evaluation.counting
    correction = evaluation.recipe.correction
    if any(result.verdict == "disagrees" for result in counting):
        return "lines disagree"
    if not counting:
        return "turned by hand" if correction.by_hand.roll else "not measured"
    # Everything is taken out when nothing but the lines' own uncertainty is left.
    rest = abs(evaluation.solution.attitude.roll - evaluation.taken_out)
    if rest <= max(UNNOTICED_DEG, HALF_WIDTH_95 * (evaluation.solution.sd_roll or 0.0)):
        return "level"
    if abs(evaluation.taken_out) < UNNOTICED_DEG:
        return "lines laid, nothing taken out"
    return "turned by hand"


def lines_words(evaluation: Evaluation) -> str:
    """The state of the step Lines, for the route."""
    counting = evaluation.counting
    disagreeing = sum(result.verdict == "disagrees" for result in counting)
    if disagreeing:
        return f"{disagreeing} disagree"
    if len(counting) > 1:
        return f"{len(counting)} agree"
    if counting:
        return f"1 {counting[0].kind} line"
    if evaluation.references:
        return "1 witness" if len(evaluation.references) == 1 else f"{len(evaluation.references)} witnesses"
    return "none laid yet"


def frame_words(evaluation: Evaluation) -> str:
    """The state of the step Frame, for the route."""
    return f"{ratio_words(*ratio_of(evaluation.recipe))} · keeps {percent(evaluation.cost.kept)}"


def finding(evaluation: Evaluation) -> str:
    """The sentence at the foot of the bench."""
    return " ".join([_attitude_sentence(evaluation), *_doubts(evaluation), _cost_sentence(evaluation)])


def _attitude_sentence(evaluation: Evaluation) -> str:
    solution, correction = evaluation.solution, evaluation.recipe.correction
    by_hand = correction.by_hand.roll
    parts = []
    if solution.sd_roll is not None:
        half = HALF_WIDTH_95 * solution.sd_roll
        decimals = decimals_for(half)
        roll = solution.attitude.roll
        if abs(roll) < max(UNNOTICED_DEG, 0.5 * 10**-decimals):
            parts.append(f"The lines say the photo was taken level, {plus_minus(solution.sd_roll)}.")
        else:
            parts.append(
                f"The camera's {low_side(roll)} side was {degrees(roll, decimals)} "
                f"{plus_minus(solution.sd_roll)} too low."
            )
        rest = roll - evaluation.taken_out
        if by_hand and abs(rest) >= UNNOTICED_DEG:
            parts.append(
                f"{degrees(rest)} {'of it is left in' if rest * roll > 0 else 'too much is taken out'}."
            )
    elif by_hand:
        parts.append(
            f"Turned {'clockwise' if by_hand > 0 else 'anticlockwise'} by {degrees(by_hand)} by hand."
        )
    else:
        parts.append("Nothing measured yet: lay a line along something level or upright.")
    if solution.sd_roll is not None and not correction.on.roll:
        parts.append("The correction is switched off.")
    return " ".join(parts)


def _doubts(evaluation: Evaluation) -> list[str]:
    verdicts = [result.verdict for result in evaluation.references]
    numbers = {result.id: index + 1 for index, result in enumerate(evaluation.references)}
    words = ["One line, nothing to check it against."] if "alone" in verdicts else []
    for conflict in evaluation.solution.conflicts[:1]:
        if conflict.reason == "outlier":
            words.append(f"Line {numbers[conflict.ids[0]]} stands {degrees(conflict.deg)} off the others.")
        else:
            first, second = (numbers[name] for name in conflict.ids)
            words.append(
                f"Lines {first} and {second} disagree by {degrees(conflict.deg)}; the difference is split."
            )
    return words


def _cost_sentence(evaluation: Evaluation) -> str:
    ratio = ratio_words(*ratio_of(evaluation.recipe))
    kept = percent(evaluation.cost.kept)
    if evaluation.recipe.frame.rect is None:
        return f"Trimming at {ratio} keeps {kept} of the picture."
    return f"The frame at {ratio} keeps {kept} of the picture."
