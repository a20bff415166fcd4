"""``bin/check``: whether all is there and whole; what to do about what is not."""

from __future__ import annotations

import argparse
import shutil
import sys
import time
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path

from sequor.jobs.background import Background
from sequor.jobs.jobs import Jobs
from sequor.operations import checking
from sequor.operations.accounts import NoRoomLeftError, TooMuchWorkError, first_account
from sequor.operations.checking import Findings
from sequor.operations.telling import UNFINISHED
from sequor.store.database import migrate
from sequor.store.owners import acting_for

from .background import Services, background_of
from .installation import Installation, data_option, installation, told
from .outside import shared

ASK_SECONDS, BEGUN_WITHIN_SECONDS = 0.1, 120.0


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
    with installation(options.data.resolve(), shared(options)) as here:
        store = here.store
        if here.broker is None:
            migrate(store.engine)
        adopted_all = _adopt(here) if options.adopt else True
        if options.collect:
            files, size = checking.collect(store)
            if store.objects is not None:
                print("What machines share is not collected: another one may need it at this moment")
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
        print("Nothing is missing or damaged")


def _adopt(here: Installation) -> bool:
    """Import originals that no photo has, under the names that were noted; whether all could be."""
    well = True
    with _background(here) as background, acting_for(first_account(here.store)):
        jobs = Jobs(here.store, background)
        for _, file, name in checking.adoptable(here.store):
            why = _import(jobs, file, name)
            print(f"Not imported: {name}: {why}" if why else f"Imported: {name}")
            well = well and why is None
    return well


@contextmanager
def _background(here: Installation) -> Iterator[Background]:
    """The workers of the program that is running, or some that are started for as long as they are needed."""
    if here.running:
        yield background_of(here.store) if here.broker is None else Background(here.broker)
        return
    services = Services(here.store, here.url)
    try:
        services.watch()
        yield services.background
    finally:
        services.stop()


def _import(jobs: Jobs, file: Path, name: str) -> str | None:
    """Import one file; why that was not possible."""
    job = jobs.prepare()
    shutil.copyfile(file, jobs.folder(job) / "file")
    try:
        jobs.start(job, "import", name, {"name": name, "bytes": file.stat().st_size})
    except (TooMuchWorkError, NoRoomLeftError) as error:
        jobs.drop(job)
        return str(error)
    deadline = time.monotonic() + BEGUN_WITHIN_SECONDS
    while (found := jobs.get(job)) is not None and found.state in UNFINISHED:
        if found.state == "waiting" and time.monotonic() > deadline:
            jobs.cancel(job)
            return "no worker took it up; see asked.log in the data folder"
        time.sleep(ASK_SECONDS)
    return None if found is None else found.error


if __name__ == "__main__":
    sys.exit(main())
