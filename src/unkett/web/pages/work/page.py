"""What the pages of the work show: Gears, Chain and the sheets, as it stands and as planned, with their files."""

from __future__ import annotations

from collections.abc import Iterable
from functools import cached_property
from typing import Any
from urllib.parse import urlencode

from attrs import frozen

from unkett.core.bike.figures import (
    EASY_CADENCE_RPM,
    SETUPS_MOST,
    ChainFigures,
    Hill,
    SetUp,
    hill_of,
    setup_of,
    top_speed,
    with_gears,
)
from unkett.core.build import Part
from unkett.core.calc.gears import Gear
from unkett.core.check.joint_verdicts import of_page
from unkett.core.drawing.chain import chain_scene
from unkett.core.drawing.gears import Upright, gear_scene
from unkett.core.errors import InputError
from unkett.core.panels import Grid, GridRow, Number, Page, Panel
from unkett.core.rules.finding import Finding, Verdict, worst
from unkett.core.scene import Scene
from unkett.web.pages.common.answers import Rows
from unkett.web.pages.common.bike_page import BikePage, Group, by_verdict
from unkett.web.pages.work.forms import GearsForm
from unkett.web.plans.models import Plan
from unkett.web.plans.queries import plan_builds, plans_of
from unkett.web.show.values import Shown


@frozen(kw_only=True, slots=False)
class WorkPage(BikePage):
    """One page of the work: its findings and its calculations. Subclasses add numbers and pictures."""

    work: Page
    template = "work/work.html"

    @cached_property
    def compares(self) -> bool:
        """Whether two states stand beside each other."""
        return self.planned is not None

    @cached_property
    def folds(self) -> bool:
        """On the pages of the bike as it stands, what is behind a finding comes as it is opened."""
        return self.planned is None and not self.everything

    @cached_property
    def found(self) -> list[Finding]:
        return of_page(self.check.findings, self.work.name)

    @cached_property
    def groups(self) -> list[Group]:
        return by_verdict(self.found)

    @cached_property
    def accepted(self) -> list[Finding]:
        return [finding for finding in self.found if finding.accepted]

    @property
    def tool_asked(self) -> str:
        """What the address of a calculation says of the bike and the plan that fill it."""
        return urlencode({"bike": self.bike.pk, **({"plan": self.plan.pk} if self.plan else {})})

    @property
    def rows(self) -> Rows:
        """The page's table, as it is handed out."""
        return []

    @property
    def picture(self) -> Scene | None:
        """The page's picture, as it is handed out."""
        return None

    @property
    def file_name(self) -> str:
        return self.work.name


@frozen(kw_only=True)
class Line(Shown):
    """A number of a sheet as it stands and, with a plan, as planned, with where it comes from."""

    number: Number
    was: Any
    origin: str


@frozen(kw_only=True)
class GridShown(Shown):
    """A grid of a sheet; beside a row the verdict of the rule it names."""

    grid: Grid
    rows: list[tuple[GridRow, Verdict | None]]


@frozen(kw_only=True)
class SheetShown(Shown):
    """A sheet of one state, with the other state's numbers and picture where they differ."""

    sheet: Panel
    lines: list[Line]
    grids: list[GridShown]
    was_scene: Scene | None


def _verdict_beside(rule: str, sheet: str, findings: Iterable[Finding]) -> Verdict | None:
    """Return the worst verdict of a rule among the parts of this end of the bike."""
    end = sheet.partition("_")[0]
    hits = [
        finding.verdict
        for finding in findings
        if rule and finding.rule == rule and any(slot.startswith(f"{end}_") for slot in finding.slots)
    ]
    return worst(hits) if hits else None


