"""Files named by the SHA-256 of their content, written once and never changed: originals and patches.

They lie in a folder. Where several machines share an object store they lie there, and the folder has copies
of those that were used last.
"""

from __future__ import annotations

import contextlib
import hashlib
import logging
import os
import secrets
import shutil
from datetime import UTC, datetime
from pathlib import Path

from .objects import Objects

log = logging.getLogger(__name__)

CHUNK = 1 << 20
PRIVATE = 0o600
"""For its owner alone."""
MOST_KNOWN = 50_000
"""Of so many files it is remembered that they are whole."""
HASH_LENGTH = 64

CACHE = "SEQUOR_CACHE"
"""How many bytes of copies a folder holds before an object store, in the environment."""
CACHE_BYTES = int(os.environ.get(CACHE, "20000000000"))
LOOKED_AT_EVERY = 0.05
"""After such a share of that was brought it is looked whether there are more."""


class OriginalMissingError(LookupError):
    """The file of a photo is no longer in the data folder."""


class OriginalDamagedError(OriginalMissingError):
    """The file of a photo is no longer what was imported."""


class PatchMissingError(LookupError):
    """The file of a patch is no longer in the data folder."""


class PatchDamagedError(PatchMissingError):
    """The file of a patch is no longer what was made."""


class Files:
    """A folder of such files; what is missing from it is told by ``missing``, what is damaged by ``damaged``.

    Nothing is ever deleted here but copies: what does not belong, or is not what it was, is moved into a
    quarantine. With ``objects`` every method also raises ObjectsGoneError.
    """

    def __init__(self, folder: Path, objects: Objects | None = None) -> None:
        self.folder, self.objects = folder, objects
        self._whole: dict[str, tuple[int, ...]] = {}
        self._brought = 0

    def missing(self, sha256: str) -> Exception:
        """What to raise for a file that is not there."""
        return FileNotFoundError(f"{sha256} is missing from {self.folder}")

    def damaged(self, sha256: str, aside: Path) -> Exception:
        """What to raise for a file whose content is not what it was, and which now lies in a quarantine."""
        return FileNotFoundError(f"{sha256} is damaged and was moved to {aside}")

    def path(self, sha256: str) -> Path:
        """Where the file with this hash lies. Its content is read against the hash, once as long as the file
        does not change. Raises what ``missing`` and ``damaged`` say, OSError.
        """
        path = self.place(sha256)
        try:
            found = path.stat()
        except FileNotFoundError:
            if self.objects is None:
                raise self.missing(sha256) from None
            return self._bring(self.objects, sha256)
        seen = _seen(found)
        if self._whole.get(sha256) == seen:
            return path
        try:
            # What was read wrongly once is read again before it is believed.
            damaged = content_hash(path) != sha256 and content_hash(path) != sha256
            if damaged and self.objects is not None:
                path.unlink()
                return self._bring(self.objects, sha256)
            aside = self.quarantine(sha256, f"damaged-{self.folder.name}") if damaged else None
        except FileNotFoundError:
            # Somebody else has just moved it.
            raise self.missing(sha256) from None
        if aside is not None:
            raise self._refused(sha256, aside)
        self._know(sha256, seen)
        return path

    def _know(self, sha256: str, seen: tuple[int, ...]) -> None:
        if len(self._whole) >= MOST_KNOWN:
            self._whole.clear()
        self._whole[sha256] = seen

    def _refused(self, sha256: str, aside: Path) -> Exception:
        log.error("one of the %s was not what it had been, and was moved aside", self.folder.name)
        return self.damaged(sha256, aside)

    def _bring(self, objects: Objects, sha256: str) -> Path:
        """A copy of an object, hashed while it is read."""
        place = self.place(sha256)
        place.parent.mkdir(parents=True, exist_ok=True)
        beside = place.with_name(f".{sha256[:8]}-{secrets.token_hex(6)}")
        try:
            for _ in range(2):
                if objects.fetch(self.key(sha256), beside) == sha256:
                    beside.chmod(0o444)
                    found = beside.stat()
                    beside.replace(place)
                    self._know(sha256, _seen(found))
                    self._make_room(place, found.st_size)
                    return place
            aside = self.quarantine(sha256, f"damaged-{self.folder.name}")
        except FileNotFoundError:
            raise self.missing(sha256) from None
        finally:
            beside.unlink(missing_ok=True)
        raise self._refused(sha256, aside)

    def _make_room(self, newest: Path, size: int) -> None:
        """Remove the copies that were used longest ago, when there are too many."""
        self._brought += size
        if self._brought < LOOKED_AT_EVERY * CACHE_BYTES:
            return
        self._brought = 0
        copies = [(file.stat(), file) for file in self.folder.glob("*/*") if len(file.name) == HASH_LENGTH]
        over = sum(found.st_size for found, _ in copies) - CACHE_BYTES
        for found, file in sorted(copies, key=lambda one: max(one[0].st_atime, one[0].st_mtime)):
            if over <= 0:
                break
            if file != newest:
                file.unlink(missing_ok=True)
                over -= found.st_size

    def trouble(self, sha256: str) -> str | None:
        """Whether a file is "missing" or "damaged", all of it read again where it lies."""
        try:
            if self.objects is not None:
                found = self.objects.hash(self.key(sha256))
            else:
                found = content_hash(self.place(sha256))
        except FileNotFoundError:
            return "missing"
        return None if found == sha256 else "damaged"

    def put(self, file: Path, sha256: str) -> None:
        """Keep a file under its hash, synced before it gets its name; ``file`` stays where it is.

        One that is there already is looked at: if it is damaged, this one takes its place. Several may put
        the same file at once. Raises OSError.
        """
        if self.objects is not None and not self.objects.put(file, self.key(sha256)):
            self._heal(self.objects, file, sha256)
        place = self.place(sha256)
        if place.is_file() and content_hash(place) == sha256:
            return
        place.parent.mkdir(parents=True, exist_ok=True)
        with file.open("rb") as handle:
            os.fsync(handle.fileno())
        beside = place.with_name(f".{sha256[:8]}-{secrets.token_hex(6)}")
        try:
            _link_or_copy(file, beside)
            beside.chmod(0o444)
            beside.replace(place)
        finally:
            beside.unlink(missing_ok=True)
        sync_folder(place.parent)

    def _heal(self, objects: Objects, file: Path, sha256: str) -> None:
        """Put a file in the place of an object that is damaged."""
        key = self.key(sha256)
        if objects.size(key) == file.stat().st_size and objects.hash(key) == sha256:
            return
        with contextlib.suppress(FileNotFoundError):
            self.quarantine(sha256, f"damaged-{self.folder.name}")
        objects.put(file, key)

    def all(self) -> list[str]:
        """The hashes of all files that are there."""
        if self.objects is not None:
            names = (key.rpartition("/")[2] for key in self.objects.keys(self.folder.name))
            return sorted(name for name in names if len(name) == HASH_LENGTH)
        return sorted(file.name for file in self.folder.glob("*/*") if len(file.name) == HASH_LENGTH)

    def quarantine(self, sha256: str, what: str) -> Path:
        """Move a file that is damaged or does not belong here into a quarantine of today, with what was noted
        of it."""
        if self.objects is not None:
            aside = quarantine_in(Path(), what) / sha256
            with contextlib.suppress(FileNotFoundError):
                self.objects.move(f"{self.key(sha256)}.name", f"{aside}.name")
            self.objects.move(self.key(sha256), str(aside))
            self.place(sha256).unlink(missing_ok=True)
            return aside
        folder = quarantine_in(self.folder.parent, what)
        folder.mkdir(parents=True, exist_ok=True)
        place = self.place(sha256)
        target = folder / sha256
        if target.exists():
            target = folder / f"{sha256}-{secrets.token_hex(4)}"
        note = self.note(sha256)
        if note.is_file():
            note.replace(folder / note.name)
        place.replace(target)
        sync_folder(folder)
        return target

    def place(self, sha256: str) -> Path:
        """Where the file with this hash belongs."""
        return self.folder / sha256[:2] / sha256

    def key(self, sha256: str) -> str:
        """What the file with this hash is called in an object store."""
        return f"{self.folder.name}/{sha256[:2]}/{sha256}"

    def note(self, sha256: str) -> Path:
        """Where the name that a file was brought under is noted, so that it is known without a database."""
        return self.folder / sha256[:2] / f"{sha256}.name"


