"""Photos on the contact sheet."""

from __future__ import annotations

from dataclasses import asdict

from apiflask import APIBlueprint
from flask import Response, request

from sequor.operations import importing, log, photos, rendering, revising, screen_pictures, sheet
from sequor.recipe.model.develop import DevelopPart
from sequor.web.accounts.network import visitor
from sequor.web.context import context, expected_version
from sequor.web.photos.schemas import (
    FiltersOut,
    KnownIn,
    KnownOut,
    NumbersOut,
    PhotoListOut,
    PhotoOut,
    PlaceOut,
    SessionOut,
    SheetIn,
    SheetOut,
    TitleIn,
    after_key,
    key_words,
)
from sequor.web.problems import Problem
from sequor.web.turns import in_turn
from sequor.web.work import JobOut

photo_routes = APIBlueprint("photos", __name__, url_prefix="/api", tag="Photos")

UPLOAD_CHUNK = 1 << 20
FOREVER = "private, max-age=31536000, immutable"


@photo_routes.get("/session")
@photo_routes.output(SessionOut)
def session() -> SessionOut:
    """The token that changes need, what was set up at the start, and who has signed in."""
    here = context()
    who = visitor() if here.guard.access.network else None
    return SessionOut(
        token=here.guard.token(),
        painter=here.painter is not None,
        exports=here.batches.exports is not None,
        network=here.guard.access.network,
        account=None if who is None else who.name,
    )


def _asked() -> tuple[sheet.Wanted, sheet.Sorting]:
    """Which photos a request asks for, and in which order, by its query."""
    asked = SheetIn.model_validate({**request.args.to_dict(), "after": None})
    return asked.wanted, asked.sorting


@photo_routes.get("/photos")
@photo_routes.output(PhotoListOut)
def list_photos() -> PhotoListOut:
    """Photos on the contact sheet that the query asks for; ``after``: from behind the page that named it."""
    wanted, sorting = _asked()
    found = sheet.list_photos(context().store, wanted, sorting, after_key(request.args.get("after"), sorting))
    following = key_words(sorting.key(found[-1])) if len(found) == sheet.SHEET_PAGE else None
    return PhotoListOut(photos=[PhotoOut.of(photo) for photo in found], next=following)


@photo_routes.get("/photos/numbers")
@photo_routes.output(NumbersOut)
def photo_numbers() -> NumbersOut:
    """The numbers of all photos that the query asks for, in their order."""
    return NumbersOut(photos=sheet.numbers(context().store, *_asked()))


@photo_routes.get("/sheet")
@photo_routes.output(SheetOut)
def get_sheet() -> SheetOut:
    """How the photos of the contact sheet stand, and how many the query asks for."""
    return SheetOut.model_validate(asdict(sheet.summary(context().store, _asked()[0])))


@photo_routes.get("/sheet/choices")
@photo_routes.output(FiltersOut)
def sheet_choices() -> FiltersOut:
    """What the photos can be chosen by."""
    return FiltersOut.of(sheet.choices(context().store))


@photo_routes.get("/photos/<int:photo_id>/place")
@photo_routes.output(PlaceOut)
def place(photo_id: int) -> PlaceOut:
    """Where a photo lies among those that the query asks for, and which lie beside it."""
    return PlaceOut.model_validate(asdict(sheet.place_of(context().store, photo_id, *_asked())))


@photo_routes.post("/known")
@photo_routes.input(KnownIn)
@photo_routes.output(KnownOut)
def known(json_data: KnownIn) -> KnownOut:
    """Which of these files are on the contact sheet already, by the hashes of their content."""
    return KnownOut(known=sorted(importing.known_among(context().store, json_data.sha256s)))


