"""Headset identification codes: what a cup is, what it sits in, what it carries."""

from __future__ import annotations

import re

from attrs import frozen

from unkett.core.standards import lookup

TAPERED_MM = 39.0  # a crown race of this and more is a tapered steerer's


@frozen(kw_only=True)
class Cup:
    """One end of a headset or a head tube: `sort` EC, ZS or IS, its bare code, and its table row's bore and group.

    `bore_mm` and `group` are None for a code that stands in no table.
    """

    sort: str
    code: str
    bore_mm: float | None
    group: str | None


def cup_of(code: str) -> Cup:
    """Return a code such as ZS44 or ZS44/28.6 as a cup. Source: the headset_bores table."""
    bare = code.split("/")[0]
    row = lookup("headset_bores", "code").get(bare)
    return Cup(
        sort=bare[:2],
        code=bare,
        bore_mm=None if row is None else float(row["bore_mm"]),
        group=None if row is None else str(row["group"]),
    )


def carried(code: str | None) -> float | None:
    """Return what stands after the slash, in mm (30 is 30.0, 40 is 39.8); None where nothing does."""
    if code is None or "/" not in code:
        return None
    after = code.split("/")[1]
    row = lookup("headset_carries", "code").get(after)
    return float(row["mm"]) if row is not None else float(re.sub(r"[^\d.]", "", after))
