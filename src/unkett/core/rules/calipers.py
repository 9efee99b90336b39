"""Disc calipers: on their mount, at the rotor's radius. All safety."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from attrs import frozen

from unkett.core.calc.brakes import POST_STEPS_MM, caliper_place, plates_made, rotor_shift
from unkett.core.rules.base import rule
from unkett.core.rules.outcome import (
    SILENT,
    Outcome,
    fill,
    goes,
    goes_if,
    near,
    need,
    no_go,
    unmeasured,
    way_out,
)
from unkett.core.rules.roles import HOLDER, at_both_ends, both_ends, end_of, optional
from unkett.core.rules.view import View, require
from unkett.core.standards import SLACK, disc_mounts, limit_of, lookup, table
from unkett.core.vocabulary import Area

CLOSE_MM = limit_of("caliper_close_mm")
EDGE_MM = limit_of("caliper_edge_mm")
WASHERS_MM = limit_of("caliper_washers_mm")
DISC_MOUNTS = disc_mounts()
FLAT_NATIVES_MM = tuple(lookup("native_rotors", "code")["flat, native not stated"]["rotors_mm"])


def _fits(rotor_mm: float, place_mm: float) -> bool:
    """Return whether a rotor can run in a place made for another size, with washers if need be."""
    radial = rotor_shift(from_mm=place_mm, to_mm=rotor_mm).radial_mm
    return -EDGE_MM - SLACK <= radial <= WASHERS_MM + SLACK


def _natives(holder: View) -> list[float]:
    """Rotors of the bare mount: stated, else by the table, else asked for."""
    stated: float | None = holder.native_rotor_mm
    if stated is not None:
        return [stated]
    for row in table("native_rotors").rows:
        if row["mount"] == holder.brake_mount and row["end"] == end_of(holder):
            return list(row["rotors_mm"])
    return [require(holder).native_rotor_mm]


@frozen(kw_only=True)
class _Seat:
    """Where a caliper ends up: the rotor its place is made for, the adapter still wanted, or why there is none."""

    rotor_mm: float | None = None
    needs_mm: float | None = None  # rotor of the adapter that is wanted and not there
    step_mm: float | None = None
    turned: bool = False  # the flat mount's own plate, turned
    wrong: str | None = None


def _without_adapter(holder: View, caliper: View, size: float) -> _Seat:
    """Return where mount and caliper want each other for a rotor, with nothing in between yet."""
    mount, end = holder.brake_mount, end_of(holder)
    plates = plates_made(mount, caliper.bolts_to, end)
    if caliper.bolts_to != mount:
        made = [plate for plate in plates if _fits(size, plate)]
        return _Seat(needs_mm=min(made, key=lambda item: abs(size - item))) if made else _Seat(wrong="no_way")
    natives = _natives(holder)
    nearest = min(natives, key=lambda native: abs(size - native))
    turns = mount == "flat" and end == "front" and nearest == 140
    places = [nearest, *([160.0] if turns else []), *(item for item in plates if item >= nearest)]
    if mount == "post":
        places = [nearest + step for step in POST_STEPS_MM]
    fitting = [place for place in places if _fits(size, place)]
    if not fitting:
        return _Seat(wrong="smaller" if size < nearest else "no_way")
    place = min(fitting, key=lambda item: (abs(size - item), item))
    if place == nearest:
        return _Seat(rotor_mm=nearest)
    if turns and place == 160.0:
        return _Seat(rotor_mm=place, turned=True)
    return _Seat(needs_mm=place, step_mm=place - nearest)


def _seat(holder: View, caliper: View, rotor: View, adapter: View) -> _Seat:
    """Return where mount and adapter put the caliper for this rotor; what is missing on the way is asked for."""
    if adapter.empty:
        return _without_adapter(holder, caliper, require(rotor).diameter_mm)
    if (require(adapter).frame_side, require(adapter).caliper_side) != (holder.brake_mount, caliper.bolts_to):
        return _Seat(wrong="other_adapter")
    if holder.brake_mount == "post" == caliper.bolts_to:
        require(adapter, "rotor_mm", "native_mm")
        return _Seat(rotor_mm=_lifted(_natives(holder)[0], adapter))
    if require(adapter).end not in (end_of(holder), "either"):
        return _Seat(wrong="other_end")
    native, stamped = holder.native_rotor_mm, adapter.native_mm is None
    if stamped and not _fits(require(rotor).diameter_mm, require(adapter).rotor_mm):
        return _Seat(rotor_mm=require(adapter).rotor_mm)
    if require(adapter).rotor_mm < _natives(holder)[0] - SLACK:
        return _Seat(wrong="lowers")
    stamped = stamped or native is None
    return _Seat(rotor_mm=require(adapter).rotor_mm if stamped else _lifted(native, adapter))


def _lifted(native_mm: float, adapter: View) -> float | None:
    return caliper_place(
        native_mm=native_mm,
        adapter_rotor_mm=require(adapter).rotor_mm,
        adapter_native_mm=require(adapter).native_mm,
    )


CALIPER = rule(
    "caliper-mount",
    title="Caliper bolts to frame or fork",
    plain=(
        "Caliper and mount must be alike, or joined by an adapter made for both, for this end and for the rotor. "
        "Post mounts go by steps of 20, 23, 40 and 43 mm over the bare mount's rotor; a plate lifts or moves out, it "
        "never lowers, so a rotor smaller than the bare mount's never goes. A plate for 51 mm tabs stamped for "
        "either end is measured first (rear 140 excepted). A flat mount whose own rotor is not read may be for 140 "
        "or 160: where that matters it is asked for. Rim brakes want the frame's own bolt or bosses."
    ),
    why="A caliper on bolts that do not meet their threads squarely tears off when the brake is pulled hardest.",
    area=Area.BRAKES,
    joint=both_ends("brake"),
    parts=at_both_ends(
        holder=HOLDER,
        caliper="{end}_caliper",
        rotor=optional("{end}_rotor"),
        adapter=optional("{end}_brake_adapter"),
    ),
    messages={
        "same": "Caliper and mount match.",
        "adapter_there": "Adapter fits this mount, caliper and rotor.",
        "needs_adapter": "Caliper needs a {wants_mm:g} mm adapter on this mount.",
        "turn_plate": "The flat mount's plate, turned, puts the caliper at {place_mm:g} mm.",
        "no_mount": "There is no brake mount to bolt a caliper to.",
        "other_mount": "Caliper: {caliper.bolts_to}. Frame or fork: {holder.brake_mount}. Incompatible.",
        "smaller": "Rotor smaller than the bare mount takes: no adapter lowers a caliper.",
        "lowers": "Adapter {adapter.rotor_mm:g} mm; the bare mount already takes {native_mm:g} mm.",
        "no_way": "No adapter joins this caliper, mount and rotor.",
        "other_adapter": "Adapter: {adapter.frame_side} to {adapter.caliper_side}; not for this mount and caliper.",
        "two_bolts": "One has two bolts, the other one: no plate joins them.",
        "no_adapter": "This brake bolts straight on: remove the adapter.",
        "other_end": "The adapter is for the other end of the bike.",
        "which_end": "A plate for 51 mm tabs is made for one end. Not recorded: which.",
        "wrong_size": "Adapter places the caliper for {place_mm:g} mm; rotor {rotor.diameter_mm:g} mm.",
    },
    figures={
        "wants_mm": ("rotor the adapter must be made for", "mm"),
        "place_mm": ("rotor the caliper's place is made for", "mm"),
        "native_mm": ("rotor of the bare mount", "mm"),
    },
    sources=("caliper-mounts",),
    safety=True,
)
_OF_ADAPTER = "adapter.frame_side adapter.caliper_side adapter.rotor_mm adapter.native_mm adapter.end"
_ASKED = f"holder.native_rotor_mm rotor.diameter_mm {_OF_ADAPTER}"


@CALIPER.clause("holder.brake_mount caliper")
def bare(holder: View, caliper: View) -> Outcome | None:
    if holder.brake_mount != "none":
        return None
    return no_go("no_mount", way_out(holder, "brake_mount", "!=", "none"))


@CALIPER.clause("caliper.bolts_to")
def nothing_to_bolt(caliper: View) -> Outcome | None:
    if caliper.bolts_to != "none":
        return None
    return no_go("no_mount", fill(caliper.slot, "mount", "!=", "none"))


@CALIPER.clause("holder.brake_mount caliper.bolts_to")
def joined_at_all(holder: View, caliper: View) -> Outcome | None:
    """Return whether anything joins this mount and this caliper, whatever the rotor is."""
    if caliper.bolts_to == holder.brake_mount or plates_made(
        holder.brake_mount, caliper.bolts_to, end_of(holder)
    ):
        return None
    return no_go("other_mount", fill(caliper.slot, "mount", "==", holder.brake_mount))


@CALIPER.clause("caliper.bolts_to adapter", may="holder.brake_mount")
def straight_on(caliper: View, adapter: View, holder: View) -> Outcome | None:
    """A rim brake takes no adapter; a disc caliper's rotor is looked at elsewhere."""
    if caliper.bolts_to in DISC_MOUNTS:
        return None
    if not adapter.empty:
        return no_go("no_adapter", fill(adapter.slot, "caliper_side", "!=", "post"))
    return goes("same") if caliper.bolts_to == holder.brake_mount else None


