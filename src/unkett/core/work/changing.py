"""What a plan changes with the hands: slots whose part comes off, goes on, or must come off to reach another."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from attrs import evolve, field, frozen

from unkett.core.bike.overlay import with_changes
from unkett.core.build import Build, Part
from unkett.core.errors import CoreError
from unkett.core.standards.columns import refers
from unkett.core.vocabulary import SLOTS, Area
from unkett.core.work.templates import ENDS

# What comes off to reach another part, by the slot that is reached: handbook "setting up", a closed list.
REACHES: Mapping[str, tuple[str, ...]] = {
    "front_hub": ("front_rotor", "front_tyre"),
    "rear_hub": ("cassette", "rear_rotor", "rear_tyre"),
    "front_rim": ("front_tyre",),
    "rear_rim": ("rear_tyre",),
    "headset": ("fork", "stem"),
    "fork": ("stem",),
    "bottom_bracket": ("crank",),
}
WHEEL = {
    "front": ("front_hub", "front_rim", "front_spokes", "front_tyre", "front_rotor"),
    "rear": ("rear_hub", "rear_rim", "rear_spokes", "rear_tyre", "rear_rotor", "cassette"),
}
BRAKE = {
    end: tuple(f"{end}_{kind}" for kind in ("brake_lever", "brake_line", "caliper", "rotor", "brake_adapter"))
    for end in ENDS
}
STEERING = ("stem", "fork", "handlebar", "headset", "spacers")
CONTROLS = (
    "front_brake_lever",
    "rear_brake_lever",
    "front_shifter",
    "rear_shifter",
    "dropper_lever",
    "grips",
)
REAR_GEARS = ("rear_derailleur", "rear_shifter", "rear_shift_line", "cassette", "rear_hub", "chain", "frame")
FRONT_GEARS = (
    "front_derailleur", "front_shifter", "front_shift_line", "chainrings", "crank", "bottom_bracket", "frame",
)  # fmt: skip
CHAIN_TIGHT = ("chain", "chainrings", "crank", "bottom_bracket", *WHEEL["rear"], "frame")

# What a row of the table of steps may stand on the sheet for; `Changing.says` tells each.
TRIGGERS = (
    "off", "on", "new", "always", "work", "wheel_out", "wheel",
    "wheel_in", "lace", "true", "bare_shell", "bare_head", "steerer", "bar_bare",
    "bar_loose", "fork_out", "brake", "bleed", "brake_bare", "steering", "rear_gears",
    "front_gears", "gears", "chain_tight",
)  # fmt: skip
refers("trigger", TRIGGERS.__contains__)


@frozen(kw_only=True)
class Changing:
    """The bike as it stands and as planned, and what changes hands between them."""

    now: Build
    then: Build
    gone: frozenset[str] = field(factory=frozenset)  # slots whose part comes off for good
    new: frozenset[str] = field(factory=frozenset)  # slots that get another part
    reached: frozenset[str] = field(factory=frozenset)  # slots whose part comes off and goes back on
    over: frozenset[str] = field(factory=frozenset)  # slots whose part goes over to a new frame

    @classmethod
    def of(cls, now: Build, then: Build, opened: Iterable[str] = ()) -> Changing:
        """`opened` names slots that are opened in place, such as a headset to be greased."""
        changed = changed_slots(now, then)
        gone = frozenset(slot for slot in changed if slot in now.parts)
        new = frozenset(slot for slot in changed if slot in then.parts)
        kept = {slot for slot in now.parts if slot in then.parts and slot not in changed}
        reached: set[str] = set()
        queue = [*gone, *new, *opened]
        while queue:
            for slot in REACHES.get(queue.pop(), ()):
                if slot in kept and slot not in reached:
                    reached.add(slot)
                    queue.append(slot)
        over = kept - reached - {"frame"} if "frame" in gone & new else set()
        over -= {slot for wheel in WHEEL.values() for slot in wheel}
        return cls(now=now, then=then, gone=gone, new=new, reached=frozenset(reached), over=frozenset(over))

    @property
    def off(self) -> frozenset[str]:
        return self.gone | self.reached

    @property
    def on(self) -> frozenset[str]:
        return self.new | self.reached

    @property
    def touched(self) -> frozenset[str]:
        return self.off | self.on | self.over

    def kept(self, slot: str) -> bool:
        """Whether a slot's part stands there before and after."""
        return slot in self.now.parts and slot in self.then.parts and slot not in self.new

    def says(self, trigger: str, slot: str) -> bool:
        """Whether a template with this trigger stands on the sheet for a slot."""
        end = slot.partition("_")[0]
        touched = self.touched
        match trigger:
            case "off":
                return slot in self.off
            case "on":
                return slot in self.on
            case "new":
                return slot in self.new
            case "always":
                return True
            case "work":
                return bool(touched)
            case "wheel_out":
                return self.wheel_out(end)
            case "wheel" | "wheel_in":
                return self.wheel_in(end)
            case "lace":
                laced = {f"{end}_hub", f"{end}_rim"} & self.new
                return bool(laced) and self.kept(f"{end}_spokes")
            case "true":
                return (
                    bool({f"{end}_hub", f"{end}_rim", f"{end}_spokes"} & self.new) and slot in self.then.parts
                )
            case "bare_shell":
                return "bottom_bracket" in touched and "frame" in self.then.parts
            case "bare_head":
                return "headset" in touched and "frame" in self.then.parts
            case "steerer":
                return "fork" in self.new and "stem" in self.then.parts
            case "bar_bare":
                return "handlebar" in self.gone and "handlebar" in self.new and any(map(self.kept, CONTROLS))
            case "bar_loose":
                return "stem" in self.off | self.on and self.kept("handlebar") and "frame" not in self.new
            case "fork_out":
                return "fork" in self.off and self.kept(slot) and slot not in self.over
            case "brake":
                return slot in self.then.filled() and self.braked(end)
            case "bleed":
                joined = {f"{end}_brake_lever", f"{end}_brake_line", f"{end}_caliper"}
                return slot in self.then.filled() and bool(joined & self.on)
            case "brake_bare":
                return f"{end}_caliper" not in self.then.filled() and self.braked(end)
            case "steering":
                return bool(touched & set(STEERING)) and slot == self.steered_by
            case "rear_gears":
                return self.geared("rear_derailleur", REAR_GEARS)
            case "front_gears":
                return self.geared("front_derailleur", FRONT_GEARS)
            case "gears":
                return self.says("rear_gears", slot) or self.says("front_gears", slot)
            case "chain_tight":
                return bool(touched & set(CHAIN_TIGHT))
        raise CoreError(f"a step on {trigger}, which nothing tells of")

    def wheel_out(self, end: str) -> bool:
        """Whether a wheel that is in has to come out."""
        held = "fork" if end == "front" else "frame"
        reached = {*WHEEL[end], held, "frame"} & self.touched
        return f"{end}_hub" in self.now.filled() and bool(reached)

    def wheel_in(self, end: str) -> bool:
        return f"{end}_hub" in self.then.filled() and (self.wheel_out(end) or bool({*WHEEL[end]} & self.on))

    def braked(self, end: str) -> bool:
        """Whether anything of a brake changes: its parts, what carries it, its track, the bar with its lever."""
        carried = ("fork",) if end == "front" else ()
        track = (f"{end}_rim",) if f"{end}_rotor" not in self.then.filled() else ()
        return bool(self.touched & {*BRAKE[end], *carried, *track, "frame", "handlebar", f"{end}_hub"})

    @property
    def steered_by(self) -> str:
        """The slot on which the steering is checked."""
        return next((slot for slot in STEERING if slot in self.then.filled()), STEERING[0])

    def geared(self, derailleur: str, slots: tuple[str, ...]) -> bool:
        return derailleur in self.then.filled() and bool(self.touched & set(slots))


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
    """Where on the bike a slot is worked at: an area, of wheels and brakes an end."""
    if slot == "bike":
        return "bike"
    area = SLOTS[slot].area
    end = slot.partition("_")[0]
    return f"{end} {area.value}" if end in ENDS and area in (Area.WHEELS, Area.BRAKES) else area.value
