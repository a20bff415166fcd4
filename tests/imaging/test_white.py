"""The white balance of raw photos against the CIE's illuminants and sensors with known values."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from originals import dng_bytes, smooth_raw, written
from pictures import jpeg_bytes, smooth_picture

from sequor.imaging.decode import UnreadablePictureError, as_shot, decode
from sequor.imaging.white import light, multipliers, temperature_of
from sequor.recipe.model.develop import DevelopPart

ILLUMINANTS = {
    "A": (0.44758, 0.40745, 2856, 0.0),
    "D50": (0.34567, 0.35851, 5003, 3.2),
    "D55": (0.33243, 0.34744, 5503, 3.2),
    "D65": (0.31272, 0.32903, 6504, 3.2),
    "D75": (0.29903, 0.31488, 7504, 3.2),
}
"""Chromaticities and correlated colour temperatures of CIE 15:2004, tables T.1 and T.3; thousandths of the distance
from black bodies from memory."""


@pytest.mark.parametrize("name", ILLUMINANTS)
def test_the_illuminants_of_the_cie(name: str) -> None:
    x, y, kelvin, tint = ILLUMINANTS[name]
    found = temperature_of(np.array([x, y]))
    assert found[0] == pytest.approx(kelvin, rel=0.004)
    assert found[1] == pytest.approx(tint, abs=0.6)
    assert light(kelvin, tint) == pytest.approx(np.array([x, y]), abs=0.0015)


@pytest.mark.parametrize("kelvin", [2000, 2856, 4000, 6500, 12_000, 24_000])
@pytest.mark.parametrize("tint", [-30, 0, 12])
def test_a_light_is_found_again(kelvin: float, tint: float) -> None:
    found = temperature_of(light(kelvin, tint))
    assert found[0] == pytest.approx(kelvin, rel=0.006) and found[1] == pytest.approx(tint, abs=0.2)


def test_a_sensor_of_known_colours_sees_a_grey_card_grey_under_its_own_light(tmp_path: Path) -> None:
    """A card under incandescent light (CIE illuminant A), taken by a camera that took it for daylight: orange as shot,
    grey at the temperature of the light."""
    path = written(tmp_path, smooth_raw(grey_under=(0.44758, 0.40745)))
    red, _, blue = decode(path).reshape(-1, 3).mean(axis=0)
    assert red > 1.5 * blue
    card = decode(path, develop=DevelopPart(temperature=2856, tint=0)).reshape(-1, 3).mean(axis=0)
    assert card == pytest.approx(card.mean(), rel=0.01)


def test_what_is_typed_as_it_was_shot_changes_nothing(tmp_path: Path) -> None:
    path = written(tmp_path, dng_bytes(np.full((64, 96, 3), (0.2, 0.3, 0.1))))
    shot = as_shot(path)
    assert (
        shot is not None and shot[0] == pytest.approx(6504, rel=0.01) and shot[1] == pytest.approx(3.2, abs=1)
    )
    same = decode(path, develop=DevelopPart(temperature=shot[0], tint=shot[1]))
    assert np.abs(same.astype(int) - decode(path)).max() < 200


def test_a_stop_is_twice_the_light(tmp_path: Path) -> None:
    path = written(tmp_path, dng_bytes(np.full((64, 96, 3), 0.1)))

    def seen(stops: float) -> float:
        code = decode(path, develop=DevelopPart(exposure=stops))[20:40, 20:60].mean() / 65535
        return float(((code + 0.055) / 1.055) ** 2.4)

    assert seen(0) == pytest.approx(0.1, rel=0.02)
    assert [seen(1), seen(-1.5)] == pytest.approx([0.2, 0.1 / 2**1.5], rel=0.02)


def test_a_light_that_a_sensor_does_not_see_is_refused() -> None:
    with pytest.raises(ValueError, match="does not see"):
        multipliers(-np.eye(3), np.array([0.31, 0.33]))


def test_other_photos_are_not_developed(tmp_path: Path) -> None:
    path = written(tmp_path, jpeg_bytes(smooth_picture(40, 30)))
    with pytest.raises(UnreadablePictureError, match="Only raw photos"):
        decode(path, develop=DevelopPart(exposure=1))
