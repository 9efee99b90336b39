"""What a person takes as it is: a "Goes if" that nobody will change, with who, why and until when."""

from __future__ import annotations

import datetime
from typing import Any

from django.utils import timezone

from unkett.core.check.engine import check
from unkett.core.errors import InputError
from unkett.core.rules.finding import Finding
from unkett.core.settings import Settings
from unkett.web.bikes.models import Bike
from unkett.web.bikes.verdicts import day_words, fingerprint, part_ids
from unkett.web.bikes.writing import Parts, write_bike
from unkett.web.workshop.errors import NotThere, Refused
from unkett.web.workshop.models import User

REASON_MAX = 400


def _found(actor: User, bike: Bike, parts: Parts, ref: str) -> Finding:
    """Return the finding as it stands, nothing accepted. Raises NotThere."""
    settings = Settings.of(actor.workshop.settings)
    findings = check(bike.build(parts.on(bike)), settings).findings
    found = next((finding for finding in findings if finding.ref == ref), None)
    if found is None:
        raise NotThere
    return found


def accept_finding(
    *, actor: User, bike_id: int, version: int, finding: str, reason: str, until: datetime.date | None
) -> Bike:
    """Take a "Goes if" as it is, until a day or until one of its parts or figures changes.

    `finding` is its `ref`. Raises InputError naming `reason` or `until`, NotThere for a finding there is not,
    Refused for any other verdict and for what concerns safety.
    """
    if not reason.strip():
        raise InputError.of({"reason": ["say why it may stay so"]})
    if len(reason) > REASON_MAX:
        raise InputError.of({"reason": [f"{len(reason)} characters; at most {REASON_MAX} are kept"]})
    if until is not None and until < timezone.localdate():
        raise InputError.of({"until": [f"{day_words(until)} is past"]})

    def action(bike: Bike, parts: Parts) -> tuple[Any, Any]:
        found = _found(actor, bike, parts, finding)
        if not found.may_be_accepted:
            raise Refused("Only a “Go if” can be accepted, and none that concerns safety.")
        entry = {
            "ref": found.ref,
            "told": fingerprint(found),
            "parts": part_ids(found, parts.on(bike)),
            "says": found.says,
            "reason": reason.strip(),
            "by": actor.called,
            "on": timezone.localdate().isoformat(),
            "until": until.isoformat() if until else None,
        }
        bike.accepted = [*_others(bike, finding), entry]
        return None, {"finding": found.says, "reason": entry["reason"], "until": entry["until"]}

    return write_bike(actor, bike_id, version, "accept", "A finding accepted", action)


def reopen_finding(*, actor: User, bike_id: int, version: int, finding: str) -> Bike:
    """Take an acceptance back: the finding asks for its work again. Raises NotThere where nobody accepted it."""

    def action(bike: Bike, parts: Parts) -> tuple[Any, Any]:
        gone = [entry for entry in bike.accepted if entry["ref"] == finding]
        if not gone:
            raise NotThere
        bike.accepted = _others(bike, finding)
        return {"finding": gone[0]["says"], "reason": gone[0]["reason"]}, None

    return write_bike(actor, bike_id, version, "accept", "A finding asked for again", action)


def _others(bike: Bike, ref: str) -> list[dict[str, Any]]:
    return [entry for entry in bike.accepted if entry["ref"] != ref]
