"""What is done to many photos at once."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Iterator
from dataclasses import asdict

from apiflask import APIBlueprint
from flask import Response

from sequor.jobs.batches import Written
from sequor.operations import groups, many, proposals, series, undoing
from sequor.store.models import Batch
from sequor.web.batches.schemas import (
    AsideIn,
    BatchesOut,
    BatchOut,
    CarryIn,
    CountedOut,
    CountOut,
    ExportManyIn,
    GroupIn,
    GroupOut,
    ImportIn,
    LastOut,
    PhotosIn,
    SeriesIn,
    SeriesOut,
    TakeIn,
    TitlesIn,
)
from sequor.web.context import context
from sequor.web.problems import Problem
from sequor.wording.sentence import sentence

batches_of = APIBlueprint("batches", __name__, url_prefix="/api", tag="Many photos")

CHUNK = 1 << 20


def _out(batch: Batch | int) -> BatchOut:
    batches = context().batches
    number = batch if isinstance(batch, int) else batch.id
    return BatchOut.of(batches.standing(number), batches.undoing(number))


@batches_of.get("/batches")
@batches_of.output(BatchesOut)
def open_batches() -> BatchesOut:
    """What is still being done, and what can be taken back."""
    batches = context().batches
    last = batches.last_changing()
    return BatchesOut(
        batches=[BatchOut.of(one, batches.undoing(one.batch.id)) for one in batches.open()],
        last=None if last is None else LastOut.model_validate(last),
    )


@batches_of.get("/batches/<int:number>")
@batches_of.output(BatchOut)
def get_batch(number: int) -> BatchOut:
    """How far a batch is."""
    return _out(number)


@batches_of.post("/batches/import")
@batches_of.input(ImportIn)
@batches_of.output(BatchOut, status_code=201)
def begin_import(json_data: ImportIn) -> BatchOut:
    """A stack of files that are imported together."""
    return _out(context().batches.begin_import(json_data.label))


@batches_of.post("/batches/look")
@batches_of.input(PhotosIn)
@batches_of.output(BatchOut, status_code=202)
def look(json_data: PhotosIn) -> BatchOut:
    """Look at photos again."""
    here = context()
    many.put_aside(here.store, json_data.photos, False)
    return _out(here.batches.look(json_data.photos))


@batches_of.post("/batches/take/count")
@batches_of.input(TakeIn)
@batches_of.output(CountedOut)
def count_take(json_data: TakeIn) -> CountedOut:
    """What taking the proposals of photos would do."""
    found = proposals.count(context().store, json_data.photos, json_data.reach, json_data.least)
    return CountedOut.model_validate(asdict(found))


@batches_of.post("/batches/take")
@batches_of.input(TakeIn)
@batches_of.output(BatchOut, status_code=202)
def take(json_data: TakeIn) -> BatchOut:
    """Take the proposals of photos where they are sure enough."""
    return _out(context().batches.take(json_data.photos, json_data.reach, json_data.least))


@batches_of.post("/batches/carry")
@batches_of.input(CarryIn)
@batches_of.output(BatchOut, status_code=202)
def carry(json_data: CarryIn) -> BatchOut:
    """Carry over from one photo to others."""
    return _out(context().batches.carry(json_data.source, json_data.photos, json_data.parts))


@batches_of.post("/series")
@batches_of.input(SeriesIn)
@batches_of.output(SeriesOut)
def look_at_series(json_data: SeriesIn) -> SeriesOut:
    """What photos tell together, and whether they share it; nothing is changed."""
    try:
        found = series.series_of(context().store, json_data.photos, json_data.what)
    except series.SeriesRefusedError as why:
        return SeriesOut(words=[sentence(str(why))], told=0, odd=None, refused=True)
    return SeriesOut(words=list(found.words), told=len(found.told), odd=found.odd, refused=found.refused)


@batches_of.post("/batches/series")
@batches_of.input(SeriesIn)
@batches_of.output(BatchOut, status_code=202)
def share_series(json_data: SeriesIn) -> BatchOut:
    """Solve photos together."""
    return _out(context().batches.share(json_data.photos, json_data.what))


@batches_of.post("/batches/export")
@batches_of.input(ExportManyIn)
@batches_of.output(BatchOut, status_code=202)
def export(json_data: ExportManyIn) -> BatchOut:
    """Write many photos with one sheet of settings."""
    batches = context().batches
    if json_data.into_folder and batches.exports is None:
        raise Problem(409, "No folder", "No folder was named at the start; use bin/start --exports FOLDER")
    asked = json_data.photos, json_data.export, json_data.versions, json_data.into_folder
    return _out(batches.export(*asked))


@batches_of.post("/batches/title")
@batches_of.input(TitlesIn)
@batches_of.output(BatchOut, status_code=201)
def titles(json_data: TitlesIn) -> BatchOut:
    """Give photos titles by a pattern."""
    return _out(many.give_titles(context().store, json_data.photos, json_data.pattern))


@batches_of.delete("/batches/<int:number>")
@batches_of.output(BatchOut)
def cancel(number: int) -> BatchOut:
    """Stop what is not done yet."""
    context().batches.cancel(number)
    return _out(number)


@batches_of.post("/batches/<int:number>/retry")
@batches_of.output(BatchOut, status_code=202)
def retry(number: int) -> BatchOut:
    """Begin anew what failed or was cancelled."""
    context().batches.retry(number)
    return _out(number)


@batches_of.post("/batches/<int:number>/undo")
@batches_of.output(BatchOut, status_code=202)
def undo(number: int) -> BatchOut:
    """Take back all that was changed."""
    here = context()
    if here.batches.standing(number).batch.kind == "title":
        undoing.retitle_back(here.store, number)
    else:
        here.batches.undo(number)
    return _out(number)


@batches_of.get("/batches/<int:number>/files.zip")
def files(number: int) -> Response:
    """All files that were written, in one ZIP file, packed while it is sent."""
    found = context().batches.files(number)
    if not found or not all(one.kept for one in found):
        raise Problem(
            409, "Files are gone", "These files were kept for a day and are gone by now; export again"
        )
    headers = {"Content-Disposition": f'attachment; filename="sequor-export-{number}.zip"'}
    return Response(_packed(found), mimetype="application/zip", headers=headers)


def _packed(files: list[Written]) -> Iterator[bytes]:
    sink = _Sink()
    with zipfile.ZipFile(sink, "w", zipfile.ZIP_STORED) as together:
        for one in files:
            file = one.file
            # The pictures are compressed already.
            entry = zipfile.ZipInfo.from_file(file, one.name)
            with together.open(entry, "w", force_zip64=True) as target, file.open("rb") as source:
                while block := source.read(CHUNK):
                    target.write(block)
                    yield sink.taken()
    yield sink.taken()


class _Sink(io.RawIOBase):
    """What is written to it is taken out again, bit by bit."""

    def __init__(self) -> None:
        self._held = bytearray()

    def writable(self) -> bool:
        """Yes."""
        return True

    def write(self, block: bytes) -> int:  # type: ignore[override]
        """Hold a block."""
        self._held += block
        return len(block)

    def taken(self) -> bytes:
        """All that is held."""
        taken, self._held = bytes(self._held), bytearray()
        return taken


@batches_of.post("/photos/remove")
@batches_of.input(PhotosIn)
@batches_of.output(CountOut)
def remove_photos(json_data: PhotosIn) -> CountOut:
    """Take photos off the contact sheet; they can be restored."""
    return CountOut(count=len(many.remove_all(context().store, json_data.photos)))


@batches_of.post("/photos/restore")
@batches_of.input(PhotosIn)
@batches_of.output(CountOut)
def restore_photos(json_data: PhotosIn) -> CountOut:
    """Undo removals."""
    return CountOut(count=many.restore_all(context().store, json_data.photos))


@batches_of.post("/photos/aside")
@batches_of.input(AsideIn)
@batches_of.output({}, status_code=204)
def aside(json_data: AsideIn) -> str:
    """Leave photos as they were taken, or ask for them again."""
    many.put_aside(context().store, json_data.photos, json_data.aside)
    return ""


@batches_of.post("/groups")
@batches_of.input(GroupIn)
@batches_of.output(GroupOut, status_code=201)
def make_group(json_data: GroupIn) -> GroupOut:
    """A new group of photos."""
    return GroupOut.model_validate(
        groups.make_group(context().store, json_data.name.strip(), json_data.photos)
    )


@batches_of.post("/groups/<int:group_id>/photos")
@batches_of.input(PhotosIn)
@batches_of.output({}, status_code=204)
def fill_group(group_id: int, json_data: PhotosIn) -> str:
    """Add photos to a group."""
    groups.fill_group(context().store, group_id, json_data.photos)
    return ""


@batches_of.post("/groups/<int:group_id>/take-out")
@batches_of.input(PhotosIn)
@batches_of.output({}, status_code=204)
def take_out(group_id: int, json_data: PhotosIn) -> str:
    """Take photos out of a group."""
    groups.take_out(context().store, group_id, json_data.photos)
    return ""


@batches_of.delete("/groups/<int:group_id>")
@batches_of.output({}, status_code=204)
def remove_group(group_id: int) -> str:
    """Remove a group; its photos stay."""
    groups.remove_group(context().store, group_id)
    return ""
