"""What becomes of the empty corners, in words, mode by mode, and what is touched up."""

from __future__ import annotations

from sequor.pipeline.edges.base import Suitability
from sequor.pipeline.edges.registry import mode_of
from sequor.pipeline.evaluated import Evaluated
from sequor.recipe.model.edges import EdgesPart, Mode
from sequor.wording.frame import percent, some_empty

CREDIBLE = 0.25
"""Of the frame: more than that made up is rarely believed (common practice, no source)."""


class ModeWords:
    """What is said of a mode."""

    verb: str
    """What it is called among the costs of frames, and where it is chosen."""

    def action(self, edges: EdgesPart) -> str:
        """What has been done when it was chosen, for the log."""
        return f"{self.verb} the corners"

    def route(self, evaluation: Evaluated) -> str:
        """The state of the step Edges, when some of the frame is empty."""
        raise NotImplementedError

    def sentences(self, evaluation: Evaluated) -> list[str]:
        """The same for the finding."""
        raise NotImplementedError

    def suits(self, found: Suitability) -> str:
        """Why it suits a picture."""
        raise NotImplementedError


class TrimWords(ModeWords):
    verb = "Trim"

    def route(self, evaluation: Evaluated) -> str:
        return f"{percent(evaluation.cost.empty)} empty, white"

    def sentences(self, evaluation: Evaluated) -> list[str]:
        return [
            f"{percent(evaluation.cost.empty)} of the frame is empty and stays white; Edges has other ways."
        ]

    def suits(self, found: Suitability) -> str:
        return f"Trim suits this picture: only {percent(found.lose)} of the picture is lost."


class FillWords(ModeWords):
    verb = "Fill"

    def route(self, evaluation: Evaluated) -> str:
        return f"{percent(evaluation.cost.empty)} new{', stale' if evaluation.stale else ''}"

    def sentences(self, evaluation: Evaluated) -> list[str]:
        new = percent(evaluation.cost.empty)
        words = [f"{new} of the frame is new and will be declared in the exported file."]
        too_much = credible_words(evaluation)
        words += [too_much] if too_much else []
        if evaluation.stale:
            words.append("The takes chosen for it were made before the last change; they are made anew.")
        return words

    def suits(self, found: Suitability) -> str:
        return (
            f"Fill suits this picture: only {percent(found.new)} would be new, and no line runs to the edge."
        )


class ReshapeWords(ModeWords):
    verb = "Reshape"

    def action(self, edges: EdgesPart) -> str:
        return "Reshape the picture"

    def route(self, evaluation: Evaluated) -> str:
        return TrimWords().route(evaluation)

    def sentences(self, evaluation: Evaluated) -> list[str]:
        return [f"{percent(evaluation.cost.empty)} of the frame is empty and stays white."]

    def suits(self, found: Suitability) -> str:
        why = (
            "lines run to the edge"
            if found.lines_at_edge
            else f"{percent(found.new)} would be much to make up"
        )
        most = percent(found.stretch or 0.0)
        return f"Reshape suits this picture: {why}, and it stretches no part by more than {most}."


class LeaveWords(ModeWords):
    verb = "Leave"

    def action(self, edges: EdgesPart) -> str:
        return f"Leave the corners {'clear' if edges.colour is None else f'in {edges.colour}'}"

    def route(self, evaluation: Evaluated) -> str:
        return f"{percent(evaluation.cost.empty)} {_left(evaluation)}"

    def sentences(self, evaluation: Evaluated) -> list[str]:
        return [f"{percent(evaluation.cost.empty)} of the frame is left {_left(evaluation)}."]

    def suits(self, found: Suitability) -> str:
        return "Leave suits this picture."


def _left(evaluation: Evaluated) -> str:
    edges = evaluation.recipe.edges
    return "clear" if mode_of(edges).clear(edges) else "in one colour"


MODE_WORDS: dict[Mode, ModeWords] = {
    "trim": TrimWords(),
    "fill": FillWords(),
    "reshape": ReshapeWords(),
    "leave": LeaveWords(),
}


def no_better_words(found: Suitability) -> str:
    """Why a picture is trimmed though that costs much of it."""
    reshaping = (
        "cannot be done" if found.stretch is None else f"would stretch a part by {percent(found.stretch)}"
    )
    return (
        f"Trim suits this picture: {percent(found.new)} would be much to make up, and reshaping {reshaping}."
    )


def credible_words(evaluation: Evaluated) -> str:
    """A word when more of the frame would be made up than anybody believes; else none."""
    empty = evaluation.cost.empty
    if not mode_of(evaluation.recipe.edges).makes_pixels or empty <= CREDIBLE:
        return ""
    return (
        f"{percent(empty)} of the frame is made up: more than a quarter is rarely believed. Draw it in, or "
        "say where the picture is shown that it is a composite."
    )


def edges_words(evaluation: Evaluated) -> str:
    """The state of the step Edges, for the route."""
    words, touched = _corner_words(evaluation), _touched(evaluation)
    # There is room for one thing beside the first.
    return f"{words}, {touched}" if touched and "," not in words else words


def edges_sentences(evaluation: Evaluated) -> list[str]:
    """What becomes of the empty corners and what is touched up, for the finding."""
    touched = _touched(evaluation)
    words = []
    if evaluation.reshaped is not None:
        stretch = percent(evaluation.reshaped.greatest - 1)
        words = [
            f"Nothing is made up and nothing cut off to level it: parts are stretched, at most {stretch}."
        ]
    if some_empty(evaluation):
        words += MODE_WORDS[evaluation.recipe.edges.mode].sentences(evaluation)
    return words + ([f"{touched} will be declared in the exported file."] if touched else [])


def _touched(evaluation: Evaluated) -> str:
    """How many areas are touched up."""
    count = sum(one.active and one.amount > 0 for one in evaluation.recipe.edges.touch_ups)
    return "" if not count else "1 touch-up" if count == 1 else f"{count} touch-ups"


def _corner_words(evaluation: Evaluated) -> str:
    if evaluation.reshaped is not None:
        return f"stretched {percent(evaluation.reshaped.greatest - 1)}"
    if not some_empty(evaluation):
        return "nothing empty"
    return MODE_WORDS[evaluation.recipe.edges.mode].route(evaluation)
