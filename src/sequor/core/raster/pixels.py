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


STEP = 257
"""What one code of 8 bits is in 16: 255 x 257 = 65535."""


def in_eight_bits(picture: Picture) -> Picture:
    """A picture of either depth in 8 bits, for what looks at it and writes nothing of it.

    >>> in_eight_bits(np.array([0, 128, 129, 65535], np.uint16)).tolist()
    [0, 0, 1, 255]
    """
    if picture.dtype == np.uint8:
        return picture
    return np.asarray((picture.astype(np.uint32) + STEP // 2) // STEP, np.uint8)


def in_sixteen_bits(picture: Picture) -> Picture:
    """A picture of either depth in 16 bits."""
    return picture if picture.dtype == np.uint16 else picture.astype(np.uint16) * STEP


def values_of(picture: Picture) -> NDArray[np.float32]:
    """Code values from 0 to 255, whatever their depth: what rules that were found for 8 bits go by."""
    values = picture.astype(np.float32)
    return values if picture.dtype == np.uint8 else values / np.float32(STEP)


def in_codes(values: NDArray[np.float32], like: Picture) -> Picture:
    """Such values as the nearest codes of the depth that another picture has.

    >>> in_codes(np.array([0.4, 127.5, 300], np.float32), np.zeros(1, np.uint16)).tolist()
    [103, 32768, 65535]
    """
    if like.dtype == np.uint8:
        return np.asarray(np.clip(values + 0.5, 0, 255), np.uint8)
    return np.asarray(np.clip(values * np.float32(STEP) + 0.5, 0, 65535), np.uint16)


def codes_of(picture: Picture) -> Codes:
    """The code values of a picture's depth: those for 8 bits, spread over it.

    >>> codes_of(np.zeros((1, 1, 3), np.uint8)), codes_of(np.zeros((1, 1, 3), np.uint16)).high
    (Codes(highest=255, low=5, high=250, ringing=2.0), 64250)
    """
    by = int(np.iinfo(picture.dtype).max) // 255
    return Codes(255 * by, 5 * by, 250 * by, 2.0 * by)
