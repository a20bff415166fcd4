"""How work may fail: each way has a name that programs can tell apart and a sentence for people."""

from __future__ import annotations

from dataclasses import dataclass

from sequor.imaging.decode import UnreadablePictureError
from sequor.operations.photos import PhotoUnknownError, UnreadableStateError
from sequor.painter.client import PainterError
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


class NoMemoryError(Exception):
    """A child needed more memory than it may have."""

    def __init__(self) -> None:
        super().__init__(
            "There was not enough memory for this picture. Nothing of it was kept; make the frame or the "
            "picture smaller and try again"
        )


class TooLongError(Exception):
    """A child took longer than it may."""

    def __init__(self, seconds: float) -> None:
        super().__init__(
            f"This took longer than {seconds:.0f} seconds and was stopped. Nothing of it was kept; save the "
            "picture again with another program and try again"
        )


class BrokenOffError(Exception):
    """Work that ended its process again and again."""

    def __init__(self, times: int) -> None:
        super().__init__(
            f"This failed {times} times and was given up. Nothing of it was "
            "kept; the file may be damaged, or too "
            "large for this computer's memory"
        )


class NeverArrivedError(Exception):
    """A file that had not arrived when the program ended."""

    def __init__(self) -> None:
        super().__init__(
            "Sequor was stopped before the whole file had arrived. Nothing was added; import the file again"
        )


CODES: dict[type[BaseException], str] = {
    UnreadablePictureError: "unreadable",
    RecipeError: "recipe",
    NoRoomError: "no-room",
    OriginalDamagedError: "original-damaged",
    OriginalMissingError: "original-missing",
    PatchDamagedError: "patch-damaged",
    PatchMissingError: "patch-missing",
    ObjectsGoneError: "store",
    PainterError: "painter",
    PhotoUnknownError: "gone",
    UnreadableStateError: "unreadable-state",
    ChangedMeanwhileError: "changed",
    NoMemoryError: "memory",
    TooLongError: "time",
    BrokenOffError: "broken-off",
    NeverArrivedError: "broken-off",
}


@dataclass(frozen=True)
class Failure:
    """Why work failed: ``code`` for programs, ``words`` for people."""

    code: str
    words: str


UNEXPECTED = Failure(
    "unexpected",
    "Something went wrong in Sequor. Nothing was changed; try again. "
    "If it happens again, see asked.log in the "
    "data folder",
)


class FailedError(Exception):
    """Work has failed, as :class:`Failure` tells."""

    def __init__(self, failure: Failure) -> None:
        super().__init__(failure.words)
        self.failure = failure


def failure_of(error: BaseException) -> Failure | None:
    """The failure that an exception stands for; None for one that nobody foresaw."""
    if isinstance(error, FailedError):
        return error.failure
    if isinstance(error, MemoryError):
        error = NoMemoryError()
    code = next((code for kind, code in CODES.items() if isinstance(error, kind)), None)
    return None if code is None else Failure(code, str(error))
