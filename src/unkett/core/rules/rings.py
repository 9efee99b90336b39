"""Chainrings: on the crank, in the frame, in line with the sprockets, kept from losing the chain."""

from __future__ import annotations

import functools
from typing import Any

from unkett.core.calc.base import SLACK
from unkett.core.calc.bracket import seated_chainlines
from unkett.core.calc.gears import smallest_ring
from unkett.core.rules.base import BIKE, at, beside, rule
from unkett.core.rules.outcome import SILENT, Outcome, goes, goes_if, near, need, no_go, unmeasured, way_out
from unkett.core.rules.view import View, require
from unkett.core.settings import Settings
from unkett.core.standards import lookup
from unkett.core.vocabulary import Area, enums
from unkett.core.words import in_sentence, listed

Mounts = tuple[str, ...]
OVAL_TEETH = 2  # an oval ring stands out like one with two teeth more
LINE_CLOSE_MM = 2.0
LINE_FAR_MM = 4.0

MOUNT = rule(
    "ring-mount",
    title="Rings bolt to the crank",
    plain=(
        "Bolt circle and bolt count must be equal, ring by ring; a maker's direct mount fits only its equal. "
        "A ring must have enough teeth to clear the bolts. One ring on a crank made for more goes with "
        "shorter bolts or spacers."
    ),
    area=Area.DRIVETRAIN,
    joint="rings",
    parts={"crank": "crank", "rings": at("chainrings")},
    messages={
        "mounted": "Rings and crank are alike: {mounts}.",
        "fewer_rings": "{count} of {seats} seats are used: shorter bolts, or spacers of a ring's thickness.",
        "other_mount": "Ring: {ring_mount}. Crank: {crank_mount}. They do not bolt together.",
        "too_many": "{count} rings on a crank made for {seats}.",
        "mount_unknown": "{count} rings, but not the mount of each is measured.",
        "threaded_unknown": "So small a ring clears only if the bolts thread into the ring itself.",
        "too_small": "A ring of {teeth} teeth does not clear a {bcd_mm:g} mm bolt circle; {least} is the least.",
    },
    figures={
        "mounts": ("mounts of the rings", ""),
        "count": ("rings there", ""),
        "seats": ("rings the crank is made for", ""),
        "ring_mount": ("mount of the ring that does not fit", ""),
        "crank_mount": ("mount of the crank", ""),
        "teeth": ("teeth of the ring", ""),
        "bcd_mm": ("bolt circle", "mm"),
        "least": ("smallest ring that clears it", ""),
    },
    sources=("bolt-circles",),
)


def _by_ring(value: Any, rings: int) -> Mounts:
    """One mount for all rings, or one by ring, as a tuple by ring."""
    return tuple(value) if isinstance(value, tuple) else (value,) * rings


def _worded(mounts: Mounts) -> str:
    return listed([in_sentence(enums.RING_MOUNT.title(mount)) for mount in dict.fromkeys(mounts)], "or")


def _other(rings: View, crank: View, mount: str, own: Mounts) -> Outcome:
    ways = (way_out(rings, "mount", "==", own[0]), way_out(crank, "ring_mount", "==", mount))
    return no_go("other_mount", *ways, ring_mount=_worded((mount,)), crank_mount=_worded(own))


@MOUNT.look("rings.count crank.rings")
def seats(rings: View, crank: View) -> Outcome | None:
    if rings.count <= crank.rings:
        return None
    return no_go("too_many", way_out(crank, "rings", ">=", rings.count), count=rings.count, seats=crank.rings)


@MOUNT.look("rings.mount crank.ring_mount")
def any_seat(rings: View, crank: View) -> Outcome | None:
    """A mount that is none of the crank's, however many rings there are."""
    own = _by_ring(crank.ring_mount, 1)
    stray = next((mount for mount in _by_ring(rings.mount, 1)[:1] if mount not in own), None)
    return None if stray is None else _other(rings, crank, stray, own)


