"""The edges: what each way with empty corners costs, and the takes of a fill."""

from __future__ import annotations

from apiflask import APIBlueprint
from flask import Response, request

from sequor.advice.edges import choices
from sequor.advice.recommend import suits
from sequor.jobs.background import BackgroundGoneError
from sequor.operations import rendering, takes
from sequor.pipeline.evaluated import evaluate
from sequor.pipeline.stretching import HurtsFrom
from sequor.web.context import context
from sequor.web.photos.routes import FOREVER, jpeg
from sequor.web.problems import Problem
from sequor.web.takes.schemas import AskTakesIn, EdgeChoiceOut, EdgesIn, EdgesOut, HeatOut, TakeOut, TakesOut
from sequor.web.turns import in_turn
from sequor.wording.sentence import sentence

takes_of = APIBlueprint("takes", __name__, url_prefix="/api", tag="Edges")


@takes_of.post("/edges")
@takes_of.input(EdgesIn)
@takes_of.output(EdgesOut)
def edges(json_data: EdgesIn) -> EdgesOut:
    """What each way with the empty corners costs, and which suits the picture."""
    now, found = evaluate(json_data.recipe), choices(json_data.recipe)
    suited = suits(now, found)
    return EdgesOut(
        choices=[EdgeChoiceOut.of(one) for one in found],
        suits=suited and suited[0],
        words=suited[1] if suited else "",
        hurts_from=None if now.reshaped is None else now.result(HurtsFrom),
        heat=HeatOut.of(now),
    )


@takes_of.get("/photos/<int:photo_id>/takes")
@takes_of.output(TakesOut)
def list_takes(photo_id: int) -> TakesOut:
    """The takes of the current frame's corners, or, with ``touch_up`` in the query, of a touch-up."""
    return _all(photo_id, request.args.get("touch_up", ""))


@takes_of.post("/photos/<int:photo_id>/takes")
@takes_of.input(AskTakesIn)
@takes_of.output(TakesOut, status_code=202)
def ask_takes(photo_id: int, json_data: AskTakesIn) -> TakesOut:
    """Let takes of the current frame's corners, or of a touch-up, be made, by their seeds."""
    here = context()
    key = takes.ask(here.store, photo_id, json_data.seeds, json_data.touch_up)
    notice = None
    try:
        here.queue.make_takes(photo_id, key)
    except BackgroundGoneError as error:
        notice = sentence(str(error))
    return _all(photo_id, json_data.touch_up, notice)


@takes_of.delete("/photos/<int:photo_id>/takes/<int:take_id>")
@takes_of.output(TakesOut)
def cancel_take(photo_id: int, take_id: int) -> TakesOut:
    """Stop a take that is not done."""
    takes.cancel(context().store, photo_id, take_id)
    return _all(photo_id, request.args.get("touch_up", ""))


@takes_of.get("/photos/<int:photo_id>/takes/<int:take_id>/first-look-<int:part>.png")
def first_look(photo_id: int, take_id: int, part: int) -> Response:
    """A part of a take that is still being made, reduced, to be laid under the picture."""
    picture = rendering.first_look(context().store, photo_id, take_id, part)
    if picture is None:
        raise Problem(404, "No such picture", "This take has no such picture now")
    return png(picture)


@takes_of.get("/photos/<int:photo_id>/takes/<int:take_id>/small-<part>.jpg")
def small_take(photo_id: int, take_id: int, part: str) -> Response:
    """The surroundings of a part ("all": the whole frame) with a take that is done, small."""
    here = context()
    picture = in_turn(rendering.small_take, here.store, photo_id, take_id, None if part == "all" else part)
    if picture is None:
        raise Problem(404, "No such picture", "This take is not done, or has no such part")
    return jpeg(picture, FOREVER)


@takes_of.get("/patches/<sha256>/<int:reduced>.png")
def patch(sha256: str, reduced: int) -> Response:
    """A patch, reduced so many times, to be laid under the picture, or with ``over`` in the query over it."""
    if not (1 <= reduced <= 64 and len(sha256) == 64 and set(sha256) <= set("0123456789abcdef")):
        raise Problem(404, "No such patch", "A patch is named by its hash and reduced 1 to 64 times")
    here = context()
    if here.guard.access.network:
        takes.refuse_others(here.store, sha256)
    return png(in_turn(rendering.patch_picture, here.store, sha256, reduced, "over" in request.args))


def png(picture: bytes) -> Response:
    """A PNG as an answer that stays."""
    return Response(picture, mimetype="image/png", headers={"Cache-Control": FOREVER})


def _all(photo_id: int, touch_up: str, notice: str | None = None) -> TakesOut:
    key, found = takes.takes_of(context().store, photo_id, touch_up)
    return TakesOut(made_for=key, takes=[TakeOut.of(take) for take in found], notice=notice)
