"""What the contact sheet says of all photos together."""

from __future__ import annotations

from collections.abc import Mapping

NUMBERS = [
    "no",
    "one",
    "two",
    "three",
    "four",
    "five",
    "six",
    "seven",
    "eight",
    "nine",
    "ten",
    "eleven",
    "twelve",
]

NONE = (
    "No photos yet. Drop some here or use Add photos, then open one and draw a line along the horizon or a "
    "vertical edge."
)
HINT = " Open one and draw a line along the horizon or a vertical edge."
RENDERED = " The demo photos are computer-generated."

CORRECTED = {"level": "level", "verticals straight": "with straight verticals", "square-on": "square-on"}
"""States in which nothing is left to do, as they are counted."""


def sheet_words(counts: Mapping[str, int], rendered: bool, sure: int = 0, eyes: int = 0) -> str:
    """How many photos there are and how they stand. ``counts``: how many in each state; ``rendered``: whether
    demo photos are among them; of those that are not measured, on how many a proposal is ``sure`` and how
    many want a pair of ``eyes``.

    >>> sheet_words({"level": 2, "lines disagree": 1}, False)
    'Three photos: two level, one with lines that disagree.'
    >>> sheet_words({"not measured": 5}, False, sure=3, eyes=2)
    'Five photos: three with a sure proposal, two to look at.'
    """
    total = sum(counts.values())
    if not total:
        return NONE
    parts = [f"{_say(counts[state])} {words}" for state, words in CORRECTED.items() if counts.get(state)]
    parts = parts or ([] if sure or eyes else ["none corrected yet"])
    waiting, disagreeing = counts.get("not measured", 0), counts.get("lines disagree", 0)
    if sure:
        parts.append(f"{_say(sure)} with a sure proposal")
    if eyes:
        parts.append(f"{_say(eyes)} to look at")
    if waiting > sure + eyes:
        parts.append(f"{_say(waiting - sure - eyes)} not measured")
    if disagreeing:
        parts.append(f"{_say(disagreeing)} with lines that disagree")
    begin = f"{_say(total)} photo{'' if total == 1 else 's'}: {', '.join(parts)}."
    hint = HINT if waiting == total and not sure + eyes else ""
    return begin[0].upper() + begin[1:] + hint + (RENDERED if rendered else "")


def _say(count: int) -> str:
    return NUMBERS[count] if count < len(NUMBERS) else f"{count:,}"
