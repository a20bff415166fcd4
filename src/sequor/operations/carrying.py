"""Carrying over from one photo to others: settings, never what was drawn or made on the photo itself."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal

from scipy.stats import chi2

from sequor.actions.base import no_takes
from sequor.actions.correction import TakeAway
from sequor.core.estimation.least_squares import HALF_WIDTH_95
from sequor.core.estimation.series import REFUSED_FROM
from sequor.core.estimation.unknowns import ANGLES
from sequor.core.frame.largest import shrink_into
from sequor.core.rectangle import Rectangle
from sequor.operations.batches import LeftError, change
from sequor.operations.lenses import same_lens
from sequor.operations.log import revision_in
from sequor.operations.photos import PhotoNow, PhotoUnknownError, recipe_of
from sequor.operations.revising import Kept, settled
from sequor.pipeline.edges.registry import mode_of
from sequor.pipeline.evaluated import Evaluated, evaluate
from sequor.pipeline.frame import ratio_of
from sequor.recipe.evolve import evolve
from sequor.recipe.model import Recipe
from sequor.recipe.model.export import CARRIES
from sequor.recipe.model.photo import PhotoPart
from sequor.recipe.parse import RecipeError
from sequor.recipe.reopen import taking_out, to_solve_anew
from sequor.store.database import Store
from sequor.store.models import Photo
from sequor.wording.frame import percent
from sequor.wording.numbers import degrees
from sequor.wording.report import rect_values

Part = Literal["lens", "ratio", "extent", "amount", "attitude", "edges", "export", "frame"]

PART_WORDS: dict[Part, str] = {
    "lens": "lens",
    "ratio": "aspect ratio",
    "extent": "what is corrected",
    "amount": "how much is corrected",
    "attitude": "tilt and verticals",
    "edges": "edges",
    "export": "export settings",
    "frame": "crop",
}
"""What can be carried over, as people call it, in the order in which it is done."""

SHARED_ANGLES: tuple[Literal["roll", "pitch"], ...] = ("roll", "pitch")
"""What photos of one camera position have in common."""

ALIKE = 0.002
"""Of a ratio of width to height: rounding to whole pixels makes less."""


@dataclass(frozen=True)
class Source:
    """The photo that is carried over from, as it was when that was asked for."""

    title: str
    facts: Mapping[str, Any]
    recipe: Recipe


Carried = tuple[Recipe, str | None]
"""A recipe, and why it is not all that was asked for."""


def carry(
    store: Store, photo_id: int, batch: int, number: int, source: int, revision: int, parts: Sequence[Part]
) -> dict[str, Any]:
    """Carry parts of a photo's revision over to another photo of a batch; what could not be is noted.

    Raises PhotoUnknownError, UnreadableStateError, RecipeError, ChangedMeanwhileError.
    """
    with store.transaction() as session:
        photo = session.get(Photo, source)
        if photo is None:
            raise PhotoUnknownError("The photo to carry over from is no longer there")
        of = Source(photo.title, photo.facts, recipe_of(revision_in(session, source, revision)))

    def after(now: PhotoNow) -> tuple[Kept, str | None]:
        recipe, carried, notes = carried_over(of, now.recipe, now.photo.facts, parts)
        if not carried:
            raise LeftError(" ".join(notes) or "There was nothing to change.")
        words = f"Carried over from “{of.title}”: {', '.join(PART_WORDS[part] for part in carried)}"
        return (settled(store, photo_id, now.recipe, recipe), words[:200]), " ".join(notes) or None

    return change(store, batch, number, photo_id, after)


def carried_over(
    source: Source, recipe: Recipe, facts: Mapping[str, Any], parts: Sequence[Part]
) -> tuple[Recipe, list[Part], list[str]]:
    """A recipe with parts of another; those that changed it, and sentences on what was not carried.

    ``facts``: what the photo's camera recorded. Raises RecipeError where the recipe itself cannot be solved.
    """
    carried: list[Part] = []
    notes: dict[Part, str] = {}
    wanted = [part for part in PART_WORDS if part in parts]
    # What does not go alone may go with what comes after it: a format that holds clear corners, say.
    for part in (*wanted, *wanted):
        if part in carried:
            continue
        try:
            changed, note = CARRIES_OVER[part](source, recipe, facts)
            _ = evaluate(changed).output
        except RecipeError as error:
            changed, note = recipe, f"{error}."
        notes.pop(part, None)
        if note is not None:
            named = PART_WORDS[part]
            notes[part] = f"{named[0].upper()}{named[1:]}: {note[0].lower()}{note[1:]}"
        if changed != recipe:
            carried.append(part)
        recipe = changed
    carried.sort(key=wanted.index)
    return recipe, carried, [notes[part] for part in wanted if part in notes]


def _lens(source: Source, recipe: Recipe, facts: Mapping[str, Any]) -> Carried:
    here, there = source.recipe.photo, recipe.photo
    if not same_lens(source.facts, facts) or abs(_shape(there) / _shape(here) - 1) > ALIKE:
        return recipe, "another lens, focal length or picture size; not carried over."
    lens = source.recipe.lens
    scale = max(there.width, there.height) / max(here.width, here.height)
    if lens.unit_px is not None and scale != 1:
        lens = evolve(lens, unit_px=lens.unit_px * scale)
    if lens.source == "straight":
        # The straight things stay with their photo; what they told is as good as typed here.
        lens = evolve(lens, source="manual") if lens.k1 or lens.k2 else evolve(lens, source="none")
    return to_solve_anew(evolve(recipe, lens=lens)), None


def _shape(photo: PhotoPart) -> float:
    return max(photo.width, photo.height) / min(photo.width, photo.height)


def _ratio(source: Source, recipe: Recipe, facts: Mapping[str, Any]) -> Carried:
    ratio = source.recipe.frame.ratio
    if ratio == recipe.frame.ratio:
        return recipe, None
    return evolve(recipe, frame=evolve(recipe.frame, ratio=ratio, rect=None)), None


def _extent(source: Source, recipe: Recipe, facts: Mapping[str, Any]) -> Carried:
    if not recipe.references:
        return recipe, "no lines are drawn on this photo yet."
    wanted = [name for name in source.recipe.correction.free if name in ANGLES]
    on = source.recipe.correction.on
    if wanted == [name for name in recipe.correction.free if name in ANGLES] and on == recipe.correction.on:
        return recipe, None
    opened = taking_out(recipe, *wanted)
    return evolve(opened, correction=evolve(opened.correction, on=on)), None


def _amount(source: Source, recipe: Recipe, facts: Mapping[str, Any]) -> Carried:
    amount = source.recipe.correction.amount
    return evolve(recipe, correction=evolve(recipe.correction, amount=amount)), None


def _attitude(source: Source, recipe: Recipe, facts: Mapping[str, Any]) -> Carried:
    """Only for one camera position: where both were measured, they must agree."""
    if source.recipe.photo.quarter_turns != recipe.photo.quarter_turns:
        return recipe, "it was rotated another way; not carried over."
    there, here = Evaluated(source.recipe), Evaluated(recipe)
    apart = apart_words(there, here)
    if apart is not None:
        return recipe, apart
    for angle in SHARED_ANGLES:
        take = TakeAway(do="take out", angle=angle, degrees=there.taken_out(angle))
        recipe = take.apply(recipe, no_takes).recipe
    return recipe, None


def apart_words(one: Evaluated, other: Evaluated) -> str | None:
    """That two photos were measured too far apart to be of one camera position; None where they may be."""
    total, told = 0.0, []
    for angle in SHARED_ANGLES:
        sds = [each.solution.sd[angle] for each in (one, other)]
        if any(sd is None for sd in sds):
            continue
        sd = sum((value or 0.0) ** 2 for value in sds) ** 0.5
        off = getattr(other.solution.attitude, angle) - getattr(one.solution.attitude, angle)
        total += (off / sd) ** 2 if sd else 0.0
        told.append((abs(off) / sd if sd else 0.0, abs(off), sd))
    if not told or total <= chi2.ppf(REFUSED_FROM, len(told)):
        return None
    _, off, sd = max(told)
    return f"measured apart by {degrees(off)} ± {degrees(HALF_WIDTH_95 * sd)}; not carried over."


def _edges(source: Source, recipe: Recipe, facts: Mapping[str, Any]) -> Carried:
    edges = source.recipe.edges
    way = {"mode": edges.mode, "strips": edges.strips, "colour": edges.colour, "hint": edges.hint}
    return evolve(recipe, edges=evolve(recipe.edges, **way), frame=_empty(source, recipe)), None


def _empty(source: Source, recipe: Recipe) -> Any:
    """A frame that may hold empty corners where the other may, as filling and leaving want."""
    allow = source.recipe.frame.allow_empty
    if allow == recipe.frame.allow_empty:
        return recipe.frame
    return evolve(recipe.frame, allow_empty=allow, rect=None)


def _export(source: Source, recipe: Recipe, facts: Mapping[str, Any]) -> Carried:
    wanted = source.recipe.export
    if isinstance(wanted.size, tuple):
        # For photos of other shapes.
        wanted = evolve(wanted, size={"long_edge": max(wanted.size)})
    if not CARRIES[wanted.format].alpha and mode_of(recipe.edges).clear(recipe.edges):
        return recipe, f"a {CARRIES[wanted.format].called} cannot hold transparent corners."
    return evolve(recipe, export=wanted), None


def _frame(source: Source, recipe: Recipe, facts: Mapping[str, Any]) -> Carried:
    """The frame at the same share of the picture, then as large as its ratio allows inside the outline."""
    if source.recipe.frame.rect is None:
        if recipe.frame.rect is None:
            return recipe, None
        return evolve(recipe, frame=evolve(recipe.frame, rect=None)), None
    across = recipe.photo.width / source.recipe.photo.width
    down = recipe.photo.height / source.recipe.photo.height
    frame = Evaluated(source.recipe).frame
    part = evolve(recipe.frame, ratio=source.recipe.frame.ratio, rect=None)
    recipe = evolve(recipe, frame=part)
    wanted = Rectangle(frame.x * across, frame.y * down, frame.width * across, frame.height * down)
    ratio = ratio_of(recipe)
    if ratio is not None:
        wanted = wanted.of_ratio(ratio)
    fits = wanted
    if not recipe.frame.allow_empty:
        fits = shrink_into(Evaluated(recipe).warp.outline(), wanted)
        fits = fits if ratio is None else fits.of_ratio(ratio)
    kept = fits.inwards()
    smaller = 1 - kept.width / wanted.width
    note = f"did not fit; made smaller by {percent(smaller)}." if smaller > 0.005 else None
    return evolve(recipe, frame=evolve(part, rect=rect_values(kept))), note


CARRIES_OVER: dict[Part, Callable[[Source, Recipe, Mapping[str, Any]], Carried]] = {
    "lens": _lens,
    "ratio": _ratio,
    "extent": _extent,
    "amount": _amount,
    "attitude": _attitude,
    "edges": _edges,
    "export": _export,
    "frame": _frame,
}
