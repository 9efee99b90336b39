"""A workshop's own steps over those that ship, refused where a sheet with them could not be done."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from attrs import evolve, frozen

from unkett.core.build import Build, Part
from unkett.core.errors import Fault, InputError, listed, nearest
from unkett.core.vocabulary import SLOTS
from unkett.core.work.facts import ENDS
from unkett.core.work.planner import plan_of
from unkett.core.work.precedence import ring
from unkett.core.work.scope import Scope
from unkett.core.work.step import DOES
from unkett.core.work.templates import Template, shipped

MINUTES_MAX = 1440
SAYS_MAX = 400


@frozen(kw_only=True)
class OwnStep:
    """A workshop's own step: written over a row that ships (`code`), or one more on a slot after another step."""

    code: str
    does: str
    slot: str
    says: str
    minutes: int
    wait_minutes: int = 0
    after: tuple[str, ...] = ()
    left_out: bool = False


def with_own(own: Sequence[OwnStep]) -> tuple[Template, ...]:
    """Return the templates with a workshop's own over them. Raises InputError where these cannot be."""
    faults = list(_faults(own))
    if faults:
        raise InputError(faults)
    return _laid_over(own)


def _laid_over(own: Sequence[OwnStep]) -> tuple[Template, ...]:
    by_code = {one.code: one for one in own}
    found = []
    for row in shipped():
        mine = by_code.pop(row.code, None)
        if mine is None:
            found.append(row)
        elif not mine.left_out:
            found.append(_written_over(row, mine))
    rank = len(shipped())
    for n, mine in enumerate(by_code.values()):
        if not mine.left_out:
            found.append(_own_template(rank + n, mine))
    return tuple(found)


def _written_over(row: Template, mine: OwnStep) -> Template:
    return evolve(row, says=mine.says, minutes=mine.minutes, wait_minutes=mine.wait_minutes, after=mine.after)


def _own_template(rank: int, mine: OwnStep) -> Template:
    after = tuple(dict.fromkeys((*mine.after, f"fit:{mine.slot}")))
    return Template(
        code=mine.code, does=mine.does, slot=mine.slot, word=mine.code.rpartition(":")[2], says=mine.says,
        minutes=mine.minutes, wait_minutes=mine.wait_minutes, after=after, rank=rank, own=True,
        stage="check" if mine.does == "check" else "work",
    )  # fmt: skip


def _faults(own: Sequence[OwnStep]) -> Iterable[Fault]:
    """Return what is wrong with a workshop's own steps, each reported by its name."""
    ids = {row.id for row in shipped()}
    known = ids | {name.replace("{end}", end) for name in ids for end in ENDS} | {one.code for one in own}
    faults = 0
    for one in own:
        for fault in _faults_of(one, known):
            faults += 1
            yield fault
    if not faults:
        yield from _loops(own)


def _faults_of(one: OwnStep, known: set[str]) -> Iterable[Fault]:
    if one.slot != "bike" and one.slot not in SLOTS and one.slot.replace("{end}", "front") not in SLOTS:
        says = f"{one.slot or 'no slot'} given; a slot, or bike for the whole of it{nearest(one.slot, SLOTS)}"
        yield Fault(path=f"{one.code}.slot", says=says)
    if one.does not in DOES:
        yield Fault(path=f"{one.code}.does", says=f"{one.does} given; {listed(DOES)} allowed")
    for name in ("minutes", "wait_minutes"):
        if not 0 <= getattr(one, name) <= MINUTES_MAX * (1 if name == "minutes" else 60):
            yield Fault(
                path=f"{one.code}.{name}", says=f"{getattr(one, name)} given; 0 and more minutes allowed"
            )
    if not 1 <= len(one.says.strip()) <= SAYS_MAX:
        yield Fault(path=f"{one.code}.says", says=f"enter a sentence of 1 to {SAYS_MAX} characters")
    for name in one.after:
        if name not in known:
            yield Fault(path=f"{one.code}.after", says=f"{name} is no step{nearest(name, sorted(known))}")


def every_part() -> Build:
    """Return a bike with a part in every slot that one bike can have, nothing known of any."""
    left_out = (
        "belt",
        "motor",
        "battery",
        "captain_bracket",
        "captain_crank",
        "timing_rings",
        "timing_chain",
    )
    parts = {slot: Part(kind=SLOTS[slot].kind) for slot in SLOTS if slot not in left_out}
    return Build(parts={**parts, "bottom_bracket": Part(kind="bottom_bracket", attrs={"shell": "bsa"})})


def _loops(own: Sequence[OwnStep]) -> Iterable[Fault]:
    """Steps that a sheet of a whole bike, every part of it renewed, could not bring into any order."""
    if not any(one.after for one in own):
        return
    bike = every_part()
    scope = Scope.of(bike, bike, replaced=bike.parts, templates=_laid_over(own))
    plan = plan_of(scope)
    links = plan.links()
    for row in scope.templates:
        if row.after:
            for end in ENDS if "{end}" in row.id else ("",):
                name = row.id.replace("{end}", end)
                if name in links:
                    links[name] |= {one.replace("{end}", end) for one in row.after} & links.keys()
    looped = ring(links)
    if looped:
        yield Fault(path=f"{looped[0]}.after", says=f"these steps wait for each other: {' → '.join(looped)}")