@MOUNT.look("rings.count rings.mount crank.ring_mount", may="crank.rings")
def bolted(rings: View, crank: View) -> Outcome | None:
    count, made_for = rings.count, crank.rings
    mounts = _by_ring(rings.mount, count)[:count]
    own = _by_ring(crank.ring_mount, made_for or count)
    free = list(own)
    for mount in mounts:
        if mount not in free:
            return None if made_for is not None and count > made_for else _other(rings, crank, mount, own)
        free.remove(mount)
    if made_for is not None and count < made_for:
        bolts = need("shorter ring bolts, or spacers of a ring's thickness", count=made_for - count)
        sides = need("bolt heads and spacers the right way round, ring tab in line with the arm")
        return goes_if("fewer_rings", bolts, sides, count=count, seats=made_for)
    return goes("mounted", mounts=_worded(mounts), count=count, seats=made_for)


@functools.cache
def least_teeth(bcd_mm: float) -> int:
    """The smallest ring of a bolt circle, worked out once."""
    return smallest_ring(bcd_mm=bcd_mm).teeth


@MOUNT.look("rings.teeth rings.mount", may="rings.threaded_in")
def clear_of_bolts(rings: View) -> Outcome | None:
    unread = False
    for mount, teeth in zip(_by_ring(rings.mount, len(rings.teeth)), rings.teeth, strict=False):
        row = lookup("ring_mounts", "code").get(mount)
        if row is None or teeth >= least_teeth(row["bcd_mm"]):
            continue
        least = least_teeth(row["bcd_mm"])
        if teeth >= row.get("threaded_min_teeth", least) and rings.threaded_in is not False:
            unread = unread or rings.threaded_in is None
            continue
        way = way_out(rings, "teeth", "min>=", least)
        return no_go("too_small", way, teeth=teeth, bcd_mm=row["bcd_mm"], least=least)
    return unmeasured("threaded_unknown", (rings, "threaded_in")) if unread else None


@MOUNT.look("rings.count rings.mount")
def mount_of_each(rings: View) -> Outcome | None:
    """A list of mounts shorter than the rings leaves one unmeasured."""
    if len(_by_ring(rings.mount, rings.count)) >= rings.count:
        return None
    return unmeasured("mount_unknown", (rings, "mount"), count=rings.count)


CLEARANCE = rule(
    "ring-clearance",
    title="Rings clear the chainstay",
    plain=(
        "The largest ring must not exceed the frame's limit for this number of rings, an oval one counting two "
        "teeth more; 3 mm must stay free under load. A frame without a stated limit is looked at by hand."
    ),
    area=Area.DRIVETRAIN,
    joint="rings",
    parts={"frame": "frame", "rings": at("chainrings")},
    messages={
        "within": "{largest} teeth, the frame takes {limit}.",
        "too_large": "{largest} teeth; the frame takes {limit} with this many rings.",
    },
    figures={
        "largest": ("largest ring, two more when oval", ""),
        "limit": ("frame's limit for this number of rings", ""),
    },
    sources=("maker-limits",),
)


@CLEARANCE.look(
    "rings.count rings.largest_teeth", asks="rings.shape", may="frame.chainring_max_teeth", silences=True
)
def ring_clearance(frame: View, rings: View) -> Outcome | None:
    limit, largest = (frame.chainring_max_teeth or {}).get(rings.count), rings.largest_teeth
    if limit is None:
        return SILENT
    if largest <= limit < largest + OVAL_TEETH or rings.shape == "oval":
        largest += OVAL_TEETH if require(rings).shape == "oval" else 0
    if largest <= limit:
        return goes("within", largest=largest, limit=limit)
    return no_go("too_large", way_out(rings, "largest_teeth", "<=", limit), largest=largest, limit=limit)


