"""Cables and hoses: lengths, the change from an old line, and the cut list with the least waste."""

from __future__ import annotations

import functools
import math

from attrs import frozen

from unkett.core.calc.base import SLACK, Input, Result, TraceLine, calculation, figure
from unkett.core.calc.fields import LENGTH, OFFSET
from unkett.core.errors import bad
from unkett.core.vocabulary.enums import Enumeration
from unkett.core.vocabulary.types import Choice, ListOf, Number, Record, Whole

HOUSINGS = ("housing", "shift_housing", "brake_housing")
SEGMENT = Choice(
    of=Enumeration(
        name="segment",
        codes={
            "housing": "Housing",
            "shift_housing": "Shift housing",
            "brake_housing": "Brake housing",
            "bare": "Bare inner",
            "hose": "Hose",
        },
    )
)


@frozen(kw_only=True)
class LineLength(Result):
    housing_mm: float = figure("mm", "Housing")
    bare_mm: float = figure("mm", "Bare cable")
    hose_mm: float = figure("mm", "Hose")
    inner_mm: float = figure("mm", "Inner cable")


@calculation(
    "line_length",
    title="Line length",
    says="Lengths of housing, bare inner, hose and the inner to cut.",
    inputs=(
        Input(
            name="segments",
            title="Pieces along the way",
            type=ListOf(item=Record(fields={"type": SEGMENT, "length_mm": LENGTH})),
            says="The path from control to component.",
        ),
        Input(
            name="lever_mm",
            title="Inside the lever",
            type=LENGTH,
            says="Inner inside the lever: 60 drop-lever brake, 45 shift.",
        ),
        Input(
            name="past_clamp_mm",
            title="Past the clamp",
            type=LENGTH,
            says="Inner past the clamp.",
            optional=True,
            default=50.0,
        ),
        Input(
            name="spare_mm",
            title="Spare",
            type=LENGTH,
            says="Spare for a later change, inner only.",
            optional=True,
            default=0.0,
        ),
    ),
    source="inner = housing + bare + lever + past the clamp + spare",
)
def line_length(
    *,
    segments: tuple[dict[str, object], ...],
    lever_mm: float,
    past_clamp_mm: float = 50.0,
    spare_mm: float = 0.0,
) -> LineLength:
    """A line of hose only has no inner."""

    def total(*types: str) -> float:
        return math.fsum(float(str(piece["length_mm"])) for piece in segments if piece["type"] in types)

    housing, bare, hose = total(*HOUSINGS), total("bare"), total("hose")
    pulled = any(piece["type"] != "hose" for piece in segments)
    inner = housing + bare + lever_mm + past_clamp_mm + spare_mm if pulled else 0.0
    return LineLength(
        housing_mm=housing,
        bare_mm=bare,
        hose_mm=hose,
        inner_mm=inner,
        trace=(
            TraceLine("housing_mm", housing, "mm", "sum of the housing"),
            TraceLine("bare_mm", bare, "mm", "sum of the bare inner"),
            TraceLine("hose_mm", hose, "mm", "sum of the hose"),
            TraceLine(
                "inner_mm", inner, "mm", f"housing + bare + {lever_mm:g} + {past_clamp_mm:g} + {spare_mm:g}"
            ),
        ),
    )


POINT = ListOf(item=OFFSET, most=2)
PLACE = Record(fields={"lever_xy_mm": POINT, "entry_xy_mm": POINT, "rest_mm": LENGTH})


@frozen(kw_only=True)
class LineChange(Result):
    new_mm: float = figure("mm", "Line then")
    change_mm: float = figure("mm", "Change")


@calculation(
    "line_change",
    title="Line change",
    says="A line's new length from the old line and the change of its path.",
    inputs=(
        Input(name="old_mm", title="Line now", type=LENGTH, says="The old line, measured when it comes off."),
        Input(
            name="from",
            title="As it runs now",
            type=PLACE,
            says="Lever exit, frame entry and the rest of the path now.",
        ),
        Input(name="to", title="As it will run", type=PLACE, says="The same then."),
    ),
    source="change of the straight distance lever to entry + change of the rest",
)
def line_change(**given: object) -> LineChange:
    """Raises InputError for a point that is no pair."""

    def path(name: str) -> float:
        place = given[name]
        assert isinstance(place, dict)
        for point in ("lever_xy_mm", "entry_xy_mm"):
            if len(place[point]) != 2:
                raise bad(f"{name}.{point}", "a pair [x, y] is wanted")
        return math.dist(place["lever_xy_mm"], place["entry_xy_mm"]) + float(place["rest_mm"])

    old = given["old_mm"]
    assert isinstance(old, (int, float))
    before, after = path("from"), path("to")
    change = after - before
    return LineChange(
        new_mm=old + change,
        change_mm=change,
        trace=(
            TraceLine("path_from_mm", before, "mm", "lever to entry + rest"),
            TraceLine("path_to_mm", after, "mm", "lever to entry + rest"),
            TraceLine("change_mm", change, "mm", "to − from"),
            TraceLine("new_mm", old + change, "mm", f"{old:g} + change"),
        ),
    )


