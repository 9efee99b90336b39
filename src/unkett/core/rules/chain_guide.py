"""What keeps the chain on the chainrings: tooth profile, guide, bash guard."""

from __future__ import annotations

from typing import Any

from unkett.core.rules.base import rule
from unkett.core.rules.outcome import SILENT, Outcome, goes, goes_if, need, no_go, way_out
from unkett.core.rules.ovals import OVAL_TEETH, counted_teeth, ring_in_words
from unkett.core.rules.roles import BIKE, optional, required
from unkett.core.rules.view import View, require
from unkett.core.standards import lookup
from unkett.core.vocabulary import Area

RETENTION = rule(
    "ring-retention",
    title="Single ring keeps its chain",
    plain=(
        "On rough ground (gravel, cyclocross, cargo, cross-country to downhill, fat) a single ring keeps its chain "
        "with narrow-wide teeth and a clutch together, or with a chain guide; with neither it drops off. On other "
        "bikes, and where the use is not known, that is a remark."
    ),
    why="Without something to hold it a chain bounces off a single chainring on rough ground.",
    area=Area.DRIVETRAIN,
    joint="rings",
    parts={
        "rings": required("chainrings"),
        "derailleur": required("rear_derailleur"),
        "guide": optional("chain_guide"),
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


@RETENTION.clause("rings.count", may="bike.use", silences=True)
def rough(rings: View, bike: View) -> Outcome | None:
    if rings.count > 1:
        return SILENT
    return None if bike.use in ROUGH_USES else goes("smooth")


@RETENTION.clause("rings.count guide", asks="rings.tooth_profile derailleur.clutch", may="bike.use")
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
        "within its range, an oval ring counting {oval_teeth} teeth more; a bash guard must cover the ring."
    ),
    why="A guide that does not match touches the chain or lets it through just when it is needed.",
    area=Area.DRIVETRAIN,
    joint="rings",
    parts={
        "frame": "frame",
        "guide": required("chain_guide"),
        "rings": required("chainrings"),
        "fd": optional("front_derailleur"),
    },
    messages={
        "fits": "Mount and chainring ({ring}) are the guide's.",
        "no_mount": "Guide: {guide.mount}. Frame: {frame.guide_mount}. Incompatible.",
        "caught": "The catcher bolts where a front derailleur would.",
        "no_tab": "Catcher: {guide.mount}. Frame: {frame.fd_mount}. They are incompatible.",
        "longer_bolt": "The catcher shares the front derailleur's bolt.",
        "no_cup": "The guide's plate sits behind a threaded cup; this shell has no thread.",
        "out_of_range": "Chainring {ring}; the guide takes {low} to {high} T.",
        "bash": "Chainring {ring}; the bash guard covers {bash} T.",
        "oval": "The guide does not take oval rings.",
    },
    figures={
        "teeth": ("largest ring, more when oval", ""),
        "ring": ("largest ring in words: how an oval one counts", ""),
        "low": ("guide's smallest ring", ""),
        "high": ("guide's largest ring", ""),
        "bash": ("largest ring the bash guard covers", ""),
    },
    sources=("maker-limits",),
)


@GUIDE.clause("guide.mount", given="guide.sort", asks="frame.fd_mount", may="fd.mount")
def catcher(guide: View, frame: View, fd: View) -> Outcome | None:
    if guide.sort != "catcher":
        return None
    if guide.mount != require(frame).fd_mount:
        return no_go("no_tab", way_out(guide, "mount", "==", frame.fd_mount))
    if not fd.empty:
        return goes_if("longer_bolt", need("longer front derailleur bolt"))
    return goes("caught")


