"""The tasks that run in a child process."""

from __future__ import annotations

import resource
from pathlib import Path

from sequor.operations.exporting import Exported, export, export_together
from sequor.operations.importing import Inspection, inspect
from sequor.operations.reporting import Report
from sequor.recipe.model import Recipe
from sequor.store.files import Patches

MEMORY_LIMIT = 8 << 30
"""Address space of a child: a 100-megapixel picture needs about a gigabyte, the libraries two."""


def inspect_file(report: Report, file: Path, screen: Path) -> Inspection:
    """Look an untrusted file over."""
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY_LIMIT, MEMORY_LIMIT))
    return inspect(file, screen, report)


def export_photo(report: Report, original: Path, recipe: Recipe, out: Path, patches: Patches) -> Exported:
    """Write one export, and beside it, where pixels are new, the mask of them."""
    mask = out.with_name("mask") if recipe.edges.mode == "fill" else None
    return export(original, recipe, out, report, patches.path, mask)


def export_versions(
    report: Report, original: Path, named: list[tuple[str, Recipe]], out: Path, patches: Patches
) -> list[Exported]:
    """Write several states of a photo into one file."""
    return export_together(original, named, out, report, patches.path)
