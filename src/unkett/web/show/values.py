"""What the values that templates show have in common."""

from __future__ import annotations

from typing import Any


class Shown:
    """A value whose attributes a template finds at its first look, which is `value["name"]`.

    Without it every look costs an exception; a page makes hundreds.
    """

    __slots__ = ()

    def __getitem__(self, name: str) -> Any:
        try:
            return getattr(self, name)
        except AttributeError as error:
            raise KeyError(name) from error
