"""What commands print, one JSON document a line, and how they end."""

from __future__ import annotations

import json
import os
import tempfile
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from sequor.recipe.model import Recipe

Document = dict[str, Any]
FAILED = 2
"""The exit status when anything went wrong."""


def each(
    paths: Sequence[Path], one: Callable[[Path], Document], refused: tuple[type[Exception], ...] = ()
) -> int:
    """Print what comes of each; ``refused``: errors besides those of recipes and files that are told."""
    from sequor.recipe.parse import RecipeError

    told: tuple[type[Exception], ...] = (OSError, *refused)
    status = 0
    for path in paths:
        try:
            document = {"recipe": str(path), **one(path)}
        except RecipeError as error:
            document = {"recipe": str(path), "error": str(error), "field": error.field or None}
            status = FAILED
        except told as error:
            document = {"recipe": str(path), "error": str(error), "field": None}
            status = FAILED
        except MemoryError:
            document = {"recipe": str(path), "error": "there is not enough memory for this", "field": None}
            status = FAILED
        except Exception as error:
            words = f"something went wrong that should not have ({type(error).__name__}: {error})"
            document = {"recipe": str(path), "error": words, "field": None}
            status = FAILED
        print_line(document)
    return status


def load(path: Path) -> Recipe:
    """The recipe in a file. Raises RecipeError."""
    from sequor.recipe.parse import RecipeError, parse

    try:
        return parse(path.read_bytes())
    except OSError as error:
        raise RecipeError(f"the recipe cannot be read: {error.strerror}", "") from None


def rewrite(path: Path, change: Callable[[Document], None]) -> None:
    """Replace the file in one step, so that a stop half way leaves the old one."""
    original = json.loads(path.read_text())
    change(original)
    with tempfile.NamedTemporaryFile("w", dir=path.parent, delete=False, suffix=".json") as file:
        file.write(json.dumps(original, indent=2) + "\n")
        file.flush()
        os.fsync(file.fileno())
    Path(file.name).chmod(path.stat().st_mode)
    Path(file.name).replace(path)


def print_line(document: Document) -> None:
    """A document on a line of its own, at once."""
    line = json.dumps(document, ensure_ascii=False)
    # A name need not be text; what cannot be written is written escaped.
    print(line.encode(errors="backslashreplace").decode(), flush=True)
