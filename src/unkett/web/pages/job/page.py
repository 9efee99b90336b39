"""What the page of a job shows: one step large, the sheet beside it."""

from __future__ import annotations

import datetime
from collections.abc import Mapping
from functools import cached_property
from typing import Any

from attrs import field, frozen
from django import forms
from django.utils import timezone

from unkett.core.check.joint_verdicts import Judged
from unkett.core.diagnose.tables import shipped
from unkett.core.drawing.marks import close_up, with_joints
from unkett.core.drawing.side import drawn
from unkett.core.intake.inspection import TICKS
from unkett.core.scene import Scene
from unkett.core.standards import lookup
from unkett.core.vocabulary import SLOTS, Area, title_of
from unkett.core.work.facts import holds
from unkett.core.work.scope import Holds, held
from unkett.web.bikes.complaints import TRIED
from unkett.web.bikes.inspection import defects_of
from unkett.web.jobs.found import GOES
from unkett.web.jobs.models import Job, JobStep
from unkett.web.jobs.queries import Sheet, sheet_stored
from unkett.web.jobs.stepping import did_the_work
from unkett.web.pages.common.bike_page import BikePage
from unkett.web.pages.job.forms import FOUND_FORMS, NoteForm, OutsideForm
from unkett.web.plans.models import QuoteItem
from unkett.web.tasks.models import Task
from unkett.web.tasks.services import last_asked
from unkett.web.workshop.permissions import may

DOES_SAYS = {
    "look": "Look", "order": "Order", "take_off": "Take off", "prepare": "Prepare", "clean": "Clean", "fit": "Fit",
    "adjust": "Adjust", "wait": "Wait", "measure": "Measure", "check": "Check", "hand_over": "Hand over",
}  # fmt: skip

GROUP_TITLES = {Area.BRACKET: "Bottom bracket and crank"}


