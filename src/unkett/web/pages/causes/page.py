"""What the Causes page of a bike shows: what is complained of, what holds, the suspects, and the next check."""

from __future__ import annotations

from functools import cached_property
from typing import Any

from attrs import frozen

from unkett.core.bike.wear import sorts
from unkett.core.diagnose.asked import key_of
from unkett.core.diagnose.search import FOUND, NOT_FOUND, Offered, Run, Suspect
from unkett.core.diagnose.tables import shipped
from unkett.core.drawing.suspects import Sign, suspects_scene
from unkett.core.scene import Scene
from unkett.core.vocabulary import title_of
from unkett.core.vocabulary.words import in_sentence, listed
from unkett.web.bikes.complaints import Given, check_minutes, given_answers
from unkett.web.pages.common.complaints import ComplaintsPage
from unkett.web.show.values import Shown
from unkett.web.workshop.permissions import may

DOES = {"ask": "Ask", "look": "Look", "feel": "Feel", "try": "Try", "measure": "Measure"}
SHOWN_FIRST = 8  # suspects that a page brings at once
PARTED = 3  # suspects that a check is said to tell apart
TAKEN = {"tick": "On the job", "plan": "A plan is open", "check": "Mended by the check"}
SPEAKS = {"strong": "Speaks for it", "weak": "Fits", "against": "Against it", "clears": "Nearly cleared"}
RUN_TITLES = {"front": "Front", "rear": "Rear", None: "Not by end"}


@frozen(kw_only=True)
class SuspectShown(Shown):
    """A suspect of the run that is shown, with what speaks for and against it in words."""

    number: int
    one: Suspect
    where: str
    why: str
    taken: str

    @property
    def percent(self) -> str:
        share = self.one.share or 0.0
        return "under 1 %" if share < 0.01 else f"{share * 100:.0f} %"


@frozen(kw_only=True)
class CheckShown(Shown):
    """The check that is offered first: its results, why it is asked, and what it measures."""

    offered: Offered
    key: str
    why: str
    unit: str | None  # of what an instrument reads here; None where nothing is read

    @property
    def does(self) -> str:
        return DOES[self.offered.check.does]

    @property
    def minutes(self) -> str:
        return minutes_in_words(self.offered.check.minutes)


def minutes_in_words(minutes: float) -> str:
    """Minutes of a check in words."""
    return f"{minutes * 60:.0f} s" if minutes < 1 else f"{minutes:g} min"


def _why_held(one: dict[str, Any]) -> str:
    """Return what proves a cause, in words."""
    if "rule" in one:
        return str(one["says"])
    if "reading" in one:
        sort = sorts()[one["reading"]]
        return f"{sort.title} {one['value']:g} {sort.unit}; limit {one['limit']:g} {sort.unit}."
    if one.get("word") == "shows":
        return f"Seen by a check: {shipped().checks[one['check']].title}: {one['result']}."
    if "defect" in one and "slot" in one:
        return f"Ticked on the inspection: {title_of(one['slot']).lower()}."
    return ""


def _why_open(why: tuple[dict[str, Any], ...]) -> str:
    """Return what speaks for and against an open cause, in words."""
    said: dict[str, list[str]] = {word: [] for word in SPEAKS}
    for one in why:
        if "check" in one:
            said[one["word"]].append(f"{shipped().checks[one['check']].title}: {one['result']}")
    found = []
    for word, words in SPEAKS.items():
        if said[word]:
            found.append(f"{words}: {'; '.join(said[word])}.")
    if not found:
        weights = [one["weight"] for one in why if "complaint" in one]
        usual = max(weights, default=1)
        found.append("Usual." if usual >= 3 else "Sometimes." if usual >= 2 else "Rarely.")
    return " ".join(found)