@frozen(kw_only=True, slots=False)
class SheetsPage(WorkPage):
    """Bracket, Brakes, Wheels, Steering: sheets of numbers with their pictures; a plan adds those of what
    it changes.
    """

    @cached_property
    def sheets(self) -> list[SheetShown]:
        was = {sheet.name: sheet for sheet in self.work.sheets(self.now, self.settings)}
        if self.then is None:
            return [self._shown(sheet, None) for sheet in was.values()]
        return [
            self._shown(sheet, was.get(sheet.name)) for sheet in self.work.sheets(self.then, self.settings)
        ]

    @cached_property
    def changes(self) -> list[SheetShown]:
        """What the plan changes: as it stands against as planned."""
        if self.then is None:
            return []
        return [self._shown(sheet, None) for sheet in self.work.compares(self.now, self.then)]

    def _shown(self, sheet: Panel, old: Panel | None) -> SheetShown:
        differs = old is not None and old.scene is not None and old.scene != sheet.scene
        findings = self.check.findings
        return SheetShown(
            sheet=sheet,
            lines=[
                Line(number=number, was=old.value(number.name) if old else None, origin=self._origin(number))
                for number in sheet.numbers
            ],
            grids=[
                GridShown(
                    grid=grid,
                    rows=[(row, _verdict_beside(row.rule, sheet.name, findings)) for row in grid.rows],
                )
                for grid in sheet.grids
            ],
            was_scene=old.scene if old and differs else None,
        )

    def _origin(self, number: Number) -> str:
        if number.given is None or number.origin == "assumed":
            return number.origin
        return self.origins.get(number.given[0], {}).get(number.given[1], "stated")

    @property
    def every(self) -> list[SheetShown]:
        return [*self.changes, *self.sheets]

    @cached_property
    def asked_beside(self) -> frozenset[tuple[str, str]]:
        return frozenset((lack.slot, lack.attr) for shown in self.every for lack in shown.sheet.missing)

    @property
    def _asked_sheet(self) -> Panel | None:
        asked = self.asked.get("sheet")
        return next((shown.sheet for shown in self.every if shown.sheet.name == asked), None)

    @property
    def picture(self) -> Scene | None:
        return self._asked_sheet.scene if self._asked_sheet else None

    @property
    def file_name(self) -> str:
        return self._asked_sheet.name if self.picture and self._asked_sheet else self.work.name

    @property
    def rows(self) -> Rows:
        head = ["now", "planned"] if self.compares else ["value"]
        rows: Rows = [["sheet", "number", *head, "unit", "origin"]]
        for shown in self.every:
            for line in shown.lines:
                values = [line.was, line.number.value] if self.compares else [line.number.value]
                cells = ["" if value is None else value for value in values]
                rows.append([shown.sheet.title, line.number.title, *cells, line.number.unit, line.origin])
            for of in shown.grids:
                rows += self._grid_rows(shown.sheet.title, of)
        return rows

    def _grid_rows(self, title: str, of: GridShown) -> Rows:
        before = [""] if self.compares else []
        return [
            [title, f"{row.title}, {column}", *before, "" if cell is None else cell, "", "computed"]
            for row, _verdict in of.rows
            for column, cell in zip(of.grid.columns, row.cells, strict=True)
        ]


