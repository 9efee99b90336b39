"""What a plan changes in the findings of a bike."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from attrs import field, frozen

from unkett.core.check.engine import Check
from unkett.core.rules import RULES
from unkett.core.rules.finding import Finding
from unkett.core.rules.site import Site
from unkett.core.vocabulary import SLOTS


@frozen(kw_only=True)
class Difference:
    """What a plan changes in the findings; `causes` names the changed slots behind each finding."""

    new: tuple[Finding, ...]
    gone: tuple[Finding, ...]
    stay: tuple[Finding, ...]
    causes: Mapping[tuple[str, tuple[str, ...]], tuple[str, ...]] = field(factory=dict)


def site_of(finding: Finding) -> Site:
    """Return the rule's place on the bike that a finding speaks of."""
    return next(
        site
        for site in RULES[finding.rule].sites
        if site.joint == finding.joint and set(finding.slots) <= set(site.slots)
    )


def difference(before: Check, after: Check, changed_slots: Iterable[str]) -> Difference:
    """Return which findings of `after` are new or changed, which are gone and which stay.

    A finding counts as new when its joint said nothing before or says something else now; its
    causes are the changed slots among those it looks at.
    """
    was = {finding.about: finding for finding in before.findings}
    now = {finding.about: finding for finding in after.findings}
    changed = set(changed_slots)
    new = tuple(f for f in after.findings if f.about not in was or was[f.about].says != f.says)
    gone = tuple(f for f in before.findings if f.about not in now)
    stay = tuple(f for f in after.findings if f.about in was and was[f.about].says == f.says)
    causes = {}
    for finding in (*new, *gone):
        looked_at = site_of(finding).slots
        causes[finding.about] = tuple(slot for slot in SLOTS if slot in changed and slot in looked_at)
    return Difference(new=new, gone=gone, stay=stay, causes=causes)