@GUIDE.clause("guide.mount", asks="frame.guide_mount frame.bb_shell", may="guide.sort")
def guide_mount(guide: View, frame: View) -> Outcome | None:
    if guide.sort == "catcher":
        return None
    if guide.mount == "none":
        return no_go("no_mount", way_out(guide, "mount", "!=", "none"))
    if guide.mount == "bb_plate":
        if _threaded(require(frame).bb_shell):
            return None
        if frame.guide_mount in (None, "none"):
            return no_go("no_cup", way_out(frame, "bb_shell", "==", "bsa"))
        return no_go("no_cup", way_out(guide, "mount", "==", frame.guide_mount))
    own = require(frame).guide_mount
    if own == guide.mount:
        return None
    if own != "none":
        return no_go("no_mount", way_out(guide, "mount", "==", own))
    if _threaded(require(frame).bb_shell):
        return no_go("no_mount", way_out(guide, "mount", "==", "bb_plate"))
    return no_go("no_mount", way_out(frame, "guide_mount", "==", guide.mount))


def _threaded(shell: str) -> bool:
    return bool(lookup("bracket_shells", "code")[shell].get("drive_thread"))


@GUIDE.clause(given="rings.shape guide.oval_ok")
def oval(rings: View, guide: View) -> Outcome | None:
    if rings.shape != "oval" or guide.oval_ok:
        return None
    return no_go("oval", way_out(rings, "shape", "==", "round"), way_out(guide, "oval_ok", "==", True))


def _ring(rings: View) -> dict[str, Any]:
    """Return the largest ring in figures and in words."""
    teeth = rings.largest_teeth
    return {"teeth": counted_teeth(teeth, rings.shape), "ring": ring_in_words(teeth, rings.shape)}


@GUIDE.clause(
    "rings.largest_teeth",
    asks="rings.shape guide.oval_ok",
    may="guide.ring_max_teeth guide.ring_min_teeth guide.sort",
)
def guide_range(rings: View, guide: View) -> Outcome | None:
    """Return the ring within the guide's figures, where it is known whether it is oval."""
    if guide.sort == "catcher":
        return None
    low, high = guide.ring_min_teeth, guide.ring_max_teeth
    largest = rings.largest_teeth
    figures = {"low": "?" if low is None else low, "high": "?" if high is None else high}
    if high is not None and largest > high:
        return no_go(
            "out_of_range",
            way_out(guide, "ring_max_teeth", ">=", counted_teeth(largest, rings.shape)),
            **_ring(rings),
            **figures,
        )
    if low is not None and largest + OVAL_TEETH < low:
        return no_go(
            "out_of_range", way_out(guide, "ring_min_teeth", "<=", largest), **_ring(rings), **figures
        )
    require(rings, "shape")
    teeth = counted_teeth(largest, rings.shape)
    if require(rings).shape == "oval" and not require(guide).oval_ok:
        return None  # said already
    if high is not None and teeth > high:
        return no_go("out_of_range", way_out(guide, "ring_max_teeth", ">=", teeth), **_ring(rings), **figures)
    if low is not None and teeth < low:
        return no_go("out_of_range", way_out(guide, "ring_min_teeth", "<=", teeth), **_ring(rings), **figures)
    return None


@GUIDE.clause("rings.largest_teeth", given="guide.bash_max_teeth", asks="rings.shape")
def bash(rings: View, guide: View) -> Outcome | None:
    teeth, most = rings.largest_teeth, guide.bash_max_teeth
    if teeth <= most and counted_teeth(teeth, require(rings).shape) <= most:
        return None
    way = way_out(guide, "bash_max_teeth", ">=", counted_teeth(rings.largest_teeth, rings.shape))
    return no_go("bash", way, bash=most, **_ring(rings))


@GUIDE.clause(
    "rings.largest_teeth guide",
    asks="guide.ring_min_teeth guide.ring_max_teeth",
    may="rings.shape guide.sort",
)
def guide_fits(guide: View, rings: View) -> Outcome | None:
    if guide.sort == "catcher":
        return None
    require(guide, "ring_min_teeth", "ring_max_teeth")
    return goes("fits", **_ring(rings), low=guide.ring_min_teeth, high=guide.ring_max_teeth)
