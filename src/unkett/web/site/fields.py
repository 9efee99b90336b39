"""How an attribute is asked for in a form: a choice, tick boxes or a text, and what was typed there."""

from __future__ import annotations

from collections.abc import Sequence

from django.http import QueryDict

from unkett.core.vocabulary.types import AttributeType, Bool, Choice, ListOf

Options = Sequence[tuple[str, str]]
NONE = ("none", "Looked: none")
TYPED_MAX = 2000


def choices_of(kind: AttributeType) -> Options | None:
    """The answers of a drop-down, or None where it is no single choice."""
    if isinstance(kind, Bool):
        return [("yes", "yes"), ("no", "no")]
    if isinstance(kind, Choice):
        return list(kind.of.codes.items())
    return None


def ticks_of(kind: AttributeType) -> Options | None:
    """The tick boxes of a list of codes that may be found to be none, or None where it is no such list."""
    if isinstance(kind, ListOf) and kind.least == 0 and isinstance(kind.item, Choice):
        return [NONE, *kind.item.of.codes.items()]
    return None


def typed_in(post: QueryDict, name: str, kind: AttributeType) -> str:
    """What a field holds, as `read_typed` reads it; ticked boxes with spaces."""
    text = " ".join(post.getlist(name)) if ticks_of(kind) else post.get(name, "")
    return text.strip()[:TYPED_MAX]
