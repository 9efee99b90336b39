"""The question as a model of answers that must fit together: wishes, joints, wants and what everything costs.

Wishes and joints hang on a guard each, so that a conflict can be named by the guards that cannot hold together. Joints
are tabled where they are small; of large ones only the planes that an answer ran into. What is left out of the model
only lowers its bound: an answer that no table faults is as good as the bound says.
"""

from __future__ import annotations

import itertools
import time
from collections import defaultdict
from collections.abc import Callable, Hashable, Iterable, Mapping, Sequence

from attrs import frozen

from unkett.core.ways.changes import Baseline, Changes, in_slot_order
from unkett.core.ways.costs import Costs
from unkett.core.ways.domains import Domains, domains_of, left_open
from unkett.core.ways.dominance import Aim, Dominance, Own
from unkett.core.ways.gear_requirement import GearRequirement
from unkett.core.ways.outcome_builder import tables_of
from unkett.core.ways.outcome_table import Combination, Cost, Fault, OpenSlot, OutcomeTable, Ungeared, size_of
from unkett.core.ways.wish import Question

AT_ONCE = 150  # combinations of a joint that is tabled before the first solve
CLAUSE_AT_ONCE = 500  # the same of one clause of it, which is quicker
PLANE_MOST = 500  # combinations of a plane that is tabled around an answer
CLAUSE_PLANE_LEAST = 1_000  # the same of one clause of it, doubled with every plane that an answer ran into
CLAUSE_PLANE_MOST = 6_000
SUM_MAX = 2**50
PROMISING = 25  # parts of a slot that are tried before all others
WIDER = 3  # so many times as many where none of those go together
FEW = 0.6  # of all that may be needed; a larger share is no quicker than all
Guard = tuple[str, ...]  # ("wish", "keep.fork") or ("joint", rule, *slots)
ALLOW = ("wish", "allow_unmeasured")


@frozen(kw_only=True)
class Found:
    """An answer that no joint faults, as changes; None where there is none, or none was found in time."""

    changes: Changes | None
    proven: bool
    bound: int = 0


