"""The cut list: pieces from stock lengths with the least stock opened, proven by a solver."""

from __future__ import annotations

import math
import time
from collections import Counter
from collections.abc import Mapping, Sequence

from attrs import frozen

from unkett.core.calc.base import Input, Result, TraceLine, calculation, figure
from unkett.core.errors import bad
from unkett.core.solver import Answer, Row, minimize_integers
from unkett.core.standards import SLACK
from unkett.core.vocabulary.types import ListOf, Number, Record, Whole

PIECES_MAX = 200
SECONDS = 20.0
PER_MM = 10**6  # the solver counts in whole millionths of a millimetre
STEPS_MAX = (
    400_000  # of listing the ways to fill a length; a length with more is cut piece by piece in the model
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
    proven: bool = figure("", "Proven least")
    bound_mm: float = figure("mm", "No list leaves less than")


def _units(value: float) -> int:
    return round(value * PER_MM)


Filling = tuple[int, ...]  # how many pieces of each length, longest first
Chosen = list[tuple[int, Filling]]  # the place of the stock, and how it is filled


@frozen(kw_only=True)
class _Task:
    """What is to be cut, in whole units: each length with how many are wanted, each stock with how many there are."""

    lengths: tuple[int, ...]
    wanted: tuple[int, ...]
    stock: tuple[int, ...]
    counts: tuple[int, ...]
    kerf: int

    @classmethod
    def of(cls, pieces: Sequence[float], stock: Sequence[Mapping[str, float]], kerf: float) -> _Task:
        tally = Counter(_units(piece) for piece in pieces)
        lengths = tuple(sorted(tally, reverse=True))
        return cls(
            lengths=lengths,
            wanted=tuple(tally[length] for length in lengths),
            stock=tuple(_units(item["length_mm"]) for item in stock),
            counts=tuple(min(int(item.get("count", len(pieces))), len(pieces)) for item in stock),
            kerf=_units(kerf),
        )

    @property
    def total(self) -> int:
        return sum(n * length for n, length in zip(self.wanted, self.lengths, strict=True))

    @property
    def unit(self) -> int:
        """What every length of stock is a whole number of."""
        return math.gcd(*self.stock)

    def room(self, stock: int) -> int:
        """Return how much goes into a length, each piece with its kerf: the last needs none."""
        return stock + self.kerf + _units(SLACK)

    def is_possible(self) -> bool:
        """Return whether every piece fits some length, and the stock is as long as the pieces together."""
        there = [stock for stock, count in zip(self.stock, self.counts, strict=True) if count]
        together = sum(stock * count for stock, count in zip(self.stock, self.counts, strict=True))
        longest = self.lengths[0] + self.kerf
        return any(longest <= self.room(stock) for stock in there) and together + _units(1) >= self.total


class _TooManyError(Exception):
    """More ways to fill a length than can be listed."""


def _fillings(task: _Task, stock: int, waste: int) -> list[Filling]:
    """Return every way to fill a length that leaves no more than `waste` of it. Raises _TooManyError."""
    out: list[Filling] = []
    rest = [
        sum(task.wanted[n] * task.lengths[n] for n in range(place, len(task.lengths)))
        for place in range(len(task.lengths) + 1)
    ]
    steps = 0

    def grow(place: int, taken: Filling, room: int, bare: int) -> None:
        nonlocal steps
        steps += 1
        if steps > STEPS_MAX:
            raise _TooManyError
        if bare - rest[place] > waste:
            return  # with all that is left it would still leave too much
        if place == len(task.lengths):
            out.append(taken)
            return
        size = task.lengths[place]
        for n in range(min(task.wanted[place], room // (size + task.kerf)), -1, -1):
            grow(place + 1, (*taken, n), room - n * (size + task.kerf), bare - n * size)

    grow(0, (), task.room(stock), stock)
    return [filling for filling in out if any(filling)]


class _Programme:
    """The list as whole numbers: how often each filling is cut, and for a length with too many fillings to list, each
    length of it with how many pieces of each sort it gives.
    """

    def __init__(self, task: _Task, waste: int) -> None:
        self.task = task
        self.costs: list[int] = []
        self.most: list[int] = []
        self.rows: list[Row] = []
        self.gives: list[dict[int, int]] = [{} for _ in task.lengths]
        self.read: list[tuple[int, int, Filling | list[int]]] = []  # variable, stock, what is cut from it
        for place, stock in enumerate(task.stock):
            if task.counts[place]:
                self._stock(place, stock, waste)
        self.rows += [
            Row(times=gives, low=wanted, high=wanted)
            for gives, wanted in zip(self.gives, task.wanted, strict=True)
        ]

    def _add(self, cost: int, most: int) -> int:
        self.costs.append(cost)
        self.most.append(most)
        return len(self.costs) - 1

    def _stock(self, place: int, stock: int, waste: int) -> None:
        task = self.task
        fits = min(task.counts[place], (task.total + waste) // stock)
        try:
            fillings = _fillings(task, stock, waste)
        except _TooManyError:
            self._lengths(place, stock, fits)
            return
        first = len(self.costs)
        for filling in fillings:
            most = min([fits, *(w // n for w, n in zip(task.wanted, filling, strict=True) if n)])
            var = self._add(stock // task.unit, most)
            self.read.append((var, place, filling))
            for n, count in enumerate(filling):
                if count:
                    self.gives[n][var] = count
        if fillings:
            used = range(first, len(self.costs))
            self.rows.append(Row(times=dict.fromkeys(used, 1), high=task.counts[place]))

    def _lengths(self, place: int, stock: int, count: int) -> None:
        task = self.task
        before: int | None = None
        for _ in range(count):
            var = self._add(stock // task.unit, 1)
            inside = [self._add(0, wanted) for wanted in task.wanted]
            room = {held: size + task.kerf for held, size in zip(inside, task.lengths, strict=True)}
            self.rows.append(Row(times={**room, var: -task.room(stock)}, high=0))
            if before is not None:  # equal lengths are opened in turn
                self.rows.append(Row(times={before: 1, var: -1}, low=0))
            before = var
            self.read.append((var, place, inside))
            for n, held in enumerate(inside):
                self.gives[n][held] = 1

    def solve(self, low: int, high: int, seconds: float) -> Answer:
        """Return the least stock opened from low to high, in the task's unit."""
        opened = {var: cost for var, cost in enumerate(self.costs) if cost}
        rows = [*self.rows, Row(times=opened, low=low, high=high)]
        return minimize_integers(costs=self.costs, most=self.most, rows=rows, seconds=seconds)

    def chosen(self, values: Sequence[int]) -> Chosen:
        """Return what is cut from which length."""
        out: Chosen = []
        for var, place, held in self.read:
            filling = tuple(values[item] for item in held) if isinstance(held, list) else held
            out += [(place, filling)] * (values[var] if any(filling) else 0)
        return out


def _least(task: _Task, seconds: float) -> tuple[Chosen, bool, int]:
    """Return the list with the least stock opened, whether it is proven least, and the bound on any list's stock.

    A list that leaves so much in all leaves no more in any of its lengths, so that only those fillings are looked at:
    a little waste is allowed at first, twice as much while no list is found; then nothing better is looked for.
    """
    until = time.monotonic() + seconds
    unit = task.unit
    low = -(-task.total // unit)
    whole = sum(stock * count for stock, count in zip(task.stock, task.counts, strict=True)) // unit
    waste = max(low * unit - task.total, task.total // 4000)
    best: tuple[Chosen, int] | None = None
    while best is None:
        wide = task.total + waste >= whole * unit
        programme = _Programme(task, waste)
        answer = programme.solve(low, whole, max(seconds / 3, until - time.monotonic() - seconds / 2))
        if answer.feasible:
            best = programme.chosen(answer.values), answer.objective
        elif wide and answer.proven:
            raise bad("pieces_mm", "these pieces cannot be cut from this stock")
        elif wide:
            raise bad("pieces_mm", "no list was found in time: cut them in two lots")
        waste *= 2
    while best[1] > low and time.monotonic() <= until:
        waste = (best[1] - 1) * unit - task.total
        programme = _Programme(task, waste)
        answer = programme.solve(low, best[1] - 1, until - time.monotonic())
        if answer.feasible:
            best = programme.chosen(answer.values), answer.objective
            low = max(low, answer.bound)
        elif answer.proven:
            low = best[1]
        else:
            break
    return best[0], best[1] == low, low * unit


@calculation(
    "cut_list",
    title="Cut list",
    page="lines",
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
    formula="cutting stock: least opened length; k pieces need their sum + (k − 1) × kerf",
    sources=("cutting-stock",),
)
def cut_list(
    *, pieces_mm: tuple[float, ...], stock_mm: tuple[dict[str, float], ...], kerf_mm: float = 0.0
) -> CutList:
    """Waste = opened stock − pieces, the least there is where `proven`, else no list leaves less than the bound.

    Raises InputError naming pieces_mm where it cannot be done.
    """
    task = _Task.of(pieces_mm, stock_mm, kerf_mm)
    if not task.is_possible():
        raise bad("pieces_mm", "these pieces cannot be cut from this stock")
    chosen, proven, bound = _least(task, SECONDS)
    back = {_units(piece): float(piece) for piece in pieces_mm}
    cuts = [
        Cut(
            stock_mm=float(stock_mm[place]["length_mm"]),
            pieces_mm=tuple(
                back[length] for length, n in zip(task.lengths, filling, strict=True) for _ in range(n)
            ),
        )
        for place, filling in chosen
    ]
    cuts.sort(key=lambda cut: (-cut.stock_mm, [-piece for piece in cut.pieces_mm]))
    total = math.fsum(pieces_mm)
    opened = math.fsum(cut.stock_mm for cut in cuts)
    least = opened - total if proven else max(0.0, bound / PER_MM - total)
    return CutList(
        cuts=tuple(cuts),
        waste_mm=opened - total,
        proven=proven,
        bound_mm=least,
        trace=(
            TraceLine("pieces_total_mm", total, "mm", "sum of the pieces"),
            TraceLine("opened_mm", opened, "mm", "least stock opened"),
            TraceLine("waste_mm", opened - total, "mm", "opened − pieces"),
        ),
    )
