"""Ratios, lines to compose by and prints, against the standards and worked examples."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sequor.core.frame.composition import SHARES, golden_spiral
from sequor.core.frame.print import MM_PER, Sheet, iso_a, print_frame
from sequor.core.frame.ratio import GOLDEN, agrees_with_ratio, parse_ratio, typed_ratio
from sequor.core.rectangle import Rectangle


def test_the_golden_section() -> None:
    """Euclid, Elements VI, definition 3: the whole is to the greater part as the greater to the lesser."""
    whole, greater = GOLDEN, 1.0
    assert whole / greater == pytest.approx(greater / (whole - greater), rel=1e-15)
    lesser, larger = SHARES["golden"]
    assert 1 / larger == pytest.approx(larger / lesser)
    assert (lesser + larger, lesser) == (pytest.approx(1), pytest.approx(0.381966, abs=1e-6))
    # The ratios of neighbours in 1, 1, 2, 3, 5 … close in on it (Kepler, 1611; from memory).
    one, other = 1, 1
    for _ in range(40):
        one, other = other, one + other
    assert other / one == pytest.approx(GOLDEN, rel=1e-15)


def test_shares_are_alike_from_both_sides() -> None:
    for shares in SHARES.values():
        assert np.allclose(np.sort(shares), np.sort([1 - one for one in shares]))
    assert SHARES["thirds"] == (1 / 3, 2 / 3) and len(SHARES["fifths"]) == 4


def test_the_golden_spiral() -> None:
    """In a golden rectangle every quarter turn shrinks it by the golden section, and the way never breaks."""
    spiral = golden_spiral() * [GOLDEN, 1]
    steps = np.linalg.norm(np.diff(spiral, axis=0), axis=1)
    assert steps.max() < 0.2 and np.all(golden_spiral() >= -1e-12) and np.all(golden_spiral() <= 1 + 1e-12)
    per = len(spiral) // 10
    widths = [np.linalg.norm(spiral[at * per + per - 1] - spiral[at * per]) for at in range(10)]
    assert np.allclose(np.array(widths[:-1]) / widths[1:], GOLDEN)
    # It closes in on where the two great diagonals cross: (GOLDEN - 1) / (1 + 1 / GOLDEN^2) from its end.
    end = np.array([GOLDEN * (GOLDEN + 1) / (GOLDEN + 2), 1 / (GOLDEN + 2)])
    near = min(np.linalg.norm(spiral[-1] - end), np.linalg.norm(spiral[-1] - [end[0], 1 - end[1]]))
    assert near < 0.02


@pytest.mark.parametrize(
    ("number", "size"),
    [(0, (841, 1189)), (2, (420, 594)), (3, (297, 420)), (4, (210, 297)), (5, (148, 210)), (6, (105, 148))],
)
def test_sheets_of_iso_216(number: int, size: tuple[int, int]) -> None:
    """ISO 216:2007, table 1: trimmed sizes of the A series in millimetres."""
    assert iso_a(number) == size
    assert size[1] / size[0] == pytest.approx(math.sqrt(2), abs=1 / size[0])


def test_inches() -> None:
    """The international inch of 1959 is 25.4 mm exactly."""
    assert MM_PER["in"] == 25.4 and MM_PER["cm"] == 10


@pytest.mark.parametrize(
    ("pixels", "sheet", "ppi"),
    [
        ((1800, 1200), Sheet(6 * 25.4, 4 * 25.4), 300),
        ((3600, 2400), Sheet(12 * 25.4, 8 * 25.4), 300),
        ((2400, 3600), Sheet(12 * 25.4, 8 * 25.4), 300),
        ((3508, 2480), Sheet(210, 297), 300),
        ((4961, 3508), Sheet(297, 420), 300),
        ((1500, 1000), Sheet(300, 200), 127),
        ((3000, 2000), Sheet(8 * 25.4, 6 * 25.4, border=25.4), 500),
    ],
)
def test_effective_resolution(pixels: tuple[int, int], sheet: Sheet, ppi: float) -> None:
    """Common practice, no source: 6 x 4 in at 300 ppi takes 1800 x 1200 px, A4 2480 x 3508, A3 3508 x 4961."""
    printed = print_frame(*pixels, sheet)
    assert printed.ppi == pytest.approx(ppi, rel=5e-4)
    assert printed.cut == pytest.approx(0, abs=5e-4)
    if not sheet.border:
        assert printed.pixels(ppi) == pytest.approx(pixels, abs=1)


def test_what_a_printer_cuts_off() -> None:
    """3:2 on 10 x 8 in: fills 8 in, is 12 in wide, so 2 in of 12 are lost: a sixth."""
    printed = print_frame(3600, 2400, Sheet(254, 203.2))
    assert (printed.ppi, printed.cut) == (pytest.approx(300), pytest.approx(1 / 6))
    assert (printed.shown.x, printed.shown.y) == (pytest.approx(300), pytest.approx(0))
    assert printed.shown.width == pytest.approx(3000)
    assert printed.pixels(300) == (3600, 2400)


def test_a_printer_that_trims() -> None:
    """3 mm trimmed all round of A4: the print is 303 x 216 before the knife."""
    printed = print_frame(3030, 2160, Sheet(210, 297, trim=3))
    assert printed.ppi == pytest.approx(254)
    assert printed.cut == pytest.approx(1 - 297 * 210 / (303 * 216))
    assert (printed.shown.x, printed.shown.y) == (pytest.approx(30), pytest.approx(30))


@given(
    st.integers(50, 9000), st.integers(50, 9000), st.floats(20, 900), st.floats(20, 900), st.floats(0, 9),
    st.floats(0, 5),
)  # fmt: skip
def test_any_print_fills_its_sheet(
    width: int, height: int, wide: float, high: float, border: float, trim: float
) -> None:
    printed = print_frame(width, height, Sheet(wide, high, border, trim))
    area, per_mm = printed.sheet.area, printed.ppi / 25.4
    assert Rectangle(0, 0, width, height).contains(printed.shown, 1e-6 * max(width, height))
    assert (printed.shown.width / per_mm, printed.shown.height / per_mm) == pytest.approx(area)
    assert 0 <= printed.cut + 1e-12 < 1
    assert min(printed.shown.x, printed.shown.y) == pytest.approx(
        trim * per_mm, abs=1e-6 * max(width, height)
    )
    if width != height and abs(wide - high) > 1e-6:
        assert (width > height) == (printed.sheet.width > printed.sheet.height)


@pytest.mark.parametrize(
    ("typed", "written"),
    [
        ("3:2", "3:2"), ("16 / 9", "16:9"), ("13.6 x 9.9", "13.6:9.9"), ("13,6 × 9,9 cm", "13.6:9.9"),
        ('10" x 8"', "10:8"), ("2.39", "2.39:1"), ("297mm x 210mm", "297:210"), ("Golden:1", "golden:1"),
        ("1:sqrt2", "1:sqrt2"), (" 5 * 4 in", "5:4"),
    ],
)  # fmt: skip
def test_typed_ratios(typed: str, written: str) -> None:
    assert typed_ratio(typed) == written
    parse_ratio(written)


@pytest.mark.parametrize(
    "typed", ["", "wide", "3:2:1", "0:2", "3:0", "-3:2", "1e3:1", "51:1", "1:50.1", "nan:1", "3:"]
)
def test_what_is_no_ratio(typed: str) -> None:
    with pytest.raises(ValueError, match="ratio"):
        typed_ratio(typed)


@given(st.floats(0.05, 20), st.floats(20, 5000))
def test_whole_pixels_agree_with_their_ratio(ratio: float, width: float) -> None:
    one = Rectangle(0, 0, width, width / ratio).inwards()
    if one.width > 1 and one.height > 1:
        assert agrees_with_ratio(int(one.width), int(one.height), (ratio, 1.0))
        assert not agrees_with_ratio(
            int(one.width) + math.ceil(2 * max(ratio, 1)) + 1, int(one.height), (ratio, 1.0)
        )
