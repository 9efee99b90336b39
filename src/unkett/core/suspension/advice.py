"""The one change to try next at an end: by sag, by what the ring shows, by what the rider feels.

Sag first, then rebound, spacers, low, then high compression. One change at a time.
"""

from __future__ import annotations

from attrs import frozen

from unkett.core.standards import SLACK, lookup, table
from unkett.core.suspension.ends import SuspensionEnd
from unkett.core.vocabulary import describe
from unkett.core.vocabulary.words import in_sentence

PRELOAD_MOST_MM = 3.0  # two turns: more means the wrong spring
RIDE_PCT = 100.0


@frozen(kw_only=True)
class Change:
    """What to change, from what to what, within which bounds, and why; `to` None where only words can say it.

    `setting` is empty where nothing is to be changed, or where something has to be read or ridden first.
    """

    says: str
    why: str
    setting: str = ""
    before: float | None = None
    to: float | None = None
    low: float | None = None
    high: float | None = None
    unit: str = ""


def by_sag(end: SuspensionEnd) -> Change | None:
    """Return the change that brings the sag into its target; None where it is there."""
    target = end.target
    if target is None:
        full = "travel" if end.slot == "fork" else "stroke"
        return Change(says=f"Measure the {full}.", why="Without it no sag can be judged.")
    if end.sag_mm is None or target.sag_pct is None:
        return Change(
            says="Measure the sag.",
            why=f"Aim for {target.aim_mm:.0f} mm ({target.aim_pct:g} %), {target.low_mm:.0f} to "
            f"{target.high_mm:.0f} mm.",
        )
    if target.reading == "within":
        return None
    is_soft = target.reading == "soft"
    why = f"Sag {target.sag_pct:.0f} % is too {target.reading}; target {target.low_pct:g} to {target.high_pct:g} %."
    if end.is_coil:
        return _by_coil(end, is_soft, why)
    found = end.next_pressure
    if found is None:
        if not end.values.get("set_pressure_bar"):
            return Change(says="Read the pressure.", why=why)
        return Change(says=f"{'More' if is_soft else 'Less'} pressure, a little at a time.", why=why)
    bounds = {"setting": "set_pressure_bar", "before": end.values["set_pressure_bar"], "to": found.next_bar,
              "low": found.low_bar, "high": found.high_bar, "unit": "bar"}  # fmt: skip
    if found.limited == "reading":
        return Change(says="Keep it: the ring cannot be read closer.", why=why)
    if found.limited == "max" and is_soft:
        why += " More would be over the printed maximum: another spring or its manufacturer's advice."
    elif found.limited == "step":
        why += f" {found.wanted_bar:.1f} bar by calculation, but not over 15 % at once."
    return Change(says=f"Try {found.next_bar:.1f} bar.", why=why, **bounds)


def _by_coil(end: SuspensionEnd, is_soft: bool, why: str) -> Change:
    springs = end.springs
    if springs is None:
        return Change(says=f"A {'stiffer' if is_soft else 'softer'} spring.", why=why)
    best = min(
        springs.options, key=lambda one: abs((one.sag_pct or 0.0) - (end.target.aim_pct if end.target else 0))
    )
    sag = "" if best.sag_pct is None else f" ({best.sag_pct:.0f} % by calculation)"
    return Change(
        says=f"Try a spring of {best.rate_lbf_in:g} lbf/in{sag}.",
        why=f"{why} Preload over two turns only hides a wrong spring; the sum is right to one step.",
        setting="rate_n_mm",
        before=end.rate_n_mm,
        to=best.rate_n_mm,
        unit="N/mm",
    )


def by_ring(end: SuspensionEnd, hit_mm: float | None, bangs: bool = False) -> Change:
    """Return the next change by sag and by the ring after the hardest hit, in mm of travel or stroke."""
    first = by_sag(end)
    if first is not None or end.full_mm is None:
        return first or Change(says="Measure the travel.", why="")
    if hit_mm is None and not bangs:
        return Change(says="Ride, then read the ring after the hardest hit.", why="The sag is in its target.")
    pct = RIDE_PCT if bangs or hit_mm is None else min(RIDE_PCT, 100 * hit_mm / end.full_mm)
    row = next(
        row
        for row in table("suspension_ring").rows
        if (bangs or not row.get("bangs")) and row["low_pct"] - SLACK <= pct <= row["high_pct"] + SLACK
    )
    why = f"{pct:.0f} % used: {row['says']}."
    if row["change"] == "keep":
        return Change(says="Keep it.", why=why)
    if end.is_coil:
        return (
            Change(says="Close high-speed compression by 1, else the next rate up.", why=why)
            if bangs
            else Change(says="Open compression by 2.", why=why)
        )
    return _spacer(end, 1 if row["change"] == "spacer_in" else -1, why)


def _spacer(end: SuspensionEnd, by: int, why: str) -> Change:
    has, most = end.values.get("set_spacers"), end.most.get("set_spacers")
    if has is None:
        return Change(says="Count the volume spacers.", why=why)
    if by < 0 and has == 0:
        return Change(says="Open compression by 2.", why=f"{why} There is no spacer to take out.")
    if by > 0 and most is None:
        says = "One spacer more is the change; its manufacturer says how many are allowed."
        return Change(says="Manufacturer's figure wanted: most volume spacers.", why=f"{why} {says}")
    if by > 0 and most is not None and has >= most:
        return Change(says="Close high-speed compression by 1.", why=f"{why} No more spacers are allowed.")
    return Change(
        says=f"{has + by} volume spacer{'s' if has + by != 1 else ''}, then pressure to the same sag.",
        why=f"{why} Air out, cycled, out again before the cap is turned.",
        setting="set_spacers",
        before=has,
        to=has + by,
        low=0,
        high=most,
    )


def felt_at(end: SuspensionEnd) -> list[dict[str, object]]:
    """Return the rows of what may be felt at an end."""
    return [dict(row) for row in table("suspension_felt").rows if end.end in row["ends"]]


def by_feel(end: SuspensionEnd, code: str) -> Change:
    """Return the next change by what the rider feels. KeyError for a feeling that the table lacks."""
    row = lookup("suspension_felt", "code")[code]
    if row.get("sag_first"):
        first = by_sag(end)
        if first is not None:
            return first
    looked = f"First {', '.join(row['first'])}. " if row["first"] and "setting" in row else ""
    why = f"{row['title']}. {looked}{row.get('then', '')}".strip()
    setting = row.get("setting", "")
    if not setting:
        return Change(says=" ".join(row["first"]), why=why)
    if setting == "set_spacers":
        return _spacer(end, row["clicks"], why)
    title = describe(end.slot, setting).title
    by, has, most = row["clicks"], end.values.get(setting), end.most.get(setting)
    if most == 0:
        return Change(says=f"There is no dial for {in_sentence(title)}.", why=why)
    if has is None:
        way = f"{'open' if by > 0 else 'close'} by {abs(by)}"
        return Change(says=f"{title}: {way}; count the clicks from closed first.", why=why)
    to = max(0, has + by) if most is None else min(most, max(0, has + by))
    if to == has:
        return Change(says=f"{title} is at its end.", why=f"{why} No more is to be had from this dial.")
    return Change(
        says=f"{title} {to} from closed.",
        why=why,
        setting=setting,
        before=has,
        to=to,
        low=0,
        high=most,
        unit="clicks",
    )
