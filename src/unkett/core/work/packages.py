"""Service packages: named sets of steps over a bike, as they ship or as a workshop has them."""

from __future__ import annotations

import functools
from collections.abc import Mapping
from decimal import Decimal

from attrs import frozen

from unkett.core.standards import table


@frozen(kw_only=True)
class Package:
    """A service package. `steps` are ids, `{end}` for both ends; `moves` slots that come off and go on again.

    `bolts` adds a step for every bolt of the bike; `brings` names small parts; `price` is a fixed price for its labour,
    without tax, None where it costs its minutes.
    """

    code: str
    title: str
    says: str = ""
    steps: tuple[str, ...] = ()
    moves: tuple[str, ...] = ()
    bolts: bool = False
    brings: tuple[str, ...] = ()
    price: Decimal | None = None

    @property
    def cause(self) -> str:
        return f"package:{self.code}"


@functools.cache
def shipped_packages() -> Mapping[str, Package]:
    """Return the packages that ship, by code."""
    return {
        row["code"]: Package(
            code=row["code"],
            title=row["title"],
            says=row["says"],
            steps=tuple(row["steps"]),
            moves=tuple(row.get("moves", ())),
            bolts=row.get("bolts", False),
            brings=tuple(row.get("brings", ())),
            price=Decimal(str(row["price"])) if "price" in row else None,
        )
        for row in table("packages").rows
    }
