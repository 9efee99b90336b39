"""Gear finder: rings and sprockets from the shelf that reach the wished lowest and highest gear."""

from __future__ import annotations

from collections.abc import Sequence

from attrs import evolve, frozen

from unkett.core.bike.facts import Facts
from unkett.core.bike.figures import chainline_of, gears_of
from unkett.core.build import Build, Part
from unkett.core.calc.climbing import climb
from unkett.core.check.engine import Check, check_again
from unkett.core.errors import InputError
from unkett.core.rules.finding import Verdict, worst
from unkett.core.settings import DEFAULTS, Settings
from unkett.core.ways.wish import GearsWanted, ShelfPart, attrs_reader

RANKS = ("step", "price", "angle")
JUDGED_MOST = 40  # sets that are put on the bike and checked
SHOWN_MOST = 12
NO_ANGLE = 90.0


@frozen(kw_only=True, eq=False)
class GearSet:
    """Rings and sprockets with what they come to; a part that is None stays as it stands. Price in hundredths.

    `verdict` is the worst that a joint says then and did not say before; `asks` is its sentence.
    """

    rings: ShelfPart | None
    cassette: ShelfPart | None
    teeth: tuple[tuple[int, ...], tuple[int, ...]]
    low_m: float
    high_m: float
    step_pct: float
    angle_deg: float | None
    price: int
    verdict: Verdict = Verdict.UNMEASURED
    asks: str = ""

    def rank(self, by: str) -> tuple[float, ...]:
        angle = NO_ANGLE if self.angle_deg is None else self.angle_deg
        keys = {"step": self.step_pct, "price": float(self.price), "angle": angle}
        return keys[by], *(keys[name] for name in RANKS)


def lowest_for_hill(*, mass_kg: float, power_w: float, grade_pct: float, cadence_rpm: float) -> float:
    """Return the development in m in which a rider of this power turns this cadence on a hill at steady speed.

    v ÷ cadence: speed in km/h × 1000 / 60 / cadence in rpm. Raises InputError as `climb` does.
    """
    found = climb(mass_kg=mass_kg, power_w=power_w, grade_pct=grade_pct, development_m=1.0)
    return found.speed_kmh * 1000 / 60 / cadence_rpm


def gear_search(
    build: Build,
    check: Check,
    shelf: Sequence[ShelfPart],
    wanted: GearsWanted,
    by: str = "step",
    settings: Settings = DEFAULTS,
) -> list[GearSet]:
    """The sets of rings and sprockets that reach what is wanted, those first that go, ranked by `by`, then the others.

    What stands on the bike counts as on the shelf. Empty where the rear wheel's size is not known.
    """
    found = [
        one
        for rings in _choices(build, shelf, "chainrings")
        for cassette in _choices(build, shelf, "cassette")
        if (one := _set_of(build, rings, cassette, wanted)) is not None
    ]
    best = sorted(found, key=lambda one: (one.rank(by), _name(one)))[:JUDGED_MOST]
    judged = [_judged(build, check, one, settings) for one in best]
    return sorted(judged, key=lambda one: (one.verdict is Verdict.NO_GO, one.rank(by), _name(one)))[
        :SHOWN_MOST
    ]


def _name(one: GearSet) -> tuple[str, str]:
    return one.rings.id if one.rings else "", one.cassette.id if one.cassette else ""


def _choices(build: Build, shelf: Sequence[ShelfPart], slot: str) -> list[ShelfPart | None]:
    """The shelf's parts for a slot that state their teeth, the cheapest of each row of teeth, and what stands there."""
    found: dict[object, ShelfPart] = {}
    for part in sorted(shelf, key=lambda part: (part.price, part.id)):
        if slot in part.slots and part.part.attrs.get("teeth"):
            signs = tuple(sorted((name, repr(value)) for name, value in part.part.attrs.items()))
            found.setdefault(signs, part)
    stays: list[ShelfPart | None] = [None] if slot in build.filled() else []
    return [*stays, *found.values()]


def _laid(build: Build, rings: ShelfPart | None, cassette: ShelfPart | None) -> Build:
    for slot, part in (("chainrings", rings), ("cassette", cassette)):
        if part is not None:
            build = build.with_part(slot, part.part)
    return build


def _set_of(
    build: Build, rings: ShelfPart | None, cassette: ShelfPart | None, wanted: GearsWanted
) -> GearSet | None:
    laid = _laid(_gears_only(build), rings, cassette)
    if not wanted.met_by(attrs_reader(laid)):
        return None
    table = gears_of(laid).gears
    if table is None:
        return None
    teeth = (laid.filled()["chainrings"].attrs["teeth"], laid.filled()["cassette"].attrs["teeth"])
    try:
        lines = chainline_of(Facts(_laid(build, rings, cassette)), note=False)
    except InputError:
        lines = None
    return GearSet(
        rings=rings,
        cassette=cassette,
        teeth=teeth,
        low_m=table.gears[0].development_m,
        high_m=table.gears[-1].development_m,
        step_pct=max(table.steps_pct, default=0.0),
        angle_deg=max((abs(angle) for angle in lines.angles.values()), default=None) if lines else None,
        price=sum(part.price for part in (rings, cassette) if part),
    )


def _gears_only(build: Build) -> Build:
    """Return the parts that gears hang on alone: cheaper to lay others over."""
    slots = ("chainrings", "cassette", "rear_hub", "rear_rim", "rear_tyre", "crank")
    parts: dict[str, Part] = {slot: build.parts[slot] for slot in slots if slot in build.parts}
    return evolve(build, parts=parts, empty=frozenset())


def _judged(build: Build, check: Check, one: GearSet, settings: Settings) -> GearSet:
    after = check_again(check, build, _laid(build, one.rings, one.cassette), settings)
    said = {(finding.about, finding.says) for finding in check.findings}
    new = [finding for finding in after.findings if (finding.about, finding.says) not in said]
    asking = [finding for finding in new if finding.verdict is not Verdict.GOES]
    verdict = worst([finding.verdict for finding in asking]) if asking else Verdict.GOES
    return evolve(one, verdict=verdict, asks=asking[0].says if asking else "")