RETENTION = rule(
    "ring-retention",
    title="Single ring keeps its chain",
    plain=(
        "On rough ground (gravel, cyclocross, cargo, cross-country to downhill, fat) a single ring keeps its chain "
        "with narrow-wide teeth and a clutch together, or with a chain guide; with neither it drops off. On other "
        "bikes, and where the use is not known, that is a remark."
    ),
    area=Area.DRIVETRAIN,
    joint="rings",
    parts={
        "rings": at("chainrings"),
        "derailleur": at("rear_derailleur"),
        "guide": beside("chain_guide"),
        "bike": BIKE,
    },
    messages={
        "kept": "Narrow-wide teeth and a clutch keep the chain on.",
        "guided": "A chain guide keeps the chain on.",
        "smooth": "On smooth ground a single ring keeps its chain; on rough ground it may drop.",
        "drops": "Without a guide, or narrow-wide teeth and a clutch, it will drop off on rough ground.",
    },
    sources=("maker-limits",),
)
ROUGH_USES = ("gravel", "cyclocross", "cargo", "xc", "trail", "enduro", "downhill", "fat")


@RETENTION.look("rings.count", may="bike.use", silences=True)
def rough(rings: View, bike: View) -> Outcome | None:
    if rings.count > 1:
        return SILENT
    return None if bike.use in ROUGH_USES else goes("smooth")


@RETENTION.look("rings.count guide", asks="rings.tooth_profile derailleur.clutch", may="bike.use")
def retention(rings: View, derailleur: View, guide: View, bike: View) -> Outcome | None:
    if rings.count > 1 or bike.use not in ROUGH_USES:
        return None
    if rings.tooth_profile == "narrow_wide" and derailleur.clutch:
        return goes("kept")
    if require(guide).there:
        return goes("guided")
    teeth, clutch = rings.tooth_profile, derailleur.clutch
    if teeth in (None, "narrow_wide") and clutch is not False:
        return (
            goes("kept")
            if require(rings).tooth_profile == "narrow_wide" and require(derailleur).clutch
            else None
        )
    both = need("narrow-wide ring with a clutch derailleur", either=1)
    return goes_if("drops", need("chain guide", either=1), both)


GUIDE = rule(
    "chain-guide",
    title="Chain guide fits frame and ring",
    plain=(
        "The guide's mount must be the frame's; a plate goes behind the cup of any threaded shell. The ring must lie "
        "within its range, an oval ring counting two teeth more; a bash guard must cover the ring."
    ),
    area=Area.DRIVETRAIN,
    joint="rings",
    parts={"frame": "frame", "guide": at("chain_guide"), "rings": at("chainrings")},
    messages={
        "fits": "Mount and ring ({teeth} teeth) are the guide's.",
        "no_mount": "Guide: {guide.mount}. Frame: {frame.guide_mount}. They do not go together.",
        "no_cup": "The guide's plate sits behind a threaded cup; this shell has no thread.",
        "out_of_range": "A ring of {teeth} teeth is outside the guide's {low} to {high}.",
        "bash": "A ring of {teeth} teeth stands out over a bash guard for {bash}.",
        "oval": "The guide does not take oval rings.",
    },
    figures={
        "teeth": ("largest ring, two more when oval", ""),
        "low": ("guide's smallest ring", ""),
        "high": ("guide's largest ring", ""),
        "bash": ("largest ring the bash guard covers", ""),
    },
    sources=("maker-limits",),
)


@GUIDE.look("guide.mount", asks="frame.guide_mount frame.bb_shell")
def guide_mount(guide: View, frame: View) -> Outcome | None:
    if guide.mount == "none":
        return no_go("no_mount", way_out(guide, "mount", "!=", "none"))
    if guide.mount == "bb_plate":
        if lookup("bracket_shells", "code")[require(frame).bb_shell].get("drive_thread"):
            return None
        return no_go("no_cup", way_out(guide, "mount", "==", "iscg05"))
    if require(frame).guide_mount == guide.mount:
        return None
    return no_go("no_mount", way_out(guide, "mount", "==", require(frame).guide_mount))


