"""Which of the workshop's bikes can use a catalogue part."""

from __future__ import annotations

from attrs import frozen

from unkett.core.check.part_effect import Chooser, PartEffect
from unkett.core.formats.reader import stored_part
from unkett.core.rules.finding import Verdict
from unkett.core.settings import Settings
from unkett.core.vocabulary import slots_of_kind
from unkett.web.bikes.models import Bike
from unkett.web.bikes.permissions import bikes_seen_by
from unkett.web.catalogue.models import CataloguePart
from unkett.web.catalogue.queries import NOTHING_CHECKS
from unkett.web.workshop.models import User


@frozen(kw_only=True)
class Use:
    """A slot of one of our bikes that a part was tried in."""

    bike: Bike
    slot: str
    chosen: PartEffect
    now: str

    @property
    def says(self) -> str:
        """Why not simply Goes."""
        if not self.chosen.check.findings:
            return NOTHING_CHECKS
        asking = self.chosen.asking
        more = f" (and {len(asking) - 1} more)" if len(asking) > 1 else ""
        return asking[0].says + more if asking else ""

    @property
    def verdict(self) -> Verdict:
        return self.chosen.verdict


USES_BIKES = 100


def uses_of(actor: User, part: CataloguePart, settings: Settings) -> list[Use]:
    """Return which of the workshop's bikes can use this part, best first: every slot of its kind on the bikes
    changed last, a hundred at most."""
    attrs = stored_part(part.kind, part.name, part.attrs).attrs
    uses = []
    bikes = bikes_seen_by(actor).order_by("-changed", "-id")
    for bike in bikes.prefetch_related("fitted")[:USES_BIKES]:
        build = bike.build(list(bike.fitted.all()))
        filled = build.filled()
        for slot in slots_of_kind(part.kind):
            chosen = Chooser(build, slot.name, settings).choose(attrs)
            now = filled[slot.name].name or "fitted, without a name" if slot.name in filled else ""
            uses.append(Use(bike=bike, slot=slot.name, chosen=chosen, now=now))
    return sorted(uses, key=lambda use: (-use.verdict.order, use.bike.name, use.slot))
