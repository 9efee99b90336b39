"""Disc brakes: rotor on hub, rotor size, caliper on its mount, where the caliper sits, thickness. All safety."""

from __future__ import annotations

from typing import Any

from attrs import frozen

from unkett.core.calc.base import SLACK
from unkett.core.calc.brakes import POST_STEPS_MM, caliper_place, least_thickness, rotor_shift
from unkett.core.rules.base import (
    Outcome,
    View,
    at,
    both_ends,
    fill,
    goes,
    goes_if,
    near,
    need,
    no_go,
    optional,
    rule,
    unmeasured,
    way_out,
)
from unkett.core.rules.ends import holder
from unkett.core.standards import table
from unkett.core.vocabulary import Area

CLOSE_MM = 0.5  # radial, pads still fully on the track
EDGE_MM = 1.0
WASHERS_MM = 2.0
DISC_MOUNTS = ("is", "post", "flat")
ORDER_SOON_MM = 0.1


@rule(
    "rotor-mount",
    title="Rotor mounts on the hub",
    plain=(
        "Six bolts on six bolts, splines on splines. A six-bolt rotor goes on a splined hub with an adapter "
        "ring; a splined rotor never goes on six bolts. 15 and 20 mm axles take the lockring with outside notches."
    ),
    area=Area.BRAKES,
    reads=both_ends(hub=at("{end}_hub", "rotor_mount"), rotor=at("{end}_rotor", "mount")),
    messages={
        "same": "Rotor and hub have one mount.",
        "ring": "A six-bolt rotor goes on a splined hub with an adapter ring.",
        "no_mount": "The hub has no rotor mount.",
        "other": "A {rotor.mount} rotor does not mount on a {hub.rotor_mount} hub.",
    },
    sources=("rotor-mounts",),
    safety=True,
)
def rotor_mount(hub: View, rotor: View) -> Outcome:
    if hub.rotor_mount == "none":
        return no_go("no_mount", way_out(hub, "rotor_mount", "==", rotor.mount))
    for row in table("rotor_pairs").rows:
        if (row["hub"], row["rotor"]) == (hub.rotor_mount, rotor.mount):
            return goes_if("ring", need(row["by"])) if "by" in row else goes("same")
    return no_go(
        "other",
        way_out(rotor, "mount", "==", hub.rotor_mount),
        way_out(hub, "rotor_mount", "==", rotor.mount),
    )


@rule(
    "rotor-limit",
    title="Rotor is within the frame's or fork's limit",
    plain="A rotor larger than the maker of frame or fork allows does not go, without exception. No limit, no verdict.",
    area=Area.BRAKES,
    reads=both_ends(holder=holder("rotor_max_mm"), rotor=at("{end}_rotor", "diameter_mm")),
    messages={
        "within": "A {rotor.diameter_mm:g} mm rotor; up to {holder.rotor_max_mm:g} is allowed.",
        "over": "A {rotor.diameter_mm:g} mm rotor is over the {holder.rotor_max_mm:g} mm that is allowed.",
    },
    sources=("maker-limits",),
    safety=True,
)
def rotor_limit(holder: View, rotor: View) -> Outcome:
    if rotor.diameter_mm <= holder.rotor_max_mm + SLACK:
        return goes("within")
    return no_go("over", way_out(rotor, "diameter_mm", "<=", holder.rotor_max_mm))


@frozen(kw_only=True)
class _Seat:
    """Where a caliper ends up: the rotor its place is made for, or why there is none."""

    rotor_mm: float | None = None
    needs_mm: float | None = None  # rotor of the adapter that is wanted and not there
    step_mm: float | None = None
    wrong: str | None = None
    asks: tuple[tuple[View, str], ...] = ()


def _fits(rotor_mm: float, place_mm: float) -> bool:
    """Whether a rotor can run in a place made for another size, with washers if need be."""
    radial = rotor_shift(from_mm=place_mm, to_mm=rotor_mm).radial_mm
    return -EDGE_MM - SLACK <= radial <= WASHERS_MM + SLACK


def _natives(holder: View, end: str) -> list[float] | None:
    """Rotors of the bare mount: stated, else by the table; None where it must be measured."""
    if holder.native_rotor_mm is not None:
        return [holder.native_rotor_mm]
    for row in table("native_rotors").rows:
        if row["mount"] == holder.brake_mount and row["end"] == end:
            return list(row["rotors_mm"])
    return None


def _plates(frame_side: str, caliper_side: str, end: str) -> list[float]:
    """Rotors that a plate is made for, by the table."""
    for row in table("caliper_adapters").rows:
        if (row["frame_side"], row["caliper_side"]) == (frame_side, caliper_side) and row["end"] in (
            end,
            "either",
        ):
            return list(row["rotors_mm"])
    return []


