"""One photo on the bench: look at a recipe, keep an action, undo, redo, export."""

from __future__ import annotations

from apiflask import APIBlueprint
from flask import Response, send_file

from sequor.operations import exporting, previewing, revising

from ..jobs import tasks
from .problems import Problem
from .schemas import BenchOut, EvaluateIn, EvaluateOut, ExportIn, JobOut, ReviseIn, TurnIn
from .services import expected_version, find_job, services

bench = APIBlueprint("bench", __name__, url_prefix="/api", tag="Bench")


@bench.get("/photos/<int:photo_id>")
@bench.output(BenchOut)
def get_bench(photo_id: int) -> BenchOut:
    """A photo with its current recipe."""
    return BenchOut.of(revising.get_photo(services().store, photo_id))


@bench.post("/evaluate")
@bench.input(EvaluateIn)
@bench.output(EvaluateOut)
def evaluate(json_data: EvaluateIn) -> EvaluateOut:
    """All that is true under a recipe; nothing is stored."""
    return EvaluateOut.of(previewing.preview(json_data.recipe, json_data.before))


@bench.post("/photos/<int:photo_id>/revisions")
@bench.input(ReviseIn)
@bench.output(BenchOut, status_code=201)
def revise(photo_id: int, json_data: ReviseIn) -> BenchOut:
    """Keep a completed action."""
    now = revising.revise(services().store, photo_id, expected_version(), json_data.recipe, json_data.action)
    return BenchOut.of(now)


@bench.post("/photos/<int:photo_id>/turn")
@bench.input(TurnIn)
@bench.output(BenchOut)
def turn(photo_id: int, json_data: TurnIn) -> BenchOut:
    """Turn the photo by a quarter."""
    clockwise = json_data.direction == "right"
    return BenchOut.of(revising.turn_quarter(services().store, photo_id, expected_version(), clockwise))


@bench.post("/photos/<int:photo_id>/undo")
@bench.output(BenchOut)
def undo(photo_id: int) -> BenchOut:
    """Go back one action."""
    return BenchOut.of(revising.undo(services().store, photo_id, expected_version()))


@bench.post("/photos/<int:photo_id>/redo")
@bench.output(BenchOut)
def redo(photo_id: int) -> BenchOut:
    """Go forward again."""
    return BenchOut.of(revising.redo(services().store, photo_id, expected_version()))


@bench.post("/photos/<int:photo_id>/exports")
@bench.input(ExportIn)
@bench.output(JobOut, status_code=202)
def export(photo_id: int, json_data: ExportIn) -> JobOut:
    """Export the current revision; the file is fetched from the job when it is done."""
    here = services()
    now = revising.get_photo(here.store, photo_id)
    recipe = now.recipe.model_copy(update={"export": json_data.export})
    name = exporting.export_name(now.photo.file_name, json_data.export.format)
    original = here.store.originals.path(now.photo.sha256)
    job = here.jobs.prepare(name)
    here.jobs.start(job, tasks.export_photo, (original, recipe, job.folder / "export"))
    return JobOut.of(job)


@bench.get("/jobs/<name>")
@bench.output(JobOut)
def get_job(name: str) -> JobOut:
    """How far a job is."""
    return JobOut.of(find_job(name))


@bench.delete("/jobs/<name>")
@bench.output(JobOut)
def cancel_job(name: str) -> JobOut:
    """Stop a job; nothing of it remains."""
    job = find_job(name)
    services().jobs.cancel(job)
    return JobOut.of(job)


@bench.get("/jobs/<name>/file")
def job_file(name: str) -> Response:
    """The exported file."""
    job = find_job(name)
    file = job.folder / "export"
    if job.state != "done" or not file.is_file():
        raise Problem(409, "Not ready", "the export has not ended yet")
    kind = "image/png" if job.label.endswith(".png") else "image/jpeg"
    return send_file(file, mimetype=kind, as_attachment=True, download_name=job.label)
