"""``bin/restore``: a data folder from a backup. What was there before is set aside, never deleted."""

from __future__ import annotations

import argparse
import shutil
import sys
import tarfile
import tempfile
from collections.abc import Sequence
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from sequor.store.files import Originals, Patches, content_hash, quarantine_in
from sequor.store.objects import Objects

from .backup import KINDS, read_manifest
from .dump import dump, load
from .installation import data_option, told
from .mariadb import MariaDB, hold
from .outside import Shared, SharedDatabase, shared
from .processes import StartError, end_orphan


def main(arguments: Sequence[str] | None = None) -> int:
    """Restore a backup; the exit status."""
    parser = argparse.ArgumentParser(
        prog="bin/restore",
        description="Bring a backup back. What is in the data folder is set aside, not deleted.",
    )
    parser.add_argument("backup", type=Path, help="the folder or the .tar file that bin/backup wrote")
    data_option(parser)
    options = parser.parse_args(arguments)
    return told(lambda: _run(options.backup.resolve(), options.data.resolve(), shared(options)))


def _run(backup: Path, data: Path, where: Shared | None) -> int:
    if not backup.exists():
        raise StartError(f"there is no backup {backup}")
    data.mkdir(mode=0o700, parents=True, exist_ok=True)
    data.chmod(0o700)
    if backup.is_dir():
        return _restore(backup, data, where)
    with tempfile.TemporaryDirectory(dir=data, prefix=".restoring-") as folder:
        try:
            with tarfile.open(backup) as tar:
                tar.extractall(folder, filter="data")
        except tarfile.TarError as error:
            raise StartError(f"{backup} cannot be read: {error}; nothing was changed") from None
        return _restore(Path(folder), data, where)


def _restore(backup: Path, data: Path, where: Shared | None) -> int:
    manifest = read_manifest(backup)
    text = backup / Path(manifest["database"]).name
    if not text.is_file() or content_hash(text) != manifest["database_sha256"]:
        raise StartError(f"the database in {backup} is damaged; take another backup. Nothing was changed")
    if where is not None:
        lost, aside = _bring_shared(backup, data, manifest, where)
        return _told(manifest, lost, aside, where.database.rpartition("@")[2])
    (data / "database").mkdir(mode=0o700, exist_ok=True)
    lock = hold(data / "database")
    try:
        end_orphan(data / "database" / "mariadbd.pid")
        lost = _bring_files(backup, data, manifest)
        aside = _swap_database(text, data)
    finally:
        lock.close()
    return _told(manifest, lost, aside, str(data))


def _told(manifest: dict[str, Any], lost: list[str], aside: Path | None, where: str) -> int:
    for sha256 in lost:
        print(f"damaged in the backup, and so not restored: {sha256}", file=sys.stderr)
    print(f"{manifest['photos']} photos with {manifest['revisions']} states are back in {where}")
    if aside:
        print(f"The database that was there before is in {aside}")
    return 1 if lost else 0


def _bring_shared(
    backup: Path, data: Path, manifest: dict[str, Any], where: Shared
) -> tuple[list[str], Path | None]:
    """Bring a backup to shared services: what is damaged of it, and where the text lies of the database that
    was there before."""
    database = SharedDatabase(where.database, data / "database")
    try:
        lost = _bring_files(backup, data, manifest, where.objects())
        aside = quarantine_in(data, f"database-{datetime.now(UTC):%H%M%S-%f}.sql")
        aside.parent.mkdir(parents=True, exist_ok=True)
        dump(database.client, aside)
        load(database.client, backup / Path(manifest["database"]).name)
    finally:
        database.stop()
    return lost, aside


def _bring_files(
    backup: Path, data: Path, manifest: dict[str, Any], objects: Objects | None = None
) -> list[str]:
    """Bring the files of a backup, each hashed; those that are damaged."""
    places = {
        "originals": Originals(data / "originals", objects),
        "patches": Patches(data / "patches", objects),
    }
    lost = []
    for kind in KINDS:
        for sha256 in manifest[kind]:
            file = backup / kind / sha256[:2] / sha256
            if places[kind].trouble(sha256) is None:
                continue
            if not file.is_file() or content_hash(file) != sha256:
                lost.append(sha256)
                continue
            # A copy: the backup is not to share its bytes with what is worked on.
            beside = data / f".{sha256[:16]}.new"
            try:
                shutil.copyfile(file, beside)
                places[kind].put(beside, sha256)
            finally:
                beside.unlink(missing_ok=True)
            note = file.with_name(f"{sha256}.name")
            if note.is_file():
                shutil.copyfile(note, places[kind].note(sha256))
                if objects is not None:
                    objects.write(note, f"{places[kind].key(sha256)}.name")
    return lost


def _swap_database(text: Path, data: Path) -> Path | None:
    """Make a database from its text beside the present one, then let them change places."""
    fresh = data / "database.restored"
    shutil.rmtree(fresh, ignore_errors=True)
    database = MariaDB(fresh)
    try:
        load(database.client, text)
    finally:
        database.stop()
    now = data / "database"
    aside: Path | None = None
    if (now / "initialised").is_file():
        aside = quarantine_in(data, f"database-{datetime.now(UTC):%H%M%S-%f}")
        aside.parent.mkdir(parents=True, exist_ok=True)
        now.rename(aside)
    else:
        shutil.rmtree(now)
    fresh.rename(now)
    # First looks and small pictures are made again; those of another database would be wrong.
    shutil.rmtree(data / "rough", ignore_errors=True)
    # The demo photos are what the backup says of them.
    (data / "demo-loaded").write_text("1\n")
    return aside


if __name__ == "__main__":
    sys.exit(main())
