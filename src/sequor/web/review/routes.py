"""Looking through photos that want a pair of eyes."""

from __future__ import annotations

from typing import get_args

from apiflask import APIBlueprint
from flask import Response

from sequor.operations import log, photos, rendering, reviewing
from sequor.recipe.parse import RecipeError
from sequor.web.context import context, expected_version
from sequor.web.photos.routes import FOREVER, jpeg
from sequor.web.photos.schemas import PhotoOut
from sequor.web.problems import Problem
from sequor.web.review.schemas import DecideIn, ReviewOut
from sequor.web.turns import in_turn
from sequor.wording.found import Extent

review = APIBlueprint("review", __name__, url_prefix="/api", tag="Review")


@review.get("/photos/<int:photo_id>/review")
@review.output(ReviewOut)
def get_review(photo_id: int) -> ReviewOut:
    """What was found on a photo, how sure that is and why, and what each extent would make of it."""
    here = context()
    now = photos.get_photo(here.store, photo_id)
    return ReviewOut.of(now, reviewing.review_of(here.originals, here.looks, now))


@review.get("/photos/<int:photo_id>/review/<int:revision>-<name>.jpg")
def review_picture(photo_id: int, revision: int, name: str) -> Response:
    """The framed picture of a revision as it would be at an extent, or as it is; for the screen. Also when
    that was taken meanwhile: whoever is on to the next photo may still load it."""
    here = context()
    if name not in ("plain", *get_args(Extent)):
        raise Problem(404, "No such picture", "There is no such extent")
    then = log.as_it_was(here.store, photo_id, revision)
    extent: Extent | None = None if name == "plain" else name  # type: ignore[assignment]
    recipe = reviewing.recipe_at(here.looks, here.originals, then, extent)
    return jpeg(in_turn(rendering.for_review, here.store, then.photo.sha256, recipe), FOREVER)


@review.post("/photos/<int:photo_id>/review")
@review.input(DecideIn)
@review.output(PhotoOut)
def decide(photo_id: int, json_data: DecideIn) -> PhotoOut:
    """Take what was found as far as an extent, and turn the picture."""
    here = context()
    if json_data.extent is None and not json_data.turn:
        raise RecipeError("There is nothing to take", "extent")
    now = photos.get_photo(here.store, photo_id)
    done = reviewing.decide(
        here.store, here.looks, here.originals, now, expected_version(), json_data.extent, json_data.turn
    )
    return PhotoOut.of(done.photo)