@frozen(kw_only=True, slots=False)
class JobPage(BikePage):
    """The job of a plan; `chosen_id` asks for a step, `fault` says why it was not ticked.

    `outside` is set where a reading was refused and may be kept; `answered` holds what was typed.
    """

    chosen_id: int | None = None
    fault: str = ""
    outside: bool = False
    answered: Mapping[str, str] = field(factory=dict)
    form: Any = None

    @cached_property
    def job(self) -> Job | None:
        return Job.objects.filter(plan=self.plan).select_related("checked_by").first()

    @cached_property
    def sheet(self) -> Sheet | None:
        return sheet_stored(self.job) if self.job else None

    @cached_property
    def step(self) -> JobStep | None:
        """The step that is shown: the one asked for, else what this person does next."""
        if self.sheet is None:
            return None
        asked = next((one for one in self.sheet.steps if one.pk == self.chosen_id), None)
        return asked or self.sheet.next_for(self.actor) or next(iter(self.sheet.steps[-1:]), None)

    @cached_property
    def next_step(self) -> JobStep | None:
        """What comes after the one that is shown."""
        if self.sheet is None or self.step is None:
            return None
        return next((one for one in self.sheet.open_steps if one.place > self.step.place), None)

    @cached_property
    def waits_for(self) -> list[JobStep]:
        return self.sheet.before(self.step) if self.sheet and self.step else []

    @property
    def requires(self) -> list[tuple[str, bool]]:
        """What must hold before the step, each with whether it does."""
        return self.sheet.requires(self.step) if self.sheet and self.step else []

    @property
    def along(self) -> list[str]:
        """What moves along with the part of the step."""
        return [title_of(slot).lower() for slot in (self.step.content.get("with", ()) if self.step else ())]

    @property
    def turns(self) -> str:
        """Which way the thread turns: tightening by its hand, coming off the other way; empty where it has none."""
        if self.step is None or not self.step.content["thread"]:
            return ""
        tightens = "clockwise" if self.step.content["thread"] == "right" else "anticlockwise"
        loosens = "anticlockwise" if self.step.content["thread"] == "right" else "clockwise"
        return loosens if self.step.content["does"] == "take_off" else tightens

    @property
    def later_done(self) -> list[JobStep]:
        """The steps that are undone with this one."""
        return self.sheet.counting_on(self.step) if self.sheet and self.step and self.step.is_done else []

    @property
    def part_goes(self) -> list[tuple[str, str]]:
        return [(one.value, says) for one, says in GOES.items()]

    @property
    def fits_new(self) -> bool:
        """Whether the step fits a part that the plan changes and that is not on the bike's record yet."""
        if self.step is None or self.plan is None or self.step.content["does"] != "fit":
            return False
        own = self.step.content["part"] is not None
        return (
            own
            and self.plan.changes.filter(slot=self.step.content["slot"], empties=False, fitted=None).exists()
        )

    @property
    def tool_missing(self) -> list[str]:
        """The tools of the step that this workshop does not have."""
        missing = set(self.actor.workshop.tools_missing)
        return [tool for tool in (self.step.content["tools"] if self.step else ()) if tool in missing]

    @cached_property
    def sheet_groups(self) -> list[tuple[str, list[JobStep]]]:
        """The sheet by what it works on, in its order, steps of one part that follow each other together."""
        found: list[tuple[str, list[JobStep]]] = []
        for one in self.sheet.steps if self.sheet else ():
            title = (
                GROUP_TITLES.get(SLOTS[one.content["slot"]].area, SLOTS[one.content["slot"]].area.value)
                if one.content["slot"] in SLOTS
                else "Bike"
            )
            if not found or found[-1][0] != title:
                found.append((title, []))
            found[-1][1].append(one)
        return found

    @property
    def does(self) -> str:
        return DOES_SAYS[self.step.content["does"]] if self.step else ""

    @property
    def compound(self) -> str:
        code = self.step.content["compound"] if self.step else None
        return str(lookup("compounds", "code")[code]["title"]) if code else ""

    @property
    def passes(self) -> range:
        return range(self.step.content["passes"] if self.step and self.step.content["passes"] > 1 else 0)

    @property
    def is_last(self) -> bool:
        return self.step is not None and self.step.content["does"] == "hand_over"

    @property
    def ready_by(self) -> datetime.datetime | None:
        """About when it is done if one pair of hands goes on from now."""
        if self.sheet is None or not self.sheet.open_steps:
            return None
        now = timezone.now()
        done = now + datetime.timedelta(minutes=self.sheet.minutes_left)
        rests = [one.rests_until for one in self.sheet.resting if one.rests_until]
        waits = [
            now + datetime.timedelta(minutes=one.content["wait_minutes"]) for one in self.sheet.open_steps
        ]
        return max([done, *rests, *waits])

    @property
    def _joints_here(self) -> list[Judged]:
        """The joints of the step's part: with what holds it, else any of its own, else those of what holds it."""
        slot = self.step.content["slot"] if self.step else ""
        build = self.stands.build
        holding = [
            one.fact for one in held().get(slot, Holds()).held_by if not one.test or holds(one.test, build)
        ]
        holders = set(holding[:1])

        def among(*wanted: set[str]) -> list[Judged]:
            return [
                one
                for one in self.joints
                if any(all(names & set(finding.slots) for names in wanted) for finding in one.findings)
            ]

        return (
            among({slot}, holders) or among({slot}) or among(holders - {"frame"})
        )  # a frame has joints everywhere

    @property
    def place(self) -> Scene:
        """The bike's own drawing at the joint of the step's part, large."""
        here = self._joints_here
        scene = with_joints(drawn(self.bones, self.gear), here, self.bones, "")
        return close_up(scene, here, self.bones)

    @property
    def own_proof(self) -> bool:
        """Whether whoever looks would prove their own work while somebody else works on the job."""
        step, sheet = self.step, self.sheet
        return bool(step and sheet and step.proves and did_the_work(sheet, step, self.actor))

    @property
    def may_do(self) -> bool:
        return may(self.actor, "do-steps") and self.job is not None and self.job.ended is None

    @property
    def may_sign(self) -> bool:
        return may(self.actor, "countersign")

    @property
    def may_change(self) -> bool:
        return may(self.actor, "change-jobs") and (self.job is None or self.job.ended is None)

    @property
    def may_find(self) -> bool:
        return may(self.actor, "change-plans") and self.job is not None and self.job.ended is None

    @cached_property
    def note_form(self) -> NoteForm:
        if isinstance(self.form, NoteForm):
            return self.form
        if self.job is None or self.plan is None:
            return NoteForm()
        promised = self.plan.promised and timezone.localtime(self.plan.promised)
        known = {"promised": promised, "parts_on": self.plan.parts_on}
        return NoteForm(initial=known | {name: getattr(self.job, name) for name in ("later", "kept")})

    @property
    def slots(self) -> list[tuple[str, str]]:
        """The parts that may be needed."""
        return [(name, slot.title) for name, slot in SLOTS.items()]

    @property
    def found_forms(self) -> list[tuple[str, str, forms.Form]]:
        """The ways to write down what is found on the stand: by code, in words, its form."""
        return [
            (code, title, self.form if isinstance(self.form, made) else made())
            for (code, made), title in zip(FOUND_FORMS.items(), ("A defect", "Something else"), strict=True)
        ]

    @cached_property
    def outside_form(self) -> OutsideForm:
        return self.form if isinstance(self.form, OutsideForm) else OutsideForm()


