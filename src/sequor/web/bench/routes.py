"""One photo on the bench: look at a recipe, keep an action, undo, redo, export."""

from __future__ import annotations

import json
from io import BytesIO
from mimetypes import guess_type
from typing import cast

import numpy as np
from apiflask import APIBlueprint
from flask import Response, redirect, request, send_file

from sequor.advice.views import view_rows
from sequor.core.raster.pixels import Picture
from sequor.jobs.folders import received
from sequor.jobs.tasks import Spec, export_spec, versions_spec
from sequor.operations import (
    acting,
    edge_under_guide,
    export_names,
    exporting,
    importing,
    lenses,
    log,
    photos,
    rendering,
    revising,
    shaping,
    steps,
    versions,
)
from sequor.operations.looking_ahead import look_now, tell_look
from sequor.operations.photos import PhotoNow
from sequor.pipeline.evaluated import evaluate as evaluate_recipe
from sequor.recipe.evolve import evolve
from sequor.recipe.model import Recipe
from sequor.store.models import Job
from sequor.web.bench.evaluation import EvaluateOut, LookOut, MadeOut
from sequor.web.bench.look import FoundOut
from sequor.web.bench.schemas import (
    ActionIn,
    BenchOut,
    EvaluateIn,
    ExportIn,
    NamesOut,
    ProfilesOut,
    RecipeIn,
    ResetIn,
    RevisedOut,
    RevisionOut,
    RevisionSeenOut,
    RevisionsOut,
    TurnIn,
    UnderIn,
    UnderOut,
    ViewRowOut,
    ViewsIn,
    ViewsOut,
)
from sequor.web.context import context, expected_version, find_job
from sequor.web.photos.routes import FOREVER, jpeg
from sequor.web.problems import Problem
from sequor.web.turns import in_turn
from sequor.web.work import JobOut
from sequor.wording import words
from sequor.wording.report import as_csv, field_book_rows

bench = APIBlueprint("bench", __name__, url_prefix="/api", tag="Bench")


@bench.get("/photos/<int:photo_id>")
@bench.output(BenchOut)
def get_bench(photo_id: int) -> BenchOut:
    """A photo with its current recipe; its pixels are made ready meanwhile."""
    here = context()
    now = photos.get_photo(here.store, photo_id)
    here.originals.make_ready(now.photo.sha256, now.recipe)
    return BenchOut.of(now)


@bench.post("/evaluate")
@bench.input(EvaluateIn)
@bench.output(LookOut)
def evaluate(json_data: EvaluateIn) -> LookOut:
    """All that is true under a recipe, after an action if one is given; nothing is stored."""
    evaluation, made = acting.look(json_data.recipe, json_data.action)
    after = MadeOut.model_validate(made) if made is not None and json_data.after else None
    return LookOut(**dict(EvaluateOut.of(evaluation, json_data.choices)), after=after)


@bench.get("/photos/<int:photo_id>/found")
@bench.output(FoundOut)
def found(photo_id: int) -> FoundOut:
    """What Sequor finds in a photo by itself: lines that can be taken, or why it cannot tell."""
    here = context()
    now = photos.get_photo(here.store, photo_id)
    look = look_now(here.looks, here.originals, now)
    tell_look(here.store, now, look)
    return FoundOut.of(look, now.photo.facts.get("held"))


@bench.post("/photos/<int:photo_id>/revise")
@bench.input(ActionIn)
@bench.output(RevisedOut)
def revise(photo_id: int, json_data: ActionIn) -> RevisedOut:
    """Do an action and keep it; its new lines are snapped onto the real edges where it asks for that."""
    now, made = acting.act(context().store, _pixels, photo_id, expected_version(), json_data.root)
    return RevisedOut(**dict(BenchOut.of(now)), words=made.words, done=made.done)


