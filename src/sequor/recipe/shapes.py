"""Ratios and papers that are offered: which are usual is common practice, no source; A2 to A6 are ISO 216."""

from __future__ import annotations

from sequor.core.frame.print import iso_a
from sequor.recipe.model.frame import PrintPart

USUAL_RATIOS = (
    ("1:1", "Square"),
    ("3:2", "3:2"),
    ("4:3", "4:3"),
    ("5:4", "5:4"),
    ("7:5", "7:5"),
    ("16:9", "16:9"),
    ("2:1", "2:1"),
    ("sqrt2:1", "A sizes (√2:1)"),
    ("golden:1", "Golden section"),
)

USUAL_PAPERS = (
    *(PrintPart(paper=size, unit="in") for size in ((6, 4), (7, 5), (10, 8), (12, 8), (14, 11), (20, 16))),
    *(PrintPart(paper=size, unit="cm") for size in ((15, 10), (18, 13), (30, 20), (40, 30), (60, 40))),
    *(PrintPart(paper=(iso_a(number)[1], iso_a(number)[0])) for number in range(2, 7)),
)
