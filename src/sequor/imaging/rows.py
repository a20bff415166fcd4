"""The pixels of a file that is written, asked for band by band: it need not be there as a whole."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from sequor.core.raster.pixels import Picture

BAND_ROWS = 256


@dataclass(frozen=True)
class Rows:
    """``read`` gives ``count`` rows from ``top`` on, (count, width, 3), or of four channels with ``alpha``,
    uint8 or uint16 by ``deep``."""

    width: int
    height: int
    read: Callable[[int, int], Picture]
    deep: bool = False
    alpha: bool = False

    def whole(self) -> Picture:
        """All of them."""
        return self.read(0, self.height)

    def bands(self, rows: int = BAND_ROWS) -> Iterator[Picture]:
        """All of them in bands from the top, the last one as high as is left."""
        for top in range(0, self.height, rows):
            yield self.read(top, min(rows, self.height - top))


def rows_of(picture: Picture) -> Rows:
    """A picture (height, width, 3 or 4) that is there."""
    height, width, channels = picture.shape
    return Rows(
        width,
        height,
        lambda top, count: picture[top : top + count],
        deep=picture.dtype.itemsize == 2,
        alpha=channels == 4,
    )
