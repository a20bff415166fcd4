"""The kinds of jobs: what each runs, in which queue, for how long at most."""

from __future__ import annotations

import shutil
from collections.abc import Callable
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any

from sequor.operations.exporting import Exported, export, export_together
from sequor.operations.filling import Means
from sequor.operations.importing import Inspection, inspect
from sequor.operations.reporting import Report
from sequor.painter.client import Painter
from sequor.pipeline.edges.registry import mode_of
from sequor.recipe.model import Recipe
from sequor.recipe.parse import build
from sequor.store.files import Originals, Patches

Spec = dict[str, Any]


@dataclass(frozen=True)
class Work:
    """What a job has at hand: its own folder, what was asked for, the installation's files."""

    folder: Path
    spec: Spec
    data: Path
    painter: Painter | None

    @property
    def original(self) -> Path:
        """The photo's original. Raises OriginalMissingError."""
        return Originals(self.data / "originals").path(self.spec["sha256"])

    @property
    def means(self) -> Means:
        """What a fill may use."""
        return Means(Patches(self.data / "patches").path, self.painter)


@dataclass(frozen=True)
class Kind:
    """A kind of job. The queues of a worker are served in turn, so that many of one hold up no other."""

    queue: str
    seconds: float
    run: Callable[[Report, Work], Any]


def _inspect(report: Report, work: Work) -> Inspection:
    """Look an untrusted file over."""
    screen = work.folder / "screen"
    # What an earlier attempt left is not to be mixed with this one's.
    shutil.rmtree(screen, ignore_errors=True)
    return inspect(work.folder / "file", screen, report)


def _export(report: Report, work: Work) -> Spec:
    """Write one export, and beside it, where pixels are new, the mask of them."""
    recipe = build(work.spec["recipe"])
    mask = work.folder / "mask" if mode_of(recipe.edges).makes_pixels or recipe.edges.touch_ups else None
    written = export(work.original, recipe, work.folder / "export", report, work.means, mask)
    return _result([written])


def _export_together(report: Report, work: Work) -> Spec:
    """Write several states of a photo into one file."""
    named = [(name, build(recipe)) for name, recipe in work.spec["named"]]
    return _result(export_together(work.original, named, work.folder / "export", report, work.means))


def _result(written: list[Exported]) -> Spec:
    notices = list(dict.fromkeys(notice for one in written for notice in one.notices))
    return {**asdict(written[0]), "notices": notices}


KINDS: dict[str, Kind] = {
    "import": Kind("import", 60, _inspect),
    "export": Kind("export", 600, _export),
    "versions": Kind("export", 1800, _export_together),
}


def export_spec(sha256: str, recipe: Recipe) -> Spec:
    """What an export is told."""
    return {"sha256": sha256, "recipe": recipe.model_dump(mode="json")}


def versions_spec(sha256: str, named: list[tuple[str, Recipe]]) -> Spec:
    """What an export of several states is told: the name of each in the file, and its recipe."""
    return {"sha256": sha256, "named": [[name, recipe.model_dump(mode="json")] for name, recipe in named]}
