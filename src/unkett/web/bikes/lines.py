"""The lines of a bike: the route each takes and the guides that stand elsewhere; its figures are kept with the line."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from unkett.core.bike.routes import figures_of, line_of, routes_for
from unkett.core.build import plain
from unkett.core.errors import bad
from unkett.core.rules.lines import LINES
from unkett.core.vocabulary import KINDS, SLOTS
from unkett.web.bikes.models import Bike, Origin
from unkett.web.bikes.writing import Parts, write_bike
from unkett.web.workshop.errors import NotThere, Refused
from unkett.web.workshop.models import User


def choose_route(*, actor: User, bike_id: int, version: int, slot: str, route: str) -> Bike:
    """Let a line run by a route; its need, turns and tightest bend are worked out, what was measured of it stays.

    Raises InputError for a route that such a line cannot take.
    """
    if slot not in LINES:
        raise NotThere
    if route not in dict(routes_for(slot)):
        raise bad(
            "route", f"{route!r} given; one of {', '.join(code for code, _ in routes_for(slot))} allowed"
        )

    def action(bike: Bike, parts: Parts) -> tuple[Any, Any]:
        part = parts.in_slot(bike, slot) or parts.enter(bike, slot)
        before = part.attrs.get("route")
        parts.change(part, attrs={**part.attrs, "route": route})
        _lay(bike, parts, slot)
        return {slot: {"route": before}}, {slot: {"route": route}}

    return write_bike(actor, bike_id, version, "route", f"{SLOTS[slot].title}: route chosen", action)


def move_point(
    *, actor: User, bike_id: int, version: int, slot: str, point: str, at: Mapping[str, float]
) -> Bike:
    """Put a place of a line's route where it is on this bike: `forward_mm`, `up_mm` and, where given, `right_mm`.

    Raises InputError naming what is out of range; refused where the line has no such place.
    """
    if slot not in LINES:
        raise NotThere

    def action(bike: Bike, parts: Parts) -> tuple[Any, Any]:
        line = line_of(bike.build(parts.on(bike)), slot)
        spot = next((spot for spot in line.spots if spot.name == point), None) if line else None
        part = parts.in_slot(bike, slot)
        if line is None or spot is None or part is None:
            raise Refused("This line has no such place: choose its route first.")
        there = {
            "point": point,
            "forward_mm": at.get("forward_mm", spot.at[0]),
            "up_mm": at.get("up_mm", spot.at[1]),
            "right_mm": at.get("right_mm", spot.at[2]),
        }
        others = [item for item in part.attrs.get("points_mm", ()) if item["point"] != point]
        wanted = KINDS[SLOTS[slot].kind].attributes["points_mm"].type
        points = plain(wanted.check([*others, there], "points_mm"))
        parts.change(part, attrs={**part.attrs, "points_mm": points})
        _lay(bike, parts, slot)
        return {slot: {point: list(spot.at)}}, {slot: {point: there}}

    return write_bike(actor, bike_id, version, "move", f"{SLOTS[slot].title}: a guide moved", action)


def _lay(bike: Bike, parts: Parts, slot: str) -> None:
    """Work out what the line's path says of it; a figure that was measured or stated stays as it is."""
    part = parts.in_slot(bike, slot)
    line = line_of(bike.build(parts.on(bike)), slot)
    if part is None or line is None:
        return
    sure = (Origin.MEASURED, Origin.STATED)
    worked = {
        name: value
        for name, value in plain(figures_of(line)).items()
        if name == "route" or part.attrs.get(name) is None or part.origins.get(name) not in sure
    }
    origins = {**part.origins, **dict.fromkeys(worked, Origin.ASSUMED), "route": Origin.MEASURED}
    if "points_mm" in part.attrs:
        origins["points_mm"] = Origin.MEASURED
    parts.change(part, attrs={**part.attrs, **worked}, origins=origins)