def _seat(holder: View, caliper: View, rotor: View, adapter: View) -> _Seat:
    """Where mount and adapter put the caliper for this rotor."""
    end = "front" if holder.slot == "fork" else "rear"
    if adapter.empty:
        return _without_adapter(holder, caliper, rotor, end)
    asks = [
        (adapter, name)
        for name in ("frame_side", "caliper_side", "rotor_mm")
        if getattr(adapter, name) is None
    ]
    if asks:
        return _Seat(asks=tuple(asks))
    if (adapter.frame_side, adapter.caliper_side) != (holder.brake_mount, caliper.mount):
        return _Seat(wrong="other_adapter")
    if holder.brake_mount == "post" == caliper.mount:
        natives = _natives(holder, end)
        asks = [] if natives else [(holder, "native_rotor_mm")]
        asks += [(adapter, "native_mm")] if adapter.native_mm is None else []
        if natives is None or adapter.native_mm is None:
            return _Seat(asks=tuple(asks))
        return _Seat(rotor_mm=_place(natives[0], adapter))
    if adapter.end is None:
        return _Seat(asks=((adapter, "end"),))
    if adapter.end not in (end, "either"):
        return _Seat(wrong="other_end")
    stamped = holder.native_rotor_mm is None or adapter.native_mm is None
    return _Seat(rotor_mm=adapter.rotor_mm if stamped else _place(holder.native_rotor_mm, adapter))


def _place(native_mm: float, adapter: View) -> float | None:
    return caliper_place(
        native_mm=native_mm, adapter_rotor_mm=adapter.rotor_mm, adapter_native_mm=adapter.native_mm
    )


def _without_adapter(holder: View, caliper: View, rotor: View, end: str) -> _Seat:
    size = rotor.diameter_mm
    plates = _plates(holder.brake_mount, caliper.mount, end)
    if caliper.mount != holder.brake_mount:
        made = [plate for plate in plates if _fits(size, plate)]
        return (
            _Seat(needs_mm=min(made, key=lambda plate: abs(size - plate))) if made else _Seat(wrong="no_way")
        )
    natives = _natives(holder, end)
    if natives is None:
        return _Seat(asks=((holder, "native_rotor_mm"),))
    nearest = min(natives, key=lambda native: abs(size - native))
    if holder.brake_mount == "post":
        places = [nearest + step for step in POST_STEPS_MM]
    else:
        places = [nearest, *plates]
    fitting = [place for place in places if _fits(size, place)]
    if not fitting:
        return _Seat(wrong="smaller" if size < nearest else "no_way")
    place = min(fitting, key=lambda one: (abs(size - one), one))
    if place == nearest:
        return _Seat(rotor_mm=nearest)
    return _Seat(needs_mm=place, step_mm=place - nearest)


_JOINT = both_ends(
    holder=holder("brake_mount", optional("native_rotor_mm")),
    caliper=at("{end}_caliper", "mount", optional("pad_height_mm")),
    rotor=at("{end}_rotor", optional("diameter_mm"), optional("track_mm"), may_be_empty=True),
    adapter=at(
        "{end}_brake_adapter",
        *(optional(name) for name in ("frame_side", "caliper_side", "rotor_mm", "native_mm", "end")),
        may_be_empty=True,
    ),
)


def _adapter_need(holder: View, caliper: View, seat: _Seat) -> dict[str, Any]:
    end = "front" if holder.slot == "fork" else "rear"
    wanted: dict[str, Any] = {
        "what": "adapter",
        "frame_side": holder.brake_mount,
        "caliper_side": caliper.mount,
        "rotor_mm": seat.needs_mm,
        "end": end,
    }
    return wanted if seat.step_mm is None else {**wanted, "step_mm": seat.step_mm}


