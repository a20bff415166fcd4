"""Looking through photos that want a pair of eyes: what was found on each, and what is done about it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from sequor.actions.base import no_takes
from sequor.actions.correction import TakeAway
from sequor.core.estimation.priors import open_distortion
from sequor.operations.looking import Look, Looks, taken
from sequor.operations.looking_ahead import look_now
from sequor.operations.photos import PhotoNow
from sequor.operations.proposals import proposal_of
from sequor.operations.rendering import Originals
from sequor.operations.revising import Kept, add, settled
from sequor.pipeline.evaluated import Evaluated, evaluate
from sequor.recipe.model import Recipe
from sequor.recipe.parse import RecipeError
from sequor.store.database import Store
from sequor.wording.found import EXTENT_NAMES, Extent
from sequor.wording.numbers import degrees
from sequor.wording.review import Facts, Reason, headline, reasons
from sequor.wording.words import turned_to

Ends = tuple[tuple[float, float], tuple[float, float]]


@dataclass(frozen=True)
class Reach:
    """What a photo would be at an extent, None as it was taken: ``kept`` of the picture, and the lines in
    shares of what is shown, with their kinds."""

    extent: Extent | None
    kept: float
    lines: tuple[tuple[str, Ends], ...]


@dataclass(frozen=True)
class Review:
    """A photo that wants a pair of eyes."""

    headline: str
    reasons: list[Reason]
    suggested: Extent | None
    reaches: list[Reach]


def review_of(originals: Originals, looks: Looks, now: PhotoNow) -> Review:
    """What is told of a photo. Raises RecipeError, UnreadablePictureError."""
    recipe = now.recipe
    if recipe.references:
        words = "The lines that were drawn disagree"
        told = [Reason("Adjust them on the bench; nothing is changed here")]
        return Review(words, told, None, [_reach(recipe, None, recipe)])
    seen = look_now(looks, originals, now)
    plain = _reach(recipe, None, recipe)
    if seen.cannot_tell is not None or seen.tilt is None:
        return Review("Nothing sure was found", [Reason(seen.cannot_tell or "")], None, [plain])
    found = [_reach(recipe, one.extent, taken(recipe, seen.references, one.extent)) for one in seen.extents]
    told = reasons(_facts(seen, recipe, now.photo.facts.get("held")))
    return Review(headline(seen.tilt.deg, seen.tilt.sd), told, seen.suggested, [plain, *found])


def _facts(seen: Look, recipe: Recipe, held: list[float | None] | None) -> Facts:
    assert seen.tilt is not None
    camera = Evaluated(recipe).standing.camera
    walls = seen.aim if seen.suggested == "walls" else None
    return Facts(
        roll=seen.tilt.deg,
        roll_sd=seen.tilt.sd,
        sure_tilt=seen.tilt.confidence,
        sure_aim=None if walls is None else walls.confidence,
        lines=len(seen.references),
        recorded_roll=None if held is None else held[0],
        lens_open=recipe.lens.source == "none" and open_distortion(camera) > 0,
        assumed_mm=camera.equivalent_mm if camera.source == "assumed" else None,
    )


def _reach(recipe: Recipe, extent: Extent | None, changed: Recipe) -> Reach:
    """Lines in shares of the frame, for what is drawn over a picture of any size."""
    there = Evaluated(changed)
    frame = there.frame
    lines = []
    for one in changed.references:
        ends = there.warp.to_corrected(np.array([one.points[0], one.points[-1]]))
        shares = (ends - (frame.x, frame.y)) / (frame.width, frame.height)
        if np.all(np.isfinite(shares)):
            (x0, y0), (x1, y1) = shares.tolist()
            lines.append((one.kind, ((x0, y0), (x1, y1))))
    return Reach(extent, float(there.cost.kept), tuple(lines))


def recipe_at(looks: Looks, originals: Originals, now: PhotoNow, extent: Extent | None) -> Recipe:
    """The recipe of a photo at an extent of its proposal. Raises RecipeError."""
    if extent is None:
        return now.recipe
    return taken(now.recipe, look_now(looks, originals, now).references, extent)


def decide(
    store: Store,
    looks: Looks,
    originals: Originals,
    now: PhotoNow,
    expected: int,
    extent: Extent | None,
    turn: float,
) -> PhotoNow:
    """Take a proposal as far as an extent, None: not at all, and turn the picture clockwise by some degrees;
    one action. Raises RecipeError, ChangedMeanwhileError, PhotoUnknownError."""

    def after(seen: PhotoNow) -> Kept:
        recipe, words = seen.recipe, ""
        if extent is not None:
            look = look_now(looks, originals, seen)
            if extent not in {one.extent for one in look.extents}:
                raise RecipeError(f"Its lines do not tell enough for “{EXTENT_NAMES[extent]}”", "extent")
            made = proposal_of(recipe, look, extent)
            recipe, words = made.recipe, made.action
        if turn:
            wanted = evaluate(recipe).taken_out("roll") + turn
            recipe = TakeAway(do="take out", angle="roll", degrees=wanted).apply(recipe, no_takes).recipe
            turned = f"turned {degrees(abs(turn))} {turned_to(turn)}"
            words = f"{words}, {turned}" if words else turned[0].upper() + turned[1:]
        return settled(store, seen.photo.id, seen.recipe, recipe), words

    return add(store, now.photo.id, expected, after)
