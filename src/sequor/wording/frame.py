"""What is true of a frame, in words: its ratio, what it keeps, its print, and what is in the way of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict
from fractions import Fraction

from sequor.core.frame.composition import SHARES
from sequor.core.frame.cost import CutOff
from sequor.core.frame.placing import Obstacle
from sequor.core.frame.print import COARSE_PPI, MM_PER, Printed, Unit, iso_a
from sequor.core.frame.ratio import parse_ratio
from sequor.pipeline.cuts import CutThing
from sequor.pipeline.evaluated import Evaluated
from sequor.recipe.model import Recipe
from sequor.recipe.model.frame import PrintPart

NOTICED_CUT = 0.001
"""A share of the frame that is lost in rounding to whole pixels is not called a loss."""

SMALL_NUMBER = 100
LARGE_NUMBER = 1000
CALLED_SO = 1e-3
"""Ratios in larger numbers are called by small ones that are so near: 300:200 is 3:2, 297:210 no 17:12."""

WHOLE = "The whole picture is kept."

ISO_SHEETS = {f"A{number}": iso_a(number) for number in range(2, 7)}

SIDES = {"top": "top edge", "right": "right edge", "bottom": "bottom edge", "left": "left edge"}


def some_empty(evaluation: Evaluated) -> bool:
    """Whether the frame has empty corners; as little as rounding makes is none."""
    return evaluation.cost.empty >= NOTICED_CUT / 2


def percent(share: float) -> str:
    """A share as a percentage with one decimal, none when it is whole.

    >>> percent(0.8904), percent(0.0312)
    ('89%', '3.1%')
    """
    return f"{100 * share:.1f}".removesuffix(".0") + "%"


def ratio_words(width: float, height: float) -> str:
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


def frame_ratio_words(recipe: Recipe) -> str:
    """The ratio that a recipe's frame has, as it was chosen.

    >>> from sequor.recipe.parse import build
    >>> photo = {"format": "sequor-recipe", "version": 1, "photo": {"width": 6000, "height": 4000}}
    >>> [frame_ratio_words(build({**photo, "frame": {"ratio": r}})) for r in ("original", "free", "1:sqrt2")]
    ['3:2', 'free', '1:√2']
    >>> [frame_ratio_words(build({**photo, "frame": {"ratio": r}})) for r in ("297:210", "300:200")]
    ['297:210', '3:2']
    """
    ratio = recipe.frame.ratio
    if ratio == "original":
        return ratio_words(recipe.photo.width, recipe.photo.height)
    if ratio != "free" and max(parse_ratio(ratio)) > SMALL_NUMBER:
        width, height = parse_ratio(ratio)
        said = ratio_words(width, height)
        top, bottom = (float(part) for part in said.split(":"))
        near = abs(top / bottom * height / width - 1) < CALLED_SO
        return said if near or max(width, height) > LARGE_NUMBER else ratio
    return ratio.replace("sqrt2", "√2")


def frame_words(evaluation: Evaluated) -> str:
    """The state of the step Crop, for the route."""
    return f"{frame_ratio_words(evaluation.recipe)} · keeps {percent(evaluation.cost.kept)}"


def frame_sentences(evaluation: Evaluated) -> list[str]:
    """What the frame keeps, its subject and its print, for the finding."""
    recipe, cost = evaluation.recipe, evaluation.cost
    ratio = frame_ratio_words(recipe)
    shape = "a free aspect ratio" if ratio == "free" else ratio
    kept = percent(cost.kept)
    sentences = [f"Cropped to {shape}, {kept} of the picture is kept." if kept != "100%" else WHOLE]
    if evaluation.subject_inside is False:
        sentences.append("Part of the subject is outside the frame.")
    much = much_cut_words(evaluation)
    sentences += [much] if much else []
    printed, part = evaluation.printed, recipe.frame.print
    if printed is not None and part is not None:
        sentences.append(f"{paper_words(part)[:1].upper()}{paper_words(part)[1:]}: {ppi_words(printed)}.")
        cut = cut_words(printed, evaluation)
        sentences += [f"{cut}."] if cut else []
    return sentences


MUCH_CUT = 0.2
"""The share of the picture from which what is cut off on one side is told (common practice, no source)."""


CUT_PLACES = {"left": "on the left", "right": "on the right", "top": "at the top", "bottom": "at the bottom"}


def much_cut_words(evaluation: Evaluated) -> str:
    """Where more than a fifth of the picture is cut off on one side; empty when nowhere."""
    lost = {side: share for side, share in asdict(evaluation.cut_off).items() if share > MUCH_CUT}
    said = [f"{percent(share)} {CUT_PLACES[side]}" for side, share in lost.items()]
    return f"A lot of the picture is cut off: {' and '.join(said)}." if said else ""


def loss_words(things: Sequence[CutThing], cut: CutOff) -> str:
    """What a choice would cut that was marked or drawn, else that a lot goes on one side; empty for neither.

    >>> loss_words([CutThing("foot", 2)], CutOff(0, 0, 0, 0.3)), loss_words([], CutOff(0, 0, 0, 0.3))
    ('cuts the foot of line 2', 'cuts 30% at the bottom')
    >>> loss_words([CutThing("subject"), CutThing("all", 1)], CutOff(0, 0, 0, 0))
    'cuts into the subject'
    """
    if things:
        first = things[0]
        if first.where == "subject":
            return "cuts into the subject"
        if len(things) > 1:
            return f"cuts into {len(things)} of your lines"
        return (
            f"cuts line {first.number}"
            if first.where == "all"
            else f"cuts the {first.where} of line {first.number}"
        )
    side, share = max(asdict(cut).items(), key=lambda one: one[1])
    return f"cuts {percent(share)} {CUT_PLACES[side]}" if share > MUCH_CUT else ""


UNIT_WORDS: dict[Unit, str] = {"mm": "mm", "cm": "cm", "in": "inch"}
"""Units as they are written: "in" would be read as a preposition."""


def length_words(mm: float, unit: Unit) -> str:
    """A length in the unit of a paper, without needless decimals."""
    return f"{mm / MM_PER[unit]:.3f}".rstrip("0").rstrip(".")


def paper_words(part: PrintPart) -> str:
    """The paper as it was chosen: a sheet of the standard by its name.

    >>> paper_words(PrintPart(paper=(297, 210))), paper_words(PrintPart(paper=(6, 4), unit="in"))
    ('A4', '6 × 4 inch')
    """
    for name, sheet in ISO_SHEETS.items():
        if part.unit == "mm" and sorted(part.paper) == list(sheet):
            return name
    width, height = (f"{side:g}" for side in part.paper)
    return f"{width} × {height} {UNIT_WORDS[part.unit]}"


def ppi_words(printed: Printed) -> str:
    """The resolution of a print, and whether that is seen."""
    coarse = f", below {COARSE_PPI:.0f} ppi it looks soft" if printed.ppi < COARSE_PPI else ""
    return f"{printed.ppi:.0f} ppi{coarse}"


def cut_words(printed: Printed, evaluation: Evaluated) -> str:
    """What the sheet cuts off the frame, and whether the subject suffers; empty when nothing is lost."""
    if printed.cut < NOTICED_CUT:
        return ""
    part = evaluation.recipe.frame.print
    unit: Unit = part.unit if part else "mm"
    per_pixel = 25.4 / printed.ppi / MM_PER[unit]
    ends = [
        f"{pixels * per_pixel:.1f} {UNIT_WORDS[unit]} {words}"
        for pixels, words in (
            (printed.shown.y, "above and below"),
            (printed.shown.x, "on the left and right"),
        )
        if pixels >= 1
    ]
    mark, frame = evaluation.subject, evaluation.frame
    hurt = ""
    if mark is not None and evaluation.subject_inside:
        shown = printed.shown
        inside = (
            mark.x - frame.x >= shown.x - 1
            and mark.y - frame.y >= shown.y - 1
            and mark.right - frame.x <= shown.right + 1
            and mark.bottom - frame.y <= shown.bottom + 1
        )
        hurt = "" if inside else ", and part of the subject"
    lost = percent(printed.cut)
    return f"Filling the sheet cuts off {lost} of the picture: {' and '.join(ends)}{hurt}"


def obstacle_words(obstacles: tuple[Obstacle, ...]) -> str:
    """What is in the way of a frame.

    >>> obstacle_words(("top", "left"))
    'the picture ends at its top edge and left edge'
    """
    if "subject" in obstacles:
        return "the whole subject must stay in the frame"
    if "beyond" in obstacles:
        return "that is outside the picture"
    sides = [SIDES[one] for one in obstacles if one in SIDES]
    if not sides:
        return "the correction cuts the picture off there" if obstacles else "the frame would have no area"
    return f"the picture ends at its {' and '.join(sides)}"


def line_words(across: float | None, down: float | None) -> str:
    """The line of the frame, or the crossing, that lies at these shares.

    >>> line_words(1 / 3, None), line_words(1 / 3, 2 / 3), line_words(0.5, 0.5), line_words(None, 0.2)
    ('the left third', 'the left and lower thirds', 'the centre', 'the upper fifth')
    """
    parts = [
        _one_line(share, names)
        for share, names in (
            (across, ("left", "right", "vertical")),
            (down, ("upper", "lower", "horizontal")),
        )
        if share is not None
    ]
    if len(parts) == 2 and parts[0][1] == parts[1][1]:
        (first, family), (second, _) = parts
        return "the centre" if family == "centre line" else f"the {first} and {second} {family}s"
    return " and ".join(f"the {side} {family}" for side, family in parts)


def _one_line(share: float, names: tuple[str, str, str]) -> tuple[str, str]:
    """Which line it is, and of which kind."""
    singular = {"thirds": "third", "fifths": "fifth", "golden": "golden line", "centre": "centre"}
    for family, shares in SHARES.items():
        for index, one in enumerate(shares):
            if abs(one - share) > 1e-6:
                continue
            if family == "centre":
                return names[2], "centre line"
            side = names[0] if one < 0.5 else names[1]
            inner = family == "fifths" and index in (1, 2)
            return f"inner {side}" if inner else side, singular[family]
    return f"{100 * share:.0f}%", "line"
