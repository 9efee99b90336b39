"""How far an oval ring stands out: it needs the room of a larger round one."""

from __future__ import annotations

from unkett.core.standards import limit_of

OVAL_TEETH = int(limit_of("oval_teeth"))


def counted_teeth(teeth: int, shape: str | None) -> int:
    """Return the teeth of the round ring that stands out as far; a ring of unread shape counts as round."""
    return teeth + OVAL_TEETH if shape == "oval" else teeth


def ring_in_words(teeth: int, shape: str | None) -> str:
    """Return the ring in words, with why an oval one counts as more."""
    counted = counted_teeth(teeth, shape)
    return f"{teeth} T" if counted == teeth else f"{teeth} T oval, which stands out like {counted} T"
