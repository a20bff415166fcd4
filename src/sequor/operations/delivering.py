"""Exports of many photos into a folder that was named at the start."""

from __future__ import annotations

import contextlib
import os
import secrets
import shutil
from pathlib import Path

from sqlalchemy import update

from sequor.store.database import Store
from sequor.store.files import content_hash, sync_folder
from sequor.store.models import Photo
from sequor.store.room import NoRoomError


def deliver(file: Path, folder: Path, name: str) -> None:
    """Put a written file into a folder under its name, whole or not at all; what is there is never
    overwritten. Once more with the same file is harmless. Raises NoRoomError."""
    target = folder / name
    beside = folder / f".{secrets.token_hex(6)}.unfinished"
    try:
        if target.exists() and content_hash(target) == content_hash(file):
            return
        shutil.copyfile(file, beside)
        with beside.open("rb") as handle:
            os.fsync(handle.fileno())
        # A link takes no name that is taken.
        os.link(beside, target)
        sync_folder(folder)
    except FileExistsError:
        raise NoRoomError(
            f"There is another file named “{name}” in the folder by now. It was kept; export again with "
            "another name"
        ) from None
    except OSError as error:
        raise NoRoomError(
            f"The file could not be put into {folder}: {error.strerror}. Nothing was overwritten; make room "
            "there and try again"
        ) from None
    finally:
        with contextlib.suppress(OSError):
            beside.unlink(missing_ok=True)


def tell_exported(store: Store, photo_id: int, revision_id: int) -> None:
    """Let a photo's row tell which of its states was written last."""
    with store.transaction() as session:
        # Not through the photo: it is not changed by this.
        session.execute(update(Photo).where(Photo.id == photo_id).values(exported_id=revision_id))