@bench.get("/photos/<int:photo_id>/revisions/<int:revision_id>/after.jpg")
def after(photo_id: int, revision_id: int) -> Response:
    """What an action, ``action`` in the query as JSON, would make of a revision, as a small picture; with
    ``corner`` of the corner alone that has most to fill."""
    here = context()
    sha256 = photos.get_photo(here.store, photo_id).photo.sha256
    recipe = log.get_revision(here.store, photo_id, revision_id)
    action = ActionIn.model_validate_json(request.args.get("action", "{}")).root
    changed = _with_segments(sha256, acting.made_by(recipe, action).recipe)
    if "corner" in request.args:
        return jpeg(in_turn(rendering.worst_corner, here.store, sha256, recipe, changed), FOREVER)
    return jpeg(in_turn(rendering.thumbnail, here.store, sha256, changed), FOREVER)


def _pixels(sha256: str, recipe: Recipe) -> Picture:
    return context().originals.get(sha256, recipe).pixels


def _with_segments(sha256: str, recipe: Recipe) -> Recipe:
    """With the straight things of its original, where it needs them and has none yet."""
    if not shaping.looks_for_segments(recipe):
        return recipe
    return shaping.with_segments(_pixels(sha256, recipe), recipe)


@bench.post("/photos/<int:photo_id>/revisions")
@bench.input(RecipeIn)
@bench.output(BenchOut, status_code=201)
def put_recipe(photo_id: int, json_data: RecipeIn) -> BenchOut:
    """Keep a recipe that was made elsewhere, whole."""
    store = context().store
    recipe = _with_segments(photos.get_photo(store, photo_id).photo.sha256, json_data.recipe)
    return BenchOut.of(revising.revise(store, photo_id, expected_version(), recipe, json_data.action))


@bench.post("/photos/<int:photo_id>/reset")
@bench.input(ResetIn)
@bench.output(BenchOut, status_code=201)
def reset(photo_id: int, json_data: ResetIn) -> BenchOut:
    """Make one step, or all of them, as when the photo was imported."""
    step = None if json_data.part == "all" else json_data.part
    return BenchOut.of(revising.reset(context().store, photo_id, expected_version(), step))


@bench.get("/photos/<int:photo_id>/field-book.<any(csv, json):kind>")
def field_book(photo_id: int, kind: str) -> Response:
    """The field book as a table of its own."""
    now = photos.get_photo(context().store, photo_id)
    rows = field_book_rows(evaluate_recipe(now.recipe))
    text = as_csv(rows) if kind == "csv" else json.dumps(rows, indent=2, ensure_ascii=False) + "\n"
    mimetype = "text/csv" if kind == "csv" else "application/json"
    name = f"{now.photo.file_name.rsplit('.', 1)[0]} lines.{kind}"
    return send_file(BytesIO(text.encode()), mimetype=mimetype, as_attachment=True, download_name=name)


@bench.get("/photos/<int:photo_id>/recipe")
def recipe_file(photo_id: int) -> Response:
    """The current recipe as a file to lie beside the picture (docs/recipe.md)."""
    now = photos.get_photo(context().store, photo_id)
    text = json.dumps(now.recipe.model_dump(mode="json"), indent=1, ensure_ascii=False) + "\n"
    file = BytesIO(text.encode())
    name = f"{now.photo.file_name.rsplit('.', 1)[0]}.sequor.json"
    return send_file(file, mimetype="application/json", as_attachment=True, download_name=name)


@bench.get("/photos/<int:photo_id>/profiles")
@bench.output(ProfilesOut)
def profiles(photo_id: int) -> ProfilesOut:
    """Lens profiles that match the photo; with ``words`` in the query those of lenses that are called so."""
    now = photos.get_photo(context().store, photo_id)
    found = lenses.profiles_of(now.photo, now.recipe.photo, request.args.get("words", "").strip()[:100])
    return ProfilesOut(profiles=list(found.parts), sure=found.sure, reason=found.reason)


