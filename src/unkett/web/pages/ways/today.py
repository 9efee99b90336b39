"""The bike today beside the wish: its figures by field, and its gears with each way's over them."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from typing import Any

from unkett.core.bike.figures import SETUPS_MOST, SetUp, setup_of
from unkett.core.build import Build
from unkett.core.drawing.gears import Upright, gear_scene
from unkett.core.errors import InputError
from unkett.core.formats.reader import new_part
from unkett.core.scene import Scene
from unkett.core.settings import Settings
from unkett.core.vocabulary import SLOTS
from unkett.core.vocabulary.enums import LEVER_ACTUATION
from unkett.web.plans.way_search import GEARED

WAY_STROKES = ("planned", "third", "fourth")


def figures_today(build: Build, now: SetUp | None) -> dict[str, str]:
    """Return what the bike has today of each field of the wish, in words; nothing where it is not known."""
    return {field: f"now {says}" for field, says in _today(build, now)}


def _today(build: Build, now: SetUp | None) -> Iterator[tuple[str, str]]:
    def value(slot: str, attr: str) -> Any:
        part = build.parts.get(slot)
        return part.attrs.get(attr) if part else None

    sprockets, rings = value("cassette", "teeth"), value("chainrings", "teeth")
    if sprockets:
        yield "speeds", str(len(sprockets))
        yield "largest", str(max(sprockets))
    if rings:
        yield "rings", {1: "one", 2: "two", 3: "three"}.get(len(rings), str(len(rings)))
    if now is not None:
        yield "low", f"{now.table.gears[0].development_m:.2f}"
        yield "high", f"{now.table.gears[-1].development_m:.2f}"
    actuations = {value(f"{end}_brake_lever", "actuation") for end in ("front", "rear")} - {None}
    if actuations:
        yield "actuation", " and ".join(sorted(LEVER_ACTUATION.title(code).lower() for code in actuations))
    for end in ("front", "rear"):
        diameter = value(f"{end}_rotor", "diameter_mm")
        if diameter:
            yield f"{end}_rotor", f"{diameter:g}"
    widths = [width for end in ("front", "rear") if (width := value(f"{end}_tyre", "width_mm"))]
    if widths:
        yield "tyre", "/".join(f"{width:g}" for width in dict.fromkeys(widths))


def _with_way(build: Build, row: Mapping[str, Any]) -> Build | None:
    """Return the build with the parts of a way that make its gears; None where the way changes none of them."""
    changed = False
    for change in row["changes"]:
        slot, part = change["slot"], row["parts"].get(change["in"]) or {}
        if slot in GEARED and "attrs" in part:
            build = build.with_part(slot, new_part(SLOTS[slot].kind, part["name"], part["attrs"]))
            changed = True
    return build if changed else None


def gears_of_ways(
    build: Build,
    now: SetUp | None,
    cards: Sequence[tuple[str, Mapping[str, Any]]],
    wanted: Mapping[str, float | None],
    settings: Settings,
) -> Scene | None:
    """Return today's gears with those of up to three ways over them, and the wished limits as uprights.

    None where the bike's own gears are not known. Ways with the same gears are one curve.
    """
    if now is None:
        return None
    found: list[SetUp] = [now]
    for title, row in cards:
        if len(found) == SETUPS_MOST:
            break
        try:
            then = _with_way(build, row)
            setup = None if then is None else setup_of(then, title, WAY_STROKES[len(found) - 1])
        except InputError:
            continue  # a vocabulary that changed since the search: its card still tells the parts
        if setup is not None and all(setup.table != one.table for one in found):
            found.append(setup)
    says = {"low": ("lowest wished", "start"), "high": ("highest wished", "end")}
    uprights = [Upright(limit, says[name][0], says[name][1]) for name, limit in wanted.items() if limit]
    return gear_scene(found, settings, uprights)
