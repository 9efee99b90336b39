"""What a search is asked: complaints, answers, and what is known of the bike; read from `unkett.complaint/1`."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from attrs import field, frozen

from unkett.core.bike.wear import sorts
from unkett.core.build import Build
from unkett.core.diagnose.tables import ENDS, Check, Tables
from unkett.core.errors import Fault, InputError, listed, nearest, shown
from unkett.core.formats.reader import build_from
from unkett.core.intake.inspection import TICKS

FORMAT = "unkett.complaint/1"
COMPLAINTS_MOST = 12
KEYS = (
    "format", "complaints", "answers", "build", "defects", "readings", "proven", "excluded", "mended",
)  # fmt: skip


def key_of(code: str, end: str | None) -> str:
    """Return a complaint or a check with its end, as answers, forms and addresses name it."""
    return f"{code}@{end}" if end else code


def read_key(key: str) -> tuple[str, str]:
    """Return a code and its end, empty where there is none."""
    code, _, end = key.partition("@")
    return code, end


@frozen(kw_only=True)
class Complained:
    """A complaint as the rider reported it: which, and of which end where that is known."""

    code: str
    end: str | None = None

    @property
    def key(self) -> str:
        return key_of(self.code, self.end)


@frozen(kw_only=True)
class Answer:
    """What came out of a check; None: it cannot be said."""

    check: str
    result: str | None
    end: str | None = None


@frozen(kw_only=True)
class Asked:
    """Everything a search goes by. `ticks` are defects found, by slot; `readings` those of the wear log."""

    complaints: tuple[Complained, ...]
    answers: tuple[Answer, ...] = ()
    build: Build = field(factory=Build)
    ticks: tuple[tuple[str, str], ...] = ()
    readings: tuple[tuple[str, str, float], ...] = ()  # slot, sort, value; the last of a sort counts
    proven: frozenset[str] = frozenset()
    excluded: frozenset[str] = frozenset()
    mended: frozenset[str] = frozenset()


class _Reader:
    """Reads one object and gathers every fault by its path."""

    def __init__(self, tables: Tables) -> None:
        self.tables = tables
        self.faults: list[Fault] = []

    def fault(self, path: str, says: str) -> None:
        self.faults.append(Fault(path=path, says=says))

    def name(self, value: Any, allowed: Sequence[str], path: str) -> str | None:
        """One of the names, or a fault."""
        if isinstance(value, str) and value in allowed:
            return value
        short = listed(list(allowed)) if len(allowed) <= 8 else f"one of {len(allowed)} codes"
        self.fault(path, f"{shown(value)} given; {short} allowed{nearest(value, list(allowed))}")
        return None

    def rows(self, value: Any, path: str) -> list[Any]:
        if value is None:
            return []
        if not isinstance(value, (list, tuple)):
            self.fault(path, f"{shown(value)} given; a list allowed")
            return []
        return list(value)

    def row(self, value: Any, keys: Sequence[str], path: str) -> Mapping[str, Any] | None:
        """Return an object with these keys, each of them there."""
        if not isinstance(value, Mapping):
            self.fault(path, f"{shown(value)} given; an object with {listed(list(keys))} allowed")
            return None
        self.keys(value, keys, path)
        for key in keys:
            if key not in value:
                self.fault(f"{path}.{key}", "missing")
        return value if all(key in value for key in keys) else None

    def keys(self, value: Mapping[str, Any], keys: Sequence[str], path: str) -> None:
        for key in value:
            if key not in keys and not str(key).startswith("x_"):
                where = f"{path}.{key}" if path else str(key)
                self.fault(where, f"unknown; {listed(list(keys))} allowed{nearest(key, list(keys))}")

    # the parts of a question

    def complaints(self, value: Any) -> tuple[Complained, ...]:
        rows = self.rows(value, "complaints")
        if isinstance(value, (list, tuple)) and not 1 <= len(rows) <= COMPLAINTS_MOST:
            self.fault("complaints", f"{len(rows)} given; 1 to {COMPLAINTS_MOST} allowed")
        found: list[Complained] = []
        for n, row in enumerate(rows[:COMPLAINTS_MOST]):
            complaint = self._complaint(row, f"complaints[{n}]")
            if complaint is None:
                continue
            if complaint in found:
                self.fault(f"complaints[{n}]", f"{shown(complaint.code)} is given twice")
            found.append(complaint)
        return tuple(found)

    def _complaint(self, row: Any, path: str) -> Complained | None:
        names = list(self.tables.complaints)
        if not isinstance(row, Mapping):
            code = self.name(row, names, path)
            return None if code is None else Complained(code=code)
        self.keys(row, ("code", "end"), path)
        if "code" not in row:
            self.fault(f"{path}.code", "missing")
            return None
        code = self.name(row["code"], names, f"{path}.code")
        end = row.get("end")
        if code is None or end is None:
            return None if code is None else Complained(code=code)
        if not self.tables.complaints[code].by_end:
            self.fault(f"{path}.end", f"{shown(end)} given; this complaint is of no end")
            return None
        end = self.name(end, ENDS, f"{path}.end")
        return None if end is None else Complained(code=code, end=end)

    def answers(self, value: Any) -> tuple[Answer, ...]:
        if value is None:
            return ()
        if not isinstance(value, Mapping):
            self.fault("answers", f"{shown(value)} given; an object of results by check allowed")
            return ()
        found = [
            self._answer(str(key), result) for key, result in value.items() if not str(key).startswith("x_")
        ]
        return tuple(one for one in found if one is not None)

    def _answer(self, key: str, result: Any) -> Answer | None:
        path = f"answers.{key}"
        code, at, end = key.partition("@")
        checks = self.tables.checks
        if code not in checks:
            self.fault(path, f"unknown; one of {len(checks)} checks allowed{nearest(code, list(checks))}")
            return None
        check: Check = checks[code]
        if at and not check.by_end:
            self.fault(path, "this check is of no end")
            return None
        if at and self.name(end, ENDS, path) is None:
            return None
        if result is not None and self.name(result, check.results, path) is None:
            return None
        return Answer(check=code, result=result, end=end or None)

    def ticks(self, value: Any) -> tuple[tuple[str, str], ...]:
        found = []
        for n, given in enumerate(self.rows(value, "defects")):
            path = f"defects[{n}]"
            if isinstance(given, Mapping):
                given = {key: item for key, item in given.items() if key != "do"}
            row = self.row(given, ("slot", "defect"), path)
            code = None if row is None else self.name(row["defect"], list(TICKS), f"{path}.defect")
            if row is None or code is None:
                continue
            slot = self.name(row["slot"], TICKS[code].slots, f"{path}.slot")
            if slot is not None:
                found.append((slot, code))
        return tuple(found)

    def readings(self, value: Any) -> tuple[tuple[str, str, float], ...]:
        found = []
        for n, given in enumerate(self.rows(value, "readings")):
            path = f"readings[{n}]"
            row = self.row(given, ("slot", "code", "value"), path)
            code = None if row is None else self.name(row["code"], list(sorts()), f"{path}.code")
            if row is None or code is None:
                continue
            slot = self.name(row["slot"], sorts()[code].slots, f"{path}.slot")
            number = row["value"]
            if isinstance(number, bool) or not isinstance(number, (int, float)):
                self.fault(f"{path}.value", f"{shown(number)} given; a number allowed")
                continue
            try:
                sorts()[code].accept(number)
            except InputError as error:
                self.fault(f"{path}.value", error.faults[0].says)
                continue
            if slot is not None:
                found.append((slot, code, float(number)))
        return tuple(found)

    def causes(self, value: Any, path: str) -> frozenset[str]:
        names = list(self.tables.causes)
        found = [self.name(one, names, f"{path}[{n}]") for n, one in enumerate(self.rows(value, path))]
        return frozenset(one for one in found if one is not None)

    def build(self, value: Any) -> Build:
        if value is None:
            return Build()
        try:
            return build_from(value)
        except InputError as error:
            for fault in error.faults:
                self.fault(f"build.{fault.path}" if fault.path else "build", fault.says)
            return Build()


def asked_from(data: Any, tables: Tables) -> Asked:
    """Return a question as JSON has it. Raises InputError naming every fault by its path."""
    reader = _Reader(tables)
    if not isinstance(data, Mapping):
        raise InputError(
            [Fault(path="", says=f"{shown(data)} given; an object of the format {FORMAT} allowed")]
        )
    reader.keys(data, KEYS, "")
    if data.get("format") != FORMAT:
        given = "missing" if "format" not in data else f"{shown(data['format'])} given"
        reader.fault("format", f"{given}; {shown(FORMAT)} allowed")
    if data.get("complaints") is None:
        reader.fault("complaints", f"missing; 1 to {COMPLAINTS_MOST} allowed")
    asked = Asked(
        complaints=reader.complaints(data.get("complaints")),
        answers=reader.answers(data.get("answers")),
        build=reader.build(data.get("build")),
        ticks=reader.ticks(data.get("defects")),
        readings=reader.readings(data.get("readings")),
        proven=reader.causes(data.get("proven"), "proven"),
        excluded=reader.causes(data.get("excluded"), "excluded"),
        mended=reader.causes(data.get("mended"), "mended"),
    )
    if reader.faults:
        raise InputError(reader.faults)
    return asked