@bench.post("/views")
@bench.input(ViewsIn)
@bench.output(ViewsOut)
def views(json_data: ViewsIn) -> ViewsOut:
    """What each way to put a picture on paper costs; nothing is stored."""
    return ViewsOut(rows=[ViewRowOut.of(row) for row in view_rows(json_data.recipe)])


@bench.post("/photos/<int:photo_id>/under")
@bench.input(UnderIn)
@bench.output(UnderOut)
def under(photo_id: int, json_data: UnderIn) -> UnderOut:
    """What the picture does under lines that stand still on the screen."""
    here = context()
    photo = photos.get_photo(here.store, photo_id).photo
    evaluation = evaluate_recipe(json_data.recipe)
    picture = here.originals.get(photo.sha256, json_data.recipe).pixels
    found = [
        edge_under_guide.look_under(picture, evaluation, line.runs, np.array(line.ends))
        for line in json_data.lines
    ]
    return UnderOut(
        words=[
            words.under_words(line.runs, one.taken_deg, one.edge_deg, one.edge_sd_deg)
            for line, one in zip(json_data.lines, found, strict=True)
        ]
    )


@bench.get("/photos/<int:photo_id>/revisions")
@bench.output(RevisionsOut)
def revisions(photo_id: int) -> RevisionsOut:
    """What was done to a photo, the newest first; ``before`` in the query: what came before a number."""
    store = context().store
    current = photos.get_photo(store, photo_id).revision.id
    found = log.list_revisions(store, photo_id, request.args.get("before", type=int))
    entries = [RevisionOut(**dict(one._mapping), current=one.id == current) for one in found]
    return RevisionsOut(revisions=entries, next=found[-1].id if len(found) == log.LOG_PAGE else None)


@bench.get("/photos/<int:photo_id>/revisions/<int:revision_id>")
@bench.output(RevisionSeenOut)
def revision(photo_id: int, revision_id: int) -> RevisionSeenOut:
    """A photo as it was after an action; the current one stays where it is."""
    recipe = log.get_revision(context().store, photo_id, revision_id)
    return RevisionSeenOut(recipe=recipe, evaluation=EvaluateOut.of(evaluate_recipe(recipe), choices=False))


@bench.post("/photos/<int:photo_id>/turn")
@bench.input(TurnIn)
@bench.output(BenchOut)
def turn(photo_id: int, json_data: TurnIn) -> BenchOut:
    """Turn the photo by a quarter."""
    clockwise = json_data.direction == "right"
    return BenchOut.of(revising.turn_quarter(context().store, photo_id, expected_version(), clockwise))


@bench.post("/photos/<int:photo_id>/undo")
@bench.output(BenchOut)
def undo(photo_id: int) -> BenchOut:
    """Go back one action."""
    return BenchOut.of(revising.undo(context().store, photo_id, expected_version()))


@bench.post("/photos/<int:photo_id>/redo")
@bench.output(BenchOut)
def redo(photo_id: int) -> BenchOut:
    """Go forward again."""
    return BenchOut.of(revising.redo(context().store, photo_id, expected_version()))


@bench.post("/photos/<int:photo_id>/exports")
@bench.input(ExportIn)
@bench.output(JobOut, status_code=202)
def export(photo_id: int, json_data: ExportIn) -> JobOut:
    """Export the current revision, or versions together with it or without; the file is fetched from the job
    when it is done."""
    here = context()
    now = photos.get_photo(here.store, photo_id)
    here.store.originals.path(now.photo.sha256)
    wanted = _wanted(now, json_data)
    exporting.refuse_too_costly([one for _, one in wanted], here.store.folder)
    names = export_names.file_names(export_names.about(now.photo), wanted, json_data.export.name)
    if not json_data.versions:
        return JobOut.of(_begin("export", names[0], export_spec(now.photo.sha256, wanted[0][1])))
    named = list(zip(names, (one for _, one in wanted), strict=True))
    label = export_names.archive_name(now.photo.file_name)
    return JobOut.of(_begin("versions", label, versions_spec(now.photo.sha256, named)))


