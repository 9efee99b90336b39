"""What an inspection found on a part, and what one may find."""

from __future__ import annotations

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


def defects_listed() -> list[dict[str, str]]:
    """What an inspection may find, on which slot, in words."""
    return [
        {"slot": slot, "defect": row["code"], "says": row["title"]}
        for row in table("look_over").rows
        for slot in row["slots"]
    ]