@rule(
    "caliper-mount",
    title="Caliper bolts to frame or fork",
    plain=(
        "Caliper and mount must be alike, or joined by an adapter made for both, for this end and for the "
        "rotor. Post mounts go by steps of 20, 23, 40 and 43 mm over the bare mount's rotor; a rotor smaller "
        "than that never goes. Rim brakes want the frame's own bolt or bosses."
    ),
    area=Area.BRAKES,
    reads=_JOINT,
    messages={
        "same": "Caliper and mount are alike.",
        "adapter_there": "The adapter is the one for this mount, caliper and rotor.",
        "needs_adapter": "The caliper wants an adapter for {wants_mm:g} mm on this mount.",
        "no_mount": "There is no brake mount to bolt a caliper to.",
        "other_mount": "A {caliper.mount} caliper does not bolt to a {holder.brake_mount} mount.",
        "smaller": "The rotor is smaller than the bare mount's: no adapter lowers a caliper.",
        "no_way": "No adapter joins this caliper, mount and rotor.",
        "other_adapter": "The adapter joins {adapter.frame_side} to {adapter.caliper_side}, not these two.",
        "no_adapter": "This brake bolts straight on: an adapter has no place here.",
        "other_end": "The adapter is for the other end of the bike.",
        "wrong_size": "The adapter puts the caliper at {place_mm:g} mm; the rotor is {rotor.diameter_mm:g}.",
        "unknown": "Mount, adapter or rotor size is not measured.",
    },
    figures={
        "wants_mm": "rotor the adapter must be made for",
        "place_mm": "rotor the caliper's place is made for",
    },
    sources=("caliper-mounts",),
    safety=True,
)
def caliper_mount(holder: View, caliper: View, rotor: View, adapter: View) -> Outcome | None:
    if holder.brake_mount == "none":
        return no_go("no_mount", way_out(holder, "brake_mount", "==", caliper.mount))
    same = way_out(caliper, "mount", "==", holder.brake_mount)
    if caliper.mount not in DISC_MOUNTS or holder.brake_mount not in DISC_MOUNTS:
        if caliper.mount != holder.brake_mount:
            return no_go("other_mount", same)
        return (
            goes("same")
            if adapter.empty
            else no_go("no_adapter", fill(adapter.slot, "caliper_side", "!=", "post"))
        )
    if rotor.empty:
        return None
    if rotor.diameter_mm is None:
        return unmeasured("unknown", (rotor, "diameter_mm"))
    seat = _seat(holder, caliper, rotor, adapter)
    if seat.asks:
        return unmeasured("unknown", *seat.asks)
    if seat.wrong in ("other_adapter", "other_end"):
        return no_go(seat.wrong, *_right_adapter(holder, caliper, rotor, adapter))
    if seat.wrong is not None:
        return no_go(seat.wrong, same, way_out(rotor, "diameter_mm", ">=", min(_natives_or(holder, rotor))))
    if seat.needs_mm is not None:
        return goes_if("needs_adapter", _adapter_need(holder, caliper, seat), wants_mm=seat.needs_mm)
    assert seat.rotor_mm is not None
    if not _fits(rotor.diameter_mm, seat.rotor_mm):
        return no_go("wrong_size", *_right_adapter(holder, caliper, rotor, adapter), place_mm=seat.rotor_mm)
    return goes("same" if adapter.empty else "adapter_there", place_mm=seat.rotor_mm)


def _natives_or(holder: View, rotor: View) -> list[float]:
    return _natives(holder, "front" if holder.slot == "fork" else "rear") or [rotor.diameter_mm]


def _right_adapter(holder: View, caliper: View, rotor: View, adapter: View) -> list[Any]:
    """The adapter slot's way out: the plate that would be right, or the slot empty."""
    seat = _without_adapter(holder, caliper, rotor, "front" if holder.slot == "fork" else "rear")
    if seat.needs_mm is not None:
        return [
            way_out(adapter, "frame_side", "==", holder.brake_mount),
            way_out(adapter, "caliper_side", "==", caliper.mount),
            way_out(adapter, "rotor_mm", "==", seat.needs_mm),
        ]
    return [fill(adapter.slot, "rotor_mm", "!=", adapter.rotor_mm)]


@rule(
    "caliper-position",
    title="Pads run fully on the rotor",
    plain=(
        "The caliper must sit at the rotor's radius: within 0.5 mm it goes, within 1 mm if the pads' edge is "
        "looked at. A rotor larger by up to 2 mm of radius takes washers of that height under both bolts of a "
        "post-mount caliper; a smaller one never."
    ),
    area=Area.BRAKES,
    reads=_JOINT,
    messages={
        "centred": "The caliper's place is made for {place_mm:g} mm, the rotor is {rotor.diameter_mm:g}.",
        "edge": "The pads sit {off_mm:.1f} mm off the track's middle: watch their edge.",
        "washers": "The rotor is {off_mm:.1f} mm of radius larger than the caliper's place.",
        "tall_pads": "The pads are {over_mm:.1f} mm taller than the rotor's track: a lip grows.",
        "off": "The rotor is {off_mm:.1f} mm of radius off the caliper's place.",
        "unknown": "Where the caliper sits is not measured.",
    },
    figures={
        "place_mm": "rotor the caliper's place is made for",
        "off_mm": "half the difference of rotor and place",
        "over_mm": "pad height − track height",
    },
    sources=("caliper-mounts",),
    safety=True,
)
def caliper_position(holder: View, caliper: View, rotor: View, adapter: View) -> Outcome | None:
    if rotor.empty or caliper.mount not in DISC_MOUNTS or holder.brake_mount not in DISC_MOUNTS:
        return None
    if rotor.diameter_mm is None:
        return unmeasured("unknown", (rotor, "diameter_mm"))
    seat = _seat(holder, caliper, rotor, adapter)
    if seat.asks:
        return unmeasured("unknown", *seat.asks)
    place = seat.rotor_mm if seat.rotor_mm is not None else seat.needs_mm
    if place is None or (seat.needs_mm is not None and near(place, rotor.diameter_mm, 2 * CLOSE_MM)):
        return None  # the mount's own verdict says all there is to say
    radial = rotor_shift(from_mm=place, to_mm=rotor.diameter_mm).radial_mm
    figures = {"place_mm": place, "off_mm": abs(radial)}
    if near(radial, 0, CLOSE_MM):
        return _tall_pads(caliper, rotor) or goes("centred", **figures)
    if near(radial, 0, EDGE_MM):
        return goes_if("edge", need("check the pads' edge: an unswept lip grows"), **figures)
    if 0 < radial <= WASHERS_MM + SLACK and caliper.mount == "post":
        pair = need("pair of washers", size_mm=radial, where="under both caliper bolts")
        bolts = need("bolts long enough", caution="9 mm of thread in aluminium or magnesium for M6")
        return goes_if("washers", pair, bolts, **figures)
    ways = (
        way_out(rotor, "diameter_mm", "==", place),
        fill(adapter.slot, "rotor_mm", "==", rotor.diameter_mm),
    )
    return no_go("off", *ways, **figures)


