"""Reads `unkett.work/1`: every fault at once, each with its path; and the whole of the `job` contract."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from unkett.core.build import Build, Json
from unkett.core.errors import InputError, listed, nearest, shown
from unkett.core.formats.reader import FAULTS_MAX, Reader
from unkett.core.intake.inspection import HOWS, TICKS
from unkett.core.work.defect import Defect
from unkett.core.work.step import JobSheet
from unkett.core.work.steps import job_steps

FORMAT = "unkett.work/1"
KEYS = ("format", "build", "planned", "defects", "skip")
DEFECT_KEYS = ("slot", "defect", "do")


def sheet_from(value: Any) -> JobSheet:
    """The sheet of a job from parsed JSON. Raises InputError with every fault and its path."""
    reader = _Work()
    build, planned, defects, skip = reader.work(value)
    if reader.faults:
        raise InputError(reader.faults[:FAULTS_MAX])
    return job_steps(build, planned, defects=defects, skip=skip)


class _Work(Reader):
    def work(self, value: Any) -> tuple[Build, Build | None, list[Defect], list[str]]:
        if not isinstance(value, Mapping):
            self.fault("", f"{shown(value)} given; a job's work ({FORMAT}) is an object")
            return Build(), None, [], []
        known, _ = self.mapping(value, "", KEYS)
        if known.get("format", FORMAT) != FORMAT:
            self.fault("format", f'{shown(known["format"])} given; "{FORMAT}" allowed')
        if "build" not in known:
            self.fault("build", "missing; a build (unkett.build/1) allowed")
        build = self._inner(known, "build") or Build()
        return (
            build,
            self._inner(known, "planned"),
            self._defects(known.get("defects")),
            self._skip(known.get("skip")),
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

    def _defects(self, value: Any) -> list[Defect]:
        found: dict[str, Defect] = {}
        for n, given in enumerate(self._list(value, "defects")):
            path = f"defects[{n}]"
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
                found[defect.ref] = defect
        return list(found.values())

    def _skip(self, value: Any) -> list[str]:
        given = self._list(value, "skip")
        return [how for n, one in enumerate(given) if (how := self._one_of(one, HOWS, f"skip[{n}]"))]

    def _one_of(self, value: Any, allowed: Any, path: str) -> str | None:
        if isinstance(value, str) and value in allowed:
            return value
        near = nearest(value, allowed) if isinstance(value, str) else ""
        self.fault(path, f"{shown(value)} given; {listed(allowed)} allowed{near}")
        return None
