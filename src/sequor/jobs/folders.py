"""The folders of jobs: what is brought to a job, and what it writes.

They lie on the machine that uses them. Where several share an object store, what one of them is to have from
another goes through it, and goes when the job is forgotten.
"""

from __future__ import annotations

import contextlib
import shutil
from collections.abc import Container
from datetime import UTC, datetime, timedelta
from pathlib import Path

from sequor.store.database import Store

WORK = "work"
LEFT = timedelta(days=1)
"""What has lain in the object store for so long, and belongs to no job, was left by who is gone."""


def folder_of(store: Store, name: str) -> Path:
    """The folder of a job, which goes with it."""
    return store.work / name


def hand_over(store: Store, name: str, *files: str) -> None:
    """Let other machines have files of a job's folder, where they are there. Raises OSError."""
    if store.objects is not None:
        for file in files:
            if (place := folder_of(store, name) / file).is_file():
                store.objects.write(place, f"{WORK}/{name}/{file}")


def is_there(store: Store, name: str, file: str, size: int | None = None) -> bool:
    """Whether a job's folder has a file, of this size, here or handed over. Raises OSError."""
    place = folder_of(store, name) / file
    if place.is_file():
        return size is None or place.stat().st_size == size
    if store.objects is None:
        return False
    found = store.objects.size(f"{WORK}/{name}/{file}")
    return found is not None and size in (None, found)


def received(store: Store, name: str, file: str) -> Path:
    """Where a file of a job's folder lies, brought here when it was handed over elsewhere; the file need not
    be there. Raises OSError."""
    place = folder_of(store, name) / file
    if store.objects is not None and not place.is_file():
        place.parent.mkdir(exist_ok=True)
        beside = place.with_name(f"{file}.coming")
        try:
            store.objects.fetch(f"{WORK}/{name}/{file}", beside)
            beside.replace(place)
        except FileNotFoundError:
            beside.unlink(missing_ok=True)
    return place


def forget(store: Store, *names: str) -> None:
    """Remove the folders of jobs; what cannot be removed now is swept later."""
    for name in names:
        shutil.rmtree(folder_of(store, name), ignore_errors=True)
        if store.objects is not None:
            with contextlib.suppress(OSError):
                store.objects.remove(list(store.objects.keys(f"{WORK}/{name}")))


def forget_left(store: Store, jobs: Container[str]) -> None:
    """Remove what was handed over long ago for none of these jobs."""
    if store.objects is not None:
        with contextlib.suppress(OSError):
            old = store.objects.keys(WORK, datetime.now(UTC) - LEFT)
            store.objects.remove([key for key in old if key.split("/")[1] not in jobs])