@GUIDE.look(given="rings.shape guide.oval_ok")
def oval(rings: View, guide: View) -> Outcome | None:
    if rings.shape != "oval" or guide.oval_ok:
        return None
    return no_go("oval", way_out(rings, "shape", "==", "round"))


@GUIDE.look(
    "rings.largest_teeth", asks="rings.shape guide.oval_ok", may="guide.ring_max_teeth guide.ring_min_teeth"
)
def guide_range(rings: View, guide: View) -> Outcome | None:
    """The ring within the guide's figures, where it is known whether it is oval."""
    low, high = guide.ring_min_teeth, guide.ring_max_teeth
    largest = rings.largest_teeth
    figures = {"low": "?" if low is None else low, "high": "?" if high is None else high}
    if high is not None and largest > high:
        return no_go(
            "out_of_range", way_out(guide, "ring_max_teeth", ">=", largest), teeth=largest, **figures
        )
    if low is not None and largest + OVAL_TEETH < low:
        return no_go(
            "out_of_range", way_out(guide, "ring_min_teeth", "<=", largest), teeth=largest, **figures
        )
    teeth = largest + (OVAL_TEETH if require(rings).shape == "oval" else 0)
    if require(rings).shape == "oval" and not require(guide).oval_ok:
        return None  # said already
    if high is not None and teeth > high:
        return no_go("out_of_range", way_out(guide, "ring_max_teeth", ">=", teeth), teeth=teeth, **figures)
    if low is not None and teeth < low:
        return no_go("out_of_range", way_out(guide, "ring_min_teeth", "<=", teeth), teeth=teeth, **figures)
    return None


@GUIDE.look("rings.largest_teeth", given="guide.bash_max_teeth", asks="rings.shape")
def bash(rings: View, guide: View) -> Outcome | None:
    teeth, most = rings.largest_teeth, guide.bash_max_teeth
    if teeth <= most:
        teeth += OVAL_TEETH if require(rings).shape == "oval" else 0
    if teeth <= most:
        return None
    return no_go("bash", way_out(guide, "bash_max_teeth", ">=", teeth), teeth=teeth, bash=most)


@GUIDE.look("guide.ring_min_teeth guide.ring_max_teeth rings.largest_teeth", may="rings.shape")
def guide_fits(guide: View, rings: View) -> Outcome:
    teeth = rings.largest_teeth + (OVAL_TEETH if rings.shape == "oval" else 0)
    return goes("fits", teeth=teeth, low=guide.ring_min_teeth, high=guide.ring_max_teeth)


ANGLE = rule(
    "chain-angle",
    title="Chain runs straight enough",
    plain=(
        "The chain's angle in the end gears: quiet up to a first limit, normal at the ends to a second, noisy "
        "and wearing above, to be avoided above a third. A single ring on a crank made for more is judged on the "
        "seat with the smaller worst angle among the gears ridden: on road, time trial, triathlon and track bikes "
        "the smaller half of the sprockets counts twice."
    ),
    area=Area.DRIVETRAIN,
    joint="rings",
    parts={
        "rings": at("chainrings"),
        "cassette": "cassette",
        "crank": "crank",
        "hub": at("rear_hub"),
        "frame": "frame",
        "bike": BIKE,
    },
    messages={
        "quiet": "The chain leans {worst_deg:.1f}° at most ({gear}){seat}.",
        "noisy": "The chain leans {worst_deg:.1f}° in {gear}{seat}: noisy, and it wears.",
        "avoid": "The chain leans {worst_deg:.1f}° in {gear}{seat}: keep out of that gear.",
    },
    figures={
        "worst_deg": ("largest chain angle among the gears in use", "°"),
        "gear": ("gear of the largest angle", ""),
        "seat": ("where a lone ring sits on a crank for more", ""),
        "rear_last_mm": ("line of the largest sprocket", "mm"),
        "front_mm": ("line of the ring in that gear", "mm"),
    },
    settings=("chain_angle_noisy_deg", "chain_angle_avoid_deg"),
    sources=("chainline-geometry",),
)


