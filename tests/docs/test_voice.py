"""Everything that the program says keeps to the voice (docs/glossary.md) as far as a machine can tell."""

from __future__ import annotations

import ast
import gc
import json
import re
from collections.abc import Iterator
from pathlib import Path

import pytest

from sequor.wording.sentence import refusal_words, sentence

ROOT = Path(__file__).resolve().parents[2]

SPOKEN_IN = [
    path
    for path in sorted((ROOT / "src" / "sequor").rglob("*.py"))
    if not {"migrations", "core"} & set(path.relative_to(ROOT / "src" / "sequor").parts)
]

RULES: dict[str, str] = json.loads((Path(__file__).parent / "voice.json").read_text())
"""What no message may hold, by the rule; the page's own test reads the same."""


def _said(source: str) -> Iterator[tuple[int, str]]:
    """The strings of three words or more in a module, but not its docstrings; what is filled in is {}."""
    # A greenlet of a browser test that is tidied away in the middle of it would upset the parser's count of its depth.
    gc.disable()
    tree = ast.parse(source)
    gc.enable()
    silent: set[ast.AST] = set()
    for node in ast.walk(tree):
        if isinstance(node, ast.Expr):
            silent.add(node.value)
        if isinstance(node, ast.JoinedStr):
            silent.update(node.values)
    for node in ast.walk(tree):
        words = ""
        if isinstance(node, ast.JoinedStr):
            words = "".join(
                part.value if isinstance(part, ast.Constant) and isinstance(part.value, str) else "{}"
                for part in node.values
            )
        elif isinstance(node, ast.Constant) and isinstance(node.value, str) and node not in silent:
            words = re.sub(r"\{[^}]*\}", "{}", node.value)
        if len(words.split()) >= 3:
            yield getattr(node, "lineno", 0), words


def against(words: str) -> list[str]:
    """The rules that words break."""
    return [rule for rule, pattern in RULES.items() if re.search(pattern, words, re.IGNORECASE)]


def test_every_string_of_the_server_keeps_to_the_voice() -> None:
    found = [
        f"{path.relative_to(ROOT)}:{line}: {', '.join(broken)}: {words}"
        for path in SPOKEN_IN
        for line, words in _said(path.read_text())
        if (broken := against(words))
    ]
    assert found == []


@pytest.mark.parametrize(
    ("words", "rule"),
    [
        ("Lay a line along the horizon.", "draw, not lay"),
        ("The left end is lower.", "one direction"),
        ("89 % of the picture is kept.", "per cent closed up"),
        ("All is well!", "no exclamation mark"),
    ],
)
def test_the_rules_find_what_they_are_for(words: str, rule: str) -> None:
    assert rule in against(words)


def test_what_is_refused_is_a_sentence() -> None:
    """Whatever is written where it is raised: what arrives has a capital and a full stop, and says what is kept."""
    assert sentence("the file is empty") == "The file is empty."
    assert sentence("Choose a paper size first.") == "Choose a paper size first."
    assert refusal_words("this version no longer exists").startswith("This version no longer exists.")
    assert "Nothing was" in refusal_words("this version no longer exists")