@CALIPER.clause("holder.rim_direct", given="caliper.rim_direct")
def two_bolts(holder: View, caliper: View) -> Outcome | None:
    if bool(holder.rim_direct) == bool(caliper.rim_direct):
        return None
    return no_go("two_bolts", way_out(caliper, "rim_direct", "==", holder.rim_direct))


@CALIPER.clause("caliper.rim_direct", given="holder.rim_direct")
def two_bolts_unread(holder: View, caliper: View) -> None:
    """The mount is read, so the caliper's bolts must be."""


@CALIPER.clause("holder.brake_mount", given="rotor.diameter_mm holder.native_rotor_mm")
def smaller_than_bare(rotor: View, holder: View) -> Outcome | None:
    native = holder.native_rotor_mm
    if holder.brake_mount not in DISC_MOUNTS:
        return None
    if rotor.diameter_mm >= native - 2 * EDGE_MM - SLACK:
        return None
    return no_go("smaller", way_out(rotor, "diameter_mm", ">=", native))


@CALIPER.clause(given="adapter.end", may="holder.brake_mount adapter.frame_side adapter.rotor_mm")
def end_stamped(adapter: View, holder: View) -> Outcome | None:
    if adapter.end not in (end_of(holder), "either"):
        return None if adapter.frame_side == "post" else _other_end(adapter)
    rear_140 = end_of(holder) == "rear" and adapter.rotor_mm == 140
    if adapter.end == "either" and adapter.frame_side == "is" and not rear_140:
        return unmeasured("which_end", (adapter, "end"))
    return None