class Originals(Files):
    """The photos as they were imported."""

    def remember(self, sha256: str, name: str) -> None:
        """Note the name of a file. Raises OSError."""
        write_whole(self.note(sha256), name.encode())
        if self.objects is not None:
            self.objects.write(name.encode(), f"{self.key(sha256)}.name")

    def name(self, sha256: str) -> str:
        """The name that was noted, or a part of the hash."""
        try:
            if self.objects is not None:
                noted = self.objects.read(f"{self.key(sha256)}.name").decode(errors="replace")
            else:
                noted = self.note(sha256).read_text(errors="replace")
            return noted.strip() or sha256[:12]
        except OSError:
            return sha256[:12]

    def missing(self, sha256: str) -> Exception:
        """An OriginalMissingError."""
        return OriginalMissingError(
            f"The original {sha256[:12]}… is missing from {self.folder}; "
            "put the folder back or import the photo again"
        )

    def damaged(self, sha256: str, aside: Path) -> Exception:
        """An OriginalDamagedError."""
        return OriginalDamagedError(
            f"The original {sha256[:12]}… is damaged: it is not what was imported. It was moved to "
            f"{aside.parent}, and all steps are kept; import the photo again, or bring it back from a backup"
        )


class Patches(Files):
    """New pixels of takes."""

    def missing(self, sha256: str) -> Exception:
        """A PatchMissingError."""
        return PatchMissingError(
            f"The patch {sha256[:12]}… is missing from {self.folder}; put the folder back, or ask for the "
            "takes again at Edges"
        )

    def damaged(self, sha256: str, aside: Path) -> Exception:
        """A PatchDamagedError."""
        return PatchDamagedError(
            f"The patch {sha256[:12]}… is damaged and was moved to {aside.parent}; ask for the takes again "
            "at Edges, or bring it back from a backup"
        )