@photo_routes.post("/imports")
@photo_routes.output(JobOut, status_code=202)
def import_photo() -> JobOut:
    """Import the file that is the body; ``name`` in the query is its name, ``batch`` the stack it came with.
    ``own``: an exported picture is to be a photo of its own, also when its original is here."""
    here = context()
    name = request.args.get("name", "").strip()[:255] or "photo"
    here.jobs.refuse_too_much(request.content_length or 0)
    job = here.jobs.prepare()
    file = here.jobs.folder(job) / "file"
    try:
        with file.open("wb") as target:
            while block := request.stream.read(UPLOAD_CHUNK):
                target.write(block)
        size = file.stat().st_size
        if request.content_length is not None and size != request.content_length:
            raise Problem(400, "Broken off", "the file did not arrive whole; import it again")
        spec = {"name": name, "bytes": size, "own": "own" in request.args}
        spec["batch"] = request.args.get("batch", type=int)
        return JobOut.of(here.jobs.start(job, "import", name, spec))
    except BaseException as error:
        here.jobs.drop(job)
        if isinstance(error, OSError):
            raise Problem(
                507,
                "No room on the disk",
                (
                    f"The file could not be saved: {error.strerror}. Nothing was "
                    "added; free some disk space and try again"
                ),
            ) from None
        raise


@photo_routes.patch("/photos/<int:photo_id>")
@photo_routes.input(TitleIn)
@photo_routes.output(PhotoOut)
def rename(photo_id: int, json_data: TitleIn) -> PhotoOut:
    """Give a photo another title."""
    now = photos.rename(context().store, photo_id, expected_version(), json_data.title.strip())
    return PhotoOut.of(now.photo)


@photo_routes.delete("/photos/<int:photo_id>")
@photo_routes.output({}, status_code=204)
def remove(photo_id: int) -> str:
    """Take a photo off the contact sheet; it can be restored."""
    photos.remove(context().store, photo_id, expected_version())
    return ""


@photo_routes.post("/photos/<int:photo_id>/restore")
@photo_routes.output(PhotoOut)
def restore(photo_id: int) -> PhotoOut:
    """Undo a removal."""
    return PhotoOut.of(photos.restore(context().store, photo_id).photo)


@photo_routes.post("/photos/<int:photo_id>/recover")
@photo_routes.output(PhotoOut)
def recover(photo_id: int) -> PhotoOut:
    """Go back to the newest state of a photo that can be read."""
    return PhotoOut.of(revising.recover(context().store, photo_id, expected_version()).photo)


@photo_routes.get("/photos/<int:photo_id>/thumbnail/<int:revision>.jpg")
def thumbnail(photo_id: int, revision: int) -> Response:
    """The framed picture after one revision, small; also of a photo that has just been removed."""
    here = context()
    then = log.as_it_was(here.store, photo_id, revision)
    return jpeg(in_turn(rendering.thumbnail, here.store, then.photo.sha256, then.recipe), FOREVER)


@photo_routes.get("/photos/<int:photo_id>/screen/<int:side>-<int:turns>.jpg")
def screen(photo_id: int, side: int, turns: int) -> Response:
    """The photo as taken, its longest side at most ``side`` pixels, after ``turns`` quarter turns; of a raw
    photo ``develop``, in the query as JSON, tells how it is developed.
    ``wide`` in the query: for a screen that shows Display P3."""
    if side not in importing.SCREEN_SIDES or turns > 3:
        raise Problem(404, "No such picture", f"sides are {', '.join(map(str, importing.SCREEN_SIDES))}")
    here = context()
    now = photos.get_photo(here.store, photo_id)
    asked = request.args.get("develop")
    develop = None if asked is None else DevelopPart.model_validate_json(asked)
    picture = screen_pictures.screen_picture(
        here.store, now.photo.sha256, side, turns, develop, "wide" in request.args
    )
    return jpeg(picture, FOREVER)


@photo_routes.get("/photos/<int:photo_id>/tiles/<token>/<int(signed=True):column>/<int(signed=True):row>.jpg")
def tile(photo_id: int, token: str, column: int, row: int) -> Response:
    """A square of the picture at 100 % through the map that ``token`` names; ``wide`` as for the screen."""
    here = context()
    if max(abs(column), abs(row)) > 1000:
        raise Problem(404, "No such tile", "The tile lies far outside the picture")
    now = photos.get_photo(here.store, photo_id)
    wide = "wide" in request.args
    picture = in_turn(rendering.tile, here.originals, now.photo.sha256, token, column, row, wide)
    return jpeg(picture, FOREVER)


def jpeg(picture: bytes, caching: str) -> Response:
    """A JPEG as an answer."""
    return Response(picture, mimetype="image/jpeg", headers={"Cache-Control": caching})
