"""How many threads a file is read and written with."""

from __future__ import annotations

import os


def threads() -> int:
    """As many as there are cores, or as OMP_NUM_THREADS names, as for the libraries."""
    named = os.environ.get("OMP_NUM_THREADS", "")
    return int(named) if named.isdecimal() and int(named) > 0 else os.cpu_count() or 1
