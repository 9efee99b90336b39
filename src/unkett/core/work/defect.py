"""What an inspection found on a part, and what one may find."""

from __future__ import annotations

from decimal import Decimal

from attrs import frozen

from unkett.core.standards import table


@frozen(kw_only=True)
class Defect:
    """Something that an inspection found on a part, and how much it matters: must, should or may."""

    slot: str
    defect: str
    do: str = "must"

    @property
    def ref(self) -> str:
        return f"{self.slot}:{self.defect}"


@frozen(kw_only=True)
class OwnFinding:
    """Something found that no tick has: in the finder's own words, with its minutes and the price of what it takes.

    `code` is `own-1`, `own-2` and so on; `price` is without tax.
    """

    slot: str
    code: str
    says: str
    minutes: int = 0
    price: Decimal = Decimal(0)
    do: str = "must"

    @property
    def ref(self) -> str:
        return f"{self.slot}:{self.code}"

    @property
    def step(self) -> str:
        """The id of the step that mends it."""
        return f"adjust:{self.slot}:{self.code}"


def defects_listed() -> list[dict[str, str]]:
    """Return what an inspection may find, on which slot, in words."""
    return [
        {"slot": slot, "defect": row["code"], "says": row["title"]}
        for row in table("look_over").rows
        for slot in row["slots"]
    ]