def _tall_pads(caliper: View, rotor: View) -> Outcome | None:
    """Pads taller than the rotor's track hang over its edge; said where both are known."""
    pad, track = caliper.pad_height_mm, rotor.track_mm
    if pad is None or track is None or pad <= track + SLACK:
        return None
    return goes_if(
        "tall_pads", need("watch the pads' inner edge, or a rotor with a taller track"), over_mm=pad - track
    )


@rule(
    "rotor-thickness",
    title="Rotor is thick enough and fits the caliper",
    plain=(
        "At or under the least thickness stamped on it a rotor is replaced; within 0.1 mm of it one is ordered. "
        "Without a stamp 0.3 mm under new is assumed. A new rotor's thickness must lie in the caliper's range. "
        "Makers of rotor and caliper need not be the same where diameter, thickness, track and mount are."
    ),
    area=Area.BRAKES,
    reads=both_ends(
        rotor=at("{end}_rotor", "measured_mm", optional("thickness_min_mm"), optional("thickness_mm")),
        caliper=at("{end}_caliper", optional("rotor_thickness_mm"), may_be_empty=True),
    ),
    messages={
        "thick": "{rotor.measured_mm:g} mm, the least is {least_mm:g}.",
        "soon": "{rotor.measured_mm:g} mm is close to the least, {least_mm:g}.",
        "worn": "{rotor.measured_mm:g} mm is at or under the least, {least_mm:g}.",
        "assumed": "{rotor.measured_mm:g} mm; no stamp, {least_mm:g} is assumed as the least.",
        "unknown": "Neither the least thickness nor the thickness when new is known.",
        "caliper": "The caliper takes rotors of {low_mm:g} to {high_mm:g} mm, not {size_mm:g}.",
    },
    figures={
        "least_mm": "least thickness, stamped or assumed",
        "low_mm": "thinnest new rotor for the caliper",
        "high_mm": "thickest new rotor for the caliper",
        "size_mm": "thickness of the rotor, new if known",
    },
    sources=("brake-practice",),
    safety=True,
)
def rotor_thickness(rotor: View, caliper: View) -> Outcome:
    size = rotor.thickness_mm if rotor.thickness_mm is not None else rotor.measured_mm
    if caliper.rotor_thickness_mm is not None:
        low, high = caliper.rotor_thickness_mm
        if size > high + SLACK or (rotor.thickness_mm is not None and size < low - SLACK):
            way = way_out(rotor, "thickness_mm", "<=", high)
            return no_go("caliper", way, low_mm=low, high_mm=high, size_mm=size)
    least = least_thickness(stamped_mm=rotor.thickness_min_mm, new_mm=rotor.thickness_mm)
    if least is None:
        return unmeasured("unknown", (rotor, "thickness_min_mm"))
    if rotor.measured_mm <= least + SLACK:
        return no_go("worn", way_out(rotor, "measured_mm", ">=", least + ORDER_SOON_MM), least_mm=least)
    if rotor.thickness_min_mm is None:
        return goes_if("assumed", need("look up the least thickness of this rotor"), least_mm=least)
    if rotor.measured_mm <= least + ORDER_SOON_MM + SLACK:
        return goes_if("soon", need("order a rotor"), least_mm=least)
    return goes("thick", least_mm=least)
