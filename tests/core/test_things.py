"""Things that are there once, looked for in pictures of any size."""

from __future__ import annotations

import numpy as np
import pytest
from pictures import smooth_picture

from sequor.core.fill import things
from sequor.core.fill.blend import Mask, Values
from sequor.core.fill.patchmatch import fill


@pytest.mark.parametrize("wide", [1, 3, 8])
def test_a_thin_hole_in_a_large_picture_lets_few_patches_be_compared(
    monkeypatch: pytest.MonkeyPatch, wide: int
) -> None:
    """Each is compared with thousands: a line of pixels at the border took half a minute and gigabytes."""
    compared: list[int] = []
    rarity = things.rarity

    def counted(image: Values, usable: Mask) -> Values:
        compared.append(int(usable.sum()))
        return rarity(image, usable)

    monkeypatch.setattr(things, "rarity", counted)
    picture = smooth_picture(700, 500)
    hole = np.zeros((500, 700), bool)
    hole[:, :wide] = True
    filled = fill(picture, hole)
    assert compared and 500 < max(compared) <= 2 * things.MOST_PATCHES
    assert np.abs(filled[hole].astype(int) - picture[hole]).mean() < 12
