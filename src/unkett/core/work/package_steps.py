"""The steps that service packages ask for on a bike, and the step that reads the torque of a bolt."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator

from attrs import evolve

from unkett.core.build import Build
from unkett.core.work.facts import ENDS, SIDES, Literal, facts_of_slot, holds, literal
from unkett.core.work.packages import Package
from unkett.core.work.scope import Scope
from unkett.core.work.templates import Template, shipped

TORQUE = "torque"  # the word of a step that reads a bolt's torque and changes nothing
TORQUE_SAYS = "Check {part}: every bolt to its torque, one after the other."
TORQUE_MINUTES = 2


def is_for(package: Package, build: Build) -> bool:
    """Return whether a package has anything to do on a bike: a part that it moves, or a step that the bike has.

    Steps of a workshop's own always count.
    """
    moves = [literal(text) for text in _both_ends(package.moves)]
    if any(one.fact in build.filled() and (not one.test or holds(one.test, build)) for one in moves):
        return True
    rows: dict[str, list[tuple[Template, str]]] = {}
    for row in shipped():
        for end in ENDS if "{end}" in row.id else ("",):
            rows.setdefault(row.id.replace("{end}", end), []).append((row, end))
    return any(
        slot in ("bike", *build.filled())
        and (name not in rows or any(row.fits(end, build) for row, end in rows[name]))
        for name in _both_ends(package.steps)
        for slot in (name.split(":")[1],)
    )


def moves_of(scope: Scope) -> Iterator[tuple[str, str]]:
    """Yield the slots whose part comes off for a package and goes on again, each with the cause."""
    for package in scope.packages:
        for text in _both_ends(package.moves):
            wanted = literal(text)
            if wanted.fact in scope.kept and (not wanted.test or holds(wanted.test, scope.then)):
                yield wanted.fact, package.cause


def steps_of(scope: Scope) -> Iterator[tuple[str, str]]:
    """Yield the ids of the packages' steps, each with the cause; a bike may have no such step."""
    for package in scope.packages:
        for name in _both_ends(package.steps):
            if name.split(":")[1] in ("bike", *scope.filled_then):
                yield name, package.cause


def bolts_of(scope: Scope, steps: Collection[str]) -> Iterator[tuple[str, str]]:
    """Yield a step for every bolt of the bike that none of `steps` makes fast, each with the cause."""
    for package in scope.packages:
        for slot in scope.then.parts if package.bolts else ():
            for name in torque_steps(slot, scope):
                if fit_step(name) not in steps:
                    yield name, package.cause


def _both_ends(names: Iterable[str]) -> list[str]:
    return [name.replace("{end}", end) for name in names for end in (ENDS if "{end}" in name else ("",))]


def torque_steps(slot: str, scope: Scope) -> list[str]:
    """Return the ids of the steps that read the torques of a slot's part: one, or one for each side."""
    sided = any(fact.count(":") == 2 for fact in facts_of_slot(slot, scope.then))
    return [f"check:{slot}:{TORQUE}_{side}" for side in SIDES[slot]] if sided else [f"check:{slot}:{TORQUE}"]


def fit_step(name: str) -> str:
    """Return the id of the step that makes fast what a torque step reads, such as `fit:pedals:left`."""
    _, slot, word = name.split(":", 2)
    side = "wheel" if slot.endswith("_hub") else word.removeprefix(TORQUE).removeprefix("_")
    return ":".join(one for one in ("fit", slot, side) if one)


def torque_row(row: Template) -> Template | None:
    """Return the row of a step that reads the torque of what `row` makes fast; None where that has no torque."""
    if row.torque is None and row.stated is None:
        return None
    return evolve(
        row,
        does="check",
        says=TORQUE_SAYS,
        minutes=TORQUE_MINUTES,
        wait_minutes=0,
        compound=row.compound if row.compound == "friction_paste" else None,
        reading={"word": "torque", "unit": "Nm"},
        most=None,
        most_setting="",
        requires=(),
        gives=(),
        brings="",
        caution=None,
        irreversible=False,
        stage="check",
    )


def reached_by(slot: str) -> list[Literal]:
    """Return what must be there and out of the way to set a wrench on the bolts of a part that is on."""
    end = slot.partition("_")[0]
    if slot == "bottom_bracket":
        return [Literal(fact="on:crank", holds=False)]
    if slot.endswith("_hub"):
        return [Literal(fact=f"in:{end}")]
    if slot.endswith("_rotor"):
        return [Literal(fact=f"in:{end}", holds=False)]
    return [Literal(fact="in:rear", holds=False)] if slot == "cassette" else []
