"""Service packages as the workshop has them, and the tools that it does not have."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cached_property
from typing import Any

from attrs import field, frozen
from django import forms
from django.http import HttpResponse
from django.shortcuts import redirect

from unkett.core.errors import Fault, InputError
from unkett.core.rules.outcome import need_words
from unkett.core.standards import table
from unkett.core.vocabulary import SLOTS
from unkett.core.work.packages import Package, shipped_packages
from unkett.core.work.templates import shipped
from unkett.web.pages.common.answers import answer
from unkett.web.pages.common.forms import Money, clean
from unkett.web.pages.common.guard import allowed
from unkett.web.pages.common.request import Request
from unkett.web.pages.steps.views import plain, title_of
from unkett.web.rulebook.packages import drop_package, packages_of, steps_for_packages, write_package
from unkett.web.show.fields import by_name
from unkett.web.workshop.models import User
from unkett.web.workshop.permissions import may
from unkett.web.workshop.services import keep_tools


def _step_choices() -> list[tuple[str, str]]:
    found = []
    for code, says in steps_for_packages().items():
        does, slot, word = [*code.split(":", 2), ""][:3]
        found.append((code, f"{title_of(does, slot, word.replace('_', ' '))} – {plain(says)[:60]}"))
    return sorted(found, key=lambda one: one[1])


def _move_choices(kept: tuple[str, ...]) -> list[tuple[str, str]]:
    """Return the parts that may come off and go on again; those of the package that come off only where it can be."""
    conditions = {name.partition(" if ")[0]: name for name in kept if " if " in name}
    return [
        (
            conditions.get(name, name),
            f"{slot.title}{', where its sort allows it' if name in conditions else ''}",
        )
        for name, slot in SLOTS.items()
    ]


class PackageForm(forms.Form):
    """A service package; `code` is empty for a new one."""

    code = forms.CharField(max_length=60, required=False, widget=forms.HiddenInput)
    title = forms.CharField(max_length=60, strip=True, label="Name")
    says = forms.CharField(
        max_length=400,
        required=False,
        strip=True,
        label="What it is",
        widget=forms.Textarea(attrs={"rows": 2}),
    )
    steps = forms.MultipleChoiceField(
        required=False, label="Steps", choices=_step_choices, widget=forms.SelectMultiple(attrs={"size": 12})
    )
    moves = forms.MultipleChoiceField(
        required=False, label="Comes off and goes on again", widget=forms.SelectMultiple(attrs={"size": 6})
    )
    bolts = forms.BooleanField(required=False, label="Every bolt of the bike, with its torque")
    brings = forms.MultipleChoiceField(
        required=False,
        label="Small parts it uses",
        choices=lambda: [
            (row["what"], need_words(row["what"])) for row in table("needs").rows if row["sort"] == "part"
        ],
        widget=forms.SelectMultiple(attrs={"size": 4}),
    )
    price = Money(
        required=False,
        min_value=0,
        max_digits=9,
        decimal_places=2,
        label="Fixed price of its labour, else by the minute",
    )
    left_out = forms.BooleanField(required=False, label="We do not offer it")

    def __init__(self, *args: Any, moves: tuple[str, ...] = (), **more: Any) -> None:
        super().__init__(*args, **more)
        moving = self.fields["moves"]
        assert isinstance(moving, forms.MultipleChoiceField)
        moving.choices = _move_choices(moves)


@frozen(kw_only=True, slots=False)
class PackagesPage:
    """The service packages; one may be opened to be written."""

    actor: User
    opened: str = ""
    form: PackageForm | None = None
    wrong: Mapping[str, Fault] = field(factory=dict)

    @cached_property
    def packages(self) -> Mapping[str, Package]:
        return packages_of(self.actor.workshop)

    @property
    def left_out(self) -> list[Package]:
        """Packages that ship and that the workshop does not offer."""
        return [one for code, one in shipped_packages().items() if code not in self.packages]

    @cached_property
    def package(self) -> Package | None:
        return self.packages.get(self.opened) or shipped_packages().get(self.opened)

    @property
    def package_form(self) -> PackageForm:
        if self.form is not None:
            return self.form
        if self.package is None:
            return PackageForm()
        names = ("code", "title", "says", "steps", "moves", "bolts", "brings", "price")
        initial = {name: getattr(self.package, name) for name in names}
        out = self.package.code not in self.packages
        return PackageForm(initial={**initial, "left_out": out}, moves=self.package.moves)

    @property
    def ships(self) -> bool:
        return self.opened in shipped_packages()

    @property
    def may_change(self) -> bool:
        return may(self.actor, "change-steps")


@allowed("see-rules")
def packages(request: Request) -> HttpResponse:
    """The packages; `package` opens one."""
    page = PackagesPage(actor=request.user, opened=request.GET.get("package", ""))
    return answer(request, "steps/packages.html", page)


@allowed("change-steps", "POST")
def write(request: Request) -> HttpResponse:
    """Write a package, or add one; what is wrong is reported beside its field and nothing is stored."""
    opened = request.POST.get("code", "")
    known = PackagesPage(actor=request.user, opened=opened).package
    form = PackageForm(request.POST, moves=known.moves if known else ())
    wrong: Mapping[str, Fault] = {}
    if form.is_valid():
        try:
            write_package(actor=request.user, code=form.cleaned_data["code"], content=form.cleaned_data)
        except InputError as error:
            wrong = by_name(error.faults)
        else:
            return redirect("jobs:packages")
    page = PackagesPage(actor=request.user, opened=opened, form=form, wrong=wrong)
    return answer(request, "steps/packages.html", page, status=422)


class CodeForm(forms.Form):
    code = forms.CharField(max_length=60)


@allowed("change-steps", "POST")
def drop(request: Request) -> HttpResponse:
    """Restore a package as it ships, or remove one of the workshop's own."""
    drop_package(actor=request.user, code=clean(CodeForm(request.POST))["code"])
    return redirect("jobs:packages")


def tools_of_steps() -> list[str]:
    """Return every tool that a job step names, once, by name."""
    return sorted({tool for row in shipped() for tool in row.tools})


@frozen(kw_only=True, slots=False)
class ToolsPage:
    """The tools that job steps need, each with whether the workshop has it."""

    actor: User

    @property
    def tools(self) -> list[tuple[str, bool]]:
        missing = set(self.actor.workshop.tools_missing)
        return [(tool, tool not in missing) for tool in tools_of_steps()]

    @property
    def may_change(self) -> bool:
        return may(self.actor, "change-steps")


@allowed("see-rules", "GET", "HEAD", "POST")
def tools(request: Request) -> HttpResponse:
    """The tools of the workshop; what is not ticked is missing."""
    if request.method == "POST":
        had = set(request.POST.getlist("tool"))
        keep_tools(actor=request.user, missing=[tool for tool in tools_of_steps() if tool not in had])
        return redirect("jobs:tools")
    return answer(request, "steps/tools.html", ToolsPage(actor=request.user))
