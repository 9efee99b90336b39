"""The rest of the drivetrain: hanger, front derailleur, guide, chain angle, ring retention, electronic families."""

from __future__ import annotations

from typing import Any

from unkett.core.calc.base import SLACK
from unkett.core.calc.bracket import seated_chainlines
from unkett.core.rules.base import (
    Outcome,
    View,
    at,
    goes,
    goes_if,
    missing,
    need,
    no_go,
    optional,
    rule,
    unmeasured,
    way_out,
)
from unkett.core.rules.cassette import pitches, sprocket_count
from unkett.core.rules.chain import chain_class, class_name
from unkett.core.settings import Settings
from unkett.core.vocabulary import Area

RING_DIFFERENCE_OVER_TEETH = 2
SMOOTH_USES = ("city", "touring", "track")


@rule(
    "derailleur-mount",
    title="Derailleur bolts to the hanger",
    plain=(
        "Hanger and derailleur must be of one sort. A derailleur whose upper link comes off goes on a direct "
        "hanger; a slot dropout takes a claw hanger; a derailleur clamped round the axle wants a frame made for it."
    ),
    area=Area.DRIVETRAIN,
    reads={"frame": ("hanger",), "rear_derailleur": ("mount", optional("removable_link"))},
    messages={
        "same": "Hanger and derailleur are of one sort.",
        "link_off": "On a direct hanger this derailleur goes without its upper link.",
        "link_unknown": "It goes on a direct hanger only if its upper link comes off; that is not known.",
        "claw": "The dropout has no thread: a claw hanger carries the derailleur.",
        "other": "A {rear_derailleur.mount} derailleur does not bolt to a {frame.hanger} hanger.",
    },
    sources=("maker-limits",),
)
def derailleur_mount(frame: View, rear_derailleur: View) -> Outcome:
    hanger, mount = frame.hanger, rear_derailleur.mount
    if hanger == mount and hanger != "none":
        return goes("same")
    if (hanger, mount) == ("m10_direct", "m10"):
        if rear_derailleur.removable_link:
            return goes_if("link_off", need("take the upper link off"))
        if rear_derailleur.removable_link is None:
            return unmeasured("link_unknown", (rear_derailleur, "removable_link"))
    if (hanger, mount) == ("claw", "m10"):
        return goes_if("claw", need("claw hanger"))
    return no_go("other", way_out(rear_derailleur, "mount", "==", hanger))


@rule(
    "ring-difference",
    title="Rings differ no more than the rear derailleur takes",
    plain=(
        "The largest less the smallest ring must not exceed the derailleur's figure. Up to two teeth over go if "
        "small/small is kept out of. A single ring has no difference."
    ),
    area=Area.DRIVETRAIN,
    reads={"chainrings": ("teeth",), "rear_derailleur": (optional("ring_difference_max_teeth"),)},
    messages={
        "within": "The rings differ by {differ} teeth, the derailleur takes {limit}.",
        "over": "The rings differ by {differ} teeth, {over} more than the derailleur's {limit}.",
        "too_far": "The rings differ by {differ} teeth; the derailleur takes only {limit}.",
        "unknown": "The rings differ by {differ} teeth; what the derailleur takes is not known.",
    },
    figures={
        "differ": "largest ring − smallest ring",
        "limit": "derailleur's figure",
        "over": "differ − limit",
    },
    sources=("maker-limits",),
)
def ring_difference(chainrings: View, rear_derailleur: View) -> Outcome | None:
    if len(chainrings.teeth) == 1:
        return None
    differ, limit = max(chainrings.teeth) - min(chainrings.teeth), rear_derailleur.ring_difference_max_teeth
    if limit is None:
        return unmeasured("unknown", (rear_derailleur, "ring_difference_max_teeth"), differ=differ)
    figures = {"differ": differ, "limit": limit, "over": differ - limit}
    if differ <= limit:
        return goes("within", **figures)
    if differ <= limit + RING_DIFFERENCE_OVER_TEETH:
        return goes_if("over", need("keep out of small/small"), **figures)
    return no_go("too_far", way_out(rear_derailleur, "ring_difference_max_teeth", ">=", differ), **figures)