@frozen(kw_only=True)
class Cut:
    """One opened length of stock and the pieces cut from it."""

    stock_mm: float = figure("mm", "Stock")
    pieces_mm: tuple[float, ...] = figure("mm", "Pieces")


@frozen(kw_only=True)
class CutList(Result):
    cuts: tuple[Cut, ...] = figure("", "Cuts")
    waste_mm: float = figure("mm", "Left over")


PIECES_MAX = 16  # exact for so many within a second or two
Pieces = tuple[float, ...]
Counts = tuple[int, ...]


def _fillings(pieces: Pieces, room: float, kerf: float) -> set[Pieces]:
    """Every way to fill a room with further pieces so that no other still fits, pieces largest first."""
    out: set[Pieces] = set()

    def grow(start: int, taken: Pieces, left: float) -> None:
        rest = list(pieces)
        for piece in taken:
            rest.remove(piece)
        if not any(piece + kerf <= left + SLACK for piece in rest):
            out.add(taken)
        last = None
        for place in range(start, len(pieces)):
            piece = pieces[place]
            if piece != last and piece + kerf <= left + SLACK:
                grow(place + 1, (*taken, piece), left - piece - kerf)
            last = piece

    grow(0, (), room)
    return out


def _least(
    lengths: tuple[float, ...], counts: Counts, pieces: Pieces, kerf: float
) -> tuple[float, tuple[Cut, ...]] | None:
    """The least stock opened for these pieces, with the cuts; None where it cannot be done.

    The largest piece opens a length, which is then filled as far as it goes: a piece that still fits
    may always be moved in from elsewhere without opening more.
    """

    @functools.cache
    def solve(left: Pieces, stock: Counts) -> tuple[float, tuple[Cut, ...]] | None:
        if not left:
            return 0.0, ()
        first, rest = left[0], left[1:]
        best: tuple[float, tuple[Cut, ...]] | None = None
        for place, length in enumerate(lengths):
            if stock[place] == 0 or length < first - SLACK:
                continue
            fewer = tuple(n - (1 if i == place else 0) for i, n in enumerate(stock))
            for filling in _fillings(rest, length - first, kerf):
                remaining = list(rest)
                for piece in filling:
                    remaining.remove(piece)
                after = solve(tuple(remaining), fewer)
                if after is None:
                    continue
                total = length + after[0]
                if best is None or (total, 1 + len(after[1])) < (best[0], len(best[1])):
                    best = total, (Cut(stock_mm=length, pieces_mm=(first, *filling)), *after[1])
        return best

    return solve(pieces, counts)


@calculation(
    "cut_list",
    title="Cut list",
    says="Pieces cut from stock lengths with the least possible waste.",
    inputs=(
        Input(
            name="pieces_mm",
            title="Pieces wanted",
            type=ListOf(item=Number(unit="mm", low=0.1, high=3500.0), most=PIECES_MAX),
            says="Pieces wanted.",
        ),
        Input(
            name="stock_mm",
            title="Lengths in stock",
            type=ListOf(
                item=Record(
                    fields={
                        "length_mm": Number(unit="mm", low=0.1, high=100000.0),
                        "count": Whole(low=0, high=1000),
                    },
                    optional=frozenset({"count"}),
                )
            ),
            says="Lengths in stock; without a count any number.",
        ),
        Input(
            name="kerf_mm",
            title="Lost at each cut",
            type=Number(unit="mm", low=0.0, high=50.0),
            says="Lost at each cut.",
            optional=True,
            default=0.0,
        ),
    ),
    source="exact cutting stock: least opened length; k pieces need their sum + (k − 1) × kerf",
)
def cut_list(
    *, pieces_mm: tuple[float, ...], stock_mm: tuple[dict[str, float], ...], kerf_mm: float = 0.0
) -> CutList:
    """Waste = opened stock − pieces. Raises InputError naming pieces_mm where it cannot be done."""
    pieces = tuple(sorted(pieces_mm, reverse=True))
    lengths = tuple(float(length["length_mm"]) for length in stock_mm)
    counts = tuple(min(int(length.get("count", len(pieces))), len(pieces)) for length in stock_mm)
    found = _least(lengths, counts, pieces, kerf_mm)
    if found is None:
        raise bad("pieces_mm", "these pieces cannot be cut from this stock")
    waste = found[0] - math.fsum(pieces)
    return CutList(
        cuts=found[1],
        waste_mm=waste,
        trace=(
            TraceLine("pieces_total_mm", math.fsum(pieces), "mm", "sum of the pieces"),
            TraceLine("opened_mm", found[0], "mm", "least stock opened"),
            TraceLine("waste_mm", waste, "mm", "opened − pieces"),
        ),
    )
