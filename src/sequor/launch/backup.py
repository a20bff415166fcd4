"""``bin/backup``: everything into a folder or one file, also while the program runs."""

from __future__ import annotations

import argparse
import contextlib
import json
import os
import shutil
import sys
import tarfile
import tempfile
from collections.abc import Sequence
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from sqlalchemy import func, select

from sequor.operations.checking import known_patches
from sequor.store.database import schema_now
from sequor.store.files import (
    Files,
    OriginalMissingError,
    Originals,
    PatchMissingError,
    content_hash,
    sync_folder,
    write_whole,
)
from sequor.store.models import Photo, Revision
from sequor.store.room import NoRoomError

from .dump import dump
from .installation import Installation, data_option, installation, told
from .outside import shared
from .processes import StartError

MANIFEST = "sequor-backup.json"
FORMAT, VERSION = "sequor-backup", 1
KINDS = ("originals", "patches")


def main(arguments: Sequence[str] | None = None) -> int:
    """Make a backup; the exit status: 1 when something that belongs to it was not there."""
    parser = argparse.ArgumentParser(
        prog="bin/backup",
        description="Back up photos, their history and their patches, also while Sequor runs.",
    )
    parser.add_argument(
        "target", type=Path, help="a folder, into which only what is new is copied, or a file NAME.tar"
    )
    data_option(parser)
    options = parser.parse_args(arguments)
    return told(lambda: _run(options))


def _run(options: argparse.Namespace) -> int:
    target: Path = options.target.resolve()
    with installation(options.data.resolve(), shared(options)) as here:
        back_up = _into_file if target.suffix == ".tar" else into_folder
        manifest = back_up(here, target)
    missing = manifest["missing"]
    for sha256 in missing:
        print(f"missing or damaged, and so not in the backup: {sha256}", file=sys.stderr)
    count = f"{manifest['photos']} photos with {manifest['revisions']} states"
    print(f"{count} and {len(manifest['patches'])} patches are in {target}")
    return 1 if missing else 0


def into_folder(here: Installation, target: Path) -> dict[str, Any]:
    """Back up into a folder. What is there already by its hash is not copied again; until the very end the
    backup that was there before stays whole. Raises StartError, OSError."""
    target.mkdir(parents=True, exist_ok=True)
    before = read_manifest(target) if (target / MANIFEST).is_file() else None
    if before is None and any(target.iterdir()):
        raise StartError(f"{target} holds something else; name an empty folder or an earlier backup")
    text = target / f"database-{datetime.now(UTC):%Y%m%d-%H%M%S-%f}.sql"
    # Rows first: what they name was there before them, and no file of a row is ever taken away.
    manifest = _written_out(here, text)
    for kind in KINDS:
        files: Files = getattr(here.store, kind)
        for sha256 in list(manifest[kind]):
            if not _copy(files, sha256, target / kind):
                manifest[kind].remove(sha256)
                manifest["missing"].append(sha256)
    _write_json(target / MANIFEST, manifest)
    for old in target.glob("database-*.sql"):
        if old != text:
            old.unlink()
    return manifest


def _into_file(here: Installation, target: Path) -> dict[str, Any]:
    """Back up into one file, which is whole or not there."""
    beside = target.with_name(f".{target.name}.new")
    try:
        with tempfile.TemporaryDirectory(dir=target.parent) as folder:
            text = Path(folder) / "database.sql"
            manifest = _written_out(here, text)
            with tarfile.open(beside, "w") as tar:
                tar.add(text, text.name)
                for kind in KINDS:
                    _add_all(tar, getattr(here.store, kind), kind, manifest)
                _write_json(Path(folder) / MANIFEST, manifest)
                tar.add(Path(folder) / MANIFEST, MANIFEST)
        with beside.open("rb") as written:
            os.fsync(written.fileno())
        beside.replace(target)
    finally:
        beside.unlink(missing_ok=True)
    return manifest


