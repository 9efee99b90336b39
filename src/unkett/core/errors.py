"""The one family of errors that the core raises on purpose."""

from __future__ import annotations

import difflib
from collections.abc import Iterable, Mapping

from attrs import frozen


class CoreError(Exception):
    """Anything the core refuses; the message is fit for a mechanic's eyes."""


@frozen(kw_only=True)
class Fault:
    """One thing wrong with an input: where, what was given and what is allowed."""

    path: str
    says: str
    unlikely: bool = False  # it is kept once it is confirmed

    def __str__(self) -> str:
        return f"{self.path}: {self.says}" if self.path else self.says


class InputError(CoreError):
    """Bad input. Carries every fault found, each with its path."""

    def __init__(self, faults: Iterable[Fault]) -> None:
        self.faults = tuple(faults)
        super().__init__("\n".join(str(fault) for fault in self.faults))

    @property
    def only_unlikely(self) -> bool:
        """Whether all that is wrong is that readings lie far from the usual."""
        return all(fault.unlikely for fault in self.faults)

    @classmethod
    def of(cls, by_field: Mapping[str, Iterable[str]]) -> InputError:
        """Return an input error from messages by field."""
        return cls(Fault(path=name, says=says) for name, messages in by_field.items() for says in messages)


def bad(path: str, says: str) -> InputError:
    """Return an input error with a single fault."""
    return InputError([Fault(path=path, says=says)])


def shown(value: object) -> str:
    """Return a given value as a message quotes it: short, and never longer than a line."""
    text = repr(value) if isinstance(value, str) else str(value)
    return text if len(text) <= 60 else text[:57] + "…"


def nearest(given: object, allowed: Iterable[str]) -> str:
    """'; did you mean "x"?' for the nearest allowed spelling, or nothing."""
    hit = difflib.get_close_matches(str(given).lower(), list(allowed), n=1, cutoff=0.6)
    return f'; did you mean "{hit[0]}"?' if hit else ""


def listed(allowed: Iterable[str], most: int = 40) -> str:
    """Return the allowed words in a row, cut after `most`."""
    words = list(allowed)
    return ", ".join(words[:most]) + (", …" if len(words) > most else "")
