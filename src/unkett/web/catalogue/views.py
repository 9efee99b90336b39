"""The catalogue from the part's side: find a part, see which of our bikes can use it."""

from __future__ import annotations

from django.core.paginator import Paginator
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render

from unkett.core.vocabulary import KINDS, slots_of_kind
from unkett.web.bikes.forms import FindForm
from unkett.web.bikes.queries import settings_of
from unkett.web.catalogue.queries import found_by_words, parts_seen_by, uses_of
from unkett.web.site.templatetags.unkett import shown_value
from unkett.web.workshop.permissions import allowed

PAGE = 50


@allowed("see-catalogue")
def parts(request: HttpRequest) -> HttpResponse:
    """Catalogue parts by kind, found by words."""
    kind = request.GET.get("kind", "")
    find = FindForm.words(request.GET)
    found = found_by_words(parts_seen_by(request.user), request.user, find).order_by("kind", "price", "id")
    if kind in KINDS:
        found = found.filter(kind=kind)
    page = Paginator(found, PAGE).get_page(request.GET.get("page"))
    rows = [{"part": part, "kind": KINDS[part.kind].title} for part in page]
    context = {"page": page, "rows": rows, "kinds": KINDS, "kind": kind, "words": find}
    return render(request, "catalogue/parts.html", context)


@allowed("see-catalogue")
def part(request: HttpRequest, part_id: int) -> HttpResponse:
    """One part: its dimensions and the bikes it can go on."""
    found = parts_seen_by(request.user).filter(pk=part_id).first()
    if found is None:
        raise Http404
    slot = slots_of_kind(found.kind)[0].name
    values = [
        shown_value(slot, name, found.attrs[name], "stated")
        for name in KINDS[found.kind].attributes
        if name in found.attrs
    ]
    uses = uses_of(request.user, found, settings_of(request.user))
    context = {"part": found, "kind": KINDS[found.kind], "values": values, "uses": uses}
    return render(request, "catalogue/part.html", context)