class Model:
    """A question under the solver: asked for the best answer by any sum, it learns what it runs into."""

    def __init__(self, question: Question, baseline: Baseline) -> None:
        self.question = question
        self.domains: Domains = domains_of(question)
        self.choices = self.domains.choices
        self.guards: dict[Guard, int] = {}
        self.active: set[Guard] | None = None  # those a conflict is looked for among; None: all
        self.dropped: Guard | None = None
        self.live = {slot: {group.place for group in groups} for slot, groups in self.domains.groups.items()}
        self._classes: dict[tuple[str, frozenset[int]], int] = {}
        self._wants: dict[int, int] = {}
        self._hint: dict[int, int] = {}
        self._tried: set[int] = set()  # parts that an answer held
        self.costs = Costs(question, self.domains)
        self._own = self.costs.own
        self._parts = {literal for literal, own in self._own.items() if own.on}
        self._opened = self._parts
        self.dominance = Dominance(question, self.domains, self._own)
        wish = question.wish
        self._limited = () if wish.price_max is None else ("price",)
        self.latest = wish.ready_in_days_max  # parts that come later than that are out
        self._wishes()
        self.tables = tables_of(question, baseline, self.domains)
        self._first_tables()
        for table in self.tables:
            if isinstance(table, GearRequirement):
                self._bound_gears(table)

    # what is wished

    def guard(self, *name: str) -> int:
        """Return the answer on which a wish or a joint hangs; held until a conflict is looked for."""
        if name not in self.guards:
            literal = self.guards[name] = self.choices.new_bool(" ".join(name))
            self.choices.fix(literal, 1)
        return self.guards[name]

    def _wishes(self) -> None:
        wish, domains, choices = self.question.wish, self.domains, self.choices
        for n, wanted in enumerate(wish.require):
            guard = self.guard("wish", f"require[{n}]")
            fine = [
                state.literal
                for state in domains.states[wanted.slot]
                if state.values is not None and wanted.met_by(state.values)
            ]
            choices.add_or([~guard, *fine])
            self._narrow(wanted.slot, set(fine))
            self.dominance.hinder(
                state.literal for state in domains.states[wanted.slot] if state.literal not in fine
            )
        for slot in wish.keep:
            stays = [state.literal for state in domains.states[slot] if state.stays]
            choices.add_or([~self.guard("wish", f"keep.{slot}"), *stays])
            self._narrow(slot, set(stays))
        for name in wish.fit:
            on = [literal for (_, part), literal in domains.changes.items() if part == name]
            choices.add_or([~self.guard("wish", f"fit.{name}"), *on])
            self.dominance.needs(on)
        for slot in wish.empty:
            choices.add_or([~self.guard("wish", f"empty.{slot}"), domains.nothing[slot]])
            self._narrow(slot, {domains.nothing[slot]})
        if wish.price_max is not None:
            choices.add_at_most(
                {self.costs.price: 1}, wish.price_max, where=[self.guard("wish", "price_max")]
            )
        if wish.ready_in_days_max is not None:
            guard = self.guard("wish", "ready_in_days_max")
            choices.add_at_most(self.costs.days_terms, wish.ready_in_days_max, where=[guard])
        if not wish.allow_unmeasured:
            self.guard(*ALLOW)

    def _narrow(self, slot: str, literals: set[int]) -> None:
        """Restrict a slot to these answers while every guard holds."""
        self.live[slot] &= {
            group.place
            for group in self.domains.groups[slot]
            if any(state.literal in literals for state in group.states)
        }

    # what the joints say

    def _first_tables(self) -> None:
        """Apply the tables of one open slot first, then the small ones, smallest first."""
        waiting = self.tables
        for most in (1, AT_ONCE):
            left = []
            for table in sorted(waiting, key=lambda table: size_of(table.live_classes(self.live))):
                if not self._at_once(table, most):
                    left.append(table)
            waiting = left
        self._large = set(map(id, waiting))
        for table in waiting:
            for clause in table.by_clause:
                self._at_once(clause, CLAUSE_AT_ONCE)

    def _bound_gears(self, table: GearRequirement) -> None:
        """What the wished gears want of every slot together; a part is hindered by all that asks less of the others."""
        guard = self.guard("wish", "gears")
        for weights, most in table.bounds():
            terms: dict[int, int] = {}
            for slot, by_place in weights.items():
                for weight in sorted({*by_place} - {0}):
                    heavy = [group for group in self.domains.groups[slot] if by_place[group.place] >= weight]
                    self.dominance.hinder(state.literal for group in heavy for state in group.states)
                for group in self.domains.groups[slot]:
                    for state in group.states:
                        terms[state.literal] = terms.get(state.literal, 0) + by_place[group.place]
            self.choices.add_at_most(terms, most, where=[guard])

    def _at_once(self, table: OutcomeTable, most: int) -> bool:
        """Tables all that is still possible, where that is little enough."""
        live = table.live_classes(self.live)
        if size_of(live) > most and (most > 1 or sum(len(classes) > 1 for classes in live) > 1):
            return False
        self._tabulate(table, live)
        self._close_out(table, live)
        return True

    def _close_out(self, table: OutcomeTable, live: Sequence[Sequence[int]]) -> None:
        """Remove classes that a whole table rules out with everything beside them."""
        for n, slot in enumerate(table.slots):
            fine = {
                found[n]
                for found in itertools.product(*live)
                if not isinstance(table.known.get(found), (Fault, Ungeared))
            }
            gone = {
                group.place for place in live[n] if place not in fine for group in table.classes[n][place]
            }
            self.live[slot] -= gone

    def _tabulate(self, table: OutcomeTable, box: Sequence[Sequence[int]]) -> None:
        """Works out a box of combinations and hands its consequences over."""
        given = table.given
        if not table.slots:
            combination: tuple[int, ...] = ()
            found = table.consequence(combination)
            if found is not None and combination not in given:
                given.add(combination)
                self.choices.add_or(self._leads_to(found))
            return
        alike: dict[Hashable, list[Combination]] = defaultdict(list)
        for combination in itertools.product(*box):
            found = table.consequence(combination)
            if found is not None and combination not in given and self._counts(found):
                alike[found].append(combination)
        for found, combinations in alike.items():
            given.update(combinations)
            for wide in table.covers[found].boxes(
                combinations, sorted(range(len(box)), key=lambda n: -len(box[n]))
            ):
                hindering = [~self._class(table, n, one) for n, one in enumerate(wide)]
                self.choices.add_or([*self._leads_to(found), *hindering])

    def _counts(self, consequence: Hashable) -> bool:
        """Return whether a consequence matters among the guards that are looked at."""
        if not isinstance(consequence, (Fault, Ungeared)):
            return True
        names = _guards_of(consequence)
        return self.dropped not in names and (self.active is None or self.active.issuperset(names))

    def _class(self, table: OutcomeTable, n: int, classes: Iterable[int]) -> int:
        """Return an answer that is yes where the slot holds a state of these classes."""
        slot = table.slots[n]
        places = frozenset(group.place for one in classes for group in table.classes[n][one])
        key = (slot, places)
        if key not in self._classes:
            groups = self.domains.groups[slot]
            inside = [state.literal for group in groups if group.place in places for state in group.states]
            outside = [
                state.literal for group in groups if group.place not in places for state in group.states
            ]
            self._classes[key] = self._any(inside) if len(inside) <= len(outside) else ~self._any(outside)
            self.dominance.hinder(inside)
        return self._classes[key]

    def _any(self, literals: Sequence[int]) -> int:
        """Return an answer that is yes where one of these is; never two of them are."""
        if len(literals) == 1:
            return literals[0]
        literal = self.choices.new_bool()
        self.choices.add_exactly_one([~literal, *literals])
        return literal

    def _leads_to(self, consequence: Hashable) -> list[int]:
        """Return the answers of which one must be as stated where a combination has this consequence."""
        if isinstance(consequence, (Fault, Ungeared)):
            return [~self.guard(*name) for name in _guards_of(consequence)]
        if isinstance(consequence, Cost):
            return [self.costs.need(consequence)]
        assert isinstance(consequence, OpenSlot)
        if consequence.place not in self._wants:
            literal = self._wants[consequence.place] = self.choices.new_bool()
            self._want(literal, consequence.place)
        return [self._wants[consequence.place]]

    def _want(self, literal: int, place: int) -> None:
        """Require that the changes leave no wanted slot open."""
        for slot in left_open(self.question, place):
            exempt = self.guards.get(("wish", f"empty.{slot}"))
            unless = [] if exempt is None else [exempt]
            self.choices.add_or([~literal, ~self.domains.nothing[slot], *unless])

    # solving

    def minimize(
        self,
        aim: Aim,
        deadline: float,
        *,
        aims: tuple[Aim, ...] = (),
        limits: tuple[str, ...] = (),
        ids: bool = False,
        objective: int | None = None,
        seen: Callable[[Changes], None] = lambda _changes: None,
        unwanted: Callable[[], bool] = lambda: False,
    ) -> Found:
        """Return the answer that makes an aim least and that no joint faults; with no aim any.

        Round by round only those parts are open that no other outdoes as far as the model knows: an answer that no
        joint faults is best over all. `aims` are those that are held, with this one and those to come, by which parts
        are compared in turn; `limits` are keys in which a way may have to be no worse, and `ids` says whether equal
        parts are kept apart. `objective` is that of a known way. `seen` is called
        with every way that the solver meets.

        Before all that may be needed is opened, the most promising parts alone are asked: what they run into is quickly
        learnt, and what they come to is what all others must undercut.
        """
        bound = -SUM_MAX
        narrow, most = bool(aim) and not ids, PROMISING
        way: dict[int, int] = {}
        while True:
            self.costs.close()
            left = deadline - time.monotonic()
            if left <= 0 or unwanted():
                return Found(changes=None, proven=False, bound=bound)
            needed = self._needed(aim, aims or ((aim,) if aim else ()), limits, ids, objective)
            few = self._promising(needed, aim, most) if narrow else needed
            whole = len(few) >= FEW * len(needed)
            self._open(needed if whole else few)
            answer = self.choices.minimize(
                self._open_terms(aim), seconds=left, most=objective, hint=way or self._hint, unwanted=unwanted
            )
            if whole:
                bound = max(bound, answer.bound)
            if not answer.feasible and whole:
                return Found(changes=None, proven=answer.proven, bound=bound)
            if not answer.feasible:
                most *= WIDER
                continue
            self._hint = {number: value for number, value in enumerate(answer.values) if value}
            self._tried.update(number for number in self._hint if number in self._own)
            faults, costs = self._learn(answer.values)
            changes = self._changes(answer.values)
            if not faults:
                seen(changes)
            clean = not faults and not costs
            if clean and whole:
                return Found(changes=changes, proven=answer.proven, bound=bound)
            for values in answer.incumbents:
                self._learn(values)
            if clean:
                objective, way, most = answer.objective, self._hint, most * WIDER

    def _open_terms(self, aim: Aim) -> dict[int, int]:
        """Return an objective as a sum over what is open."""
        shut = self._parts - self._opened
        return {number: times for number, times in self.costs.sum_of(aim).items() if number not in shut}

    def _promising(self, needed: set[int], aim: Aim, most: int) -> set[int]:
        """Return the best few of the parts that may be needed in every slot, and those that an answer used once."""
        rows: dict[str, list[int]] = defaultdict(list)
        for literal in needed:
            rows[self._own[literal].slot].append(literal)
        found = needed & self._tried
        for row in rows.values():
            found.update(sorted(row, key=lambda one: (self._own[one].objective(aim), one))[:most])
        return found

    def open_all(self) -> None:
        """Open every choice again, also those that are impossible while all guards hold."""
        self._open(self._parts)

    def _open(self, literals: set[int]) -> None:
        """Restrict the parts that may go on to these."""
        for literal in self._opened - literals:
            self.choices.fix(literal, 0)
        for literal in literals - self._opened:
            self.choices.release(literal)
        self._opened = literals

    def _needed(
        self, aim: Aim, aims: tuple[Aim, ...], limits: tuple[str, ...], ids: bool, objective: int | None
    ) -> set[int]:
        """Return the parts that may be in the best answer, as far as the model knows."""
        trusted = self.active is None and self.dropped is None
        rows: dict[str, list[int]] = defaultdict(list)
        for slot, groups in self.domains.groups.items():
            for group in groups:
                if trusted and group.place not in self.live[slot]:
                    continue
                for state in group.states:
                    own = self._own.get(state.literal)
                    if own is not None and own.on and own.slot == slot and not self._late(own, trusted):
                        rows[slot].append(state.literal)
        if objective is not None and trusted:
            rows = self._not_dearer(aim, rows, objective)
        return {
            literal
            for slot, row in rows.items()
            for literal in self.dominance.needed(slot, row, aims, (*limits, *self._limits(trusted)), ids)
        }

    def _late(self, own: Own, trusted: bool) -> bool:
        return trusted and self.latest is not None and own.days > self.latest

    def _limits(self, trusted: bool) -> tuple[str, ...]:
        """Keys in which another part must be no worse in any case, since a wish limits them."""
        late = not trusted and self.question.wish.ready_in_days_max is not None
        return (*self._limited, "days") if late else self._limited

    def _not_dearer(self, aim: Aim, rows: Mapping[str, list[int]], objective: int) -> dict[str, list[int]]:
        """Return the parts with which, and with the least of every other slot, an aim may still be as small as this."""
        additive = tuple((key, times) for key, times in aim if key != "days")
        least = {slot: self._least_of(slot, rows.get(slot, []), additive) for slot in self.domains.groups}
        base = sum(least.values())
        most = 60 * objective + sum(29 * times for key, times in aim if key == "price")
        return {
            slot: [
                literal for literal in row if base - least[slot] + self._own[literal].objective(aim) <= most
            ]
            for slot, row in rows.items()
        }

    def _least_of(self, slot: str, row: list[int], aim: Aim) -> int:
        """Return the least that a slot adds to an aim; nothing where it may stay as it stands."""
        worths = [self._own[literal].objective(aim) for literal in row]
        possible = [
            state
            for group in self.domains.groups[slot]
            if group.place in self.live[slot]
            for state in group.states
        ]
        must = all(state.literal in self._own and self._own[state.literal].slot == slot for state in possible)
        off = self.domains.changes.get((slot, None))
        if off is not None:
            worths.append(self._own[off].objective(aim))
        return min(worths, default=0) if must else min([0, *worths])

    def _learn(self, values: Sequence[int]) -> tuple[bool, bool]:
        """Tables the planes that the answer ran into: whether there were faults, and costs that were not known."""
        places = {
            slot: next(
                group.place for group in groups if any(values[state.literal] for state in group.states)
            )
            for slot, groups in self.domains.groups.items()
            if len(groups) > 1
        }
        faults = costs = False
        for table in self.tables:
            clauses = table.by_clause if id(table) in self._large else []
            looked = [self._runs_into(clause, places) for clause in clauses]
            found = next(filter(None, looked), None) or self._runs_into(table, places)
            costs = costs or isinstance(found, Cost)
            faults = faults or (found is not None and not isinstance(found, Cost))
        return faults, costs

    def _runs_into(self, table: OutcomeTable, places: Mapping[str, int]) -> Hashable:
        """Return what an answer runs into that the model does not know yet; the plane around it is tabled."""
        combination = table.at(places)
        if combination in table.given:
            return None
        found = table.consequence(combination)
        if found is None or not self._counts(found):
            return None
        if isinstance(table, GearRequirement):
            for box in table.boxes(combination):
                hindering = [~self._class(table, n, classes) for n, classes in box.items()]
                self.choices.add_or([*self._leads_to(found), *hindering])
            return found
        live = [
            classes if one in classes else [*classes, one]
            for classes, one in zip(table.live_classes(self.live), combination, strict=True)
        ]
        most = CLAUSE_PLANE_LEAST << table.planes
        if id(table) in self._large and table.by_clause:
            most = PLANE_MOST
        table.planes += 1
        self._tabulate(table, table.plane(combination, live, min(most, CLAUSE_PLANE_MOST)))
        return found

    def _changes(self, values: Sequence[int]) -> Changes:
        parts = {part.id: part for part in self.question.shelf}
        return in_slot_order(
            {
                slot: parts[name] if name is not None else None
                for (slot, name), literal in self.domains.changes.items()
                if values[literal]
            }
        )


def _guards_of(consequence: Fault | Ungeared) -> list[Guard]:
    if isinstance(consequence, Ungeared):
        return [("wish", "gears")]
    own = ("joint", consequence.rule, *consequence.slots)
    return [own, ALLOW] if consequence.unmeasured else [own]
