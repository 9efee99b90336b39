"""Reads what `./unkett quote` and `./unkett finish` are asked, every fault with its path."""

from __future__ import annotations

from collections.abc import Mapping
from decimal import Decimal
from typing import Any

from attrs import evolve

from unkett.core.build import Build, Json
from unkett.core.errors import InputError, bad, nearest, shown
from unkett.core.formats.reader import FAULTS_MAX, Reader
from unkett.core.standards import lookup
from unkett.core.vocabulary import SLOTS
from unkett.core.work.finish import Done, finished
from unkett.core.work.parsing import Work, work_from
from unkett.core.work.price import Money, Outside, Quote, quote_of_sheet
from unkett.core.work.step_words import CAUSES

MONEY_KEYS = (
    "currency", "labour_per_hour", "tax_pct", "consumables", "prices", "small_parts", "outside", "given", "brought",
)  # fmt: skip
AMOUNT_MAX, PERCENT_MAX, CURRENCY_MAX, SAYS_MAX = 1_000_000, 100, 12, 200


def work_within(value: Any, keys: tuple[str, ...]) -> tuple[Work, Json, Reader]:
    """The work of a request and its other keys; a reader for these. Raises InputError with every fault of the work."""
    if not isinstance(value, Mapping):
        raise bad("", f"{shown(value)} given; an object with {', '.join(keys)} allowed")
    reader = Reader()
    known, _ = reader.mapping(value, "", keys)
    try:
        work = work_from(known.get("work"))
    except InputError as error:
        raise InputError([evolve(one, path=f"work.{one.path}".rstrip(".")) for one in error.faults]) from None
    return work, known, reader


def quote_from(value: Any) -> Quote:
    """The quote of a job from parsed JSON: `{"work", "money"}`. Raises InputError with every fault and its path."""
    work, known, reader = work_within(value, ("work", "money"))
    money = _Money(reader).money(known.get("money"))
    if reader.faults:
        raise InputError(reader.faults[:FAULTS_MAX])
    return quote_of_sheet(work.sheet(), money)


def finished_from(value: Any) -> Build:
    """Return the bike after the hand-over, from `{"work", "readings", "kept", "skipped"}`.

    Raises InputError with every fault and its path.
    """
    work, known, reader = work_within(value, ("work", "readings", "kept", "skipped"))
    done = Done(
        readings=_readings(reader, known.get("readings")),
        skipped=frozenset(_ids(reader, known.get("skipped"))),
        kept=_kept(reader, known.get("kept")),
    )
    if reader.faults:
        raise InputError(reader.faults[:FAULTS_MAX])
    return finished(work.build, work.planned or work.build, work.sheet(), done)


def _readings(reader: Reader, value: Any) -> dict[str, tuple[float, ...]]:
    if not isinstance(value, Mapping | None):
        reader.fault("readings", f"{shown(value)} given; an object of step ids allowed")
        return {}
    found = {}
    for name, given in (value or {}).items():
        values = given if isinstance(given, list) else [given]
        if values and all(isinstance(one, (int, float)) and not isinstance(one, bool) for one in values):
            found[str(name)] = tuple(float(one) for one in values)
        else:
            reader.fault(f"readings.{name}", f"{shown(given)} given; a number, or one for each bolt, allowed")
    return found


def _kept(reader: Reader, value: Any) -> dict[str, tuple[str, str]]:
    if not isinstance(value, Mapping | None):
        reader.fault("kept", f"{shown(value)} given; an object of step ids allowed")
        return {}
    found = {}
    for name, given in (value or {}).items():
        known, _ = reader.mapping(given, f"kept.{name}", ("why", "who"))
        why, who = (reader.text(known.get(key, ""), f"kept.{name}.{key}") for key in ("why", "who"))
        if not why.strip() or not who.strip():
            reader.fault(f"kept.{name}", "why and who are missing")
        found[str(name)] = (why, who)
    return found


def _ids(reader: Reader, value: Any) -> list[str]:
    if value is None:
        return []
    if not isinstance(value, list) or not all(isinstance(one, str) for one in value):
        reader.fault("skipped", f"{shown(value)} given; a list of step ids allowed")
        return []
    return value


class _Money:
    """Reads the workshop's money; amounts as JSON has them, to the hundredth."""

    def __init__(self, reader: Reader) -> None:
        self.reader = reader

    def money(self, value: Any) -> Money:
        known, _ = self.reader.mapping(value, "money", MONEY_KEYS)
        if value is None:
            self.reader.fault("money", "missing; an object with labour_per_hour, tax_pct and prices allowed")
        return Money(
            currency=self.reader.text(known.get("currency", ""), "money.currency", CURRENCY_MAX),
            labour_per_hour=self._amount(known.get("labour_per_hour", 0), "money.labour_per_hour"),
            tax_pct=self._amount(known.get("tax_pct", 0), "money.tax_pct", PERCENT_MAX),
            consumables=self._amount(known.get("consumables", 0), "money.consumables"),
            prices=self._prices(known.get("prices"), "money.prices", SLOTS),
            small_parts=self._prices(known.get("small_parts"), "money.small_parts", lookup("needs", "what")),
            outside=tuple(self._outside(known.get("outside"))),
            given=frozenset(self._causes(known.get("given"))),
            brought=frozenset(self._slots(known.get("brought"))),
        )

    def _amount(self, value: Any, path: str, most: int = AMOUNT_MAX) -> Decimal:
        if isinstance(value, (int, float)) and not isinstance(value, bool) and 0 <= value <= most:
            return Decimal(str(value))
        self.reader.fault(path, f"{shown(value)} given; a number from 0 to {most} allowed")
        return Decimal(0)

    def _prices(self, value: Any, path: str, allowed: Mapping[str, Any]) -> dict[str, Decimal]:
        known, _ = self.reader.mapping(value, path, allowed)
        return {name: self._amount(price, f"{path}.{name}") for name, price in known.items()}

    def _list(self, value: Any, path: str) -> list[Any]:
        if value is None:
            return []
        if not isinstance(value, list):
            self.reader.fault(path, f"{shown(value)} given; a list allowed")
            return []
        return value

    def _outside(self, value: Any) -> list[Outside]:
        found = []
        for n, given in enumerate(self._list(value, "money.outside")):
            path = f"money.outside[{n}]"
            known, _ = self.reader.mapping(given, path, ("says", "price"))
            says = self.reader.text(known.get("says", ""), f"{path}.says", SAYS_MAX)
            found.append(Outside(says=says, price=self._amount(known.get("price", 0), f"{path}.price")))
        return found

    def _causes(self, value: Any) -> list[str]:
        found = []
        for n, given in enumerate(self._list(value, "money.given")):
            if isinstance(given, str) and given.partition(":")[0] in CAUSES:
                found.append(given)
            else:
                self.reader.fault(
                    f"money.given[{n}]", f"{shown(given)} given; a cause such as change:chain allowed"
                )
        return found

    def _slots(self, value: Any) -> list[str]:
        found = []
        for n, given in enumerate(self._list(value, "money.brought")):
            if isinstance(given, str) and given in SLOTS:
                found.append(given)
            else:
                near = nearest(given, SLOTS) if isinstance(given, str) else ""
                self.reader.fault(f"money.brought[{n}]", f"{shown(given)} given; a slot allowed{near}")
        return found
