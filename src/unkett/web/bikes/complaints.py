"""What riders complain of, kept on the bike: the complaints, what checks said, what was mended and tried again.

The ranking itself is worked out again each time (`web/causes`); here is only what people said and did.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from attrs import frozen
from django.utils import timezone

from unkett.core.diagnose.asked import COMPLAINTS_MOST, Answer, Complained, key_of, read_key
from unkett.core.diagnose.tables import ENDS, Check, Complaint, shipped
from unkett.core.errors import InputError, bad, nearest, shown
from unkett.web.bikes.models import Bike, ClosedCase
from unkett.web.bikes.writing import Parts, write_bike
from unkett.web.workshop.errors import NotThere
from unkett.web.workshop.models import User

GONE, BETTER, SAME = "gone", "better", "same"
BECAUSE = "Because of: "  # how the note of a tick begins that a search made
TRIED = {GONE: "Gone", BETTER: "Better", SAME: "The same"}


@frozen(kw_only=True)
class OpenComplaint:
    """A complaint that is not gone yet: which, of which end, who wrote it down and when."""

    complaint: Complaint
    end: str | None
    by: str
    on: str

    @property
    def reported(self) -> Complained:
        return Complained(code=self.complaint.code, end=self.end)

    @property
    def key(self) -> str:
        return self.reported.key

    @property
    def title(self) -> str:
        return f"{self.complaint.title}, {self.end}" if self.end else self.complaint.title


@frozen(kw_only=True)
class Given:
    """What a check said on this bike: who did it and when; `value` is what was measured."""

    check: Check
    end: str | None
    result: str | None
    by: str
    on: str
    value: float | None = None

    @property
    def key(self) -> str:
        return key_of(self.check.code, self.end)

    @property
    def title(self) -> str:
        return f"{self.check.title} ({self.end})" if self.end else self.check.title

    @property
    def found_nothing(self) -> bool:
        return not self.check.even and self.result == self.check.results[0]


def open_complaints(bike: Bike) -> list[OpenComplaint]:
    """Return the complaints of a bike that are not gone."""
    complaints = shipped().complaints
    return [
        OpenComplaint(complaint=complaints[one["code"]], end=one["end"] or None, by=one["by"], on=one["on"])
        for one in bike.search.get("complaints", ())
        if one["code"] in complaints
    ]


def given_answers(bike: Bike) -> list[Given]:
    """Return what checks said of the complaints that are open, in the order they were done."""
    checks = shipped().checks
    return [
        Given(
            check=checks[one["check"]],
            end=one["end"] or None,
            result=one["result"],
            by=one["by"],
            on=one["on"],
            value=one.get("value"),
        )
        for one in bike.search.get("answers", ())
        if one["check"] in checks
    ]


def answers_of(bike: Bike) -> tuple[Answer, ...]:
    """Return the same as the search takes them."""
    return tuple(Answer(check=one.check.code, result=one.result, end=one.end) for one in given_answers(bike))


def check_minutes(bike: Bike) -> float:
    """Return the minutes that the checks done so far took; one that cannot be given took none."""
    return sum(one.check.minutes for one in given_answers(bike) if one.result is not None)


def _by(actor: User) -> dict[str, str]:
    return {"by": actor.called, "on": timezone.localdate().isoformat()}


def _kept(bike: Bike, **more: Any) -> dict[str, Any]:
    return {**bike.search, **more}


def complain(*, actor: User, bike_id: int, version: int, keys: Iterable[str]) -> Bike:
    """Set the open complaints of a bike; those that stay keep who wrote them down.

    Raises InputError naming `complaint` for one there is not, an end it has none of, or more than twelve.
    """
    reported = [_complaint(key) for key in dict.fromkeys(keys)]
    if len(reported) > COMPLAINTS_MOST:
        raise bad("complaint", f"{len(reported)} given; at most {COMPLAINTS_MOST} at once")

    def action(bike: Bike, _parts: Parts) -> tuple[Any, Any]:
        was = {(one["code"], one["end"]): one for one in bike.search.get("complaints", ())}
        rows = [was.get(one) or {"code": one[0], "end": one[1], **_by(actor)} for one in reported]
        before = [key_of(code, end) for code, end in was]
        bike.search = _kept(bike, complaints=rows)
        if not rows:
            bike.search = {name: value for name, value in bike.search.items() if name == "last"}
        return {"complaints": before}, {"complaints": [key_of(code, end) for code, end in reported]}

    return write_bike(actor, bike_id, version, "complain", "The complaints kept", action)


def _complaint(key: str) -> tuple[str, str]:
    code, end = read_key(key)
    complaints = shipped().complaints
    if code not in complaints:
        raise bad("complaint", f"{shown(code)} is no complaint{nearest(code, list(complaints))}")
    if end and (end not in ENDS or not complaints[code].by_end):
        raise bad("complaint", f"{shown(end)} is no end of “{complaints[code].title}”")
    return code, end


def _check(key: str) -> tuple[Check, str]:
    code, end = read_key(key)
    checks = shipped().checks
    if code not in checks or (end and (end not in ENDS or not checks[code].by_end)):
        raise NotThere
    return checks[code], end


def say(
    *, actor: User, bike_id: int, version: int, key: str, result: str | None, value: float | None = None
) -> Bike:
    """Keep what a check said; None: it cannot be said. A second answer to the same check replaces the first.

    Raises NotThere for a check there is not, InputError naming `result` for what cannot come out of it.
    """
    check, end = _check(key)
    if result is not None and result not in check.results:
        raise InputError.of({"result": [f"{shown(result)} given; {', '.join(check.results)} allowed"]})

    def action(bike: Bike, _parts: Parts) -> tuple[Any, Any]:
        if not open_complaints(bike):
            raise NotThere
        row = {"check": check.code, "end": end, "result": result, "value": value, **_by(actor)}
        bike.search = _kept(bike, answers=[*_others(bike, check.code, end), row])
        return None, {"check": check.title, "end": end, "result": result or "cannot be said"}

    return write_bike(actor, bike_id, version, "check", "A check kept", action)


def take_back(*, actor: User, bike_id: int, version: int, key: str) -> Bike:
    """Take an answer back. Raises NotThere where there is none."""
    check, end = _check(key)

    def action(bike: Bike, _parts: Parts) -> tuple[Any, Any]:
        left = _others(bike, check.code, end)
        if len(left) == len(bike.search.get("answers", ())):
            raise NotThere
        bike.search = _kept(bike, answers=left)
        return {"check": check.title, "end": end}, None

    return write_bike(actor, bike_id, version, "check", "A check taken back", action)


def _others(bike: Bike, code: str, end: str) -> list[dict[str, Any]]:
    return [one for one in bike.search.get("answers", ()) if (one["check"], one["end"]) != (code, end)]


def settling(*, actor: User, bike_id: int, version: int, cause: str, how: str) -> Bike:
    """Note that a held cause is taken on: as a tick, as a plan, or mended by the check that showed it."""

    def action(bike: Bike, _parts: Parts) -> tuple[Any, Any]:
        settled = {**bike.search.get("settled", {}), cause: {"how": how, **_by(actor)}}
        bike.search = _kept(bike, settled=settled)
        return None, {"cause": shipped().causes[cause].title, "settled by": how}

    return write_bike(actor, bike_id, version, "settle", "A cause taken on", action)


def try_again(
    *, actor: User, bike_id: int, version: int, said: Mapping[str, str], held: Mapping[str, list[str]]
) -> Bike:
    """Keep what became of the complaints after the work: gone, better or the same.

    Gone closes a complaint. Better or the same: what was taken on is excluded, the answers are given again, and the
    search goes on. `held` are the causes that held, by complaint. Raises InputError naming the complaint.
    """

    def action(bike: Bike, _parts: Parts) -> tuple[Any, Any]:
        was, now = bike.search, {one.key: one for one in open_complaints(bike)}
        for key, word in said.items():
            if key not in now:
                raise NotThere
            if word not in TRIED:
                raise InputError.of({key: ["gone, better or the same"]})
        left = [one for one in was["complaints"] if said.get(key_of(one["code"], one["end"])) != GONE]
        bike.search = {
            "last": {
                "complaints": [
                    {"title": now[key].title, "said": word, **_by(actor)} for key, word in said.items()
                ],
                "held": sorted({code for key in said for code in held.get(key, ())}),
                "answers": was.get("answers", []),
            }
        }
        if left and set(said.values()) <= {GONE}:
            bike.search |= {**was, "complaints": left, "last": bike.search["last"]}
        elif left:
            bike.search |= {
                "complaints": left,
                "mended": sorted({*was.get("mended", ()), *was.get("settled", {})}),
            }
        _close(actor, bike, [key for key, word in said.items() if word == GONE], held)
        return None, {now[key].title: TRIED[word] for key, word in said.items()}

    return write_bike(actor, bike_id, version, "try again", "The complaints tried again", action)


def _close(actor: User, bike: Bike, gone: Iterable[str], held: Mapping[str, list[str]]) -> None:
    """Count complaints that are gone with the causes that held."""
    ClosedCase.objects.bulk_create(
        ClosedCase(
            workshop_id=actor.workshop_id, bike=bike, complaint=read_key(key)[0], causes=held.get(key, [])
        )
        for key in gone
    )


def reasons_of(bike: Bike, defects: Iterable[str]) -> list[str]:
    """Return why defects, named as `slot:code`, are mended: the notes of ticks that a search for a cause made."""
    codes = [ref.rpartition(":")[2] for ref in defects]
    notes = [bike.looked.get(code, {}).get("note", "") for code in codes]
    return [note for note in notes if note.startswith(BECAUSE)]
