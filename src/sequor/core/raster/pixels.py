"""What a picture is: code values in rows and columns, three colours or fewer, 8 or 16 bits deep."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

Picture = NDArray[np.uint8 | np.uint16]
"""(height, width, 3) code values, red, green and blue, as a file has them."""


class Codes(NamedTuple):
    """Code values of one depth: the ``highest``; up to ``low`` and from ``high`` on a source pixel may have
    been cut off by the camera; by ``ringing`` a result may leave the range of the pixels around it."""

    highest: int
    low: int
    high: int
    ringing: float


def codes_of(picture: Picture) -> Codes:
    """The code values of a picture's depth: those for 8 bits, spread over it.

    >>> codes_of(np.zeros((1, 1, 3), np.uint8)), codes_of(np.zeros((1, 1, 3), np.uint16)).high
    (Codes(highest=255, low=5, high=250, ringing=2.0), 64250)
    """
    by = int(np.iinfo(picture.dtype).max) // 255
    return Codes(255 * by, 5 * by, 250 * by, 2.0 * by)