def _other_end(adapter: View) -> Outcome:
    end = "rear" if adapter.slot.startswith("rear") else "front"
    return no_go("other_end", way_out(adapter, "end", "==", end))


@CALIPER.clause("adapter.frame_side holder.brake_mount")
def frame_side(adapter: View, holder: View) -> Outcome | None:
    if adapter.frame_side == holder.brake_mount:
        return None
    return no_go("other_adapter", way_out(adapter, "frame_side", "==", holder.brake_mount))


@CALIPER.clause("adapter.caliper_side caliper.bolts_to")
def caliper_side(adapter: View, caliper: View) -> Outcome | None:
    if adapter.caliper_side == caliper.bolts_to:
        return None
    return no_go("other_adapter", way_out(adapter, "caliper_side", "==", caliper.bolts_to))


@CALIPER.clause("holder.brake_mount caliper.bolts_to rotor", asks=_ASKED, silences=True)
def adapter_for_rotor(holder: View, caliper: View, rotor: View, adapter: View) -> Outcome | None:
    if caliper.bolts_to not in DISC_MOUNTS or holder.brake_mount not in DISC_MOUNTS:
        return None
    if rotor.empty:
        return SILENT
    require(rotor, "diameter_mm")
    return _with_each_native(holder, lambda one: _adapter_for(one, caliper, rotor, adapter))


