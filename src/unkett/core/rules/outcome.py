"""What a clause may say: the five outcomes, what they need, and what another part would have to be."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Protocol

from attrs import field, frozen

from unkett.core.errors import CoreError
from unkett.core.rules.finding import Verdict
from unkett.core.standards import SLACK, lookup
from unkett.core.vocabulary import kind_of


class Seen(Protocol):
    """A part as an outcome names it: its slot, and the slot's own name of an attribute."""

    slot: str

    def own_name(self, name: str) -> str:
        """Return the slot's own name of an attribute that the role calls `name`."""


@frozen(kw_only=True)
class Outcome:
    """What a clause returns; the engine makes a finding of them. `verdict` None: the rule does not apply."""

    verdict: Verdict | None
    key: str = ""
    because: Mapping[str, Any] = field(factory=dict)
    needs: tuple[Mapping[str, Any], ...] = ()
    asks: tuple[tuple[str, str | None], ...] = ()
    ways_out: tuple[Mapping[str, Any], ...] = ()
    school: str | None = None


SILENT = Outcome(verdict=None)


def goes(key: str, **because: Any) -> Outcome:
    return Outcome(verdict=Verdict.GOES, key=key, because=because)


def goes_if(key: str, *needs: Mapping[str, Any], **because: Any) -> Outcome:
    """Goes if something is added or done; `needs` names it."""
    if not needs:
        raise CoreError(f"goes_if({key}) names nothing that is needed")
    return Outcome(verdict=Verdict.GOES_IF, key=key, because=because, needs=needs)


def no_go(key: str, *ways_out: Mapping[str, Any], **because: Any) -> Outcome:
    return Outcome(verdict=Verdict.NO_GO, key=key, because=because, ways_out=ways_out)


def unmeasured(key: str, *asks: tuple[Seen, str | None], **because: Any) -> Outcome:
    """The attributes in `asks` (view, role attribute) are missing and the verdict hangs on them.

    None in place of an attribute asks whether a part is fitted there at all.
    """
    if not asks:
        raise CoreError(f"unmeasured({key}) asks for nothing")
    pairs = tuple((view.slot, None if name is None else view.own_name(name)) for view, name in asks)
    return Outcome(verdict=Verdict.UNMEASURED, key=key, because=because, asks=pairs)


def need(what: str, *, either: int | None = None, **more: Any) -> Mapping[str, Any]:
    """Something to get, to do, to look at or to accept. `what` is a phrase of the needs table, which gives its sort.

    Needs with one `either` number are alternatives. Raises CoreError for a phrase that the table lacks.
    """
    row = lookup("needs", "what").get(what)
    if row is None:
        raise CoreError(f"need: the table of needs has no {what!r}")
    need = {"what": what, "sort": row["sort"]}
    if row["sort"] == "work":
        need["minutes"] = row["minutes"]
    if row["sort"] == "check":
        need["step"] = row["step"]
    if either is not None:
        need["either"] = either
    if "caution" in row:
        need["caution"] = row["caution"]
    return {**need, **more}


def need_words(what: str) -> str:
    """Return what is shown of a need; `what` is its key in files."""
    return str(lookup("needs", "what").get(what, {}).get("says", what))


def way_out(view: Seen, attr: str, op: str, value: Any) -> Mapping[str, Any]:
    """Return a property another part in this slot would need; `op` as in a wish (==, <=, >=, in, has)."""
    return fill(view.slot, view.own_name(attr), op, value)


def fill(slot: str, attr: str, op: str, value: Any) -> Mapping[str, Any]:
    """Return a part with this property put into a slot that stands empty, or replaced there.

    A derived value is reported by the attribute it comes from: `largest_teeth` ≤ 34 becomes `teeth` max<= 34.
    """
    check_known("way out", slot, attr)
    derived = kind_of(slot).derived.get(attr)
    if derived is not None:
        return {"slot": slot, "attr": derived.of[0], "op": f"{derived.op}{op}", "value": value}
    return {"slot": slot, "attr": attr, "op": op, "value": value}


def near(a: float, b: float, within: float) -> bool:
    """Return whether two sizes count as equal, the tolerance included."""
    return abs(a - b) <= within + SLACK


def check_known(rule_id: str, slot: str, name: str) -> None:
    declared = kind_of(slot)
    if name not in declared.attributes and name not in declared.derived:
        raise CoreError(f"rule {rule_id}: {slot} has no attribute {name}")
