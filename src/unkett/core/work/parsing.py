"""Reads `unkett.work/1`: every fault at once, each with its path; and the whole of the `job` contract."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from attrs import evolve, frozen

from unkett.core.build import Build, Json
from unkett.core.errors import InputError, bad, listed, nearest, shown
from unkett.core.formats.reader import FAULTS_MAX, Reader
from unkett.core.intake.inspection import HOWS, TICKS
from unkett.core.standards import lookup
from unkett.core.vocabulary import SLOTS
from unkett.core.work.defect import Defect
from unkett.core.work.facts import holds
from unkett.core.work.operations import operation
from unkett.core.work.packages import Package, shipped_packages
from unkett.core.work.replay import Goal, Replay, Walked, replay
from unkett.core.work.scope import Scope
from unkett.core.work.sheet import job_steps
from unkett.core.work.step import DOES, JobSheet

FORMAT = "unkett.work/1"
KEYS = (
    "format", "build", "planned", "defects", "found", "skip", "replaced", "chosen", "packages", "done",
)  # fmt: skip
DEFECT_KEYS = ("slot", "defect", "do")
CHOSEN_KEYS = ("rule", "slots", "what")


@frozen(kw_only=True)
class Work:
    """What `unkett.work/1` asks for."""

    build: Build
    planned: Build | None = None
    defects: tuple[Defect, ...] = ()
    found: tuple[Defect, ...] = ()
    skip: tuple[str, ...] = ()
    replaced: tuple[str, ...] = ()
    chosen: tuple[Json, ...] = ()
    packages: tuple[Package, ...] = ()
    done: tuple[str, ...] = ()

    def sheet(self) -> JobSheet:
        return job_steps(
            self.build,
            self.planned,
            defects=self.defects,
            found=self.found,
            skip=self.skip,
            replaced=self.replaced,
            chosen=self.chosen,
            done=self.done,
            packages=self.packages,
        )


def work_from(value: Any) -> Work:
    """Return a job's work from parsed JSON. Raises InputError with every fault and its path."""
    reader = _Work()
    work = reader.work(value)
    if reader.faults:
        raise InputError(reader.faults[:FAULTS_MAX])
    return work


def sheet_from(value: Any) -> JobSheet:
    """Return the sheet of a job from parsed JSON. Raises InputError with every fault and its path."""
    return work_from(value).sheet()


def replay_from(value: Any) -> Replay:
    """Return how far a sheet can be done, from `{"work", "job"}`. Raises InputError with every fault and its path."""
    if not isinstance(value, Mapping) or not isinstance(value.get("job"), Mapping):
        raise bad("job", 'missing; {"work": unkett.work/1, "job": unkett.job/1} allowed')
    reader = _Work()
    reader.mapping(value, "", ("work", "job"))
    try:
        work = work_from(value.get("work"))
    except InputError as error:
        raise InputError([evolve(one, path=f"work.{one.path}".rstrip(".")) for one in error.faults]) from None
    steps = reader.walked(value["job"].get("steps"))
    if reader.faults:
        raise InputError(reader.faults[:FAULTS_MAX])
    cuts = any(one.id == "prepare:fork:cut" for one in work.sheet().steps)
    then = work.planned if work.planned is not None else work.build
    scope = Scope.of(work.build, then, replaced=work.replaced, cuts=cuts, packages=work.packages)
    asked = tuple(one for one in (*work.defects, *work.found) if one.do not in work.skip)
    return replay(scope, steps, Goal(defects=asked, done=frozenset(work.done)))


