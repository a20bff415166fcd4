"""The ways with empty corners: trimmed, filled, reshaped or left, and how far the frame reaches for that."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, get_args

from sequor.advice.frame_actions import with_empty, with_frame
from sequor.advice.made import Made
from sequor.core.camera import Array
from sequor.core.frame.cost import carry, cost
from sequor.core.frame.largest import largest
from sequor.core.rectangle import Rectangle
from sequor.core.warp.base import Warp
from sequor.core.warp.outline import photo_corners
from sequor.pipeline.edges.base import Extent
from sequor.pipeline.edges.registry import MODES, mode_of
from sequor.pipeline.evaluated import Evaluated, evaluate
from sequor.pipeline.frame import largest_frame, ratio_of
from sequor.recipe.evolve import evolve
from sequor.recipe.model import Recipe
from sequor.recipe.model.edges import Mode
from sequor.recipe.model.export import CARRIES
from sequor.recipe.parse import RecipeError, build
from sequor.wording.edges import MODE_WORDS, credible_words
from sequor.wording.frame import frame_ratio_words, loss_words, percent, some_empty
from sequor.wording.report import rect_values

Side = Literal["both", "left", "right", "top", "bottom"]
"""Where room is given."""

EXTENT_WORDS: dict[Extent, str] = {"same size": ", photo's own size", "nothing cut": ", whole picture"}
"""How far the frame reaches, behind what became of the corners."""

HALVINGS = 24
ROUNDED = 1.5
"""Corrected pixels that rounding to whole ones may move a side of a frame."""


def with_edges(recipe: Recipe, **changes: object) -> Recipe:
    """The recipe with parts of its edges changed."""
    return evolve(recipe, edges=evolve(recipe.edges, **changes))


def trimmed(recipe: Recipe) -> Made:
    """No empty corners: a frame that has some shrinks about its centre, or becomes the largest again."""
    inside = with_empty(recipe, False).recipe
    now = evaluate(recipe)
    if recipe.frame.rect is not None and now.cost.empty > 0 and _made_here(now):
        inside = with_frame(inside, rect=None)
    after = with_edges(inside, mode="trim", patches=[])
    return Made(after, MODE_WORDS["trim"].action(after.edges))


def reshaped(recipe: Recipe, mode: Mode) -> Made:
    """No empty corners and nothing cut: the picture is stretched into its rectangle. Raises RecipeError."""
    now = evaluate(recipe)
    own = recipe.frame.rect is not None and not (now.cost.empty > 0 or _made_here(now))
    after = _under(now, mode, own)
    return Made(after, MODE_WORDS[mode].action(after.edges))


def _no_longer_reshaped(recipe: Recipe) -> Recipe:
    """The recipe with its corners trimmed if its picture was reshaped; else as it is."""
    if not mode_of(recipe.edges).moves_map:
        return recipe
    return _under(evaluate(recipe), "trim", recipe.frame.rect is not None)


def _under(now: Evaluated, mode: Mode, own: bool) -> Recipe:
    """The recipe with its picture reshaped, or no longer; a frame of its ``own`` is carried along, else it is
    the largest."""
    recipe = now.recipe
    plain = evolve(recipe.frame, rect=None, allow_empty=False)
    after = with_edges(evolve(recipe, frame=plain), mode=mode, patches=[])
    if not own:
        return after
    warp = evaluate(after).warp
    return with_frame(after, rect=rect_values(carry(now.frame, now.warp, warp, ratio_of(recipe))))


def with_corners(
    recipe: Recipe,
    mode: Mode,
    extent: Extent,
    share: float | None = None,
    colour: str | None = None,
) -> Made:
    """Corners filled, or left clear or in a colour, and how far the frame reaches for that.

    Clear corners need a PNG: the format changes with them. Raises RecipeError when ``share`` is missing.
    """
    now = evaluate(recipe)
    if extent == "as it is" and not some_empty(now):
        extent = "same size"
    after, how = with_frame(recipe, allow_empty=True), ""
    if extent != "as it is":
        after = with_frame(after, rect=rect_values(reach(now, extent, share).inwards()))
        how = {"at most": f", at most {percent(share or 0.0)} empty"}.get(
            extent, EXTENT_WORDS.get(extent, "")
        )
    after = with_edges(after, mode=mode, **({"colour": colour} if MODES[mode].coloured else {}))
    done = f"{MODE_WORDS[mode].action(after.edges)}{how}"
    before = after.export.format
    if MODES[mode].clear(after.edges) and not CARRIES[before].alpha:
        other = next(name for name, one in CARRIES.items() if one.alpha)
        after = evolve(after, export=evolve(after.export, format=other))
        return Made(
            after,
            done,
            f"The export format is now {other.upper()}, because a {before.upper()} cannot be transparent.",
        )
    return Made(after, done)


def widened(recipe: Recipe, ratio: str | None, side: Side, room: float) -> Made:
    """The frame drawn out beyond the picture, what is new there filled.

    To a ``ratio``: it grows until it has it, on one ``side`` or, "both", as much on either; None: by
    ``room``, a share of its width or height, on that side, and its ratio becomes free. Raises RecipeError.
    """
    recipe = _no_longer_reshaped(recipe)
    now = evaluate(recipe)
    frame = now.frame
    if ratio is None:
        grown, named = _roomier(frame, side, room), f"Frame: extended {_side_words(side)}"
        after = with_frame(recipe, ratio="free")
    else:
        after = build(with_frame(recipe, ratio=ratio, rect=None).model_dump(mode="json"))
        wide, high = ratio_of(after) or (frame.width, frame.height)
        scale = max(frame.width / wide, frame.height / high)
        width, height = wide * scale, high * scale
        if side in ("left", "right") and width - frame.width < 1 <= height - frame.height:
            raise RecipeError(f"{ratio} makes the frame taller. Choose Above or Below", "side")
        if side in ("top", "bottom") and height - frame.height < 1 <= width - frame.width:
            raise RecipeError(f"{ratio} makes the frame wider. Choose Left, Right or Both sides", "side")
        share = {"left": 1.0, "top": 1.0, "right": 0.0, "bottom": 0.0}.get(side, 0.5)
        grown = Rectangle(
            frame.x - share * (width - frame.width),
            frame.y - share * (height - frame.height),
            width,
            height,
        ).inwards((share, share))
        named = f"Frame: extended to {frame_ratio_words(after)}"
    mode = open_mode(recipe)
    widened_ = with_edges(with_frame(after, rect=rect_values(grown), allow_empty=True), mode=mode)
    return Made(widened_, named, credible_words(evaluate(widened_)))


def _roomier(frame: Rectangle, side: Side, room: float) -> Rectangle:
    """A frame with more room on a side, or on the left and the right."""
    across, down = round(room * frame.width), round(room * frame.height)
    left, right = across * (side in ("left", "both")), across * (side in ("right", "both"))
    top, bottom = down * (side == "top"), down * (side == "bottom")
    return Rectangle(
        frame.x - left, frame.y - top, frame.width + left + right, frame.height + top + bottom
    ).inwards()


def _side_words(side: Side) -> str:
    return {"both": "on both sides", "top": "above", "bottom": "below"}.get(side, f"on the {side}")


@dataclass(frozen=True)
class EdgeChoice:
    """One way with the corners: how far the frame then reaches, what it costs, the recipe it leads to.

    ``stretch``: how much is stretched at most, a share; None where nothing is. ``refused``: why it cannot be
    done; the recipe then stays as it is. ``loss``: what it cuts, in words, empty for nothing that matters.
    """

    mode: Mode
    extent: Extent | None
    kept: float
    empty: float
    width: int
    height: int
    chosen: bool
    action: str
    recipe: Recipe
    loss: str
    stretch: float | None = None
    refused: str | None = None


def taken(
    recipe: Recipe,
    mode: Mode,
    extent: Extent = "as it is",
    share: float | None = None,
    colour: str | None = None,
) -> Made:
    """The recipe with one of the ways. Raises RecipeError when ``share`` is missing, or what cannot be
    reshaped."""
    if MODES[mode].moves_map:
        return reshaped(recipe, mode)
    recipe = _no_longer_reshaped(recipe)
    if not MODES[mode].open:
        return trimmed(recipe)
    return with_corners(recipe, mode, extent, share, colour)


def choices(recipe: Recipe) -> list[EdgeChoice]:
    """Trimmed; filled and left with the frame as it is; reshaped; and the other reaches of the mode that is
    chosen."""
    now = evaluate(recipe)
    asked: list[tuple[Mode, Extent | None]] = [
        (mode, "as it is" if MODES[mode].open else None) for mode in get_args(Mode)
    ]
    asked += [(open_mode(recipe), "same size"), (open_mode(recipe), "nothing cut")]
    return [_choice(now, mode, extent) for mode, extent in asked]


def open_mode(recipe: Recipe) -> Mode:
    """The mode under which the frame reaches beyond the picture: the present one, or to fill."""
    return recipe.edges.mode if mode_of(recipe.edges).open else "fill"


def _choice(now: Evaluated, mode: Mode, extent: Extent | None) -> EdgeChoice:
    before = now.recipe
    refused = None
    try:
        framed = taken(before, mode, extent or "as it is", colour=before.edges.colour)
        after = evaluate(framed.recipe)
    except RecipeError as error:
        if not MODES[mode].moves_map:
            raise
        framed, after, refused = Made(before, ""), now, str(error)
    same = after.frame == now.frame and before.edges.mode == mode
    return EdgeChoice(
        mode=mode,
        extent=extent,
        kept=after.cost.kept,
        empty=after.cost.empty,
        width=round(after.frame.width),
        height=round(after.frame.height),
        chosen=same and (not MODES[mode].open or some_empty(now)),
        action=framed.action,
        recipe=framed.recipe,
        loss=loss_words(after.cut_things, after.cut_off),
        stretch=None if after.reshaped is None else after.reshaped.greatest - 1,
        refused=refused,
    )


def reach(now: Evaluated, extent: Extent, share: float | None = None) -> Rectangle:
    """The frame, in the ratio that is held, that reaches so far; exact. Raises RecipeError."""
    ratio = ratio_of(now.recipe)
    if extent == "same size":
        return same_size(now.warp, ratio)
    everything = nothing_cut(now.warp, ratio)
    if extent == "nothing cut":
        return everything
    if share is None:
        raise RecipeError("Enter how much of the frame may be empty", "share")
    least = largest_frame(now.warp, ratio)
    low, high = 0.0, 1.0
    if cost(everything, now.warp).empty <= share:
        return everything
    for _ in range(HALVINGS):
        middle = (low + high) / 2
        if cost(_between(least, everything, middle).inwards(), now.warp).empty <= share:
            low = middle
        else:
            high = middle
    return _between(least, everything, low)


def same_size(warp: Warp, ratio: tuple[float, float] | None) -> Rectangle:
    """The frame that the photo would have had, had it not been turned: the largest of the ratio on it."""
    own = warp.own_size
    if ratio is None:
        return own.inwards()
    corners = photo_corners(own.width, own.height) + [own.x, own.y]
    return largest(corners, *ratio, own.centre).inwards()


def nothing_cut(warp: Warp, ratio: tuple[float, float] | None) -> Rectangle:
    """The smallest frame of a ratio, or of any, that shows all of the photo; exact."""
    box = Rectangle.between(warp.outline())
    if ratio is None:
        return box
    scale = max(box.width / ratio[0], box.height / ratio[1])
    return Rectangle.about(box.centre, ratio[0] * scale, ratio[1] * scale)


def _between(one: Rectangle, other: Rectangle, share: float) -> Rectangle:
    """The rectangle on the way from one to another."""

    def at(here: float, there: float) -> float:
        return here + share * (there - here)

    width, height = at(one.width, other.width), at(one.height, other.height)
    centre: Array = one.centre + share * (other.centre - one.centre)
    return Rectangle.about(centre, width, height)


def _made_here(now: Evaluated) -> bool:
    """Whether a frame is one that a choice at Edges makes by itself, to whole pixels."""
    ratio = ratio_of(now.recipe)
    if _alike(now.frame, same_size(now.warp, ratio)):
        return True
    least, most = largest_frame(now.warp, ratio), nothing_cut(now.warp, ratio)
    share = (now.frame.width - least.width) / max(most.width - least.width, 1e-9)
    return -0.01 <= share <= 1.01 and _alike(now.frame, _between(least, most, share))


def _alike(one: Rectangle, other: Rectangle) -> bool:
    sides = zip(
        (one.x, one.y, one.right, one.bottom), (other.x, other.y, other.right, other.bottom), strict=True
    )
    return all(abs(here - there) <= ROUNDED for here, there in sides)
