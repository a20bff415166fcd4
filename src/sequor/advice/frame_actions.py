"""What can be done to the frame: another ratio, turned upright, about the subject, centred, placed on a line.

Each takes a recipe whose frame is valid and gives the recipe after it. What had to give way is told in words.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from sequor.advice.made import Made
from sequor.core.frame.constraints import FrameConstraints, NoFrameError
from sequor.core.frame.largest import holds, largest, shrink_into
from sequor.core.frame.placing import Target, place
from sequor.core.rectangle import Rectangle
from sequor.pipeline.evaluated import Evaluated, evaluate
from sequor.pipeline.frame import WHOLE, largest_frame, photo_middle, ratio_of
from sequor.recipe.evolve import evolve
from sequor.recipe.model import Recipe
from sequor.recipe.parse import RecipeError, build
from sequor.wording.frame import (
    frame_ratio_words,
    length_words,
    line_words,
    obstacle_words,
    paper_words,
    percent,
)
from sequor.wording.report import rect_values

NO_ROOM = (
    "At this aspect ratio no frame holds the whole subject. The frame "
    "was not changed; choose another ratio or "
    "make the subject mark smaller"
)
OUT_OF_SIGHT = "The subject is in the part that the correction cuts off. Mark it elsewhere or correct less"


def with_ratio(recipe: Recipe, ratio: str) -> Made:
    """Another ratio: the subject stays inside, and as much of the picture as can be.

    The largest frame becomes the largest of the new ratio. One made by hand keeps its centre and all that it
    shows, as far as there is room. Raises RecipeError for a ratio that is none.
    """
    now = evaluate(recipe)
    wanted = build(with_frame(recipe, ratio=ratio, rect=None).model_dump(mode="json"))
    new, mark = ratio_of(wanted), now.subject
    named = Made(wanted, f"Aspect ratio: {frame_ratio_words(wanted)}")
    if recipe.frame.rect is not None:
        if new is None:
            return Made(with_frame(recipe, ratio=ratio), named.action)
        exact = _covering(now, new, mark if now.subject_inside else None)
        return Made(with_frame(wanted, rect=rect_values(exact.inwards())), named.action)
    if mark is None or largest_frame(now.warp, new).inwards().contains(mark, WHOLE):
        return named
    try:
        exact = largest_frame(now.warp, new, mark)
    except NoFrameError:
        return Made(wanted, named.action, "At this aspect ratio part of the subject is cut off.")
    return Made(with_frame(wanted, rect=rect_values(exact.inwards())), named.action)


def _covering(now: Evaluated, ratio: tuple[float, float], mark: Rectangle | None) -> Rectangle:
    """The frame of a ratio that shows what the present one does, or as much as there is room for."""
    frame, outline = now.frame, now.warp.outline()
    width = max(frame.width, frame.height * ratio[0] / ratio[1])
    height = width * ratio[1] / ratio[0]
    if now.recipe.frame.allow_empty:
        return Rectangle.about(frame.centre, width, height)
    try:
        constraints = FrameConstraints(mark, at_most=1.0)
        return largest(outline, width, height, frame.centre, constraints)
    except NoFrameError:
        return largest(outline, width, height, frame.centre, FrameConstraints(at_most=1.0))


def swapped(recipe: Recipe) -> Made:
    """Upright instead of lying, or the other way round; the paper turns with it by itself."""
    width, height = evaluate(recipe).ratio
    action = f"Orientation: {'landscape' if width < height else 'portrait'}"
    ratio = recipe.frame.ratio
    if ratio == "free":
        return Made(_swapped_free(recipe), action)
    if ratio == "original":
        ratio = _own_ratio(recipe)
    other = ":".join(reversed(ratio.split(":")))
    if other == _own_ratio(recipe):
        other = "original"
    return replace(with_ratio(recipe, other), action=action)


def _own_ratio(recipe: Recipe) -> str:
    """The photo's own ratio in the smallest whole numbers."""
    photo = recipe.photo
    common = math.gcd(photo.width, photo.height)
    return f"{photo.width // common}:{photo.height // common}"


def _swapped_free(recipe: Recipe) -> Recipe:
    """A free frame turned about its centre, as large as there is room for."""
    now = evaluate(recipe)
    frame = now.frame
    turned = Rectangle.about(frame.centre, frame.height, frame.width)
    if not recipe.frame.allow_empty:
        constraints = FrameConstraints(at_most=1.0)
        turned = largest(now.warp.outline(), turned.width, turned.height, frame.centre, constraints)
    return with_frame(recipe, rect=rect_values(turned.inwards()))


def around_subject(recipe: Recipe) -> Made:
    """The largest frame that holds the subject mark. Raises RecipeError when there is none."""
    now = evaluate(recipe)
    mark = _mark(now)
    try:
        exact = largest_frame(now.warp, ratio_of(recipe), mark)
    except NoFrameError:
        raise RecipeError(NO_ROOM, "frame.subject") from None
    return Made(
        with_frame(recipe, rect=rect_values(exact.inwards()), allow_empty=False),
        "Frame: around the subject",
    )


