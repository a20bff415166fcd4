"""The frame of an evaluation, as it goes over the wire."""

from __future__ import annotations

from sequor.core.frame.print import COARSE_PPI
from sequor.core.rectangle import Rectangle
from sequor.pipeline.evaluated import Evaluated
from sequor.pipeline.frame import ratio_of
from sequor.pipeline.output import output_size
from sequor.recipe.parse import RecipeError
from sequor.web.wire import Rect, Wire
from sequor.wording.frame import cut_words, frame_ratio_words, paper_words, ppi_words


class PrintOut(Wire):
    """The frame on paper: ``shown`` is what a printer that fills the sheet leaves of it, in frame pixels."""

    paper: str
    ppi: float
    coarse: bool
    words: str
    cut: float
    cut_words: str
    shown: Rect
    pixels: tuple[int, int]


class CutOut(Wire):
    """What lies beyond each side of the frame: shares of the corrected picture."""

    left: float
    top: float
    right: float
    bottom: float


class FrameOut(Wire):
    """The frame in corrected pixels and what it costs. ``shape``: width : height as a number, null when it is
    free; ``subject``: the box about the subject mark in corrected pixels, without size for a point;
    ``written``: the pixels of its file, null where none can be written."""

    x: float
    y: float
    width: int
    height: int
    kept: float
    empty: float
    ratio: str
    shape: float | None
    subject: Rect | None
    subject_inside: bool | None
    printed: PrintOut | None
    cut: CutOut
    written: tuple[int, int] | None

    @classmethod
    def of(cls, evaluation: Evaluated) -> FrameOut:
        """The message for the frame of an evaluation."""
        frame, cost, mark = evaluation.frame, evaluation.cost, evaluation.subject
        ratio = ratio_of(evaluation.recipe)
        return cls(
            x=frame.x,
            y=frame.y,
            width=round(frame.width),
            height=round(frame.height),
            kept=cost.kept,
            empty=cost.empty,
            ratio=frame_ratio_words(evaluation.recipe),
            shape=None if ratio is None else ratio[0] / ratio[1],
            subject=None if mark is None else rect_of(mark),
            subject_inside=evaluation.subject_inside,
            printed=_printed(evaluation),
            cut=CutOut.model_validate(evaluation.cut_off),
            written=_written(evaluation),
        )


def _written(evaluation: Evaluated) -> tuple[int, int] | None:
    try:
        return output_size(evaluation.recipe, evaluation.frame)
    except RecipeError:
        return None


def rect_of(rectangle: Rectangle) -> Rect:
    """A rectangle as it goes over the wire."""
    return rectangle.x, rectangle.y, rectangle.width, rectangle.height


def _printed(evaluation: Evaluated) -> PrintOut | None:
    printed, part = evaluation.printed, evaluation.recipe.frame.print
    if printed is None or part is None:
        return None
    return PrintOut(
        paper=paper_words(part),
        ppi=printed.ppi,
        coarse=printed.ppi < COARSE_PPI,
        words=ppi_words(printed),
        cut=printed.cut,
        cut_words=cut_words(printed, evaluation),
        shown=rect_of(printed.shown),
        pixels=printed.pixels(part.ppi),
    )
