"""What a job is about: the bike now and as planned, which parts change, what holds what on either."""

from __future__ import annotations

import functools
from collections.abc import Iterable, Mapping, Sequence

from attrs import evolve, field, frozen

from unkett.core.bike.overlay import with_changes
from unkett.core.bike.wheels import wheel_slots
from unkett.core.build import Build, Part
from unkett.core.standards import table
from unkett.core.vocabulary import SLOTS, Area
from unkett.core.work.defect import OwnFinding
from unkett.core.work.facts import ENDS, Literal, facts_of_slot, holds, literals, settings, starts_false
from unkett.core.work.packages import Package
from unkett.core.work.templates import Template, shipped

LINES = ("front_brake_line", "rear_brake_line", "front_shift_line", "rear_shift_line", "dropper_line")
CONTROL_OF = {
    "front_brake_line": "front_brake_lever",
    "rear_brake_line": "rear_brake_lever",
    "front_shift_line": "front_shifter",
    "rear_shift_line": "rear_shifter",
    "dropper_line": "dropper_lever",
}
INSIDE_FRAME = ("internal_open", "hidden", "rear_disc_internal", "rear_disc_hidden", "dropper_internal")
STEERER = ("steerer_marked", "unstacked")  # what a fork needs before it goes in, where its steerer is marked


@frozen(kw_only=True)
class Holds:
    """How a slot's part is held and reached, for one slot of the bike."""

    held_by: tuple[Literal, ...] = ()
    carried_by: tuple[str, ...] = ()
    reach: tuple[Literal, ...] = ()
    reach_changed: tuple[Literal, ...] = ()
    reach_off: tuple[Literal, ...] = ()  # before the old part comes off for good
    fit_after: tuple[Literal, ...] = ()


@functools.cache
def held() -> Mapping[str, Holds]:
    """The table `holds` by slot, both ends of a bike spelled out."""
    found = {}
    for row in table("holds").rows:
        for end in ENDS if "{end}" in row["slot"] else ("",):
            cells = {
                name: literals(tuple(row.get(name, ())), end)
                for name in ("held_by", "reach", "reach_changed", "reach_off", "fit_after")
            }
            carried_by = tuple(name.replace("{end}", end) for name in row.get("carried_by", ()))
            found[row["slot"].replace("{end}", end)] = Holds(carried_by=carried_by, **cells)
    return found


