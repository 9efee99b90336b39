"""Where things sit: shifters on the down tube, a linkage in its frame, timing chains of a tandem."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from unkett.core.calc.gears import CHAIN_PITCH_MM
from unkett.core.rules.base import rule
from unkett.core.rules.outcome import Outcome, goes, goes_if, near, need, no_go, way_out
from unkett.core.rules.roles import required
from unkett.core.rules.view import View, require
from unkett.core.standards import SLACK, limit_of
from unkett.core.vocabulary import Area, enums

PIVOT_OFF_MM = limit_of("pivot_off_mm")
ECCENTRIC_MOST_MM = limit_of("eccentric_most_mm")

PLACE = rule(
    "shifter-place",
    title="Shifter has its place",
    plain=(
        "A shifter on the down tube sits on bosses; without them a band holds it on a round metal tube, nothing on "
        "carbon."
    ),
    why="A shifter without a firm seat turns when it is pulled and misses its gears.",
    area=Area.DRIVETRAIN,
    joint=("shifting", "rings"),
    parts=tuple({"shifter": slot, "frame": required("frame")} for slot in ("rear_shifter", "front_shifter")),
    messages={
        "bosses": "The frame has bosses for the shifter.",
        "band": "No bosses for a down-tube shifter: a band.",
        "carbon": "No bosses for a down-tube shifter, and no band goes on carbon.",
    },
    sources=("maker-limits",),
)


@PLACE.clause(given="shifter.place", asks="frame.shifter_bosses frame.material")
def bosses(shifter: View, frame: View) -> Outcome | None:
    if shifter.place != "down_tube":
        return None
    if require(frame).shifter_bosses:
        return goes("bosses")
    if require(frame).material == "carbon":
        return no_go("carbon", way_out(shifter, "place", "!=", "down_tube"))
    return goes_if("band", need("shifter band"))


LINKAGE = rule(
    "linkage-fit",
    title="Linkage is the frame's",
    plain="The linkage's code must be the frame's.",
    why="Another linkage moves the shock outside its path and strikes the frame.",
    area=Area.STEERING,
    joint="shock",
    parts={"linkage": "linkage", "frame": "frame"},
    messages={
        "same": "Linkage {linkage.linkage_code} is the frame's.",
        "other": "Linkage {linkage.linkage_code}; frame {frame.linkage_code}.",
    },
    sources=("maker-limits",),
    safety=True,
)


@LINKAGE.clause("linkage.linkage_code frame.linkage_code")
def linkage(linkage: View, frame: View) -> Outcome:
    if linkage.linkage_code == frame.linkage_code:
        return goes("same")
    return no_go("other", way_out(linkage, "linkage_code", "==", frame.linkage_code))


BEARING = rule(
    "linkage-bearing",
    title="Bearings are the pivots'",
    plain="Inner, outer and width of a pivot's bearing or bush must be the frame's, within {pivot_off_mm} mm.",
    why="A loose bearing wears its seat in the frame out; one that is pressed into too small a seat is crushed.",
    area=Area.STEERING,
    joint="shock",
    parts={"linkage": "linkage", "frame": "frame"},
    messages={
        "same": "Bearings of the linkage are the frame's.",
        "other": "{Pivot}: {has}; frame {wants}.",
        "sort": "{Pivot}: the frame takes a {wants} there.",
    },
    figures={
        "Pivot": ("place of the pivot", ""),
        "has": ("inner × outer × width of the linkage", ""),
        "wants": ("inner × outer × width of the frame", ""),
    },
    sources=("bearings-iso", "maker-limits"),
    safety=True,
)
THREE = ("inner_mm", "outer_mm", "width_mm")


def _size(pivot: Mapping[str, Any]) -> str:
    return " × ".join(f"{pivot[name]:g}" for name in THREE)


@BEARING.clause("frame.pivots", given="linkage.pivots")
def bearings(frame: View, linkage: View) -> Outcome | None:
    wanted = {pivot["place"]: pivot for pivot in frame.pivots}
    pairs = [(pivot, wanted[pivot["place"]]) for pivot in linkage.pivots if pivot["place"] in wanted]
    for has, wants in pairs:
        place = {"Pivot": enums.PIVOT.title(has["place"])}
        way = way_out(linkage, "pivots", "has", dict(wants))
        if has["sort"] != wants["sort"]:
            return no_go("sort", way, **place, wants=enums.PIVOT_SORT.title(wants["sort"]).lower())
        if not all(near(has[name], wants[name], PIVOT_OFF_MM) for name in THREE):
            return no_go("other", way, **place, has=_size(has), wants=_size(wants))
    return goes("same") if pairs else None


TIMING = rule(
    "timing",
    title="Timing chain of a tandem runs tight",
    plain=(
        "Captain's and stoker's timing rings have the same teeth. The chain's links are twice the centre over the "
        "pitch plus the teeth, made even by what the eccentric moves."
    ),
    why="A slack timing chain comes off and leaves one of the two riders without drive.",
    area=Area.BRACKET,
    joint="bracket",
    parts={"rings": "timing_rings", "chain": "timing_chain", "frame": "frame"},
    messages={
        "tight": "{links:.1f} links by the sizes; {chain.links} move the eccentric {moves_mm:.1f} mm.",
        "unequal": "Timing rings {rings.teeth}: captain and stoker would part.",
        "off": "Timing chain of {links:.1f} links by the sizes: {moves_mm:.1f} mm out of the eccentric's reach.",
        "odd": "Timing chain {chain.links} links is odd: recount.",
    },
    figures={"links": ("2 × centre / pitch + teeth", ""), "moves_mm": ("what the eccentric moves", "mm")},
    sources=("belt-geometry", "chain-iso"),
    safety=True,
)


@TIMING.clause("rings.teeth")
def equal_rings(rings: View) -> Outcome | None:
    if len(set(rings.teeth)) == 1:
        return None
    return no_go("unequal", way_out(rings, "teeth", "==", [rings.teeth[0], rings.teeth[0]]))


@TIMING.clause(given="chain.links")
def odd(chain: View) -> Outcome | None:
    if chain.links % 2 == 0:
        return None
    return no_go("odd", way_out(chain, "links", "==", chain.links + 1))


def _moves(links: int, teeth: int, centre_mm: float) -> float:
    """Return how far the bracket moves until a chain of so many links is tight."""
    return (links - teeth) * CHAIN_PITCH_MM / 2 - centre_mm


@TIMING.clause("rings.teeth frame.timing_centre_mm", may="chain.links frame.eccentric_mm")
def out_of_reach(rings: View, chain: View, frame: View) -> Outcome | None:
    """Links that no eccentric reaches, or an eccentric that reaches no even number of links."""
    if len(set(rings.teeth)) != 1:
        return None
    teeth, centre = rings.teeth[0], frame.timing_centre_mm
    wanted = 2 * centre / CHAIN_PITCH_MM + teeth
    nearest = min((2 * int(wanted / 2), 2 * int(wanted / 2) + 2), key=lambda n: abs(_moves(n, teeth, centre)))
    links = nearest if chain.links is None else chain.links
    moves = _moves(links, teeth, centre)
    most = ECCENTRIC_MOST_MM if frame.eccentric_mm is None else frame.eccentric_mm
    if abs(moves) <= most + SLACK or links % 2:
        return None
    return no_go("off", way_out(chain, "links", "==", nearest), links=wanted, moves_mm=moves)


@TIMING.clause("rings.teeth chain.links frame.timing_centre_mm frame.eccentric_mm")
def tight(rings: View, chain: View, frame: View) -> Outcome | None:
    if len(set(rings.teeth)) != 1:
        return None
    moves = _moves(chain.links, rings.teeth[0], frame.timing_centre_mm)
    wanted = 2 * frame.timing_centre_mm / CHAIN_PITCH_MM + rings.teeth[0]
    return goes("tight", links=wanted, moves_mm=moves)