@ANGLE.look(may="cassette.sprockets", silences=True)
def lone_sprocket(cassette: View) -> Outcome | None:
    """A lone sprocket's line is set at its hub, not by a stack."""
    return SILENT if cassette.sprockets == 1 else None


@ANGLE.look(
    "rings.teeth cassette.sprockets crank.chainline_mm hub.spacing_mm frame.chainstay_mm",
    asks="cassette.pitches_mm",
    may="cassette.teeth crank.ring_offset_mm crank.rings hub.axle_kind bike.use",
)
def lean(
    rings: View, cassette: View, crank: View, hub: View, frame: View, bike: View, settings: Settings
) -> Outcome | None:
    count = cassette.sprockets
    if count == 1:
        return None
    teeth = cassette.teeth or tuple(range(11, 11 + count))
    best = seated_chainlines(
        chainline_mm=crank.chainline_mm,
        crank_rings=crank.rings,
        offsets_mm=crank.ring_offset_mm,
        axle_kind=hub.axle_kind,
        spacing_mm=hub.spacing_mm,
        sprocket_pitch_mm=max(require(cassette).pitches_mm),
        sprockets=teeth,
        chainrings=rings.teeth,
        chainstay_mm=frame.chainstay_mm,
        use=bike.use,
    )[0]
    worst, rear = best.worst, best.line.rear_mm
    leans = abs(worst.angle_deg)
    figures: dict[str, Any] = {
        "worst_deg": leans,
        "gear": f"{worst.ring}/{worst.sprocket}" if cassette.teeth else f"ring {worst.ring}",
        "seat": f" with the ring on the {best.seat} seat" if best.seat else "",
        "rear_last_mm": rear[-1],
        "front_mm": worst.offset_mm + rear[teeth.index(worst.sprocket)],
    }
    if leans <= settings.number("chain_angle_noisy_deg") + SLACK:
        return goes("quiet", **figures)
    if leans <= settings.number("chain_angle_avoid_deg") + SLACK:
        return goes_if("noisy", need("noise and wear in the end gears"), **figures)
    gears = [figures["gear"]]
    return goes_if("avoid", need("keep out of the end gear, or move the ring", gears=gears), **figures)


LINE = rule(
    "crank-chainline",
    title="Crank's chainline is the frame's",
    plain=(
        "Within 2 mm of what the frame is made for it goes; to 4 mm if ring (3 mm) and arm (2 mm) clear the stay; "
        "more towards the frame does not go, more outwards only if looked at."
    ),
    area=Area.BRACKET,
    joint="rings",
    parts={"crank": "crank", "frame": "frame"},
    messages={
        "close": "Crank {crank.chainline_mm:g} mm, frame {frame.chainline_mm:g} mm.",
        "off": "The crank's chainline is {off_mm:.1f} mm further {way} than the frame's.",
        "too_near": "The crank's chainline is {off_mm:.1f} mm nearer the frame than it is made for.",
    },
    figures={"off_mm": ("difference of the chainlines", "mm"), "way": ("which way the rings move", "")},
    sources=("chainline-geometry",),
)


@LINE.look("crank.chainline_mm frame.chainline_mm")
def crank_line(crank: View, frame: View) -> Outcome:
    off = crank.chainline_mm - frame.chainline_mm
    if near(off, 0.0, LINE_CLOSE_MM):
        return goes("close", off_mm=abs(off))
    if off < 0 and not near(off, 0.0, LINE_FAR_MM):
        return no_go("too_near", way_out(crank, "chainline_mm", "==", frame.chainline_mm), off_mm=-off)
    ring = need("look at ring and stay: 3 mm at least")
    arm = need("look at arm and stay: 2 mm at least")
    return goes_if("off", ring, arm, off_mm=abs(off), way="out" if off > 0 else "in")
