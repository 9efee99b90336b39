"""A bike as planned: what its changes pull along, and its lines laid again where they run elsewhere."""

from __future__ import annotations

from collections.abc import Container, Mapping
from typing import Any

from attrs import evolve

from unkett.core.bike.overlay import with_changes
from unkett.core.bike.routes import LAID_ON, Ground, figures_of, line_of
from unkett.core.build import Build, Part
from unkett.core.rules.lines import LINES


def as_planned(build: Build, changes: Mapping[str, Part | None]) -> Build:
    """The bike with other parts in some slots: what they pull along, its lines laid again where they run elsewhere."""
    then = with_changes(build, changes)
    return then if LAID_ON.isdisjoint(changes) else rerun(build, then, changes)


OF_PATH = ("need_mm", "turns_deg", "radius_min_mm")  # what a path says of its line


def rerun(now: Build, then: Build, changes: Container[str]) -> Build:
    """Return a planned bike with its lines laid again on its frame, fork and bar.

    A new line takes the route of the one it replaces, unless it has its own. A need that was measured on the bike as it
    stands is kept as a change: the old need and the difference of the two paths. Without a path on both it lapses.
    """
    ground, ground_then = Ground.of(now), Ground.of(then)
    for slot in LINES:
        part, before = then.parts.get(slot), now.parts.get(slot)
        if part is None:
            continue
        attrs = dict(part.attrs)
        if slot in changes and before is not None and not attrs.get("route") and before.attrs.get("route"):
            attrs["route"] = before.attrs["route"]
        laid = evolve(part, attrs=attrs)
        old = line_of(now, slot, ground=ground)
        new = line_of(evolve(then, parts={**then.parts, slot: laid}), slot, ground=ground_then)
        if new is not None:
            attrs |= _of_new_path(attrs, {} if old is None else figures_of(old), figures_of(new))
        elif slot not in changes:
            attrs = {name: value for name, value in attrs.items() if name not in OF_PATH}
        if attrs != part.attrs:
            then = then.with_part(slot, evolve(part, attrs=attrs))
    return then


def _of_new_path(attrs: Mapping[str, Any], old: Mapping[str, Any], new: Mapping[str, Any]) -> dict[str, Any]:
    """Return what the new path says of a line; a figure typed on the old one moves by the difference, or lapses."""
    out: dict[str, Any] = {}
    for name in OF_PATH:
        has, was, value = attrs.get(name), old.get(name), new.get(name)
        if value is None or _alike(has, value):
            continue
        if name == "need_mm" and has is not None and was is not None and not _alike(has, was):
            value = round(has + value - was, 1)
        out[name] = value
    return out


def _alike(a: Any, b: Any) -> bool:
    """Return whether two figures of a path are the same."""
    if isinstance(a, (list, tuple)) and isinstance(b, (list, tuple)):
        return len(a) == len(b) and all(abs(x - y) < 0.06 for x, y in zip(a, b, strict=True))
    if isinstance(a, (int, float)) and isinstance(b, (int, float)):
        return abs(a - b) < 0.06
    return bool(a == b)
