"""Files named by the SHA-256 of their content, written once and never changed: originals and patches."""

from __future__ import annotations

import hashlib
import os
from collections.abc import Iterable
from pathlib import Path

CHUNK = 1 << 20


class OriginalMissingError(LookupError):
    """The file of a photo is no longer in the data folder."""


class PatchMissingError(LookupError):
    """The file of a patch is no longer in the data folder."""


class Files:
    """A folder of such files; what is missing from it is told by ``missing``."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder

    def missing(self, sha256: str) -> Exception:
        """What to raise for a file that is not there."""
        return FileNotFoundError(f"{sha256} is missing from {self.folder}")

    def path(self, sha256: str) -> Path:
        """Where the file with this hash lies. Raises what ``missing`` says."""
        path = self._place(sha256)
        if not path.is_file():
            raise self.missing(sha256)
        return path

    def put(self, file: Path, sha256: str) -> bool:
        """Move a file in, synced before it gets its name. False when it was there already."""
        place = self._place(sha256)
        if place.is_file():
            file.unlink()
            return False
        place.parent.mkdir(parents=True, exist_ok=True)
        with file.open("rb") as handle:
            os.fsync(handle.fileno())
        file.chmod(0o444)
        file.replace(place)
        sync_folder(place.parent)
        return True

    def remove(self, sha256: str) -> None:
        """Take a file out again whose row was never written."""
        self._place(sha256).unlink(missing_ok=True)

    def reconcile(self, known: Iterable[str]) -> list[str]:
        """Remove files that no row knows (left by a stop between file and row); the hashes without a file."""
        wanted = set(known)
        for file in self.folder.glob("*/*"):
            if file.name not in wanted:
                file.unlink()
        return sorted(sha256 for sha256 in wanted if not self._place(sha256).is_file())

    def _place(self, sha256: str) -> Path:
        return self.folder / sha256[:2] / sha256


class Originals(Files):
    """The photos as they were imported."""

    def missing(self, sha256: str) -> Exception:
        """An OriginalMissingError."""
        return OriginalMissingError(
            f"the original {sha256[:12]}… is missing from {self.folder}; "
            "put the folder back or import the photo again"
        )


class Patches(Files):
    """New pixels of takes."""

    def missing(self, sha256: str) -> Exception:
        """A PatchMissingError."""
        return PatchMissingError(
            f"the patch {sha256[:12]}… is missing from {self.folder}; put the folder back, or ask for the "
            "takes again at Edges"
        )


def content_hash(path: Path) -> str:
    """The SHA-256 of a file's bytes."""
    digest = hashlib.sha256()
    with path.open("rb") as file:
        while block := file.read(CHUNK):
            digest.update(block)
    return digest.hexdigest()


def sync_folder(folder: Path) -> None:
    """Make a rename in this folder durable."""
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)
