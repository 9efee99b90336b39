"""The one door to the solver library: what is asked of it is told here, it is loaded when it is first asked."""

from __future__ import annotations

import functools
import importlib
import threading
from collections.abc import Callable, Iterable, Mapping, Sequence
from datetime import timedelta
from typing import Any

from attrs import field, frozen

SEED = 1
SPAN_MAX = 10_000_000  # minutes
GAP = 0.9  # a worth is whole: closer to its bound than one is best


POLL_SECONDS = 0.2  # so often a long search is asked whether it is still wanted


@functools.cache
def _library() -> Any:
    return importlib.import_module("ortools.math_opt.python.mathopt")


@functools.cache
def _choices_library() -> Any:
    return importlib.import_module("ortools.sat.python.cp_model")


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
    earlier: tuple[tuple[int, ...], ...] = field(factory=tuple)  # worse ones that were met on the road


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


Terms = Mapping[int, int]  # so many times each variable


class Choices:
    """Yes/no answers and whole numbers that must fit together, and the best of all that do.

    A variable is a number; `~number` is the opposite of a yes/no answer. Rules are only ever added; what should hold at
    times is made to hang on an answer that is held or set free.
    """

    def __init__(self) -> None:
        self._lib = _choices_library()
        self._model = self._lib.CpModel()
        self._variables: list[Any] = []
        self._intervals: list[Any] = []

    def yes_no(self) -> int:
        self._variables.append(self._model.new_bool_var(""))
        return len(self._variables) - 1

    def whole(self, low: int, high: int) -> int:
        self._variables.append(self._model.new_int_var(low, high, ""))
        return len(self._variables) - 1

    def _literal(self, number: int) -> Any:
        return self._variables[number] if number >= 0 else ~self._variables[~number]

    def any_of(self, literals: Iterable[int]) -> None:
        """At least one of these answers is as told."""
        self._model.add_bool_or([self._literal(number) for number in literals])

    def one_of(self, literals: Iterable[int]) -> None:
        """Exactly one of these answers is as told."""
        self._model.add_exactly_one([self._literal(number) for number in literals])

    def _sum(self, terms: Terms) -> Any:
        return self._lib.LinearExpr.weighted_sum(
            [self._variables[number] for number in terms], list(terms.values())
        )

    def at_most(self, terms: Terms, most: int, *, where: Iterable[int] = ()) -> None:
        """A sum is at most so much, where all of these answers are as told."""
        made = self._model.add(self._sum(terms) <= most)
        given = [self._literal(number) for number in where]
        if given:
            made.only_enforce_if(given)

    def interval(self, start: int, minutes: int, *, given: int | None = None) -> int:
        """So many minutes from a whole number on; where `given` is an answer, only if it is yes. Told by its place."""
        begin = self._variables[start]
        if given is None:
            made = self._model.new_fixed_size_interval_var(begin, minutes, "")
        else:
            made = self._model.new_optional_fixed_size_interval_var(begin, minutes, self._literal(given), "")
        self._intervals.append(made)
        return len(self._intervals) - 1

    def span(self, start: int, end: int) -> int:
        """The time from one whole number to another."""
        size = self._variables[self.whole(0, SPAN_MAX)]
        begin, finish = self._variables[start], self._variables[end]
        self._intervals.append(self._model.new_interval_var(begin, size, finish, ""))
        return len(self._intervals) - 1

    def apart(self, intervals: Iterable[int], off: Iterable[tuple[int, int]] = ()) -> None:
        """No two of these at once, and none while it is off: from one minute to another."""
        made = [self._intervals[place] for place in intervals]
        made += [self._model.new_fixed_size_interval_var(low, high - low, "") for low, high in off]
        self._model.add_no_overlap(made)

    def at_once(self, intervals: Sequence[int], most: int, off: Sequence[tuple[int, int]] = ()) -> None:
        """Never more of these at the same time, and none while it is off: from one minute to another."""
        made = [self._intervals[place] for place in intervals]
        made += [self._model.new_fixed_size_interval_var(low, high - low, "") for low, high in off]
        self._model.add_cumulative(made, [1] * len(intervals) + [most] * len(off), most)

    def hold(self, number: int, value: int) -> None:
        """From now on a variable has this value, until it is held otherwise or set free."""
        domain = self._model.proto.variables[number].domain
        domain[0], domain[1] = value, value

    def free(self, number: int) -> None:
        """A yes/no answer is open again."""
        domain = self._model.proto.variables[number].domain
        domain[0], domain[1] = 0, 1

    def least(
        self,
        terms: Terms,
        *,
        seconds: float,
        hint: Mapping[int, int] | None = None,
        unwanted: Callable[[], bool] = lambda: False,
        gap: float = 0.0,
        workers: int = 1,
        most: int | None = None,
    ) -> Answer:
        """The answers of the smallest sum; with no terms any that fit. Ends early once it is `unwanted`.

        `most`: no larger sum is wanted, which shuts out much at once. With a gap the first answers that are at most by
        this share larger than the smallest count as proven.
        """
        model = self._model
        model.clear_objective()
        model.clear_hints()
        model.clear_assumptions()
        for number, value in (hint or {}).items():
            model.add_hint(self._variables[number], value)
        if terms:
            model.minimize(self._sum(terms))
            if most is not None:
                model.proto.objective.domain.extend([-(2**62), most])
        met: list[tuple[int, ...]] = []
        solver, status = self._solved(seconds, unwanted, met, gap, workers)
        lib = self._lib
        if status == lib.INFEASIBLE:
            return Answer(possible=False, proven=True)
        if status not in (lib.OPTIMAL, lib.FEASIBLE):
            bound = solver.best_objective_bound if terms and seconds > 0 else -1e18
            return Answer(possible=False, proven=False, bound=_up(bound, 2**62))
        values = tuple(solver.response_proto.solution)
        worth = sum(times * values[number] for number, times in terms.items())
        proven = status == lib.OPTIMAL or not terms
        bound = worth if proven else _up(solver.best_objective_bound, worth)
        earlier = tuple(one for one in met if one != values)
        return Answer(possible=True, proven=proven, worth=worth, bound=bound, values=values, earlier=earlier)

    def at_odds(self, held: Sequence[int], *, seconds: float) -> tuple[int, ...] | None:
        """Some of the answers in `held` that cannot be as told together; None where all can, or time ran out."""
        model = self._model
        model.clear_objective()
        model.clear_hints()
        model.clear_assumptions()
        model.add_assumptions([self._literal(number) for number in held])
        solver, status = self._solved(seconds, lambda: False)
        model.clear_assumptions()
        if status != self._lib.INFEASIBLE:
            return None
        return tuple(solver.sufficient_assumptions_for_infeasibility())

    def _solved(
        self,
        seconds: float,
        unwanted: Callable[[], bool],
        met: list[tuple[int, ...]] | None = None,
        gap: float = 0.0,
        workers: int = 1,
    ) -> tuple[Any, Any]:
        solver = self._lib.CpSolver()
        parameters = solver.parameters
        parameters.max_time_in_seconds = max(seconds, 0.001)
        parameters.random_seed = SEED
        parameters.num_workers = workers
        parameters.linearization_level = 2  # clauses too: most of the bound comes from them
        parameters.cut_level = 0
        parameters.cp_model_probing_level = 1  # trying out pairs too takes longer than it saves
        parameters.max_presolve_iterations = 1  # the second finds little and takes a third of the time
        parameters.use_sat_inprocessing = workers > 1  # a lone worker is done before it pays
        parameters.relative_gap_limit = gap
        parameters.absolute_gap_limit = 0.0
        done = threading.Event()

        def watch() -> None:
            while not done.wait(POLL_SECONDS):
                if unwanted():
                    solver.stop_search()

        watcher = threading.Thread(target=watch, daemon=True)
        watcher.start()
        try:
            return solver, solver.solve(self._model, None if met is None else _keeper(self._lib, met))
        finally:
            done.set()
            watcher.join()


def _keeper(lib: Any, met: list[tuple[int, ...]]) -> Any:
    """Keeps every answer that the solver meets."""

    class Keeper(lib.CpSolverSolutionCallback):  # type: ignore[misc]  # loaded when first asked
        def on_solution_callback(self) -> None:
            met.append(tuple(self.response_proto.solution))

    return Keeper()
