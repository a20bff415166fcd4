"""Long lists in queries: so much at a time as a statement takes well."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import TypeVar

CHUNK = 1000

T = TypeVar("T")


def chunks(values: Sequence[T]) -> Iterator[Sequence[T]]:
    """A long list piece by piece, in its order.

    >>> [len(some) for some in chunks(range(2001))]
    [1000, 1000, 1]
    """
    for begin in range(0, len(values), CHUNK):
        yield values[begin : begin + CHUNK]
