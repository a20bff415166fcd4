"""What becomes of the empty corners, in words, mode by mode, and what is touched up."""

from __future__ import annotations

from sequor.pipeline.edges.base import Suitability
from sequor.pipeline.edges.registry import mode_of
from sequor.pipeline.evaluated import Evaluated
from sequor.recipe.model.edges import EdgesPart, Mode
from sequor.wording.frame import percent, some_empty

STALE = "Your chosen takes are out of date since the last change and are being made again."

CREDIBLE = 0.25
"""Of the frame: more new pixels than that rarely look believable (common practice, no source)."""


class ModeWords:
    """What is said of a mode."""

    done: str
    """What became of the corners when it was chosen."""

    def action(self, edges: EdgesPart) -> str:
        """What has been done when it was chosen, for the log."""
        return f"Corners: {self.done}"

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
    done = "cropped"

    def route(self, evaluation: Evaluated) -> str:
        return f"{percent(evaluation.cost.empty)} empty, white"

    def sentences(self, evaluation: Evaluated) -> list[str]:
        empty = percent(evaluation.cost.empty)
        return [f"{empty} of the frame is empty and will be white. Under Edges you can fill it."]

    def suits(self, found: Suitability) -> str:
        return f"Crop suits this picture: it loses only {percent(found.lose)} of the picture."


class FillWords(ModeWords):
    done = "filled"

    def route(self, evaluation: Evaluated) -> str:
        return f"{percent(evaluation.cost.empty)} new{', out of date' if evaluation.stale else ''}"

    def sentences(self, evaluation: Evaluated) -> list[str]:
        new = percent(evaluation.cost.empty)
        words = [f"The exported file will say so: {new} of the frame is new."]
        too_much = credible_words(evaluation)
        words += [too_much] if too_much else []
        if evaluation.stale:
            words.append(STALE)
        return words

    def suits(self, found: Suitability) -> str:
        new = percent(found.new)
        return f"Fill suits this picture: only {new} would be new, and none of your lines reaches the edge."


class ReshapeWords(ModeWords):
    done = "picture reshaped"

    def route(self, evaluation: Evaluated) -> str:
        return TrimWords().route(evaluation)

    def sentences(self, evaluation: Evaluated) -> list[str]:
        return [f"{percent(evaluation.cost.empty)} of the frame is empty and will be white."]

    def suits(self, found: Suitability) -> str:
        why = "your lines reach the edge" if found.lines_at_edge else f"{percent(found.new)} is a lot to fill"
        most = percent(found.stretch or 0.0)
        return f"Reshape suits this picture: {why}, and no part is stretched by more than {most}."


class LeaveWords(ModeWords):
    def action(self, edges: EdgesPart) -> str:
        return f"Corners: left {'transparent' if edges.colour is None else f'in {edges.colour}'}"

    def route(self, evaluation: Evaluated) -> str:
        return f"{percent(evaluation.cost.empty)} {_left(evaluation)}"

    def sentences(self, evaluation: Evaluated) -> list[str]:
        return [f"{percent(evaluation.cost.empty)} of the frame stays {_left(evaluation)}."]

    def suits(self, found: Suitability) -> str:
        return "Leave empty suits this picture."


def _left(evaluation: Evaluated) -> str:
    edges = evaluation.recipe.edges
    return "transparent" if mode_of(edges).clear(edges) else "in one colour"


MODE_WORDS: dict[Mode, ModeWords] = {
    "trim": TrimWords(),
    "fill": FillWords(),
    "reshape": ReshapeWords(),
    "leave": LeaveWords(),
}


def no_better_words(found: Suitability) -> str:
    """Why a picture is cropped though that costs much of it."""
    reshaping = (
        "is not possible" if found.stretch is None else f"would stretch parts by {percent(found.stretch)}"
    )
    return f"Crop suits this picture: {percent(found.new)} is a lot to fill, and reshaping {reshaping}."


def credible_words(evaluation: Evaluated) -> str:
    """A word when more of the frame would be new than looks believable; else none."""
    empty = evaluation.cost.empty
    if not mode_of(evaluation.recipe.edges).makes_pixels or empty <= CREDIBLE:
        return ""
    return (
        f"{percent(empty)} of the frame would be new. More than a quarter rarely looks believable: make the "
        "frame smaller, or tell viewers that the picture is a composite."
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
        words = [f"Nothing is cut off and no pixels are added: parts are stretched, by {stretch} at most."]
    if some_empty(evaluation):
        words += MODE_WORDS[evaluation.recipe.edges.mode].sentences(evaluation)
    return words + ([f"The exported file will say so: {touched}."] if touched else [])


def _touched(evaluation: Evaluated) -> str:
    """How many areas are touched up."""
    count = sum(one.active and one.amount > 0 for one in evaluation.recipe.edges.touch_ups)
    return "" if not count else "1 touch-up" if count == 1 else f"{count} touch-ups"


def _corner_words(evaluation: Evaluated) -> str:
    if evaluation.reshaped is not None:
        return f"stretched by up to {percent(evaluation.reshaped.greatest - 1)}"
    if not some_empty(evaluation):
        return "no empty corners"
    return MODE_WORDS[evaluation.recipe.edges.mode].route(evaluation)
