"""The only interface to OR-tools: integer programmes and constraint models; loaded on first use."""

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
GAP = 0.9  # objectives are integers: a gap below one is optimal


POLL_SECONDS = 0.2  # interval at which a running search checks whether to stop


@functools.cache
def _library() -> Any:
    return importlib.import_module("ortools.math_opt.python.mathopt")


@functools.cache
def _choices_library() -> Any:
    return importlib.import_module("ortools.sat.python.cp_model")


@frozen(kw_only=True)
class Row:
    """A linear constraint: low ≤ Σ coefficient × variable ≤ high; `times` has the coefficients by variable."""

    times: Mapping[int, int]
    low: float = -float("inf")
    high: float = float("inf")


@frozen(kw_only=True)
class Answer:
    """An integer solution with its objective and the best bound.

    `feasible` and `proven`: optimal. `feasible` only: the best incumbent within the time limit. `proven` only:
    infeasible. Neither: no solution within the time limit.
    """

    feasible: bool
    proven: bool
    objective: int = 0
    bound: int = 0
    values: tuple[int, ...] = field(factory=tuple)
    incumbents: tuple[tuple[int, ...], ...] = field(factory=tuple)  # worse solutions found on the way


def minimize_integers(
    *, costs: Sequence[int], most: Sequence[int], rows: Sequence[Row], seconds: float
) -> Answer:
    """Solve an integer programme: variables from 0 to `most` that satisfy every row at minimum cost.

    Deterministic unless the time limit is reached.
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
        return Answer(feasible=False, proven=True)
    if not result.has_primal_feasible_solution():
        return Answer(feasible=False, proven=False)
    found = result.variable_values()
    values = tuple(round(found[var]) for var in variables)
    objective = sum(cost * value for cost, value in zip(costs, values, strict=True))
    proven = reason == lib.TerminationReason.OPTIMAL
    bound = objective if proven else _up(result.termination.objective_bounds.dual_bound, objective)
    return Answer(feasible=True, proven=proven, objective=objective, bound=bound, values=values)


def _up(bound: float, objective: int) -> int:
    """Return an integer bound, rounded up; the solver may have none."""
    return objective if bound >= objective else int(-(-(bound - 1e-6) // 1)) if bound > -1e18 else 0


Terms = Mapping[int, int]  # coefficients by variable


class ConstraintModel:
    """A constraint model of Boolean and integer variables, solved by CP-SAT.

    A variable is referred to by its index; `~index` is the negation of a Boolean. Constraints are only added; one that
    should hold at times is enforced by a Boolean that is fixed or released.
    """

    def __init__(self) -> None:
        self._lib = _choices_library()
        self._model = self._lib.CpModel()
        self._variables: list[Any] = []
        self._intervals: list[Any] = []

    def new_bool(self, name: str = "") -> int:
        """Return the index of a new Boolean; its name is shown by `dump`."""
        self._variables.append(self._model.new_bool_var(name))
        return len(self._variables) - 1

    def new_int(self, low: int, high: int, name: str = "") -> int:
        """Return the index of a new integer variable from low to high; its name is shown by `dump`."""
        self._variables.append(self._model.new_int_var(low, high, name))
        return len(self._variables) - 1

    def dump(self) -> str:
        """Return the model as text for debugging: every variable with its domain, then every constraint."""
        return str(self._model.proto)

    def _literal(self, number: int) -> Any:
        return self._variables[number] if number >= 0 else ~self._variables[~number]

    def add_or(self, literals: Iterable[int]) -> None:
        """Add a clause: at least one literal is true."""
        self._model.add_bool_or([self._literal(number) for number in literals])

    def add_exactly_one(self, literals: Iterable[int]) -> None:
        """Add: exactly one literal is true."""
        self._model.add_exactly_one([self._literal(number) for number in literals])

    def _sum(self, terms: Terms) -> Any:
        return self._lib.LinearExpr.weighted_sum(
            [self._variables[number] for number in terms], list(terms.values())
        )

    def add_at_most(self, terms: Terms, most: int, *, where: Iterable[int] = ()) -> None:
        """Add Σ terms ≤ most, enforced where all literals of `where` are true."""
        made = self._model.add(self._sum(terms) <= most)
        given = [self._literal(number) for number in where]
        if given:
            made.only_enforce_if(given)

    def new_interval(self, start: int, minutes: int, *, given: int | None = None) -> int:
        """Return the index of a fixed-size interval; optional where `given` is a literal."""
        begin = self._variables[start]
        if given is None:
            made = self._model.new_fixed_size_interval_var(begin, minutes, "")
        else:
            made = self._model.new_optional_fixed_size_interval_var(begin, minutes, self._literal(given), "")
        self._intervals.append(made)
        return len(self._intervals) - 1

    def new_span(self, start: int, end: int) -> int:
        """Return the index of an interval from one integer variable to another."""
        size = self._variables[self.new_int(0, SPAN_MAX)]
        begin, finish = self._variables[start], self._variables[end]
        self._intervals.append(self._model.new_interval_var(begin, size, finish, ""))
        return len(self._intervals) - 1

    def add_no_overlap(self, intervals: Iterable[int], off: Iterable[tuple[int, int]] = ()) -> None:
        """Add: no two intervals overlap, and none overlaps an `off` period (start, end)."""
        made = [self._intervals[place] for place in intervals]
        made += [self._model.new_fixed_size_interval_var(low, high - low, "") for low, high in off]
        self._model.add_no_overlap(made)

    def add_cumulative(
        self, intervals: Sequence[int], most: int, off: Sequence[tuple[int, int]] = ()
    ) -> None:
        """Add: at most `most` intervals at a time, and none in an `off` period (start, end)."""
        made = [self._intervals[place] for place in intervals]
        made += [self._model.new_fixed_size_interval_var(low, high - low, "") for low, high in off]
        self._model.add_cumulative(made, [1] * len(intervals) + [most] * len(off), most)

    def fix(self, number: int, value: int) -> None:
        """Fix a variable to a value until it is fixed otherwise or released."""
        domain = self._model.proto.variables[number].domain
        domain[0], domain[1] = value, value

    def release(self, number: int) -> None:
        """Release a Boolean that was fixed."""
        domain = self._model.proto.variables[number].domain
        domain[0], domain[1] = 0, 1

    def minimize(
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
        """Minimise Σ terms; without terms, find any feasible solution. Stops early once `unwanted` returns true.

        `most` is an upper bound on the objective, which prunes the search. With a relative `gap` a solution within it
        counts as proven.
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
            return Answer(feasible=False, proven=True)
        if status not in (lib.OPTIMAL, lib.FEASIBLE):
            bound = solver.best_objective_bound if terms and seconds > 0 else -1e18
            return Answer(feasible=False, proven=False, bound=_up(bound, 2**62))
        values = tuple(solver.response_proto.solution)
        objective = sum(times * values[number] for number, times in terms.items())
        proven = status == lib.OPTIMAL or not terms
        bound = objective if proven else _up(solver.best_objective_bound, objective)
        incumbents = tuple(one for one in met if one != values)
        return Answer(
            feasible=True,
            proven=proven,
            objective=objective,
            bound=bound,
            values=values,
            incumbents=incumbents,
        )

    def conflicting_assumptions(self, held: Sequence[int], *, seconds: float) -> tuple[int, ...] | None:
        """Return assumptions of `held` that are jointly infeasible; None where they are feasible or time ran out."""
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
    """Return a callback that records every incumbent."""

    class Keeper(lib.CpSolverSolutionCallback):  # type: ignore[misc]  # loaded when first asked
        def on_solution_callback(self) -> None:
            met.append(tuple(self.response_proto.solution))

    return Keeper()