class _Work(Reader):
    def work(self, value: Any) -> Work:
        if not isinstance(value, Mapping):
            self.fault("", f"{shown(value)} given; a job's work ({FORMAT}) is an object")
            return Work(build=Build())
        known, _ = self.mapping(value, "", KEYS)
        if known.get("format", FORMAT) != FORMAT:
            self.fault("format", f'{shown(known["format"])} given; "{FORMAT}" allowed')
        if "build" not in known:
            self.fault("build", "missing; a build (unkett.build/1) allowed")
        build = self._inner(known, "build") or Build()
        planned = self._inner(known, "planned")
        then = planned or build
        return Work(
            build=build,
            planned=planned,
            defects=tuple(self._defects(known.get("defects"), "defects", then)),
            found=tuple(self._defects(known.get("found"), "found", then)),
            skip=tuple(self._words(known.get("skip"), "skip", HOWS)),
            replaced=tuple(self._words(known.get("replaced"), "replaced", build.parts)),
            chosen=tuple(self._chosen(known.get("chosen"))),
            packages=tuple(shipped_packages()[name] for name in self._packages(known.get("packages"))),
            done=tuple(self._done(known.get("done"), build, then)),
        )

    def _inner(self, known: Json, key: str) -> Build | None:
        if known.get(key) is None:
            return None
        inner = Reader()
        build = inner.build(known[key])
        for fault in inner.faults:
            self.fault(f"{key}.{fault.path}".rstrip("."), fault.says)
        return build

    def _list(self, value: Any, path: str) -> list[Any]:
        if value is None:
            return []
        if not isinstance(value, list):
            self.fault(path, f"{shown(value)} given; a list allowed")
            return []
        return value

    def _defects(self, value: Any, name: str, build: Build) -> list[Defect]:
        found: dict[str, Defect] = {}
        for n, given in enumerate(self._list(value, name)):
            path = f"{name}[{n}]"
            if not isinstance(given, Mapping):
                self.fault(path, f"{shown(given)} given; an object with slot, defect and do allowed")
                continue
            known, _ = self.mapping(given, path, DEFECT_KEYS)
            code = self._one_of(known.get("defect"), TICKS, f"{path}.defect")
            how = self._one_of(known.get("do", "must"), HOWS, f"{path}.do")
            slot = self._one_of(known.get("slot"), TICKS[code].slots, f"{path}.slot") if code else None
            if code and how and slot:
                defect = Defect(slot=slot, defect=code, do=how)
                if defect.ref in found:
                    self.fault(path, f"{defect.ref} is given twice")
                if not can_have(build, defect):
                    self.fault(
                        f"{path}.defect",
                        f"{code} given; the {slot} recorded is of a sort that cannot have it",
                    )
                found[defect.ref] = defect
        return list(found.values())

    def _words(self, value: Any, name: str, allowed: Any) -> list[str]:
        given = self._list(value, name)
        return [word for n, one in enumerate(given) if (word := self._one_of(one, allowed, f"{name}[{n}]"))]

    def _packages(self, value: Any) -> list[str]:
        names = self._words(value, "packages", shipped_packages())
        for name in dict.fromkeys(names):
            if names.count(name) > 1:
                self.fault("packages", f"{name} is given twice")
        return names

    def _chosen(self, value: Any) -> list[Json]:
        found = []
        for n, given in enumerate(self._list(value, "chosen")):
            path = f"chosen[{n}]"
            if not isinstance(given, Mapping):
                self.fault(path, f"{shown(given)} given; an object with rule, slots and what allowed")
                continue
            known, _ = self.mapping(given, path, CHOSEN_KEYS)
            what = self._one_of(known.get("what"), lookup("needs", "what"), f"{path}.what")
            slots = self._words(known.get("slots"), f"{path}.slots", SLOTS)
            if not isinstance(known.get("rule"), str):
                self.fault(f"{path}.rule", f"{shown(known.get('rule'))} given; a rule's id allowed")
            elif what:
                found.append({"rule": known["rule"], "slots": slots, "what": what})
        return found

    def _done(self, value: Any, build: Build, then: Build) -> list[str]:
        """Ids of finished steps; each is one that the tables, the mends or the needs have."""
        scope = Scope.of(build, then)
        found: list[str] = []
        for n, given in enumerate(self._list(value, "done")):
            does, slot, word = [*str(given).split(":", 2), "", ""][:3]
            named = does in DOES and (slot == "bike" or slot in SLOTS)
            known = named and (
                word in ("back", "misread") or bool(word) or operation(scope, str(given)) is not None
            )
            if not isinstance(given, str) or not known:
                self.fault(f"done[{n}]", f"{shown(given)} given; the id of a step allowed")
            elif given in found:
                self.fault(f"done[{n}]", f"{given} is given twice")
            else:
                found.append(given)
        return found

    def walked(self, value: Any) -> list[Walked]:
        found = []
        for n, given in enumerate(self._list(value, "job.steps")):
            along = given.get("with", []) if isinstance(given, Mapping) else None
            if (
                not isinstance(given, Mapping)
                or not isinstance(given.get("id"), str)
                or not isinstance(along, list)
            ):
                self.fault(f"job.steps[{n}]", f"{shown(given)} given; an object with id and with allowed")
            else:
                found.append(Walked(id=given["id"], along=tuple(str(one) for one in along)))
        return found

    def _one_of(self, value: Any, allowed: Any, path: str) -> str | None:
        if isinstance(value, str) and value in allowed:
            return value
        near = nearest(value, allowed) if isinstance(value, str) else ""
        self.fault(path, f"{shown(value)} given; {listed(allowed)} allowed{near}")
        return None


def can_have(build: Build, defect: Defect) -> bool:
    """Return whether the sort of part that is recorded can have a defect; what is not recorded can have any."""
    end = defect.slot.partition("_")[0]
    tests = lookup("look_over", "code")[defect.defect].get("only", ())
    return all(holds(test.replace("{end}", end), build) for test in tests)
