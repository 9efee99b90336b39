"""Search that forgives: sizes in any writing, words in any order, half words, and a slip of a letter where nothing else
is found.

Text is folded to small letters and figures with single spaces between, so that `11-34`, `11–34` and `11/34` are one.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable
from typing import Any, TypeVar

from django.contrib.postgres.search import TrigramStrictWordSimilarity
from django.db.models import Func, Model, Q, QuerySet, TextField, Value
from django.db.models.functions import Coalesce, Concat, Lower

WORDS_MOST = 6
SLIP_LETTERS = 4  # shorter words are too like one another
ALIKE = 0.35  # part of the three-letter pieces that a word with one slip shares with what is meant
SEPARATORS = re.compile(r"[^\w.]+|_")
COMMA = re.compile(r"(?<=\d),(?=\d)")
Row = TypeVar("Row", bound=Model)


def folded(*texts: str) -> str:
    """Return texts as they are searched: small letters and figures, one space before each word and at the end."""
    return f" {SEPARATORS.sub(' ', ' '.join(texts).lower()).strip()} "


def folded_columns(*columns: str) -> Func:
    """Return the same of columns, worked out by the database; for stores of some thousand rows."""
    pieces: list[Any] = []
    for column in columns:
        pieces += [Value(" "), Coalesce(column, Value(""), output_field=TextField())]
    text = Lower(Concat(*pieces, Value(" "), output_field=TextField()))
    return Func(
        text,
        Value(r"[^[:alnum:].]+"),
        Value(" "),
        Value("g"),
        function="regexp_replace",
        output_field=TextField(),
    )


def words_of(typed: str) -> list[str]:
    """Return what must be found: each word, a size with its separators as one; at most six."""
    words = [folded(COMMA.sub(".", word)).strip() for word in typed.split()]
    return [word for word in words if word][:WORDS_MOST]


def searched(
    rows: QuerySet[Row], typed: str, also: Callable[[str], Iterable[Q]] | None = None
) -> QuerySet[Row]:
    """Return the rows whose `folded` holds every typed word; where none does, those that are a slip of a letter away.

    `folded` is a column or an alias of folded text. `also` gives other conditions under which a word counts as held.
    """
    words = words_of(typed)
    found = _holding(rows, words, also)
    if any(_may_slip(word) for word in words) and not found.exists():
        return _holding(rows, words, also, forgiving=True)
    return found


def _may_slip(word: str) -> bool:
    return word.isalpha() and len(word) >= SLIP_LETTERS


def _swapped(word: str) -> list[str]:
    """Return the word with each two neighbours changed over."""
    return [word[:at] + word[at + 1] + word[at] + word[at + 2 :] for at in range(len(word) - 1)]


def _holding(
    rows: QuerySet[Row],
    words: list[str],
    also: Callable[[str], Iterable[Q]] | None,
    *,
    forgiving: bool = False,
) -> QuerySet[Row]:
    for number, word in enumerate(words):
        holds = Q(folded__contains=f" {word}" if word[0].isdigit() else word)  # 0 is not found in 110
        for condition in also(word) if also else ():
            holds |= condition
        if forgiving and _may_slip(word):
            likeness = f"alike_{number}"
            rows = rows.alias(**{likeness: TrigramStrictWordSimilarity(word, "folded")})
            holds |= Q(**{f"{likeness}__gte": ALIKE})
            for swapped in _swapped(word):
                holds |= Q(folded__contains=f" {swapped}")
        rows = rows.filter(holds)
    return rows
