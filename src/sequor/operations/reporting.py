"""How long work tells how far it is."""

from __future__ import annotations

from collections.abc import Callable

Report = Callable[[float, str], None]
"""Called with the share done, 0 to 1, and a word on what is being done."""
