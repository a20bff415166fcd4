"""What the program gives the processes it starts, read from their environment."""

from __future__ import annotations

import os
from pathlib import Path

from sequor.painter.client import Painter
from sequor.store.database import Store, connect
from sequor.store.objects import Objects

from .background import DATA, DATABASE, FILES, PAINTER


def given_store() -> Store:
    """The store to work on. Raises KeyError where none is given."""
    files = os.environ.get(FILES)
    objects = Objects(files) if files else None
    return Store(connect(os.environ[DATABASE]), Path(os.environ[DATA]), objects)


def given_painter() -> Painter | None:
    """The outside painter, if one was set up."""
    address = os.environ.get(PAINTER)
    return Painter(address) if address else None
