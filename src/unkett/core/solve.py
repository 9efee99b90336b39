"""The one door to the solver library: what is asked of it is told here, it is loaded when it is first asked."""

from __future__ import annotations

import functools
import importlib
from collections.abc import Mapping, Sequence
from datetime import timedelta
from typing import Any

from attrs import field, frozen

SEED = 1
GAP = 0.9  # a worth is whole: closer to its bound than one is best


@functools.cache
def _library() -> Any:
    return importlib.import_module("ortools.math_opt.python.mathopt")


@frozen(kw_only=True)
class Row:
    """A sum of so many times each variable, by its place, that lies from low to high."""

    times: Mapping[int, int]
    low: float = -float("inf")
    high: float = float("inf")


@frozen(kw_only=True)
class Answer:
    """A solution in whole numbers, its worth and the bound on any other's.

    `possible` and not `proven`: the best that was found in time. Neither: nothing was found in time. `proven` and not
    `possible`: there is none.
    """

    possible: bool
    proven: bool
    worth: int = 0
    bound: int = 0
    values: tuple[int, ...] = field(factory=tuple)


def least(*, costs: Sequence[int], most: Sequence[int], rows: Sequence[Row], seconds: float) -> Answer:
    """The whole numbers from 0 to `most` that keep every row and cost least in all. The same question has the same
    answer, unless time runs out.
    """
    lib = _library()
    model = lib.Model()
    variables = [model.add_integer_variable(lb=0, ub=top) for top in most]
    for row in rows:
        expression = lib.fast_sum([n * variables[place] for place, n in row.times.items()])
        model.add_linear_constraint(lb=row.low, ub=row.high, expr=expression)
    model.minimize(lib.fast_sum([cost * var for cost, var in zip(costs, variables, strict=True) if cost]))
    parameters = lib.SolveParameters(
        time_limit=timedelta(seconds=max(seconds, 0.1)),
        relative_gap_tolerance=0.0,
        absolute_gap_tolerance=GAP,
        random_seed=SEED,
        enable_output=False,
    )
    result = lib.solve(model, lib.SolverType.HIGHS, params=parameters)
    reason = result.termination.reason
    if reason in (lib.TerminationReason.INFEASIBLE, lib.TerminationReason.INFEASIBLE_OR_UNBOUNDED):
        return Answer(possible=False, proven=True)
    if not result.has_primal_feasible_solution():
        return Answer(possible=False, proven=False)
    found = result.variable_values()
    values = tuple(round(found[var]) for var in variables)
    worth = sum(cost * value for cost, value in zip(costs, values, strict=True))
    proven = reason == lib.TerminationReason.OPTIMAL
    bound = worth if proven else _up(result.termination.objective_bounds.dual_bound, worth)
    return Answer(possible=True, proven=proven, worth=worth, bound=bound, values=values)


def _up(bound: float, worth: int) -> int:
    """A bound on whole worths, rounded up; the solver may know none."""
    return worth if bound >= worth else int(-(-(bound - 1e-6) // 1)) if bound > -1e18 else 0
