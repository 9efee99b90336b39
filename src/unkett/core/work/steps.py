"""A plan with its needs, and what the look-over found, as an ordered sheet of steps."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from attrs import evolve

from unkett.core.bike.figures import chain_of
from unkett.core.bike.lines import line_reports
from unkett.core.build import Build
from unkett.core.check.engine import check
from unkett.core.intake.inspection import TICKS
from unkett.core.rules.finding import Finding, Verdict
from unkett.core.settings import DEFAULTS, Settings
from unkett.core.standards import lookup
from unkett.core.vocabulary import SLOTS, Area
from unkett.core.work.changing import Changing, place_of
from unkett.core.work.defect import Defect
from unkett.core.work.doubted import doubted
from unkett.core.work.ordering import ordered
from unkett.core.work.step import JobSheet, Step, Torque
from unkett.core.work.templates import ENDS, Template, shipped
from unkett.core.work.torque import LOWER_END, from_table, stated

NEEDS_RANK = 10_000
# What every adjusting on a slot is after, whether the table, a defect or a need asks for it.
ADJUSTED_AFTER = {
    "front_derailleur": ("adjust:rear_derailleur*", "fit:front_shift_line"),
    "rear_derailleur": ("fit:rear_shift_line", "fit:rear_hub:wheel"),
    "front_caliper": ("fit:front_hub:wheel",),
    "rear_caliper": ("fit:rear_hub:wheel",),
}
OVER_MINUTES = 4


def job_steps(
    build: Build,
    planned: Build | None = None,
    *,
    defects: Sequence[Defect] = (),
    skip: Sequence[str] = (),
    settings: Settings = DEFAULTS,
    templates: Sequence[Template] | None = None,
) -> JobSheet:
    """The sheet of a bike and what is planned for it; without a plan only its defects are worked on.

    `skip` leaves classes of defects out. `templates` are the workshop's, else those that ship. The same input gives
    the same sheet.
    """
    todo = [one for one in defects if one.do not in skip]
    opened = [one.slot for one in todo if lookup("look_over", "code")[one.defect].get("opens")]
    changing = Changing.of(build, planned if planned is not None else build, opened)
    made = _Making(changing=changing, settings=settings)
    for row in shipped() if templates is None else templates:
        made.template(row)
    made.carried_over()
    for one in todo:
        made.defect(one, opened)
    for finding in _new_findings(changing, settings):
        made.needs(finding)
    for step, held in doubted(changing.then, made.steps, settings):
        made.steps[step.id] = step
        made.before[step.id] = held
    return JobSheet(steps=ordered(made.linked()))


def _new_findings(changing: Changing, settings: Settings) -> list[Finding]:
    """The findings that need something and that the bike as it stands does not already have."""
    if changing.then is changing.now:
        return []
    stands = {(*finding.about, finding.says) for finding in check(changing.now, settings).findings}
    return [
        finding
        for finding in check(changing.then, settings).findings
        if finding.verdict is Verdict.GOES_IF and (*finding.about, finding.says) not in stands
    ]


class _Making:
    """Steps as they are gathered, by id, with what each is after as patterns."""

    def __init__(self, *, changing: Changing, settings: Settings) -> None:
        self.changing = changing
        self.settings = settings
        self.steps: dict[str, Step] = {}
        self.accepted: list[str] = []
        self.before: dict[str, list[str]] = {}  # by id what may not start before it, as patterns
        self._told: dict[str, str] | None = None

    # the table

    def template(self, row: Template) -> None:
        """The steps of one row, for both ends where it has them."""
        for end in ENDS if "{end}" in row.slot else ("",):
            slot = row.slot.replace("{end}", end)
            name = row.id.replace("{end}", end)
            known = slot == "bike" or slot in SLOTS
            if known and name not in self.steps and self.changing.says(row.on, slot) and self._fits(row, end):
                self.steps[name] = self._step(row, end, slot, name)

    def _fits(self, row: Template, end: str) -> bool:
        changing = self.changing
        return row.fits(end, changing.now if row.does == "take_off" else changing.then)

    def _step(self, row: Template, end: str, slot: str, name: str) -> Step:
        changing = self.changing
        old, new = changing.now.filled().get(slot), changing.then.filled().get(slot)
        part = old if row.does == "take_off" else new if row.does == "fit" else None
        reading = dict(row.reading) if row.reading else None
        if reading and "slot" in reading:
            reading["slot"] = slot
        torque = self._torque(row)
        if torque is None and reading == {"word": "torque", "unit": "Nm"}:
            reading = None
        return Step(
            id=name,
            slot=slot,
            does=row.does,
            says=self._says(row, end, slot, part.name if part else ""),
            part=part.name if part and row.word != "wheel" else None,
            tools=row.tools,
            compound=row.compound,
            torque=torque,
            thread=row.thread,
            passes=row.passes,
            minutes=row.minutes,
            wait_minutes=row.wait_minutes,
            after=tuple(dict.fromkeys(one for name in row.after for one in _ended(name, end))),
            reading=reading,
            caution=row.caution,
            safety=row.safety or (row.does in ("fit", "adjust", "check") and _safe(slot)),
            place=place_of(slot),
            rank=row.rank * 2 + (end == "rear"),
        )

    def _says(self, row: Template, end: str, slot: str, part: str) -> str:
        says = row.says.replace("{end}", end).replace(
            "{part}", part or SLOTS[slot].title.lower() if slot in SLOTS else ""
        )
        if "{line}" in says or "{chain}" in says:
            says = says.replace("{line}", self._figure(slot)).replace("{chain}", self._figure("chain"))
        return says.strip()

    def _figure(self, slot: str) -> str:
        """A line's or the chain's length in a sentence, where it can be worked out."""
        if self._told is None:
            then = self.changing.then
            chain = chain_of(then, self.settings) if "chain" in then.filled() else None
            self._told = {
                "chain": f"Its window: {chain.shown} links. {chain.cut}" if chain and chain.shown else ""
            }
            for line in (
                line_reports(then) if {name for name in self.changing.on if name.endswith("_line")} else []
            ):
                need = line.need_mm
                self._told[line.slot] = (
                    f"Its path needs {need:.0f} mm, the bar turned." if need is not None else ""
                )
        return self._told.get(slot, "")

    def _torque(self, row: Template) -> Torque | None:
        """What the part itself states, else the table's."""
        if row.stated:
            slot, _, attr = row.stated.partition(".")
            part = self.changing.then.filled().get(slot)
            said = None if part is None else part.attrs.get(attr)
            if said is not None:
                return stated(said)
        if row.torque is None:
            return None
        return from_table(row.torque, lower_end=row.compound == LOWER_END)

    # parts that go over to another frame

    def carried_over(self) -> None:
        """Every part that stays, off the old frame and on the new one as it was."""
        for slot in (slot for slot in SLOTS if slot in self.changing.over):
            end = slot.partition("_")[0]
            title = self.changing.then.parts[slot].name or SLOTS[slot].title
            off, on = f"prepare:{slot}:off", f"prepare:{slot}:over"
            like = next((row for row in shipped() if row.does == "fit" and self._is_for(row, slot)), None)
            bare = Step(
                id=off, slot=slot, does="prepare", says="", minutes=OVER_MINUTES, place=place_of(slot)
            )
            fitted = bare if like is None else self._step(like, end, slot, on)
            self.steps[off] = evolve(
                bare,
                says=f"Off the old frame, kept together with what hangs on it: {title}.",
                tools=fitted.tools[:1],
                rank=NEEDS_RANK // 100,
            )
            self.steps[on] = evolve(
                fitted,
                id=on,
                does="prepare",
                part=None,
                says=f"On the new frame as it was: {title}.",
                after=tuple(dict.fromkeys(("fit:frame", off, *fitted.after))),
                safety=_safe(slot),
            )

    def _is_for(self, row: Template, slot: str) -> bool:
        end = slot.partition("_")[0]
        return row.slot.replace("{end}", end) == slot and row.on == "on" and row.fits(end, self.changing.then)

    # what was found

    def defect(self, one: Defect, opened: Sequence[str]) -> None:
        """A defect goes with its part; else it has a step of its own."""
        settled = f"{'fit' if one.slot in self.changing.new else 'take_off'}:{one.slot}"
        if one.slot in self.changing.new | self.changing.gone:
            name = next(name for name in self.steps if name == settled or name.startswith(f"{settled}:"))
            step = self.steps[name]
            self.steps[name] = evolve(step, defects=(*step.defects, one.ref))
            return
        row = lookup("look_over", "code")[one.defect]
        does = row.get("does", "look")
        name = f"{does}:{one.slot}:{one.defect}"
        torque = from_table(row["torque"]) if "torque" in row else None
        self.steps[name] = Step(
            id=name,
            slot=one.slot,
            does=does,
            says=f"{row['title']}: {row['mend'][0].lower()}{row['mend'][1:]}",
            tools=tuple(row.get("tools", ())),
            torque=torque,
            thread="right" if torque else None,
            reading={"word": "torque", "unit": "Nm"} if torque else None,
            minutes=row["minutes"],
            after=("look:bike", f"take_off:{one.slot}*"),
            safety=_safe(one.slot) and does in ("fit", "adjust", "check"),
            defects=(one.ref,),
            place=place_of(one.slot),
            rank=NEEDS_RANK // 50 + list(TICKS).index(one.defect),
        )
        if one.slot in opened:
            self.before[name] = [f"fit:{slot}" for slot in sorted(self.changing.reached)]
            self.steps[name] = evolve(
                self.steps[name],
                after=("look:bike", *(f"take_off:{slot}" for slot in sorted(self.changing.reached))),
            )

    # what the plan needs

    def needs(self, finding: Finding) -> None:
        """Each need of a finding as a step; alternatives together; what is accepted is signed at the end."""
        slot = self._slot_of(finding)
        either: dict[int, list[Mapping[str, Any]]] = {}
        groups: list[list[Mapping[str, Any]]] = []
        for need in finding.needs:
            if "either" not in need:
                groups.append([need])
            elif need["either"] in either:
                either[need["either"]].append(need)
            else:
                groups.append(either.setdefault(need["either"], [need]))
        for group in groups:
            self._need(slot, group, finding)

    def _slot_of(self, finding: Finding) -> str:
        filled = self.changing.then.filled()
        for among in (self.changing.new, self.changing.on, set(self.changing.then.parts), set(filled)):
            for slot in finding.slots:
                if slot in among:
                    return slot
        return "bike"

    def _need(self, slot: str, group: Sequence[Mapping[str, Any]], finding: Finding) -> None:
        first, whats = group[0], tuple(str(need["what"]) for need in group)
        row = lookup("needs", "what")[first["what"]]
        sort = first["sort"]
        if sort == "accept":
            self.accepted += [what for what in whats if what not in self.accepted]
            return
        does = {"part": "fit", "work": row.get("step", "prepare"), "check": "check"}[sort]
        does = row["step"] if sort == "check" and row.get("step") in ("measure", "look") else does
        name = f"{does}:{slot}:{_slug(first['what'])}"
        settled = row.get("settled_by", "").replace("{end}", slot.partition("_")[0])
        name = settled if settled in self.steps else name
        if name in self.steps:
            step = self.steps[name]
            self.steps[name] = evolve(step, needs=tuple(dict.fromkeys((*step.needs, *whats))))
            return
        cannot = row.get("irreversible")
        early = sort == "part" or does == "prepare"
        after = (
            [f"take_off:{one}*" for one in finding.slots]
            if early
            else [f"fit:{one}*" for one in finding.slots]
        )
        after += [] if early else [f"adjust:{one}*" for one in finding.slots]
        if cannot:
            after.append(self._measured(slot, first, cannot))
        words = " or ".join(_need_says(need) for need in group)
        self.steps[name] = Step(
            id=name,
            slot=slot,
            does=does,
            says=f"{words[0].upper()}{words[1:]}. {finding.says}",
            minutes=round(row.get("minutes", 5)),
            after=tuple(dict.fromkeys(one for one in after if one != f"{does}:{slot}*")),
            caution=lookup("cautions", "code")[cannot]["says"] if cannot else None,
            safety=_safe(slot) and does in ("fit", "adjust", "check"),
            needs=whats,
            place=place_of(slot),
            rank=self._rank_of(slot, early),
        )
        if early and name != "prepare:fork:cut-the-steerer":
            self.before[name] = [
                f"fit:{slot}",
                *(f"fit:{slot}:{word}" for word in ("wheel", "drive", "right")),
            ]
        elif early:
            self.before[name] = ["fit:stem"]

    def _measured(self, slot: str, need: Mapping[str, Any], cannot: str) -> str:
        """The step that measures before something that cannot be undone."""
        if slot == "fork" and "measure:fork:steerer" in self.steps:
            return "measure:fork:steerer"
        name = f"measure:{slot}:{_slug(str(need['what']))}"
        self.steps[name] = Step(
            id=name,
            slot=slot,
            does="measure",
            says="Measure, mark, measure again: this cannot be undone.",
            minutes=5,
            after=("look:bike", f"take_off:{slot}*"),
            caution=lookup("cautions", "code")[cannot]["says"],
            reading={"word": str(need["what"]), "unit": "mm"},
            place=place_of(slot),
            rank=self._rank_of(slot, True),
        )
        return name

    def _rank_of(self, slot: str, early: bool) -> int:
        """The rank of the slot's own step, a little before or after it."""
        ranks = [
            step.rank for step in self.steps.values() if step.slot == slot and step.does in ("fit", "adjust")
        ]
        return min(ranks) - 1 if ranks and early else max(ranks) if ranks else NEEDS_RANK

    # links

    def linked(self) -> list[Step]:
        """The steps with their links as ids, and what was accepted on the last."""
        ends = self.steps["hand_over:bike"]
        self.steps["hand_over:bike"] = evolve(
            ends,
            needs=tuple(self.accepted),
            says=f"{ends.says} Accepted and signed: {'; '.join(self.accepted)}."
            if self.accepted
            else ends.says,
        )
        blocked: dict[str, list[str]] = {}
        for name, patterns in self.before.items():
            for pattern in patterns:
                blocked.setdefault(pattern, []).append(name)
        out = []
        for name, step in self.steps.items():
            links = {one for pattern in step.after for one in self._matching(pattern)} | set(
                blocked.get(name, ())
            )
            if step.does in ("fit", "adjust"):
                links |= set(self._matching(f"take_off:{step.slot}*")) | set(self._matching("look:motor"))
            if step.does == "adjust" and not name.endswith(":hung"):
                links |= {one for link in ADJUSTED_AFTER.get(step.slot, ()) for one in self._matching(link)}
            if step.does != "look":
                links.add("look:bike")
            out.append(evolve(step, after=tuple(sorted(links - {name}))))
        return out

    def _matching(self, pattern: str) -> Iterable[str]:
        """The ids that a link names: itself, all that begin so (`fit:crank*`), all work (`*`), all checks."""
        if pattern == "*":
            return [name for name, step in self.steps.items() if not _final(step)]
        if pattern == "check:*":
            last = ("check:bike:bolts", "check:bike:ride")
            return [name for name, step in self.steps.items() if step.does == "check" and name not in last]
        if pattern.endswith("*"):
            found = [
                name for name in self.steps if name == pattern[:-1] or name.startswith(f"{pattern[:-1]}:")
            ]
        else:
            found = [pattern] if pattern in self.steps else []
            if pattern.startswith("fit:") and pattern.count(":") == 1:  # and what was needed there
                found += [
                    name
                    for name, step in self.steps.items()
                    if (step.needs or step.defects) and name.startswith(f"{pattern}:")
                ]
        does, _, slot = pattern.removesuffix("*").partition(":")
        over = f"prepare:{slot}:{'over' if does == 'fit' else 'off'}"
        return [*found, over] if does in ("fit", "take_off") and over in self.steps else found


def _final(step: Step) -> bool:
    """Whether a step comes after all work: the last checks and the hand-over."""
    return "*" in step.after


def _ended(name: str, end: str) -> list[str]:
    """A link of a row for one end; `{any}` stands for both, and `rear>` before it for the rear end alone."""
    only, sign, rest = name.rpartition(">")
    if sign and only != end:
        return []
    name = rest
    names = [name.replace("{any}", one) for one in ENDS] if "{any}" in name else [name]
    return [one.replace("{end}", end) for one in names]


def _safe(slot: str) -> bool:
    return slot in SLOTS and SLOTS[slot].area in (Area.BRAKES, Area.STEERING)


def _slug(words: str) -> str:
    return re.sub(r"[^a-z0-9]+", "-", words.lower()).strip("-")[:60]


def _need_says(need: Mapping[str, Any]) -> str:
    """A need in words, with its size and where it goes."""
    size = f", {need['size_mm']:g} mm" if isinstance(need.get("size_mm"), (int, float)) else ""
    where = f", {need['where']}" if need.get("where") else ""
    return f"{need['what']}{size}{where}"