PAPERS = {
    "sheet": ("Job sheet", "job/_sheet.html"),
    "torques": ("Torque sheet", "job/_torques.html"),
    "hand-over": ("Hand-over sheet", "job/_hand_over.html"),
}


@frozen(kw_only=True, slots=False)
class PaperPage(JobPage):
    """A sheet of paper of a job: what is done, the torques, or what goes with the bike."""

    sort: str

    @property
    def title(self) -> str:
        return PAPERS[self.sort][0]

    @property
    def template(self) -> str:
        return PAPERS[self.sort][1]

    @cached_property
    def pdf(self) -> Task | None:
        return last_asked(self.actor, "job-pdf", self.job.pk if self.job else 0, {"sort": self.sort})

    @cached_property
    def asked_again(self) -> dict[str, Any]:
        """What was complained of, as it was tried last, with what the checks said."""
        last = self.bike.search.get("last")
        if not last:
            return {}
        checks = shipped().checks
        return {
            "complaints": [{**one, "says": TRIED[one["said"]].lower()} for one in last["complaints"]],
            "checks": [
                (checks[one["check"]].title, one["result"])
                for one in last["answers"]
                if one["result"] and one["check"] in checks
            ],
        }

    @property
    def work_done(self) -> list[JobStep]:
        """What was fitted, adjusted, cleaned and prepared, or left out."""
        words = ("fit", "adjust", "clean", "prepare")
        steps = self.sheet.steps if self.sheet else ()
        return [one for one in steps if one.is_done and one.content["does"] in words]

    @property
    def parts_changed(self) -> list[tuple[str, str, str]]:
        """By slot what came off and what went on."""
        if self.plan is None:
            return []
        rows = []
        for change in self.plan.changes.all():
            old = self.was.get(change.slot)
            rows.append((SLOTS[change.slot].title, old or "", change.name))
        return rows

    @cached_property
    def was(self) -> dict[str, str]:
        """The names of the parts that stood there when the sheet was made."""
        steps = self.sheet.steps if self.sheet else ()
        return {
            one.content["slot"]: one.content["part"] or ""
            for one in steps
            if one.content["does"] == "take_off"
        }

    @property
    def left_for_next_time(self) -> list[str]:
        """What the inspection found and this job did not mend."""
        mended = {ref for one in (self.sheet.steps if self.sheet else ()) if one.is_done and not one.skipped
                  for ref in one.content["defects"]}  # fmt: skip
        ticks, own = defects_of(self.bike)
        words = [(one.ref, f"{title_of(one.slot)}: {TICKS[one.defect].title.lower()}") for one in ticks]
        words += [(one.ref, f"{title_of(one.slot)}: {one.says}") for one in own]
        return [says for ref, says in words if ref not in mended]

    @property
    def given_free(self) -> list[QuoteItem]:
        return list(self.plan.quote_lines.filter(given=True)) if self.plan else []
