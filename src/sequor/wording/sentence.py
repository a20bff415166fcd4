"""What every message has in common: it is a sentence, and an error says what was kept."""

from __future__ import annotations

import re

KEPT = re.compile(r"not(hing)? (of it )?(was|is) |unchanged|(are|is) kept|safe|No file", re.IGNORECASE)
"""Words by which a message says what was kept already."""


def sentence(words: str) -> str:
    """Words with a capital and a full stop.

    >>> sentence("the file is empty"), sentence("“3to2” is not an aspect ratio."), sentence("")
    ('The file is empty.', '“3to2” is not an aspect ratio.', '')
    """
    words = words.strip()
    if not words:
        return words
    return words[0].upper() + words[1:] + ("" if words[-1] in ".!?…" else ".")


def refusal_words(words: str) -> str:
    """The words of something that was refused: what was kept is said, too.

    >>> refusal_words("choose a paper size first")
    'Choose a paper size first. Nothing was changed.'
    """
    whole = sentence(words)
    return whole if KEPT.search(whole) else f"{whole} Nothing was changed."