def quarantine_in(data: Path, what: str) -> Path:
    """Where, of a data folder, files of a kind go today that do not belong there or are damaged."""
    return data / "quarantine" / datetime.now(UTC).date().isoformat() / what


def _seen(found: os.stat_result) -> tuple[int, ...]:
    """By what it is known again that a file has not changed."""
    return found.st_ino, found.st_size, found.st_mtime_ns


def content_hash(path: Path) -> str:
    """The SHA-256 of a file's bytes."""
    digest = hashlib.sha256()
    with path.open("rb") as file:
        while block := file.read(CHUNK):
            digest.update(block)
    return digest.hexdigest()


def kept_secret(file: Path) -> str:
    """A secret of the installation's own, made once and kept in a file that its owner alone reads. Raises
    OSError."""
    if not file.is_file() or not file.read_text():
        write_whole(file, secrets.token_urlsafe(32).encode(), PRIVATE)
    return file.read_text().strip()


def write_whole(path: Path, content: bytes, mode: int = 0o666) -> None:
    """Write a file so that nobody ever sees a part of it: under another name first, then renamed. ``mode``:
    who may read and write it, less what the process lets nobody do.

    Raises OSError; nothing of it is left then.
    """
    beside = path.with_name(f".{path.name}-{secrets.token_hex(6)}")
    try:
        beside.touch(mode)
        beside.write_bytes(content)
        beside.replace(path)
    finally:
        beside.unlink(missing_ok=True)


def _link_or_copy(file: Path, beside: Path) -> None:
    try:
        os.link(file, beside)
    except OSError:
        # Not every file system has links, and none across disks.
        with file.open("rb") as source, beside.open("xb") as target:
            shutil.copyfileobj(source, target, CHUNK)
            target.flush()
            os.fsync(target.fileno())


def sync_folder(folder: Path) -> None:
    """Make a rename in this folder durable."""
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)
