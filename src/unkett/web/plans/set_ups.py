"""What a plan does to the set-ups of its bike: other wheels, a trainer, a second fork."""

from __future__ import annotations

from attrs import frozen

from unkett.core.check.difference import difference
from unkett.core.check.engine import check_again
from unkett.core.rules.finding import Finding, Verdict
from unkett.core.vocabulary import SLOTS
from unkett.web.bikes.queries import settings_of
from unkett.web.bikes.setups import set_ups_of
from unkett.web.plans.queries import Planned, part_of
from unkett.web.workshop.models import User


@frozen(kw_only=True)
class SetUpEffect:
    """A set-up on the bike as planned: its verdict before and after, what is new, and which parts it keeps its own."""

    name: str
    before: Verdict
    after: Verdict
    new: tuple[Finding, ...]
    own: tuple[
        str, ...
    ]  # titles of slots that the plan changes and that the set-up has a part of its own for


def set_ups_in_plan(actor: User, found: Planned) -> list[SetUpEffect]:
    """Return what a plan does to every set-up that is not on the bike; what it has of its own stays as it is."""
    changes = [one for slot, one in found.changes.items() if slot not in found.done]
    settings = settings_of(actor)
    effects = []
    for seen in set_ups_of(actor, found.stands) if changes else []:
        if seen.is_on:
            continue
        build = seen.build
        for change in changes:
            if change.slot not in seen.parts:
                build = build.with_part(change.slot, part_of(change))
        checked = check_again(seen.check, seen.build, build, settings)
        moved = difference(seen.check, checked, [one.slot for one in changes])
        effects.append(
            SetUpEffect(
                name=seen.set_up.name,
                before=seen.check.verdict,
                after=checked.verdict,
                new=tuple(one for one in moved.new if one.verdict is not Verdict.GOES),
                own=tuple(SLOTS[one.slot].title.lower() for one in changes if one.slot in seen.parts),
            )
        )
    return effects