@rule(
    "chain-angle",
    title="Chain runs straight enough",
    plain=(
        "The chain's angle in the end gears: quiet up to a first limit, normal at the ends to a second, noisy "
        "and wearing above, to be avoided above a third. A single ring on a crank made for two is judged on "
        "the seat that is nearer the middle."
    ),
    area=Area.DRIVETRAIN,
    reads={
        "chainrings": ("teeth",),
        "cassette": (
            optional("teeth"),
            optional("speeds"),
            optional("sprocket_pitch_mm"),
            optional("mount"),
        ),
        "crank": ("chainline_mm", optional("ring_offset_mm"), optional("rings")),
        "rear_hub": ("spacing_mm", optional("axle_kind")),
        "frame": ("chainstay_mm",),
    },
    messages={
        "quiet": "The chain leans {worst_deg:.1f}° at most ({gear}){seat}.",
        "noisy": "The chain leans {worst_deg:.1f}° in {gear}{seat}: noisy, and it wears.",
        "avoid": "The chain leans {worst_deg:.1f}° in {gear}{seat}: keep out of that gear.",
        "unknown": "The sprockets or their pitch are not measured.",
    },
    figures={
        "worst_deg": "largest chain angle among the gears in use",
        "gear": "gear of the largest angle",
        "seat": "where a lone ring sits on a crank for more",
        "rear_last_mm": "line of the largest sprocket",
        "front_mm": "line of the ring in that gear",
    },
    settings=("chain_angle_noisy_deg", "chain_angle_avoid_deg"),
    sources=("chainline-geometry",),
)
def chain_angle(
    chainrings: View, cassette: View, crank: View, rear_hub: View, frame: View, settings: Settings
) -> Outcome | None:
    count, pitch = sprocket_count(cassette), pitches(cassette)
    if count == 1:
        return None  # a lone sprocket's line is set at its hub, not by a stack
    if count is None or not pitch:
        return unmeasured("unknown", (cassette, "teeth" if count is None else "sprocket_pitch_mm"))
    teeth = cassette.teeth or tuple(range(11, 11 + count))
    best = seated_chainlines(
        chainline_mm=crank.chainline_mm,
        crank_rings=crank.rings,
        offsets_mm=crank.ring_offset_mm,
        axle_kind=rear_hub.axle_kind,
        spacing_mm=rear_hub.spacing_mm,
        sprocket_pitch_mm=max(pitch),
        sprockets=teeth,
        chainrings=chainrings.teeth,
        chainstay_mm=frame.chainstay_mm,
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
        return goes_if("noisy", need("accept noise and wear in the end gears"), **figures)
    avoid = need("keep out of the end gear, or move the ring", gears=[figures["gear"]])
    return goes_if("avoid", avoid, **figures)


@rule(
    "ring-retention",
    title="Single ring keeps its chain",
    plain=(
        "A single ring keeps its chain with narrow-wide teeth and a clutch together, or with a chain guide. "
        "With neither it drops off on rough ground; on city, touring and track bikes that is a note only."
    ),
    area=Area.DRIVETRAIN,
    reads={
        "chainrings": ("teeth", optional("tooth_profile")),
        "rear_derailleur": (optional("clutch"),),
        "chain_guide": at("chain_guide", may_be_empty=True),
        "bike": at("bike", optional("use")),
    },
    messages={
        "kept": "Narrow-wide teeth and a clutch keep the chain on.",
        "guided": "A chain guide keeps the chain on.",
        "smooth": "On smooth ground a single ring keeps its chain; on rough ground it may drop.",
        "drops": "Without a guide, or narrow-wide teeth and a clutch, it will drop off on rough ground.",
        "unknown": "Whether something keeps the chain on is not known.",
    },
    sources=("maker-limits",),
)
def ring_retention(chainrings: View, rear_derailleur: View, chain_guide: View, bike: View) -> Outcome | None:
    if len(chainrings.teeth) > 1:
        return None
    if not chain_guide.empty:
        return goes("guided")
    narrow_wide = None if chainrings.tooth_profile is None else chainrings.tooth_profile == "narrow_wide"
    if narrow_wide and rear_derailleur.clutch:
        return goes("kept")
    if bike.use in SMOOTH_USES:
        return goes("smooth")
    if narrow_wide is not False and rear_derailleur.clutch is not False:
        pairs = ((chainrings, "tooth_profile"), (rear_derailleur, "clutch"))
        return unmeasured("unknown", *missing(*pairs))
    return goes_if("drops", need("chain guide, or a narrow-wide ring with a clutch derailleur"))


@rule(
    "ring-clearance",
    title="Rings clear the chainstay",
    plain=(
        "The largest ring must not exceed the frame's limit for this number of rings; 3 mm must stay free "
        "under load. A frame without a stated limit is looked at by hand."
    ),
    area=Area.DRIVETRAIN,
    reads={"frame": (optional("chainring_max_teeth"),), "chainrings": ("teeth",)},
    messages={
        "within": "{largest} teeth, the frame takes {limit}.",
        "too_large": "{largest} teeth; the frame takes {limit} with this many rings.",
    },
    figures={"largest": "largest ring", "limit": "frame's limit for this number of rings"},
    sources=("maker-limits",),
)
def ring_clearance(frame: View, chainrings: View) -> Outcome | None:
    limit = (frame.chainring_max_teeth or {}).get(len(chainrings.teeth))
    if limit is None:
        return None
    largest = max(chainrings.teeth)
    if largest <= limit:
        return goes("within", largest=largest, limit=limit)
    return no_go("too_large", way_out(chainrings, "teeth", "max<=", limit), largest=largest, limit=limit)


@rule(
    "ring-chain",
    title="Chain sits on the rings",
    plain=(
        "Where the rings say which chains they take: the chain's class must be among them, or one class "
        "narrower. Single narrow-wide rings take 9 to 12."
    ),
    area=Area.DRIVETRAIN,
    reads={
        "chain": ("speeds",),
        "chainrings": (optional("speeds"), optional("tooth_profile"), optional("teeth")),
    },
    messages={
        "takes": "The rings take a {chain_class} chain.",
        "narrower": "The {chain_class} chain is one class narrower than the rings are made for.",
        "other": "The rings do not take a {chain_class} chain.",
    },
    figures={"chain_class": "class of the chain"},
    sources=("sprocket-pitches",),
)
def ring_chain(chain: View, chainrings: View) -> Outcome | None:
    takes = chainrings.speeds
    if takes is None and chainrings.tooth_profile == "narrow_wide" and len(chainrings.teeth or ()) == 1:
        takes = (9, 10, 11, 12)
    if takes is None:
        return None
    has, classes = chain_class(chain.speeds), {chain_class(one) for one in takes}
    if has in classes:
        return goes("takes", chain_class=class_name(has))
    if has - 1 in classes:
        return goes_if("narrower", need("accept a little more noise"), chain_class=class_name(has))
    return no_go("other", way_out(chainrings, "speeds", "has", chain.speeds), chain_class=class_name(has))


@rule(
    "chain-guide",
    title="Chain guide fits frame and ring",
    plain=(
        "The guide's mount must be the frame's; the ring must lie within its range, an oval ring counting two "
        "teeth more; a bash guard must cover the ring."
    ),
    area=Area.DRIVETRAIN,
    reads={
        "frame": ("guide_mount",),
        "chain_guide": (
            "mount",
            optional("ring_min_teeth"),
            optional("ring_max_teeth"),
            optional("oval_ok"),
            optional("bash_max_teeth"),
        ),
        "chainrings": ("teeth", optional("shape")),
    },
    messages={
        "fits": "Mount and ring ({teeth} teeth) are the guide's.",
        "no_mount": "The frame has no {chain_guide.mount} mount for this guide.",
        "out_of_range": "A ring of {teeth} teeth is outside the guide's {low} to {high}.",
        "bash": "A ring of {teeth} teeth stands out over a bash guard for {bash}.",
        "oval": "The guide does not take oval rings.",
        "unknown": "The guide's range or the ring's shape is not known.",
    },
    figures={
        "teeth": "largest ring, two more when oval",
        "low": "guide's smallest ring",
        "high": "guide's largest ring",
        "bash": "largest ring the bash guard covers",
    },
    sources=("maker-limits",),
)
def chain_guide(frame: View, chain_guide: View, chainrings: View) -> Outcome:
    if frame.guide_mount != chain_guide.mount or frame.guide_mount == "none":
        return no_go("no_mount", way_out(chain_guide, "mount", "==", frame.guide_mount))
    asks = [
        (chain_guide, name)
        for name in ("ring_min_teeth", "ring_max_teeth")
        if getattr(chain_guide, name) is None
    ]
    if asks:
        return unmeasured("unknown", *asks)
    oval = chainrings.shape == "oval"
    if oval and not chain_guide.oval_ok:
        if chain_guide.oval_ok is None:
            return unmeasured("unknown", (chain_guide, "oval_ok"))
        return no_go("oval", way_out(chainrings, "shape", "==", "round"))
    teeth = max(chainrings.teeth) + (2 if oval else 0)
    figures = {"teeth": teeth, "low": chain_guide.ring_min_teeth, "high": chain_guide.ring_max_teeth}
    if not chain_guide.ring_min_teeth <= teeth <= chain_guide.ring_max_teeth:
        return no_go("out_of_range", way_out(chain_guide, "ring_max_teeth", ">=", teeth), **figures)
    bash = chain_guide.bash_max_teeth
    if bash is not None and teeth > bash:
        return no_go("bash", way_out(chain_guide, "bash_max_teeth", ">=", teeth), bash=bash, **figures)
    may_be_oval = chainrings.shape is None and (
        teeth + 2 > chain_guide.ring_max_teeth or not chain_guide.oval_ok
    )
    if may_be_oval:
        return unmeasured("unknown", (chainrings, "shape"), **figures)
    return goes("fits", **figures)


def _electronic(view: View) -> bool | None:
    """Whether a lever or derailleur is electronic; None when it is not known."""
    return None if view.works is None else view.works == "electronic"


_GEAR_PAIRS = (
    {"one": at("rear_derailleur", optional("protocol"), works=optional("actuation")),
     "other": at("rear_shifter", optional("protocol"), works=optional("mode"))},
    {"one": at("front_derailleur", optional("protocol"), works=optional("actuation")),
     "other": at("front_shifter", optional("protocol"), works=optional("mode"))},
    {"one": at("rear_derailleur", optional("protocol"), works=optional("actuation")),
     "other": at("front_derailleur", optional("protocol"), works=optional("actuation"))},
)  # fmt: skip


@rule(
    "electronic-protocol",
    title="Electronic parts speak one protocol",
    plain=(
        "Electronic derailleurs and shifters share one protocol; a cable shifter moves no electronic "
        "derailleur and the other way round. Front and rear may be cable and electronic side by side."
    ),
    area=Area.DRIVETRAIN,
    reads=_GEAR_PAIRS,
    messages={
        "one_protocol": "Both speak {one.protocol}.",
        "other_protocol": "One speaks {one.protocol}, the other {other.protocol}.",
        "cable_and_wire": "One is electronic, the other works by cable.",
        "works_unknown": "One is electronic; how the other works is not known.",
        "unknown": "Both are electronic; which protocol they speak is not known.",
    },
    sources=("maker-limits",),
)
def electronic_protocol(one: View, other: View) -> Outcome | None:
    if not _electronic(one) and not _electronic(other):
        return None
    unknown = missing((one, "works"), (other, "works"))
    if unknown:
        return unmeasured("works_unknown", *unknown)
    if _electronic(one) != _electronic(other):
        if {one.slot, other.slot} == {"rear_derailleur", "front_derailleur"}:
            return None
        return no_go(
            "cable_and_wire",
            way_out(other, "works", "==", one.works if one.works == "electronic" else "indexed"),
        )
    asks = missing((one, "protocol"), (other, "protocol"))
    if asks:
        return unmeasured("unknown", *asks)
    if one.protocol == other.protocol:
        return goes("one_protocol")
    return no_go("other_protocol", way_out(other, "protocol", "==", one.protocol))