@frozen(kw_only=True, slots=False)
class GearsPage(WorkPage):
    """Gears of up to four set-ups beside each other, the hill and the top speed of the shown bike."""

    template = "work/gears.html"

    @cached_property
    def form(self) -> GearsForm:
        return GearsForm(self.asked)

    @cached_property
    def plans(self) -> list[Plan]:
        """Other plans that may be laid beside."""
        shown = self.plan.pk if self.plan else None
        return [
            plan
            for plan in plans_of(self.actor, self.bike.pk)
            if plan.pk != shown and plan.state != "dropped"
        ]

    @cached_property
    def _setups(self) -> tuple[list[SetUp], str]:
        """The set-ups to show, and what is wrong with the typed one."""
        pairs = [("now", "stands", self.now)]
        if self.then is not None:
            pairs.append(("as planned", "planned", self.then))
        pairs += [(name, "", build) for name, build in plan_builds(self.actor, self.stands, self.form.beside)]
        found = [
            setup for label, state, build in pairs if (setup := setup_of(build, label, state)) is not None
        ]
        fault = ""
        rings, sprockets = self.form.value("rings"), self.form.value("sprockets")
        if rings and sprockets:
            try:
                typed = setup_of(with_gears(self.build, rings, sprockets), "typed", "")
                found += [] if typed is None else [typed]
            except InputError as error:
                fault = str(error)
        return self._in_states(found), fault

    def _in_states(self, found: list[SetUp]) -> list[SetUp]:
        """Four at most, each with its own stroke."""
        spare = iter(("third", "fourth") if self.then is not None else ("planned", "third", "fourth"))
        return [
            setup
            if setup.state
            else SetUp(label=setup.label, state=next(spare), table=setup.table, angles=setup.angles)
            for setup in found[:SETUPS_MOST]
        ]

    @property
    def setups(self) -> list[SetUp]:
        return self._setups[0]

    @property
    def faults(self) -> list[tuple[str, str]]:
        """Return the faults of what was asked, by its title."""
        typed = [("Typed set-up", self._setups[1])] if self._setups[1] else []
        return [(field.title, field.fault.says) for field in self.form.fields if field.fault] + typed

    @cached_property
    def picture(self) -> Scene | None:
        return gear_scene(self.setups, self.settings, self.uprights) if self.setups else None

    @property
    def uprights(self) -> list[Upright]:
        """The gear that the hill wants at an easy cadence, and the highest gear with its speed."""
        if self.hill is None or self.gears.gears is None:
            return []
        hill = self.hill.speed_kmh * 1000 / 60 / EASY_CADENCE_RPM
        top = self.gears.gears.gears[-1].development_m
        return [
            Upright(hill, f"{self.hill.grade_pct:g} % hill: {EASY_CADENCE_RPM:g} rpm"),
            Upright(top, f"{self.top_kmh:.0f} km/h at {self.top_cadence:g} rpm", "end"),
        ]

    @cached_property
    def hill(self) -> Hill | None:
        """The hill that is asked for, ridden with the shown bike."""
        if self.gears.gears is None:
            return None
        grade, power = self.form.value("grade"), self.form.value("power")
        return hill_of(self.build, self.gears.gears, grade_pct=grade, power_w=power)

    @property
    def hill_rows(self) -> list[tuple[Gear, float]]:
        if self.hill is None or self.gears.gears is None:
            return []
        return list(zip(self.gears.gears.gears, self.hill.cadences_rpm, strict=True))

    @property
    def easy(self) -> Gear | None:
        """The highest gear that still turns easily up the hill."""
        if self.hill is None or self.hill.easy is None or self.gears.gears is None:
            return None
        return self.gears.gears.gears[self.hill.easy]

    @property
    def top_cadence(self) -> float:
        return float(self.form.value("cadence"))

    @property
    def top_kmh(self) -> float:
        return 0.0 if self.gears.gears is None else top_speed(self.gears.gears, self.top_cadence)

    @property
    def rows(self) -> Rows:
        """Gear tables as rows for a CSV file."""
        head = ["state", "ring", "sprocket", "ratio", "development_m", "gear_inches", "speed_kmh", "step_pct"]
        rows: Rows = [[*head, "chain_angle_deg"]] if self.setups else []
        for setup in self.setups:
            for row in setup.rows():
                gear = row["gear"]
                figures = (round(gear.ratio, 4), round(gear.development_m, 3), round(gear.gear_inches, 2))
                last = ("" if row[key] is None else round(row[key], 2) for key in ("step", "angle"))
                rows.append(
                    [setup.label, gear.ring, gear.sprocket, *figures, round(gear.speed_kmh, 2), *last]
                )
        return rows


@frozen(kw_only=True, slots=False)
class ChainPage(WorkPage):
    """The chain's window with the four ways beside each other, and the label of the chain that comes off."""

    template = "work/chain.html"

    @property
    def was(self) -> ChainFigures | None:
        """The chain as it stands, beside the planned one."""
        return self.chain_now if self.compares else None

    @cached_property
    def picture(self) -> Scene | None:
        return chain_scene(self.chain, self.was) if self.chain and self.chain.window else None

    @property
    def label(self) -> dict[str, Any]:
        """What is written on the chain that stands on the bike: its links and what it ran with."""
        parts: Any = self.now.filled()
        named: dict[str, Part | None] = {
            name: parts.get(slot)
            for name, slot in (("chain", "chain"), ("cassette", "cassette"), ("rings", "chainrings"))
        }
        return {"links": self.chain_now.links if self.chain_now else None, **named}

    @property
    def rows(self) -> Rows:
        if self.chain is None or self.chain.window is None:
            return []
        window = self.chain.window
        return [
            ["way", "links"],
            ["lower end", window.min_links],
            ["upper end", "" if window.max_links is None else window.max_links],
            ["chain on the bike", "" if self.chain.links is None else self.chain.links],
            ["simple formula", window.simple_formula_links],
        ]
