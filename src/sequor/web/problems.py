"""Errors as problem documents (RFC 9457): what happened, and what to do."""

from __future__ import annotations

import errno
import logging
from typing import Any

from apiflask import APIFlask
from apiflask.exceptions import HTTPError
from flask import Response, jsonify, request
from pydantic import ValidationError
from sqlalchemy.exc import DataError, DBAPIError
from werkzeug.exceptions import HTTPException

from sequor.imaging.decode import UnreadablePictureError
from sequor.jobs.batches import BatchUnknownError, NothingUndoneError, TooManyPhotosError
from sequor.jobs.failures import UNEXPECTED
from sequor.operations.accounts import NoRoomLeftError, PasswordRefusedError, TooMuchWorkError
from sequor.operations.groups import GroupUnknownError
from sequor.operations.photos import PhotoUnknownError, UnreadableStateError, look_through
from sequor.operations.ratios import RatioUnknownError, TooManyRatiosError
from sequor.operations.revising import NothingToRedoError
from sequor.operations.series import SeriesRefusedError
from sequor.operations.takes import TakeUnknownError
from sequor.operations.versions import NameTakenError, VersionUnknownError
from sequor.recipe.parse import RecipeError
from sequor.store.database import ChangedMeanwhileError
from sequor.store.files import (
    OriginalDamagedError,
    OriginalMissingError,
    PatchDamagedError,
    PatchMissingError,
)
from sequor.store.objects import ObjectsGoneError
from sequor.store.room import NoRoomError
from sequor.wording.sentence import refusal_words, sentence

log = logging.getLogger(__name__)


class Problem(Exception):
    """An answer that is an error."""

    def __init__(self, status: int, title: str, detail: str, field: str | None = None) -> None:
        super().__init__(detail)
        self.status, self.title, self.detail, self.field = status, title, detail, field

    def response(self) -> Response:
        """The problem document."""
        # Who has not signed in was about to change nothing.
        refused = self.status < 500 and self.status != 401
        words = refusal_words(self.detail) if refused else sentence(self.detail)
        document: dict[str, Any] = {"title": self.title, "status": self.status, "detail": words}
        if self.field:
            document["field"] = self.field
        response = jsonify(document)
        response.status_code = self.status
        response.content_type = "application/problem+json"
        return response


DISK_FULL = {1021, 1114, 3, 28, 14}
"""MariaDB's numbers for a disk that is full: ER_DISK_FULL, ER_RECORD_FILE_FULL, and errors of writing."""
NO_ROOM = "The disk is full. Nothing was changed; free some disk space and try again"

TITLES: dict[type[Exception], tuple[int, str]] = {
    PhotoUnknownError: (404, "No such photo"),
    OriginalMissingError: (410, "The original is missing"),
    OriginalDamagedError: (410, "The original is damaged"),
    PatchMissingError: (410, "A patch is missing"),
    PatchDamagedError: (410, "A patch is damaged"),
    TakeUnknownError: (404, "No such take"),
    ChangedMeanwhileError: (412, "Changed in another window"),
    NothingToRedoError: (409, "Nothing there"),
    UnreadableStateError: (409, "A state cannot be read"),
    NoRoomError: (507, "No room on the disk"),
    UnreadablePictureError: (422, "Picture refused"),
    RecipeError: (422, "Recipe refused"),
    VersionUnknownError: (404, "No such version"),
    NameTakenError: (409, "Name taken"),
    RatioUnknownError: (404, "No such ratio"),
    TooManyRatiosError: (409, "No room"),
    BatchUnknownError: (404, "Not known"),
    TooManyPhotosError: (422, "Too many photos"),
    NothingUndoneError: (409, "Nothing there"),
    GroupUnknownError: (404, "No such group"),
    SeriesRefusedError: (409, "Not a series"),
    PasswordRefusedError: (422, "Password refused"),
    TooMuchWorkError: (429, "Too much at a time"),
    NoRoomLeftError: (507, "No room left"),
}


def register_problems(app: APIFlask) -> None:
    """Answer every error of the application with a problem document."""

    def known(error: Exception) -> Response:
        status, title = TITLES[type(error)]
        return Problem(status, title, str(error), getattr(error, "field", None)).response()

    def unreadable(error: UnreadableStateError) -> Response:
        # From now on the photo's card tells it too.
        number = (request.view_args or {}).get("photo_id")
        if number is not None:
            from sequor.web.context import context

            look_through(context().store, [number])
        return known(error)

    for kind in TITLES:
        app.register_error_handler(kind, known)

    app.register_error_handler(UnreadableStateError, unreadable)

    @app.errorhandler(Problem)
    def _problem(error: Problem) -> Response:
        return error.response()

    @app.errorhandler(ValidationError)
    def _invalid(error: ValidationError) -> Response:
        return _first_error(error.errors()[0]).response()

    @app.errorhandler(HTTPException)
    def _http(error: HTTPException) -> Response:
        return Problem(error.code or 500, error.name, error.description or error.name).response()

    @app.errorhandler(DBAPIError)
    def _database(error: DBAPIError) -> Response:
        log.exception("the database failed", exc_info=error)
        number = error.orig.args[0] if error.orig is not None and error.orig.args else None
        if number in DISK_FULL:
            return Problem(507, "No room on the disk", NO_ROOM).response()
        if isinstance(error, DataError):
            return Problem(422, "Not understood", "A value is too large to be stored").response()
        return Problem(
            503,
            "The database does not answer",
            "The database is not answering. Nothing was changed; it is being "
            "started again, try once more in a few "
            "seconds",
        ).response()

    @app.errorhandler(ObjectsGoneError)
    def _objects(error: ObjectsGoneError) -> Response:
        log.warning("The file store did not answer")
        return Problem(503, "The file store does not answer", str(error)).response()

    @app.errorhandler(OSError)
    def _files(error: OSError) -> Response:
        log.exception("A file could not be read or written", exc_info=error)
        if error.errno in (errno.ENOSPC, errno.EDQUOT):
            return Problem(507, "No room on the disk", NO_ROOM).response()
        reason = error.strerror or "A file could not be read or written"
        return Problem(
            503,
            "The data folder cannot be used",
            f"{reason}. Nothing was changed; look at the disk and its permissions, then try again",
        ).response()

    @app.errorhandler(Exception)
    def _unexpected(error: Exception) -> Response:
        log.exception("unexpected", exc_info=error)
        return Problem(500, "Something went wrong", UNEXPECTED.words).response()

    @app.error_processor
    def _apiflask(error: HTTPError) -> Any:
        detail, field = error.message, None
        if isinstance(error.detail, dict) and error.detail:
            fields = next(iter(error.detail.values()))
            if isinstance(fields, dict) and fields:
                field, messages = next(iter(fields.items()))
                detail = f"{field}: {messages[0] if isinstance(messages, list) else messages}"
        response = Problem(error.status_code, error.message or "Refused", str(detail), field).response()
        return response.get_json(), error.status_code, {"Content-Type": "application/problem+json"}


def _first_error(error: Any) -> Problem:
    field = ".".join(str(part) for part in error["loc"])
    return Problem(422, "Not understood", f"{field}: {error['msg']}", field)