@bench.post("/photos/<int:photo_id>/export-names")
@bench.input(ExportIn)
@bench.output(NamesOut)
def names_of_export(photo_id: int, json_data: ExportIn) -> NamesOut:
    """What the files of an export would be called."""
    now = photos.get_photo(context().store, photo_id)
    of = export_names.about(now.photo)
    return NamesOut(names=export_names.file_names(of, _wanted(now, json_data), json_data.export.name))


def _wanted(now: PhotoNow, asked: ExportIn) -> list[tuple[str, Recipe]]:
    """What is to be exported: of each the version, and its recipe."""
    recipe = evolve(now.recipe, export=asked.export)
    if not asked.versions:
        return [("", recipe)]
    found = versions.chosen(context().store, now.photo.id, asked.versions)
    return [("current", recipe), *found] if asked.now else found


def _begin(kind: str, label: str, spec: Spec) -> Job:
    jobs = context().jobs
    return jobs.start(jobs.prepare(), kind, label, spec)


@bench.get("/jobs/<name>")
@bench.output(JobOut)
def get_job(name: str) -> JobOut:
    """How far a job is."""
    job = find_job(name)
    return JobOut.of(job, (context().jobs.folder(job.id) / importing.FIRST_LOOK).is_file())


@bench.get("/jobs/<name>/look.jpg")
def job_look(name: str) -> Response:
    """What a raw photo that is on its way shows of itself, or the photo, when that is there by now."""
    here = context()
    file = here.jobs.folder(find_job(name).id) / importing.FIRST_LOOK
    try:
        return jpeg(file.read_bytes(), "no-store")
    except FileNotFoundError:
        # Only now is it asked how the job stands: it may have ended since.
        photo_id = (find_job(name).result or {}).get("photo_id")
        if photo_id is None:
            raise Problem(404, "No first look", "Nothing of this photo can be shown yet") from None
        now = photos.get_photo(here.store, photo_id)
        shown = f"/api/photos/{photo_id}/thumbnail/{now.revision.id}.jpg"
        return cast(Response, redirect(shown))


@bench.post("/jobs/<name>/steps")
@bench.output(BenchOut, status_code=201)
def job_steps(name: str) -> BenchOut:
    """Take up the steps of an exported picture on its original."""
    job = find_job(name)
    result = job.result or {}
    if "steps" not in result:
        raise Problem(409, "No steps", "This file tells no steps of a photo that is here")
    store = context().store
    return BenchOut.of(steps.take_up(store, result["photo_id"], result["steps"], job.label))


@bench.delete("/jobs/<name>")
@bench.output(JobOut)
def cancel_job(name: str) -> JobOut:
    """Stop a job; nothing of it remains."""
    context().jobs.cancel(name)
    return JobOut.of(find_job(name))


@bench.get("/jobs/<name>/mask")
def job_mask(name: str) -> Response:
    """Which pixels of the exported file are new: a grey PNG of its size, white where they are."""
    job = find_job(name)
    absent = Problem(409, "No mask", "The export is not finished yet, or nothing in it is new")
    return _download(job, "mask", f"{job.label.rsplit('.', 1)[0]}-new.png", absent)


@bench.get("/jobs/<name>/file")
def job_file(name: str) -> Response:
    """The exported file."""
    job = find_job(name)
    return _download(job, "export", job.label, Problem(409, "Not ready", "The export is not finished yet"))


def _download(job: Job, written: str, called: str, absent: Problem) -> Response:
    """A file that a job has written, to be kept under a name. Raises ``absent`` when it is not there."""
    file = received(context().store, job.id, written)
    if job.state != "done" or not file.is_file():
        raise absent
    return send_file(file, mimetype=guess_type(called)[0], as_attachment=True, download_name=called)