def _with_each_native(holder: View, judge: Callable[[View], Outcome | None]) -> Outcome | None:
    """Judge a mount; a flat one whose own rotor is not read with each that there is, and asked for where they differ.

    A mount that is not said to be for 140 may be for 160, where a 140 rotor never goes.
    """
    if holder.brake_mount != "flat" or holder.native_rotor_mm is not None:
        return judge(holder)
    said = [judge(holder.with_reading("native_rotor_mm", native)) for native in FLAT_NATIVES_MM]
    if len({None if one is None else (one.verdict, one.key) for one in said}) > 1:
        require(holder, "native_rotor_mm")  # not read, so the clause stops here
    return said[0]


def _adapter_for(holder: View, caliper: View, rotor: View, adapter: View) -> Outcome | None:
    seat = _seat(holder, caliper, rotor, adapter)
    if seat.wrong == "other_adapter" or seat.wrong == "other_end":
        return None  # said already
    if seat.wrong == "lowers":
        native = _natives(holder)[0]
        return no_go("lowers", *_right_adapter(holder, caliper, rotor, adapter), native_mm=native)
    if seat.wrong is not None:
        return no_go(seat.wrong, *_other_caliper_or_rotor(holder, caliper, rotor))
    if seat.needs_mm is not None:
        return goes_if("needs_adapter", _adapter_need(holder, caliper, seat), wants_mm=seat.needs_mm)
    place = seat.rotor_mm
    if place is None or not _fits(require(rotor).diameter_mm, place):
        return no_go("wrong_size", *_right_adapter(holder, caliper, rotor, adapter), place_mm=place or 0)
    if seat.turned:
        return goes_if("turn_plate", need("turn the flat mount's plate"), place_mm=place)
    return goes("same" if adapter.empty else "adapter_there", place_mm=place)


def _other_caliper_or_rotor(holder: View, caliper: View, rotor: View) -> list[Mapping[str, Any]]:
    """The ways out where no adapter joins the two: a caliper for this mount, or a rotor that a place is made for."""
    mount, same = holder.brake_mount, caliper.bolts_to == holder.brake_mount
    ways = [] if same else [fill(caliper.slot, "mount", "==", mount)]
    places = plates_made(mount, caliper.bolts_to, end_of(holder)) + (_natives(holder) if same else [])
    places += [_natives(holder)[0] + step for step in POST_STEPS_MM] if same and mount == "post" else []
    if places:
        smaller = require(rotor).diameter_mm < min(places)
        ways.append(way_out(rotor, "diameter_mm", *((">=", min(places)) if smaller else ("<=", max(places)))))
    return ways


def _adapter_need(holder: View, caliper: View, seat: _Seat) -> Mapping[str, Any]:
    made_for: dict[str, Any] = {
        "frame_side": holder.brake_mount,
        "caliper_side": caliper.bolts_to,
        "rotor_mm": seat.needs_mm,
        "end": end_of(holder),
    }
    if seat.step_mm is not None:
        made_for["step_mm"] = seat.step_mm
    return need("adapter", **made_for)


def _right_adapter(holder: View, caliper: View, rotor: View, adapter: View) -> list[Mapping[str, Any]]:
    """Return the adapter slot's way out: the plate that would be right, or the slot empty."""
    seat = _without_adapter(holder, caliper, require(rotor).diameter_mm)
    if seat.needs_mm is None:
        return [fill(adapter.slot, "rotor_mm", "!=", require(adapter).rotor_mm)]
    right = {"frame_side": holder.brake_mount, "caliper_side": caliper.bolts_to, "rotor_mm": seat.needs_mm}
    ways = [
        way_out(adapter, name, "==", value)
        for name, value in right.items()
        if getattr(adapter, name) != value
    ]
    return ways or [way_out(adapter, "native_mm", "==", _natives(holder)[0])]