@frozen(kw_only=True, slots=False, eq=False)
class Scope:
    """The bike now and as planned, and what changes hands between them.

    `gone` and `new` name the slots whose part comes off for good and that get another part; a part that is replaced
    by a new piece of the same sort stands in both. `cuts` says whether a steerer is cut.
    """

    now: Build
    then: Build
    gone: frozenset[str] = field(factory=frozenset)
    new: frozenset[str] = field(factory=frozenset)
    cuts: bool = False
    templates: Sequence[Template] = field(factory=shipped)
    packages: tuple[Package, ...] = ()
    own: tuple[OwnFinding, ...] = ()

    @classmethod
    def of(
        cls,
        now: Build,
        then: Build,
        *,
        replaced: Iterable[str] = (),
        cuts: bool = False,
        templates: Sequence[Template] | None = None,
        packages: Sequence[Package] = (),
        own: Sequence[OwnFinding] = (),
    ) -> Scope:
        changed = {*changed_slots(now, then), *(slot for slot in replaced if slot in now.parts)}
        return cls(
            now=now,
            then=then,
            gone=frozenset(slot for slot in changed if slot in now.parts),
            new=frozenset(slot for slot in changed if slot in then.parts),
            cuts=cuts,
            templates=shipped() if templates is None else templates,
            packages=tuple(packages),
            own=tuple(own),
        )

    @functools.cached_property
    def kept(self) -> frozenset[str]:
        """The slots whose part stays, whether it comes off on the way or not."""
        return frozenset(slot for slot in self.now.parts if slot in self.then.parts and slot not in self.new)

    @functools.cached_property
    def whole_wheels(self) -> frozenset[str]:
        """The ends whose wheel changes as one piece: a ready-built one goes on, or comes off."""
        return frozenset(
            end
            for end in ENDS
            if f"{end}_hub" in self.gone
            and f"{end}_hub" in self.new
            and any(is_wheel(build.parts.get(f"{end}_hub"), end) for build in (self.now, self.then))
        )

    def rides_whole(self, slot: str) -> bool:
        """Return whether a part is the rim or the spokes of a wheel that comes off as one piece."""
        end, _, kind = slot.partition("_")
        return kind in ("rim", "spokes") and end in self.whole_wheels and slot in self.gone

    @functools.cached_property
    def filled_now(self) -> Mapping[str, Part]:
        return self.now.filled()

    @functools.cached_property
    def filled_then(self) -> Mapping[str, Part]:
        return self.then.filled()

    @functools.cached_property
    def stacks(self) -> bool:
        """Whether a steerer is stacked dry and marked: a new fork under a stem that clamps it, or one to be cut."""
        if self.cuts:
            return True
        clamps = "stem" in self.filled_then and not holds("stem.mount=quill", self.then)
        return "fork" in self.new and clamps and not holds("fork.steerer_threaded=true", self.then)

    def races(self) -> bool:
        """Whether a crown race is set: on a new fork, or of a new headset; none where the crown carries the bearing."""
        fork = self.filled_then.get("fork")
        bare = fork is not None and fork.attrs.get("crown_bearing") is True
        return fork is not None and not bare and bool({"fork", "headset"} & self.new)

    # what holds what

    def holders(self, slot: str, build: Build) -> tuple[str, ...]:
        """Return the part that holds a slot's part on the bike: the first of those it may be held by, or none."""
        filled = self.filled_now if build is self.now else self.filled_then
        for one in held().get(slot, Holds()).held_by:
            name = one.fact
            if name in filled and (not one.test or holds(one.test, build)):
                return (body_of(name, build),)
        return ()

    def carriers(self, slot: str, build: Build) -> tuple[str, ...]:
        """Return the parts that carry a slot's part in the hand, such as a hub its rotor."""
        filled = self.filled_now if build is self.now else self.filled_then
        return tuple(name for name in held().get(slot, Holds()).carried_by if name in filled)

    @functools.cached_property
    def children_now(self) -> Mapping[str, tuple[str, ...]]:
        """By slot the parts that it holds or carries now."""
        return self._children(self.now)

    @functools.cached_property
    def children_then(self) -> Mapping[str, tuple[str, ...]]:
        return self._children(self.then)

    def _children(self, build: Build) -> Mapping[str, tuple[str, ...]]:
        found: dict[str, list[str]] = {}
        for slot in build.parts:
            for one in dict.fromkeys((*self.holders(slot, build), *self.carriers(slot, build))):
                found.setdefault(one, []).append(slot)
        return {slot: tuple(names) for slot, names in found.items()}

    def runs_inside(self, line: str) -> bool:
        """Return whether a line runs inside the frame, now or as planned."""
        inside = "|".join(INSIDE_FRAME)
        return any(
            holds(test, build)
            for build in (self.now, self.then)
            for test in (f"{line}.route={inside}", "frame.routing=internal_guided|internal_open|fully_hidden")
        )

    def leaves_with_control(self, line: str) -> bool:
        """Return whether a line leaves an old frame on its lever, which comes off with the cockpit."""
        at: tuple[str, ...] = (CONTROL_OF.get(line, ""),)
        if "frame" not in self.gone or not self.kept.issuperset(at):
            return False
        while at and at != ("frame",):
            at = self.holders(at[0], self.now)
        return bool(at)

    # facts

    def facts_at_start(self) -> set[str]:
        """Return what holds of the bike before anything is done."""
        facts = {fact for slot in self.filled_now for fact in facts_of_slot(slot, self.now)}
        facts |= {f"in:{end}" for end in ENDS if f"{end}_hub" in self.filled_now}
        facts |= {f"joined:{line}" for line in LINES if line in self.filled_now}
        return facts | (settings().keys() - starts_false())

    def means(self, one: Literal, build: Build) -> tuple[Literal, ...]:
        """Return a literal as facts of this job: none where it says nothing here, two for a part with two sides.

        What is not on the bike, now or as planned, can neither be in the way nor be waited for.
        """
        if one.test and not holds(one.test, build):
            return ()
        sort, _, name = one.fact.partition(":")
        filled = self.filled_now if build is self.now else self.filled_then
        if sort == "on":
            slot, _, side = name.partition(":")
            there = slot in filled if one.holds else slot in self.filled_now or slot in self.filled_then
            if not there or side:
                return (evolve(one, test=""),) if there else ()
            names = {
                fact
                for at in ((build,) if one.holds else (self.now, self.then))
                if slot in at.filled()
                for fact in facts_of_slot(slot, at)
            }
            return tuple(Literal(fact=fact, holds=one.holds) for fact in sorted(names))
        if sort in ("in", "joined"):
            slot = f"{name}_hub" if sort == "in" else name
            there = slot in filled if one.holds else slot in self.filled_now or slot in self.filled_then
        else:
            there = self.waits_for(one.fact)
        return (evolve(one, test=""),) if there else ()

    def waits_for(self, fact: str) -> bool:
        """Return whether a setting has to be made in this job where it is not: something must be able to make it."""
        if fact in starts_false():
            steerer = {*STEERER, "stacked"}
            if fact in steerer:
                return self.stacks
            if fact == "steerer_cut":
                return self.cuts
            if fact == "raced":
                return self.races()
        return bool(self.givers(fact))

    @functools.cached_property
    def _givers(self) -> Mapping[str, tuple[tuple[Template, str], ...]]:
        found: dict[str, list[tuple[Template, str]]] = {}
        for row in self.templates:
            for end in ENDS if "{end}" in row.slot or any("{end}" in one for one in row.gives) else ("",):
                slot = row.slot.replace("{end}", end)
                fits = slot == "bike" or slot in self.filled_then or self._needs_no_part(row, end)
                if row.gives and fits and row.fits(end, self.then):
                    for fact in row.gives:
                        found.setdefault(fact.replace("{end}", end), []).append((row, end))
        return {fact: tuple(rows) for fact, rows in found.items()}

    def _needs_no_part(self, row: Template, end: str) -> bool:
        """A brake is bled where its hose was never recorded, and looked at where nothing of it is left."""
        return row.word == "brake" or (row.word == "bleed" and f"{end}_caliper" in self.filled_then)

    def givers(self, fact: str) -> tuple[tuple[Template, str], ...]:
        """Return the rows that make a setting, each with its end, on the bike as planned."""
        return self._givers.get(fact, ())


