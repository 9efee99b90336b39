"""The rider's own words, and the complaints that they sound like."""

from __future__ import annotations

import math
import re
from collections import Counter

from unkett.core.diagnose.tables import ENDS, Complaint, Tables

_ENDINGS = ("ing", "ed", "es", "s")
_LETTERS = re.compile(r"[a-z]+")
LEAST = 0.35  # of the best score, under which a complaint is not offered
SHORT = frozenset({
    "a", "an", "and", "at", "for", "i", "in", "is", "it", "my", "of", "on", "or", "the", "to", "too", "when", "with",
})  # fmt: skip


def stem(word: str) -> str:
    """Return a word without its ending: jumps, jumping and jumped are one."""
    for ending in _ENDINGS:
        if word.endswith(ending) and len(word) - len(ending) >= 3:
            return word.removesuffix(ending)
    return word


def _stems(text: str) -> set[str]:
    return {stem(word) for word in _LETTERS.findall(text.lower()) if word not in SHORT}


def sounds_like(text: str, tables: Tables, most: int = 6) -> list[Complaint]:
    """Return the complaints that a rider's words sound like, the closest first; none where no word is known.

    A word that few complaints share says more than one that many do.
    """
    said = _stems(text)
    spoken = {code: _stems(" ".join((one.title, *one.words))) for code, one in tables.complaints.items()}
    shared = Counter(word for words in spoken.values() for word in words)
    scores = {
        code: sum(math.log(1 + len(spoken) / shared[word]) for word in words & said)
        for code, words in spoken.items()
    }
    best = max(scores.values())
    found = sorted(
        (code for code in scores if scores[code] >= LEAST * best > 0), key=lambda code: -scores[code]
    )
    return [tables.complaints[code] for code in found[:most]]


def end_in_words(text: str) -> str | None:
    """Return the end of the bike that a rider's words name; None where they name none or both."""
    named = [end for end in ENDS if end in _LETTERS.findall(text.lower())]
    return named[0] if len(named) == 1 else None
