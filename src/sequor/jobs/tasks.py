"""The tasks that run in a child process."""

from __future__ import annotations

import resource
from pathlib import Path

from sequor.operations.exporting import Exported, export, export_together
from sequor.operations.filling import Means
from sequor.operations.importing import Inspection, inspect
from sequor.operations.reporting import Report
from sequor.painter.client import Painter
from sequor.recipe.model import Recipe
from sequor.store.files import Patches

MEMORY_LIMIT = 8 << 30
"""Address space of a child: a 100-megapixel picture needs about a gigabyte, the libraries two."""


def inspect_file(report: Report, file: Path, screen: Path) -> Inspection:
    """Look an untrusted file over."""
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY_LIMIT, MEMORY_LIMIT))
    return inspect(file, screen, report)


def export_photo(
    report: Report, original: Path, recipe: Recipe, out: Path, patches: Patches, painter: Painter | None
) -> Exported:
    """Write one export, and beside it, where pixels are new, the mask of them."""
    edges = recipe.edges
    mask = out.with_name("mask") if edges.mode == "fill" or edges.touch_ups else None
    return export(original, recipe, out, report, Means(patches.path, painter), mask)


def export_versions(
    report: Report,
    original: Path,
    named: list[tuple[str, Recipe]],
    out: Path,
    patches: Patches,
    painter: Painter | None,
) -> list[Exported]:
    """Write several states of a photo into one file."""
    return export_together(original, named, out, report, Means(patches.path, painter))
