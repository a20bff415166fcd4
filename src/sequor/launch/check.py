"""``bin/check``: whether all is there and whole; what to do about what is not."""

from __future__ import annotations

import argparse
import shutil
import sys
import threading
from collections.abc import Sequence
from pathlib import Path

from sequor.jobs.children import CancelledError, ChildLostError, prepare, run_in_child
from sequor.jobs.failures import FailedError, TooLongError
from sequor.jobs.tasks import KINDS, Work
from sequor.operations import checking
from sequor.operations.checking import Findings
from sequor.operations.importing import register
from sequor.store.database import Store, migrate

from .installation import data_option, installation, told


def main(arguments: Sequence[str] | None = None) -> int:
    """Check an installation; the exit status: 0 all is well, 1 something is missing or damaged, 2 could not
    look."""
    parser = argparse.ArgumentParser(
        prog="bin/check",
        description="Look whether every original and patch is there and whole, and every state readable.",
    )
    parser.add_argument(
        "--adopt", action="store_true", help="import originals that no photo has, also from quarantine"
    )
    parser.add_argument(
        "--collect", action="store_true", help="remove patches and small pictures that nothing needs any more"
    )
    data_option(parser)
    options = parser.parse_args(arguments)
    return told(lambda: _run(options))


def _run(options: argparse.Namespace) -> int:
    with installation(options.data.resolve()) as here:
        store = here.store
        migrate(store.engine)
        adopted_all = _adopt(store) if options.adopt else True
        if options.collect:
            files, size = checking.collect(store)
            print(f"{files} files that nothing needs were removed, {size / 1e6:.1f} MB")
        found = checking.check(store)
    _tell(found)
    return 0 if found.well and adopted_all else 1


def _tell(found: Findings) -> None:
    print(f"{found.photos} photos, {found.revisions} states and {found.patches} patches were looked at")
    for words, lines in (
        ("Missing", found.missing),
        ("Damaged", found.damaged),
        ("Cannot be read", found.unreadable),
    ):
        for line in lines:
            print(f"{words}: {line}")
    if found.missing or found.damaged:
        print("Bring files back with bin/restore BACKUP, or import the photos again")
    if found.unknown_originals:
        print(f"{len(found.unknown_originals)} originals belong to no photo; --adopt imports them")
    if found.unknown_patches:
        print(f"{len(found.unknown_patches)} patches belong to no take; --collect removes them")
    if found.well:
        print("All is well")


def _adopt(store: Store) -> bool:
    """Import originals that no photo has, under the names that were noted; whether all could be."""
    prepare()
    well = True
    for sha256, file, name in checking.adoptable(store):
        folder = store.work / f"adopt-{sha256[:16]}"
        folder.mkdir(parents=True, exist_ok=True)
        try:
            why = _import(store, file, name, folder)
        finally:
            shutil.rmtree(folder, ignore_errors=True)
        print(f"Not imported: {name}: {why}" if why else f"Imported: {name}")
        well = well and why is None
    return well


def _import(store: Store, file: Path, name: str, folder: Path) -> str | None:
    """Import one file; why that was not possible."""
    shutil.copyfile(file, folder / "file")
    kind, work = KINDS["import"], Work(folder, {}, store.folder, None)
    try:
        found = run_in_child(kind.run, (work,), lambda share, words: None, threading.Event(), kind.seconds)
    except (FailedError, TooLongError, ChildLostError, CancelledError) as error:
        return str(error) or "the part of the program that reads pictures stopped"
    register(store, folder / "file", folder / "screen", found, name)
    return None


if __name__ == "__main__":
    sys.exit(main())