def _add_all(tar: tarfile.TarFile, files: Files, kind: str, manifest: dict[str, Any]) -> None:
    for sha256 in list(manifest[kind]):
        place, note = _brought(files, sha256), files.note(sha256)
        if not place.is_file() or content_hash(place) != sha256:
            manifest[kind].remove(sha256)
            manifest["missing"].append(sha256)
            continue
        tar.add(place, f"{kind}/{sha256[:2]}/{sha256}")
        if note.is_file():
            tar.add(note, f"{kind}/{sha256[:2]}/{note.name}")


def _written_out(here: Installation, text: Path) -> dict[str, Any]:
    """Write the database out, and what the backup is to hold."""
    dump(here.client, text)
    store = here.store
    with store.transaction() as session:
        originals = sorted(session.scalars(select(Photo.sha256)))
        revisions = session.scalar(select(func.count(Revision.id)))
    return {
        "format": FORMAT,
        "version": VERSION,
        "made_at": datetime.now(UTC).isoformat(),
        "schema": schema_now(store.engine)[0],
        "database": text.name,
        "database_sha256": content_hash(text),
        "photos": len(originals),
        "revisions": revisions,
        "originals": originals,
        "patches": sorted(known_patches(store)),
        "missing": [],
    }


def _copy(files: Files, sha256: str, target: Path) -> bool:
    """Copy a file and what is noted of it, if it is whole; whether it is in the backup now."""
    goal = target / sha256[:2] / sha256
    if files.objects is not None and goal.is_file() and content_hash(goal) == sha256:
        return True
    place = _brought(files, sha256)
    if goal.is_file() and place.is_file() and goal.stat().st_size == place.stat().st_size:
        return True
    if not place.is_file():
        return goal.is_file() and content_hash(goal) == sha256
    goal.parent.mkdir(parents=True, exist_ok=True)
    beside = goal.with_name(f".{sha256[:16]}.new")
    try:
        _copy_durably(place, beside)
        if content_hash(beside) != sha256:
            return goal.is_file() and content_hash(goal) == sha256
        beside.replace(goal)
    finally:
        beside.unlink(missing_ok=True)
    sync_folder(goal.parent)
    if files.note(sha256).is_file():
        shutil.copyfile(files.note(sha256), goal.with_name(f"{sha256}.name"))
    return True


def _brought(files: Files, sha256: str) -> Path:
    """Where a file lies; what is shared with other machines is brought here first, with what was noted."""
    if files.objects is not None:
        with contextlib.suppress(OriginalMissingError, PatchMissingError):
            files.path(sha256)
            if isinstance(files, Originals) and (name := files.name(sha256)) != sha256[:12]:
                write_whole(files.note(sha256), name.encode())
    return files.place(sha256)


def _copy_durably(source: Path, target: Path) -> None:
    try:
        with source.open("rb") as read, target.open("wb") as written:
            shutil.copyfileobj(read, written, 1 << 20)
            written.flush()
            os.fsync(written.fileno())
    except OSError as error:
        raise NoRoomError(error.errno, error.strerror, str(target)) from None


def _write_json(file: Path, document: dict[str, Any]) -> None:
    write_whole(file, (json.dumps(document, indent=1) + "\n").encode())


def read_manifest(folder: Path) -> dict[str, Any]:
    """What a backup says it holds. Raises StartError."""
    try:
        document: dict[str, Any] = json.loads((folder / MANIFEST).read_text())
        known = document["format"] == FORMAT
        version = document["version"]
    except (OSError, ValueError, KeyError, TypeError):
        raise StartError(f"{folder} is no backup of Sequor") from None
    if not known:
        raise StartError(f"{folder} is no backup of Sequor")
    if version != VERSION:
        raise StartError(f"the backup {folder} was made by a newer Sequor")
    return document


if __name__ == "__main__":
    sys.exit(main())
