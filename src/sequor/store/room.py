"""Room on the disk: what would not fit is refused before it is begun; the database always has some left."""

from __future__ import annotations

import shutil
from pathlib import Path

RESERVE = 100_000_000
"""Bytes that nothing but the database may take: its files grow by up to 64 MB at once."""


class NoRoomError(OSError):
    """The disk has no room for what is to be written."""


def refuse_without_room(folder: Path, needed: int, reserve: int = 0) -> None:
    """Raise NoRoomError when the disk of a folder has less than ``needed`` bytes beside the reserve."""
    free = shutil.disk_usage(folder).free
    if free >= needed + reserve:
        return
    if needed < 1_000_000:
        short = f"The disk of {folder} is almost full: {free / 1e6:.0f} MB are free"
    else:
        short = (
            f"There is not enough space on the disk that holds {folder}: "
            f"about {needed / 1e6:.0f} MB are needed and "
            f"{free / 1e6:.0f} MB are free"
        )
    kept = f", and {reserve / 1e6:.0f} MB are kept for the database" if reserve else ""
    raise NoRoomError(f"{short}{kept}. Nothing was changed; free some disk space and try again")
