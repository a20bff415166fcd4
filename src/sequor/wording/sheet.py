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

NONE = "No photos yet: drop some here or choose them, then open one and lay a line along something level."
HINT = " Open one and lay a line along something level or upright."
RENDERED = " The demo photos are rendered, not taken."


def sheet_words(counts: Mapping[str, int], rendered: bool) -> str:
    """How many photos there are and how they stand. ``counts``: how many in each state; ``rendered``: whether
    demo photos are among them.

    >>> sheet_words({"level": 2, "lines disagree": 1}, False)
    'Three photos: two level, in one the lines disagree.'
    """
    total = sum(counts.values())
    if not total:
        return NONE
    parts = [
        f"{_say(counts[state])} {state}" for state in ("level", "upright", "square-on") if counts.get(state)
    ]
    parts = parts or ["none is level yet"]
    waiting, disagreeing = counts.get("not measured", 0), counts.get("lines disagree", 0)
    if waiting:
        parts.append(f"{_say(waiting)} to be measured")
    if disagreeing:
        parts.append(f"in {_say(disagreeing)} the lines disagree")
    begin = f"{_say(total)} photo{'' if total == 1 else 's'}: {', '.join(parts)}."
    hint = HINT if waiting == total else ""
    return begin[0].upper() + begin[1:] + hint + (RENDERED if rendered else "")


def _say(count: int) -> str:
    return NUMBERS[count] if count < len(NUMBERS) else f"{count:,}"