def centred(recipe: Recipe) -> Made:
    """The frame about the photo's centre, or as near as there is room for at its size."""
    now = evaluate(recipe)
    x, y = photo_middle(now.warp)
    return _placed(now, Target((float(x), 0.5), (float(y), 0.5)), None, "Frame: centred")


def placed(recipe: Recipe, what: str, lines: Sequence[str], across: float | None, down: float | None) -> Made:
    """The subject, a level line or the middle between two plumb lines on a line of the frame.

    ``across`` and ``down`` are shares of the frame's width and height. The subject mark stays inside, if it
    is. Raises RecipeError when the thing is not there, or cannot lie on such a line.
    """
    now = evaluate(recipe)
    if what == "subject":
        x, y = _mark(now).centre
        name = "Subject"
    elif what == "level":
        (line,) = _middles(now, lines, "level", 1)
        x, y, across = None, line[1], None
        name = "Horizon"
    else:
        one, other = _middles(now, lines, "plumb", 2)
        x, y, down = (one[0] + other[0]) / 2, None, None
        name = "Middle of two verticals"
    if across is None and down is None:
        raise RecipeError(
            f"The {name.lower()} cannot be placed on a line of that direction. Choose another line", "frame"
        )
    target = Target(
        None if across is None else (float(x), across), None if down is None else (float(y), down)
    )
    around = now.subject if now.subject_inside else None
    action = f"{name}: on {line_words(across, down)}"
    if what == "subject" and (across, down) == (0.5, None):
        action = "Subject: centred left to right"
    return _placed(now, target, around, action)


def _placed(now: Evaluated, target: Target, around: Rectangle | None, action: str) -> Made:
    recipe = now.recipe
    found = place(now.warp, now.frame, target, around, recipe.frame.allow_empty)
    shares = (target.across or (0.0, 0.5))[1], (target.down or (0.0, 0.5))[1]
    done = found.missed_by == 0
    frame = found.frame
    if found.scale < 1:
        ratio = ratio_of(recipe)
        if ratio is not None:
            scale = min(frame.width / ratio[0], frame.height / ratio[1])
            frame = Rectangle.about(frame.at(*shares), ratio[0] * scale, ratio[1] * scale, shares)
        frame = frame.inwards(shares if done else (0.5, 0.5))
    after = with_frame(recipe, rect=rect_values(frame))
    why = obstacle_words(found.obstacles)
    if not done:
        words = f"This cannot be done exactly: {why}. The nearest position is {found.missed_by:.0f} px off."
        return Made(after, f"{action}, nearest possible", words, False)
    words = f"The frame was reduced to {percent(found.scale)}: {why}." if found.scale < 0.9995 else ""
    return Made(after, action, words)


def with_empty(recipe: Recipe, allow: bool) -> Made:
    """Permission to include empty corners. Taken back, the frame shrinks about its centre as it must."""
    action = f"Empty corners: {'allowed' if allow else 'not allowed'}"
    after = with_frame(recipe, allow_empty=allow)
    if allow or recipe.frame.rect is None:
        return Made(after, action)
    now = evaluate(recipe)
    if holds(now.warp.outline(), now.frame):
        return Made(after, action)
    exact = shrink_into(now.warp.outline(), now.frame)
    ratio = ratio_of(recipe) or (exact.width, exact.height)
    scale = min(exact.width / ratio[0], exact.height / ratio[1])
    inside = Rectangle.about(exact.centre, ratio[0] * scale, ratio[1] * scale).inwards()
    return Made(with_frame(after, rect=rect_values(inside)), action)


def paper_shape(recipe: Recipe) -> Made:
    """The ratio of what is printed on. Raises RecipeError without a paper."""
    part, printed = recipe.frame.print, evaluate(recipe).printed
    if part is None or printed is None:
        raise RecipeError("Choose a paper size first", "frame.print")
    ratio = ":".join(length_words(side, part.unit) for side in printed.sheet.area)
    return replace(with_ratio(recipe, ratio), action=f"Aspect ratio: as {paper_words(part)}")


def with_frame(recipe: Recipe, **changes: object) -> Recipe:
    """The recipe with parts of its frame changed."""
    return evolve(recipe, frame=evolve(recipe.frame, **changes))


def _mark(now: Evaluated) -> Rectangle:
    if now.recipe.frame.subject is None:
        raise RecipeError("Mark the subject first", "frame.subject")
    mark = now.subject
    if mark is None:
        raise RecipeError(OUT_OF_SIGHT, "frame.subject")
    return mark


def _middles(now: Evaluated, names: Sequence[str], kind: str, count: int) -> list[tuple[float, float]]:
    """The middles of references in corrected pixels."""
    parts = {part.id: part for part in now.recipe.references if part.kind == kind}
    if len(names) != count or len(set(names)) != count or not set(names) <= set(parts):
        wanted = "a horizontal" if kind == "level" else "two verticals"
        raise RecipeError(f"Choose {wanted} from your lines", "references")
    found = []
    for name in names:
        points = now.warp.to_corrected(np.array(parts[name].points))
        x, y = points.mean(axis=0)
        found.append((float(x), float(y)))
    return found
