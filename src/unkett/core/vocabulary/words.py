"""How figures and codes stand in a sentence."""

from __future__ import annotations

from typing import Any

from unkett.core.vocabulary.types import AttributeType, Choice, Either, ListOf


def a(words: str) -> str:
    """Return the words with 'a' or 'an' before them: a 9-speed chain, an 11-speed one, an oval ring."""
    number = ""
    for letter in words:
        if not letter.isdigit():
            break
        number += letter
    vowel = number.startswith("8") or number in ("11", "18") if number else words[:1].lower() in "aeio"
    return f"{'an' if vowel else 'a'} {words}"


def listed(words: list[str], last: str = "and") -> str:
    """Words in a row: one, two and three."""
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} {last} {words[-1]}" if words else ""


def in_sentence(title: str) -> str:
    """Return a title within a sentence: its first letter small, unless it is a sign such as M10 or JIS."""
    return title if title[1:2].isdigit() or title[1:2].isupper() else title[:1].lower() + title[1:]


def value_text(value: Any, kind: AttributeType | None) -> Any:
    """Return a value as a sentence tells it: codes by their long names, lists with commas, numbers as they are."""
    if isinstance(value, (int, float)):
        return value
    if isinstance(kind, Choice):
        return in_sentence(kind.of.title(value)) if isinstance(value, str) else value
    if isinstance(kind, Either):
        return value_text(value, kind.other if isinstance(value, tuple) else kind.one)
    if isinstance(kind, ListOf) and isinstance(value, tuple):
        return listed([str(value_text(item, kind.item)) for item in dict.fromkeys(value)])
    return value