def is_wheel(part: Part | None, end: str) -> bool:
    """Return whether a hub's part is a whole wheel, ready-built: its rim and spokes are of one piece with it."""
    return part is not None and set(wheel_slots(end)[1:]) <= set(part.also)


def body_of(slot: str, build: Build) -> str:
    """Return the slot that a part is fitted in, by any slot that it fills."""
    if slot in build.parts:
        return slot
    return next((name for name, part in build.parts.items() if slot in part.also), slot)


def changed_slots(now: Build, then: Build) -> list[str]:
    """The slots whose part is another one. What a change pulls along, such as a frame that turns, is no other part."""
    differ = [slot for slot in SLOTS if now.parts.get(slot) != then.parts.get(slot)]
    alike = [
        slot
        for slot in differ
        if slot in now.parts and slot in then.parts and _named_alike(now.parts[slot], then.parts[slot])
    ]
    if not alike:
        return differ
    others = {slot: then.parts.get(slot) for slot in differ if slot not in alike}
    laid = with_changes(now, others)
    return [slot for slot in differ if slot not in alike or not _same(laid.parts[slot], then.parts[slot])]


def _named_alike(one: Part, other: Part) -> bool:
    return (one.kind, one.name, one.also) == (other.kind, other.name, other.also)


def _same(one: Part, other: Part) -> bool:
    return evolve(one, extra={}) == evolve(other, extra={})


def place_of(slot: str) -> str:
    """Return where on the bike a slot is worked at: an area, of wheels and brakes an end."""
    if slot == "bike":
        return "bike"
    area = SLOTS[slot].area
    end = slot.partition("_")[0]
    return f"{end} {area.value}" if end in ENDS and area in (Area.WHEELS, Area.BRAKES) else area.value