POSITION = rule(
    "caliper-position",
    title="Pads run fully on the rotor",
    plain=(
        "The caliper must sit at the rotor's radius: within {caliper_close_mm} mm it goes, within {caliper_edge_mm} "
        "mm if the pads' edge is looked at. A rotor larger by up to {caliper_washers_mm} mm of radius takes washers "
        "of that height under both bolts of a post-mount caliper; a smaller one never."
    ),
    why="Pads that only partly meet the rotor overheat, wear a lip and lose braking power.",
    area=Area.BRAKES,
    joint=both_ends("brake"),
    parts=at_both_ends(
        holder=HOLDER,
        caliper="{end}_caliper",
        rotor="{end}_rotor",
        adapter=optional("{end}_brake_adapter"),
    ),
    messages={
        "centred": "The caliper's place is made for {place_mm:g} mm, the rotor is {rotor.diameter_mm:g}.",
        "edge": "The pads sit {off_mm:.1f} mm off the track's middle: watch their edge.",
        "washers": "The rotor is {off_mm:.1f} mm of radius larger than the caliper's place.",
        "off": "The rotor is {off_mm:.1f} mm of radius off the caliper's place.",
    },
    figures={
        "place_mm": ("rotor the caliper's place is made for", "mm"),
        "off_mm": ("half the difference of rotor and place", "mm"),
    },
    sources=("caliper-mounts",),
    safety=True,
)


@POSITION.clause("holder.brake_mount", silences=True)
def has_disc_mount(holder: View) -> Outcome | None:
    return None if holder.brake_mount in DISC_MOUNTS else SILENT


@POSITION.clause("caliper.bolts_to", silences=True)
def is_disc_caliper(caliper: View) -> Outcome | None:
    return None if caliper.bolts_to in DISC_MOUNTS else SILENT


@POSITION.clause(
    "holder.brake_mount caliper.bolts_to rotor.diameter_mm",
    asks=_ASKED.replace("rotor.diameter_mm ", ""),
    silences=True,
)
def position(holder: View, caliper: View, rotor: View, adapter: View) -> Outcome | None:
    if caliper.bolts_to not in DISC_MOUNTS or holder.brake_mount not in DISC_MOUNTS:
        return None
    return _with_each_native(holder, lambda one: _position(one, caliper, rotor, adapter))


def _position(holder: View, caliper: View, rotor: View, adapter: View) -> Outcome | None:
    seat = _seat(holder, caliper, rotor, adapter)
    place = seat.rotor_mm if seat.rotor_mm is not None else seat.needs_mm
    if place is None:
        return SILENT  # the mount's own verdict says all there is to say
    radial = rotor_shift(from_mm=place, to_mm=rotor.diameter_mm).radial_mm
    figures = {"place_mm": place, "off_mm": abs(radial)}
    if near(radial, 0, CLOSE_MM):
        return SILENT if seat.needs_mm is not None else goes("centred", **figures)
    if near(radial, 0, EDGE_MM):
        return goes_if("edge", need("check the pads' edge: an unswept lip grows"), **figures)
    if 0 < radial <= WASHERS_MM + SLACK and caliper.bolts_to == "post":
        pair = need("pair of washers", size_mm=radial, where="under both caliper bolts")
        bolts = need("bolts long enough", caution="9 mm of thread in aluminium or magnesium for M6")
        return goes_if("washers", pair, bolts, **figures)
    ways = [way_out(rotor, "diameter_mm", "==", place)]
    if adapter.empty or adapter.rotor_mm != rotor.diameter_mm:
        ways.append(fill(adapter.slot, "rotor_mm", "==", rotor.diameter_mm))
    return no_go("off", *ways, **figures)
