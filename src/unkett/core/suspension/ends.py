"""Fork and shock of a bike as they are set: travel, spring, dials, sag against its target, hours."""

from __future__ import annotations

import functools
import math
from collections.abc import Mapping
from typing import Any

from attrs import evolve, field, frozen

from unkett.core.bike.facts import Facts
from unkett.core.build import Build
from unkett.core.calc.air_springs import NextPressure, next_pressure
from unkett.core.calc.suspension import Linkage, SagTarget, SpringRate, sag_target, spring_rate
from unkett.core.errors import InputError
from unkett.core.settings import DEFAULTS, Settings
from unkett.core.standards import limit_of
from unkett.core.vocabulary.kinds_suspension import SETTINGS

FULL = {"fork": "travel_mm", "shock": "stroke_mm"}
FRONT_SHARE = 1 - (limit_of("rear_share_low") + limit_of("rear_share_high")) / 2
REAR_SHARE = 1 - FRONT_SHARE
CLICKS = {"set_rebound": "rebound_clicks", "set_low": "low_clicks", "set_high": "high_clicks"}
MOST = {**CLICKS, "set_pressure_bar": "pressure_max_bar", "set_spacers": "spacers_max"}


@frozen(kw_only=True, slots=False)
class SuspensionEnd:
    """One sprung end: `slot` is fork or shock; `full_mm` its travel or stroke, None where it is not measured."""

    slot: str
    full_mm: float | None
    spring: str | None
    rate_n_mm: float | None
    values: Mapping[str, Any]  # what is set, by the attribute's name
    most: Mapping[str, Any]  # by setting the most that there is
    use: str
    school: str
    mass_kg: float | None
    linkage: Linkage | None
    hours: float | None
    hours_at_service: float | None
    earlier: tuple[float, float] | None = field(default=None)  # pressure and sag of a reading before

    @property
    def end(self) -> str:
        return "front" if self.slot == "fork" else "rear"

    @property
    def is_coil(self) -> bool:
        return self.spring == "coil"

    @property
    def sag_mm(self) -> float | None:
        return self.values.get("set_sag_mm")

    @functools.cached_property
    def target(self) -> SagTarget | None:
        """The sag's target, with what the reading says where there is one; None while the travel is not measured."""
        if not self.full_mm:
            return None
        try:
            return sag_target(
                use=self.use, end=self.end, full_mm=self.full_mm, school=self.school, sag_mm=self.sag_mm
            )
        except InputError:
            return None

    @property
    def reading(self) -> str | None:
        return self.target.reading if self.target else None

    @functools.cached_property
    def next_pressure(self) -> NextPressure | None:
        """The pressure to try next, of an air spring whose pressure and sag are read."""
        bar = self.values.get("set_pressure_bar")
        if self.is_coil or self.target is None or not bar or not self.sag_mm or self.full_mm is None:
            return None
        before = {} if self.earlier is None else {
            "earlier_pressure_bar": self.earlier[0], "earlier_sag_mm": self.earlier[1],
        }  # fmt: skip
        try:
            return next_pressure(
                pressure_bar=bar, full_mm=self.full_mm, sag_mm=self.sag_mm, target_pct=self.target.aim_pct,
                max_bar=self.most.get("set_pressure_bar"), **before,
            )  # fmt: skip
        except InputError:
            return None

    @functools.cached_property
    def springs(self) -> SpringRate | None:
        """The rate that the rider wants of a coil, and the ones sold beside it."""
        if not self.is_coil or self.mass_kg is None or self.target is None or self.linkage is None:
            return None
        try:
            return spring_rate(
                mass_kg=self.mass_kg,
                load_share=FRONT_SHARE if self.end == "front" else REAR_SHARE,
                stroke_mm=self.linkage.stroke_mm,
                leverage_start=self.linkage.start,
                leverage_end=self.linkage.end,
                sag_pct=self.target.aim_pct,
                preload_mm=self.values.get("set_preload_mm") or 0.0,
            )
        except InputError:
            return None

    @property
    def wheel_sag_mm(self) -> float | None:
        """How far the rear wheel sinks under the rider, by the leverage."""
        if self.end == "front" or self.linkage is None or self.sag_mm is None:
            return self.sag_mm if self.end == "front" else None
        return self.linkage.wheel_mm(min(1.0, self.sag_mm / self.linkage.stroke_mm))

    def with_values(self, values: Mapping[str, Any]) -> SuspensionEnd:
        """Return the end as it would be with other settings; None takes one away."""
        kept = {name: value for name, value in {**self.values, **values}.items() if value is not None}
        return evolve(self, values=kept)

    @property
    def since_service(self) -> float | None:
        """Hours ridden since the last service."""
        return None if self.hours is None else self.hours - (self.hours_at_service or 0.0)


def is_sprung(build: Build) -> bool:
    """Return whether a bike has a fork with travel, or a shock."""
    fork = build.filled().get("fork")
    return "shock" in build.filled() or (
        fork is not None and bool(fork.attrs.get("travel_mm") or fork.attrs.get("spring"))
    )


def ends_of(
    build: Build,
    settings: Settings = DEFAULTS,
    school: str | None = None,
    earlier: Mapping[str, tuple[float, float]] | None = None,
) -> list[SuspensionEnd]:
    """Return the sprung ends of a bike, fork first. `earlier` gives pressure and sag of a reading before, by slot."""
    facts = Facts(build)
    out = []
    for slot in ("fork", "shock"):
        sprung = facts.get(slot, "travel_mm") or facts.get(slot, "spring") if slot == "fork" else True
        if slot not in facts.filled or not sprung:
            continue
        full = facts.get(slot, FULL[slot])
        out.append(
            SuspensionEnd(
                slot=slot,
                full_mm=full,
                spring=facts.get(slot, "spring") or ("coil" if _coil(facts, slot) else None),
                rate_n_mm=facts.get("shock_spring" if slot == "shock" else slot, "rate_n_mm"),
                values={name: value for name in SETTINGS if (value := facts.get(slot, name)) is not None},
                most={name: value for name, of in MOST.items() if (value := facts.get(slot, of)) is not None},
                use=facts.get("bike", "use") or "xc",
                school=school or settings.school("sag_school"),
                mass_kg=facts.get("bike", "mass_kg"),
                linkage=_linkage(facts, slot, full),
                hours=facts.get(slot, "hours"),
                hours_at_service=facts.get(slot, "hours_at_service"),
                earlier=(earlier or {}).get(slot),
            )
        )
    return out


def _coil(facts: Facts, slot: str) -> bool:
    return slot == "shock" and "shock_spring" in facts.filled


def _linkage(facts: Facts, slot: str, full: float | None) -> Linkage | None:
    """Return how the wheel moves against the spring; a fork's wheel moves by the sine of the head angle."""
    if not full:
        return None
    if slot == "fork":
        angle = facts.get("frame", "head_angle_deg")
        if angle is None:
            return None
        leverage = math.sin(math.radians(angle))
        return Linkage(stroke_mm=full, start=leverage, end=leverage)
    names = ("wheel_travel_mm", "leverage_start", "leverage_end")
    return Linkage.known(full, *(facts.get("frame", name) for name in names))
