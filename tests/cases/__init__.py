"""Tables of rule cases: one row says what stands on the bike, the verdict and the message key.

`drop` removes attributes of a base part, so that a row shows only what it is about.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Any

from attrs import field, frozen

from unkett.core.build import Build
from unkett.core.formats.reader import build_from


def each(rows: Iterable[Any], examine: Callable[[Any], None]) -> None:
    """Examine every row of a table in one test; fail once, naming every row that does not hold and why."""
    faults = []
    for row in rows:
        try:
            examine(row)
        except Exception as error:
            faults.append(f"{row}\n    {type(error).__name__}: {error}")
    assert not faults, f"{len(faults)} rows do not hold:\n" + "\n".join(faults)


@frozen(kw_only=True)
class Case:
    """One row of a rule's table. `key` None means that the rule must say nothing.

    What is worked out by hand is held too: `figures` by name, the words of `needs` and `ways` (slot.attr), what is
    asked for in `asks` (slot.attr, or a slot of which it is asked whether a part is fitted).
    """

    rule: str
    verdict: str | None
    key: str | None
    parts: dict[str, dict[str, Any]]
    bike: dict[str, Any] = field(factory=dict)
    empty: tuple[str, ...] = ()
    figures: dict[str, Any] = field(factory=dict)
    needs: tuple[str, ...] | None = None
    ways: tuple[str, ...] | None = None
    asks: tuple[str, ...] | None = None
    also: dict[str, tuple[str, ...]] = field(factory=dict)  # by slot the others that its part fills

    @property
    def build(self) -> Build:
        parts = {
            slot: {"also": list(self.also.get(slot, ())), "attrs": attrs}
            for slot, attrs in self.parts.items()
        }
        return build_from(
            {"format": "unkett.build/1", **self.bike, "parts": parts, "empty": list(self.empty)}
        )

    def __str__(self) -> str:
        return f"{self.rule}: {self.key}"


def table(rule: str, **base: dict[str, Any]) -> Any:
    """A maker of rows for one rule; a row's attributes are laid over the base parts' attributes.

    An attribute given as None is left out; a slot given as None is left out: nothing is recorded of it.
    """

    def row(
        verdict: str | None,
        key: str | None,
        bike: dict[str, Any] | None = None,
        /,
        *,
        empty: tuple[str, ...] = (),
        figures: dict[str, Any] | None = None,
        needs: tuple[str, ...] | None = None,
        ways: tuple[str, ...] | None = None,
        asks: tuple[str, ...] | None = None,
        also: dict[str, tuple[str, ...]] | None = None,
        **parts: Any,
    ) -> Case:
        merged = {slot: {**base.get(slot, {}), **(parts.get(slot) or {})} for slot in (*base, *parts)}
        kept = {
            slot: {name: value for name, value in attrs.items() if value is not None}
            for slot, attrs in merged.items()
            if slot not in empty and (slot not in parts or parts[slot] is not None)
        }
        return Case(
            rule=rule,
            verdict=verdict,
            key=key,
            parts=kept,
            bike=bike or {},
            empty=empty,
            figures=figures or {},
            needs=needs,
            ways=ways,
            asks=asks,
            also=also or {},
        )

    return row
