"""What the suspension page shows of each end: fields, the ring, the next change, the records, what is felt."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cached_property
from typing import Any

from attrs import field, frozen

from unkett.core.calc.suspension_scenes import ring_scene
from unkett.core.errors import Fault, InputError, bad
from unkett.core.formats.typed_text import read_typed, typed_text
from unkett.core.scene import Scene
from unkett.core.standards import table
from unkett.core.suspension.advice import Change, by_feel, by_ring, felt_at
from unkett.core.suspension.ends import CLICKS, MOST, SuspensionEnd, ends_of
from unkett.core.units import read_reading
from unkett.core.vocabulary import describe, enums
from unkett.core.vocabulary.kinds_suspension import SETTINGS
from unkett.web.bikes.inspection import defects_of
from unkett.web.pages.common.bike_page import BikePage
from unkett.web.show.fields import by_name
from unkett.web.show.values import Shown
from unkett.web.suspension.models import Posture, SuspensionRecord
from unkett.web.suspension.queries import earlier_readings, records_of
from unkett.web.tasks.models import Task
from unkett.web.tasks.services import last_asked
from unkett.web.workshop.permissions import may

PDF = "suspension-pdf"
TITLES = {"fork": "Fork", "shock": "Shock"}
SHORT = {
    "set_pressure_bar": "Pressure",
    "set_spacers": "Spacers",
    "set_preload_mm": "Preload",
    "set_rebound": "Rebound",
    "set_low": "Low compression",
    "set_high": "High compression",
    "set_sag_mm": "Sag",
}
BESIDE = {
    "hit_mm": "mm",
    "tyre_bar": "bar",
    "temperature_c": "",
}  # read beside the settings, with their units
CARDS = {"fork": "fork_lowers", "shock": "shock_can"}  # the service that is due by hours
LEAKS = "seals_leaking"
HOURS = {"fork": "fork_service_h", "shock": "shock_service_h"}


@frozen(kw_only=True)
class Typed(Shown):
    """One field of an end: what stands in it, its unit, the most that there is."""

    name: str
    title: str
    text: str
    unit: str
    most: str
    fault: Fault | None

    @property
    def how(self) -> str:
        return f"{self.title}, clicks from closed" if self.name in CLICKS else self.title


def read_end(end: SuspensionEnd, posted: Mapping[str, Any]) -> tuple[dict[str, Any], dict[str, Any]]:
    """Return settings by attribute (None where nothing is typed) and what is read beside them.

    Raises InputError naming every field that cannot be read.
    """
    values: dict[str, Any] = {}
    beside: dict[str, Any] = {}
    faults: list[Fault] = []
    for name in (*settings_of_end(end), *BESIDE):
        text = str(posted.get(name, "")).strip()
        try:
            if name in BESIDE:
                beside[name] = read_reading(text, BESIDE[name], name) if text else None
                if beside[name] is not None and not -40 <= beside[name] <= 400:
                    raise bad(name, f"{beside[name]:g} given; -40 to 400 allowed")
            else:
                kind = describe(end.slot, name).type
                values[name] = kind.check(read_typed(text, kind), name) if text else None
        except InputError as error:
            faults += [Fault(path=name, says=fault.says) for fault in error.faults]
    if faults:
        raise InputError(faults)
    return values, beside


def settings_of_end(end: SuspensionEnd) -> list[str]:
    """Return what may be set at an end: no pressure on a coil, no preload on air, no dial that it has not."""
    out = ("set_pressure_bar", "set_spacers") if end.is_coil else ("set_preload_mm",)
    return [
        name
        for name in SETTINGS
        if name not in out and not (name in CLICKS and end.most.get(name) == 0 and name not in end.values)
    ]


@frozen(kw_only=True, slots=False)
class EndShown(Shown):
    """One end of the page."""

    end: SuspensionEnd
    records: list[SuspensionRecord]
    posted: Mapping[str, Any] | None = None
    faults: tuple[Fault, ...] = field(factory=tuple)
    felt: str = ""
    leaks: bool = False  # an inspection found its seals leaking
    service_h: float = 0.0

    @property
    def slot(self) -> str:
        return self.end.slot

    @property
    def title(self) -> str:
        return TITLES[self.end.slot]

    @property
    def says(self) -> str:
        """Travel or stroke and spring, in words."""
        full = "travel" if self.end.slot == "fork" else "stroke"
        spring = enums.SPRING.title(self.end.spring).lower() if self.end.spring else "spring not recorded"
        size = f"{self.end.full_mm:g} mm {full}" if self.end.full_mm else f"{full} not measured"
        if self.end.linkage is not None and self.end.slot == "shock":
            size += f" for {self.end.linkage.travel_mm:.0f} mm at the wheel"
        rate = f", {self.end.rate_n_mm:.1f} N/mm" if self.end.is_coil and self.end.rate_n_mm else ""
        return f"{size}, {spring}{rate}"

    @property
    def last(self) -> SuspensionRecord | None:
        return self.records[0] if self.records else None

    @property
    def hit_mm(self) -> float | None:
        return self.last.hit_mm if self.last else None

    @cached_property
    def _wrong(self) -> Mapping[str, Fault]:
        return by_name(self.faults)

    def _text(self, name: str) -> str:
        if self.posted is not None:
            return str(self.posted.get(name, ""))
        value = self.end.values.get(name)
        return "" if value is None else typed_text(value, describe(self.end.slot, name).type)

    @cached_property
    def fields(self) -> list[Typed]:
        out = []
        for name in settings_of_end(self.end):
            most = self.end.most.get(name) if name in MOST else None
            unit = describe(self.end.slot, name).unit
            out.append(
                Typed(
                    name=name, title=SHORT[name], text=self._text(name), unit=unit,
                    most="" if most is None else f"of {most:g}" if name in CLICKS else f"most {most:g}",
                    fault=self._wrong.get(name),
                )
            )  # fmt: skip
        return out

    @cached_property
    def hit(self) -> Typed:
        """The ring after the hardest hit; it is read again after each ride, so nothing stands in it."""
        text = str(self.posted.get("hit_mm", "")) if self.posted is not None else ""
        return Typed(
            name="hit_mm", title="Hardest hit", text=text, unit="mm", most="",
            fault=self._wrong.get("hit_mm"),
        )  # fmt: skip

    @cached_property
    def beside(self) -> list[Typed]:
        """Tyre pressure and temperature at the reading."""
        titles = {"tyre_bar": ("Tyre", "bar"), "temperature_c": ("Temperature", "°C")}
        return [
            Typed(
                name=name, title=title, unit=unit, most="", fault=self._wrong.get(name),
                text=str(self.posted.get(name, "")) if self.posted is not None else "",
            )
            for name, (title, unit) in titles.items()
        ]  # fmt: skip

    @cached_property
    def next(self) -> Change:
        """The one change to try next."""
        if self.felt in {row["code"] for row in self.feelings}:
            return by_feel(self.end, self.felt)
        return by_ring(self.end, self.hit_mm, self.last.bangs if self.last else False)

    @cached_property
    def feelings(self) -> list[dict[str, Any]]:
        return felt_at(self.end)

    @property
    def knocks(self) -> list[Mapping[str, Any]]:
        return [row for row in table("suspension_knocks").rows if self.end.end in row["ends"]]

    @cached_property
    def scene(self) -> Scene | None:
        target = self.end.target
        if target is None or not self.end.full_mm:
            return None
        return ring_scene(f"{self.title}: ring", self.end.full_mm, target, self.end.sag_mm, self.hit_mm)

    @property
    def card(self) -> str:
        """The package that is due by hours."""
        return CARDS[self.end.slot]

    @property
    def due_in_h(self) -> float | None:
        """Hours until the next service; negative where it is over."""
        ridden = self.end.since_service
        return None if ridden is None else self.service_h - ridden

    @property
    def compared(self) -> list[tuple[str, str, list[str]]]:
        """What was set, by row: title, unit, and the figures of the records, newest first."""
        rows = []
        for name in SETTINGS:
            shown = [one.value(name) for one in self.records]
            if any(value is not None for value in shown):
                texts = ["" if value is None else f"{value:g}" for value in shown]
                rows.append((SHORT[name], describe(self.end.slot, name).unit, texts))
        hits = [one.hit_mm for one in self.records]
        if any(hit is not None for hit in hits):
            rows.append(("Hardest hit", "mm", ["" if hit is None else f"{hit:g}" for hit in hits]))
        return rows


@frozen(kw_only=True, slots=False)
class SuspensionPage(BikePage):
    """Both ends of a bike's suspension; `posted` and `faults` are of the end that was typed."""

    posted: Any = None
    faults: tuple[Fault, ...] = field(factory=tuple)

    postures = Posture.choices

    @cached_property
    def records(self) -> dict[str, list[SuspensionRecord]]:
        return records_of(self.bike)

    @cached_property
    def ends(self) -> list[EndShown]:
        found = ends_of(self.now, self.settings, earlier=earlier_readings(self.records))
        typed = str(self.posted.get("slot", "")) if self.posted is not None else ""
        return [
            EndShown(
                end=end,
                records=self.records.get(end.slot, []),
                posted=self.posted if end.slot == typed else None,
                faults=self.faults if end.slot == typed else (),
                leaks=any((one.slot, one.defect) == (end.slot, LEAKS) for one in defects_of(self.bike)[0]),
                felt=self.asked.get(f"felt-{end.slot}", ""),
                service_h=self.settings.number(HOURS[end.slot]),
            )
            for end in found
        ]

    @property
    def school(self) -> str:
        """The workshop's school of sag, in words."""
        return enums.SAG_SCHOOL.title(self.settings.school("sag_school"))

    @property
    def mass_kg(self) -> float | None:
        mass: float | None = self.bike.rider.get("mass_kg")
        return mass

    @property
    def wrong(self) -> Mapping[str, Fault]:
        """What is wrong with the other rider's form."""
        return by_name(self.faults if self.posted is not None and "mass_kg" in self.posted else ())

    @property
    def may_write(self) -> bool:
        return may(self.actor, "change-bikes")

    @property
    def may_plan(self) -> bool:
        return may(self.actor, "change-plans")

    @cached_property
    def pdf(self) -> Task | None:
        """The card as PDF that was asked for last."""
        return last_asked(self.actor, PDF, self.bike.pk, {})
