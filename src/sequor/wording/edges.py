"""What becomes of the empty corners, in words."""

from __future__ import annotations

from sequor.pipeline.evaluate import Evaluation
from sequor.pipeline.fingerprints import stale
from sequor.wording.frame import percent, some_empty

CREDIBLE = 0.25
"""Of the frame: more than that made up is rarely believed (common practice, no source)."""


def credible_words(evaluation: Evaluation) -> str:
    """A word when more of the frame would be made up than anybody believes; else none."""
    empty = evaluation.cost.empty
    if evaluation.recipe.edges.mode != "fill" or empty <= CREDIBLE:
        return ""
    return (
        f"{percent(empty)} of the frame is made up: more than a quarter is rarely believed. Draw it in, or "
        "say where the picture is shown that it is a composite."
    )


def edges_words(evaluation: Evaluation) -> str:
    """The state of the step Edges, for the route."""
    words, touched = _corner_words(evaluation), _touched(evaluation)
    # There is room for one thing beside the first.
    return f"{words}, {touched}" if touched and "," not in words else words


def _touched(evaluation: Evaluation) -> str:
    """How many areas are touched up."""
    count = sum(one.active and one.amount > 0 for one in evaluation.recipe.edges.touch_ups)
    return "" if not count else "1 touch-up" if count == 1 else f"{count} touch-ups"


def _corner_words(evaluation: Evaluation) -> str:
    edges, empty = evaluation.recipe.edges, evaluation.cost.empty
    if evaluation.reshaped is not None:
        return f"stretched {percent(evaluation.reshaped.greatest - 1)}"
    if not some_empty(evaluation):
        return "nothing empty"
    if edges.mode == "fill":
        return f"{percent(empty)} new{', stale' if stale(evaluation) else ''}"
    if edges.mode == "leave":
        return f"{percent(empty)} {'clear' if edges.colour is None else 'in one colour'}"
    return f"{percent(empty)} empty, white"


def edges_sentences(evaluation: Evaluation) -> list[str]:
    """What becomes of the empty corners and what is touched up, for the finding."""
    touched = _touched(evaluation)
    words = _corner_sentences(evaluation)
    return words + ([f"{touched} will be declared in the exported file."] if touched else [])


def _corner_sentences(evaluation: Evaluation) -> list[str]:
    edges, empty = evaluation.recipe.edges, evaluation.cost.empty
    if evaluation.reshaped is not None:
        stretch = percent(evaluation.reshaped.greatest - 1)
        words = [
            f"Nothing is made up and nothing cut off to level it: parts are stretched, at most {stretch}."
        ]
        return words + (
            [f"{percent(empty)} of the frame is empty and stays white."] if some_empty(evaluation) else []
        )
    if not some_empty(evaluation):
        return []
    if edges.mode == "fill":
        words = [f"{percent(empty)} of the frame is new and will be declared in the exported file."]
        too_much = credible_words(evaluation)
        words += [too_much] if too_much else []
        if stale(evaluation):
            words.append("The takes chosen for it were made before the last change; they are made anew.")
        return words
    if edges.mode == "leave":
        return [
            f"{percent(empty)} of the frame is left {'clear' if edges.colour is None else 'in one colour'}."
        ]
    return [f"{percent(empty)} of the frame is empty and stays white; Edges has other ways."]
