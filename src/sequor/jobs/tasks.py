"""The kinds of jobs: what each runs, in which lane, for how long and with how much memory at most."""

from __future__ import annotations

import shutil
from collections.abc import Callable
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any

from sequor.operations import carrying, delivering, proposals, series, undoing
from sequor.operations.exporting import Exported, export, export_together
from sequor.operations.filling import Means
from sequor.operations.importing import inspect, register
from sequor.operations.log import get_revision
from sequor.operations.looking_ahead import look_ahead
from sequor.operations.reporting import Report
from sequor.operations.steps import original_of
from sequor.operations.telling import TELL_SECONDS, StoppedError
from sequor.painter.client import Painter
from sequor.pipeline.edges.registry import mode_of
from sequor.recipe.evolve import evolve
from sequor.recipe.model import Recipe
from sequor.recipe.model.export import ExportPart
from sequor.recipe.parse import build
from sequor.store.database import Store

from .failures import FailedError, Failure
from .patience import patiently

Spec = dict[str, Any]

GB = 1 << 30

RARELY = 0.5
"""Seconds; nobody looks at one of many."""


@dataclass(frozen=True)
class Work:
    """What a job has at hand: its own folder, what was asked for, the installation; ``write`` writes to its
    row, and tells whether it is still this process's."""

    folder: Path
    spec: Spec
    store: Store
    painter: Painter | None
    write: Callable[..., bool]

    @property
    def original(self) -> Path:
        """The photo's original. Raises OriginalMissingError."""
        return self.store.originals.path(self.spec["sha256"])

    @property
    def means(self) -> Means:
        """What a fill may use."""
        return Means(self.store.patches.path, self.painter)


@dataclass(frozen=True)
class Kind:
    """A kind of job. The lanes of a worker are served in turn, so that many of one hold up no other.
    ``keeps``: files that it wrote and that stay when it is done; ``brings``: the file that was brought to it;
    ``tells``: every so many seconds how far it is."""

    lane: str
    seconds: float
    run: Callable[[Report, Work], Spec]
    memory: int = 8 * GB
    keeps: tuple[str, ...] = ()
    brings: str = ""
    tells: float = TELL_SECONDS


def _import(report: Report, work: Work) -> Spec:
    """Look an untrusted file over, and keep it; of an exported picture whose original is here, nothing before
    somebody has chosen."""
    screen = work.folder / "screen"
    # What an earlier attempt left is not to be mixed with this one's.
    shutil.rmtree(screen, ignore_errors=True)
    file, spec = work.folder / "file", work.spec
    found = inspect(file, screen, report)
    original = None if found.steps is None else original_of(work.store, found.steps)
    if original is not None and not spec.get("own"):
        return {"photo_id": original.id, "steps": found.steps, "title": original.title}
    # From now on a start knows the original as one that is on its way.
    if not work.write(sha256=found.sha256):
        raise StoppedError
    try:
        imported = patiently(
            lambda: register(work.store, file, screen, found, spec["name"], spec.get("batch"))
        )
    except OSError as error:
        raise FailedError(
            Failure(
                "no-room",
                f"The photo could not be stored: {error.strerror}. Nothing of it was kept; make room "
                "on the disk and import it again",
            )
        ) from None
    return {"photo_id": imported.photo_id, "known": imported.known, "notices": list(found.notices)}


def _export(report: Report, work: Work) -> Spec:
    """Write one export, and beside it, where pixels are new, the mask of them."""
    recipe = build(work.spec["recipe"])
    mask = work.folder / "mask" if makes_new(recipe) else None
    written = export(work.original, recipe, work.folder / "export", report, work.means, mask)
    return _result([written])


def _export_together(report: Report, work: Work) -> Spec:
    """Write several states of a photo into one file."""
    named = [(name, build(recipe)) for name, recipe in work.spec["named"]]
    return _result(export_together(work.original, named, work.folder / "export", report, work.means))


def _write(report: Report, work: Work) -> Spec:
    """Write one of many exports; where a folder was named for them, it is put there."""
    spec = work.spec
    recipe = get_revision(work.store, spec["photo_id"], spec["revision_id"])
    recipe = evolve(recipe, export=ExportPart.model_validate(spec["export"]))
    file = work.folder / "export"
    written = export(work.original, recipe, file, report, work.means)
    if spec.get("folder") is not None:
        delivering.deliver(file, Path(spec["folder"]), spec["name"])
        file.unlink()
    delivering.tell_exported(work.store, spec["photo_id"], spec["revision_id"])
    return _result([written])


def _look(report: Report, work: Work) -> Spec:
    """Look at a photo."""
    report(0.1, "Looking")
    seen = look_ahead(work.store, **work.spec)
    return {"confidence": seen.confidence}


def _of_one(words: str, change: Callable[..., Spec]) -> Callable[[Report, Work], Spec]:
    """What changes one of many photos."""

    def run(report: Report, work: Work) -> Spec:
        report(0.1, words)
        return change(work.store, **work.spec)

    return run


def _undo(report: Report, work: Work) -> Spec:
    """Take back a batch."""
    return undoing.take_back(work.store, report, **work.spec)


def makes_new(recipe: Recipe) -> bool:
    """Whether an export of it makes new pixels, which takes longest."""
    return mode_of(recipe.edges).makes_pixels or bool(recipe.edges.touch_ups)


def _result(written: list[Exported]) -> Spec:
    notices = list(dict.fromkeys(notice for one in written for notice in one.notices))
    return {**asdict(written[0]), "notices": notices}


KINDS: dict[str, Kind] = {
    "import": Kind("import", 60, _import, brings="file"),
    "export": Kind("export", 600, _export, keeps=("export", "mask")),
    "versions": Kind("export", 1800, _export_together, keeps=("export",)),
    "write": Kind("bulk", 600, _write, keeps=("export",), tells=RARELY),
    "look": Kind("look", 60, _look, memory=4 * GB),
    "take": Kind("bulk", 120, _of_one("Looking", proposals.take), memory=4 * GB),
    "carry": Kind("bulk", 120, _of_one("Carrying over", carrying.carry), memory=4 * GB),
    "series": Kind("bulk", 120, _of_one("Solving together", series.share), memory=4 * GB),
    "undo": Kind("bulk", 600, _undo, memory=4 * GB),
}


def export_spec(sha256: str, recipe: Recipe) -> Spec:
    """What an export is told."""
    return {"sha256": sha256, "recipe": recipe.model_dump(mode="json")}


def versions_spec(sha256: str, named: list[tuple[str, Recipe]]) -> Spec:
    """What an export of several states is told: the name of each in the file, and its recipe."""
    return {"sha256": sha256, "named": [[name, recipe.model_dump(mode="json")] for name, recipe in named]}
