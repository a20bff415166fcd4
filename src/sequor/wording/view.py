"""What a wide view costs, and what it could not meet, in words."""

from __future__ import annotations

from sequor.pipeline.evaluated import Evaluated
from sequor.wording.frame import percent

MET = 0.995
"""What is met to so much of what was asked is met."""

UNSTRETCHED = 1.005
STRAIGHT = 0.0005
"""Below it no stretch is told, and no bend, as a share of a line's length."""


def view_sentences(evaluation: Evaluated) -> list[str]:
    """What the finding says of a wide view; nothing where there is none."""
    if evaluation.wide is None:
        return []
    return [cost_words(evaluation), *unmet_words(evaluation).values()]


def cost_words(evaluation: Evaluated) -> str:
    """How much it stretches at most, and how much lines may bend that nobody drew; empty without a wide
    view."""
    stretches = evaluation.stretches
    if stretches is None:
        return ""
    stretched = "Nothing is stretched"
    if stretches.drawn_out > UNSTRETCHED:
        stretched = f"Stretched at most {stretches.drawn_out:.2f} × near the border"
    if stretches.bend <= STRAIGHT:
        return f"{stretched}; straight lines stay straight."
    return f"{stretched}; a line you did not draw may bow by up to {100 * stretches.bend:.1f}% of its length."


def brief_cost_words(drawn_out: float | None, bend: float | None) -> str:
    """What a way to put a picture on paper costs, in few words; empty where nobody can tell."""
    if drawn_out is None or bend is None:
        return ""
    bow = "no bow" if bend <= STRAIGHT else f"bow {100 * bend:.1f}%"
    return f"stretch {drawn_out:.2f}, {bow}"


def unmet_words(evaluation: Evaluated) -> dict[str, str]:
    """Of each line that cannot become what was asked, by its id, how far it goes."""
    wide = evaluation.wide
    if wide is None:
        return {}
    numbers = {part.id: index + 1 for index, part in enumerate(evaluation.recipe.references)}
    return {
        name: (
            f"Line {numbers[name]} goes to {percent(share)} of what was asked: "
            "beyond that the picture would fold."
        )
        for name, share in wide.met.items()
        if share < MET
    }
