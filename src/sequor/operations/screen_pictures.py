"""The photo as taken, reduced for the screen: kept as files, made again where they are not there."""

from __future__ import annotations

import hashlib
import shutil
from pathlib import Path

from sequor.imaging.colour import ToScreen
from sequor.imaging.decode import colour_profile, decode
from sequor.imaging.encode import small_jpeg
from sequor.operations.importing import write_screen_pictures
from sequor.recipe.model.develop import DevelopPart
from sequor.store.database import Store
from sequor.store.files import write_whole

DEVELOPED_KEPT = 6


def screen_picture(
    store: Store,
    sha256: str,
    side: int,
    quarter_turns: int,
    develop: DevelopPart | None = None,
    wide: bool = False,
) -> bytes:
    """The photo as taken for the screen, or for a ``wide`` one, its longest side at most ``side`` pixels."""
    path = screen_file(store, sha256, side, develop, wide)
    if quarter_turns == 0:
        return path.read_bytes()
    turned = path.with_name(f"{side}-{quarter_turns}.jpg")
    if not turned.is_file():
        write_whole(turned, _turned(path, quarter_turns))
    return turned.read_bytes()


def _turned(path: Path, quarter_turns: int) -> bytes:
    return small_jpeg(decode(path, quarter_turns), quality=92, profile=colour_profile(path))


def screen_file(
    store: Store, sha256: str, side: int, develop: DevelopPart | None = None, wide: bool = False
) -> Path:
    """The stored screen picture; made again when the folder was emptied. Those for wide screens, and those
    that were developed otherwise than as shot, lie in folders of their own."""
    folder = store.screen / sha256
    if develop is not None or wide:
        how = f"{wide} {None if develop is None else develop.model_dump_json()}"
        folder /= hashlib.sha256(how.encode()).hexdigest()[:16]
    path = folder / f"{side}.jpg"
    if not path.is_file():
        original = store.originals.path(sha256)
        pixels = decode(original, develop=develop)
        write_screen_pictures(pixels, ToScreen(colour_profile(original), wide), folder)
        if develop is not None:
            _drop_oldest(folder.parent)
    return path


def _drop_oldest(folder: Path) -> None:
    """Keep few of the ways in which a photo was developed; they can be made again."""
    ways = sorted((one for one in folder.iterdir() if one.is_dir()), key=lambda one: one.stat().st_mtime)
    for old in ways[:-DEVELOPED_KEPT]:
        shutil.rmtree(old, ignore_errors=True)
