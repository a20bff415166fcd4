"""Pictures made smaller: light is averaged, not its codes."""

from __future__ import annotations

import numpy as np
import pytest

from sequor.imaging.encode import reduce_to, reduced


@pytest.mark.parametrize(("depth", "code"), [(np.uint8, 137), (np.uint16, 35199)])
def test_fine_bright_lines_keep_their_light(depth: type[np.unsignedinteger], code: int) -> None:
    """One white line in four has a quarter of the light, which is the code 137 of sRGB (IEC 61966-2-1:
    1.055 · 0.25^(1/2.4) − 0.055 = 0.5371); the mean of the codes would be 64."""
    lines = np.zeros((64, 64, 3), depth)
    lines[::4] = np.iinfo(depth).max
    small = reduce_to(lines, 16)
    assert small.shape == (16, 16, 3) and small.dtype == depth
    assert np.abs(small.astype(int) - code).max() <= np.iinfo(depth).max // 255


def test_a_flat_area_stays_what_it_is() -> None:
    for code in range(0, 256, 5):
        flat = np.full((8, 8, 3), code, np.uint8)
        assert (reduced(flat, (2, 2)) == code).all()
    assert reduce_to(np.zeros((4, 4, 3), np.uint8), 9).shape == (4, 4, 3)
