"""Sheets: the numbers of one part of the work, from the bike's own data, with their picture.

Every sheet is made by one function of a build; as it stands and as planned are two calls. What is
missing is named; nothing is asked that the bike already knows.
"""

from __future__ import annotations

from collections.abc import Callable

from unkett.core.build import Build
from unkett.core.panels import brakes, steering, wheels
from unkett.core.panels.base import Grid, GridRow, Number, Page, Panel
from unkett.core.panels.bottom_bracket import bracket_sheet, chainline_sheet
from unkett.core.panels.brakes import brake_sheet, lever_sheet
from unkett.core.panels.steering import handling_sheet, seat_sheet, steering_sheet
from unkett.core.panels.wheels import spokes_sheet, wheel_sheet
from unkett.core.settings import Settings

__all__ = [
    "PAGES",
    "Grid",
    "GridRow",
    "Number",
    "Page",
    "Panel",
    "bracket_sheet",
    "brake_sheet",
    "chainline_sheet",
    "handling_sheet",
    "lever_sheet",
    "seat_sheet",
    "spokes_sheet",
    "steering_sheet",
    "wheel_sheet",
]

ByEnd = Callable[[Build, str], Panel | None]


def _both(*makers: ByEnd) -> Callable[[Build, Settings], list[Panel]]:
    def sheets(build: Build, _settings: Settings) -> list[Panel]:
        found = [make(build, end) for end in ("front", "rear") for make in makers]
        return [sheet for sheet in found if sheet is not None]

    return sheets


PAGES: dict[str, Page] = {
    page.name: page
    for page in (
        Page(
            name="gears",
            title="Gears",
            sheets=lambda _build, _settings: [],
        ),
        Page(
            name="chain",
            title="Chain",
            sheets=lambda _build, _settings: [],
        ),
        Page(
            name="bracket",
            title="Bottom bracket",
            sheets=lambda build, settings: [bracket_sheet(build), chainline_sheet(build, settings)],
        ),
        Page(
            name="brakes",
            title="Brakes",
            sheets=_both(brake_sheet, lever_sheet),
            compares=brakes.change_sheets,
            empty="No brake recorded yet. Add one to see it here.",
        ),
        Page(
            name="wheels",
            title="Wheels",
            sheets=_both(wheel_sheet, spokes_sheet),
            compares=wheels.change_sheets,
        ),
        Page(
            name="steering",
            title="Steering and seat",
            sheets=lambda build, _settings: [steering_sheet(build), handling_sheet(build), seat_sheet(build)],
            compares=steering.changes,
        ),
        Page(
            name="lines",
            title="Cables & hoses",
            sheets=lambda _build, _settings: [],
        ),
    )
}  # fmt: skip