@frozen(kw_only=True, slots=False)
class CausesPage(ComplaintsPage):
    """One bike's search: `typed` is what somebody looks for a complaint by."""

    fault: str = ""

    @cached_property
    def run(self) -> Run | None:
        """The search that is shown: the one asked for, else the first that is not at its end."""
        runs = self.causes.runs
        asked = self.asked.get("run", "")
        named = next((run for run in runs if asked and (run.end or "none") == asked), None)
        looking = next((run for run in runs if run.state not in (FOUND, NOT_FOUND)), None)
        return named or looking or (runs[0] if runs else None)

    @property
    def runs(self) -> list[tuple[str, str, bool, str]]:
        """Where the bike is searched at both ends: address, title, whether it is shown, how it stands."""
        if len(self.causes.runs) < 2:
            return []
        return [
            (f"?run={run.end or 'none'}", RUN_TITLES[run.end], run is self.run, run.state.replace("_", " "))
            for run in self.causes.runs
        ]

    # what is known

    @cached_property
    def suspects(self) -> list[SuspectShown]:
        run = self.run
        if run is None:
            return []
        settled = self.bike.search.get("settled", {})
        return [
            SuspectShown(
                number=n,
                one=one,
                where=listed([title_of(slot).lower() for slot in one.slots[:2]]),
                why=" ".join(filter(None, map(_why_held, one.why))) if one.holds else _why_open(one.why),
                taken=TAKEN.get(settled.get(one.cause.code, {}).get("how", ""), ""),
            )
            for n, one in enumerate(run.causes, start=1)
        ]

    @property
    def held(self) -> list[SuspectShown]:
        return [one for one in self.suspects if one.one.holds]

    @property
    def open_first(self) -> list[SuspectShown]:
        return [one for one in self.suspects if not one.one.holds][:SHOWN_FIRST]

    @property
    def open_more(self) -> list[SuspectShown]:
        return [one for one in self.suspects if not one.one.holds][SHOWN_FIRST:]

    @cached_property
    def done(self) -> list[Given]:
        return given_answers(self.bike)

    @property
    def cleared(self) -> list[str]:
        """Causes that a check nearly rules out: not seen, which is not the same as not there."""
        found = []
        for shown in self.suspects:
            words = {one["word"] for one in shown.one.why if "check" in one and "word" in one}
            if not shown.one.holds and "clears" in words and shown.one.word == "unlikely":
                found.append(in_sentence(shown.one.cause.title))
        return found

    @property
    def done_minutes(self) -> str:
        return minutes_in_words(check_minutes(self.bike))

    @cached_property
    def scene(self) -> Scene:
        """The bike with its suspects."""
        signs = [
            Sign(number=one.number, word=one.one.word, title=one.one.cause.title, slots=one.one.slots)
            for one in self.suspects
        ]
        return suspects_scene(self.bones, signs)

    # the next check

    @cached_property
    def check_shown(self) -> CheckShown | None:
        run = self.run
        if run is None or not run.next:
            return None
        offered = run.next[0]
        check = offered.check
        sort = sorts().get(check.reads)
        return CheckShown(
            offered=offered,
            key=key_of(check.code, run.end if check.by_end else None),
            why=self._why_asked(offered),
            unit=sort.unit if sort is not None else None,
        )

    def _why_asked(self, offered: Offered) -> str:
        """Why a check is asked: what it confirms, what it keeps from hurting somebody, or what it tells apart."""
        if offered.confirms:
            return f"Would show it: {in_sentence(shipped().causes[offered.confirms].title)}."
        values_of = {code for said in offered.check.words.values() for code in said}
        apart = [
            one.one.cause.title
            for one in self.suspects
            if not one.one.holds and one.one.cause.code in values_of
        ]
        words = listed([in_sentence(title) for title in apart[:PARTED]])
        if offered.safety:
            return f"Safety first, even where it is unlikely: {words}."
        return f"Tells most for its time: {words}."

    @property
    def later(self) -> list[Offered]:
        """The checks after the first."""
        return list(self.run.next[1:5]) if self.run else []

    @property
    def is_found(self) -> bool:
        return self.run is not None and self.run.state == FOUND

    @property
    def is_not_found(self) -> bool:
        return self.run is not None and self.run.state == NOT_FOUND

    @property
    def may_try(self) -> bool:
        return may(self.actor, "countersign")
