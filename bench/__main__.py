"""Measures the figures that quality is judged by and prints them as JSON."""

from __future__ import annotations

import json
import os
import statistics
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parents[1]
DEMO = ROOT / "src/unkett/web/workshop/demo/bikes.json"
PARTS = 100_000
VARIANTS = 50  # every catalogue entry in so many distinct sorts


def median_ms(action: Callable[[], Any], runs: int) -> float:
    """Median time of one run in milliseconds, after one run to warm up."""
    action()
    times = []
    for _ in range(runs):
        begin = time.perf_counter()
        action()
        times.append((time.perf_counter() - begin) * 1000)
    return round(statistics.median(times), 3)


def paired_ms(one: Callable[[], Any], other: Callable[[], Any], runs: int) -> tuple[float, float, float]:
    """Medians of two actions run in turn, and the median of their ratios: a slow moment hits both alike."""
    one()
    other()
    pairs = []
    for _ in range(runs):
        begin = time.perf_counter()
        one()
        middle = time.perf_counter()
        other()
        pairs.append(((middle - begin) * 1000, (time.perf_counter() - middle) * 1000))
    firsts, seconds = zip(*pairs, strict=True)
    ratio = statistics.median(a / b for a, b in pairs)
    return round(statistics.median(firsts), 3), round(statistics.median(seconds), 3), round(ratio, 2)


def core_figures() -> dict[str, float]:
    from unkett.core.build import build_from
    from unkett.core.engine import check

    build = build_from(json.loads(DEMO.read_text())[0]["build"])
    return {"check_build_ms": median_ms(lambda: check(build), 300)}


def cli_figures() -> dict[str, float]:
    given = json.dumps(json.loads(DEMO.read_text())[0]["build"])
    command = [str(ROOT / "unkett"), "check", "-"]

    def run() -> None:
        subprocess.run(command, input=given, text=True, capture_output=True, check=False)  # noqa: S603

    return {"check_command_ms": median_ms(run, 15)}


def web_figures() -> dict[str, float]:
    """Server time of the Plan page's pieces with a full catalogue, against a bare one-query page."""
    import django
    from django.conf import settings

    django.setup()
    settings.ALLOWED_HOSTS = ["testserver"]
    from django.test import Client
    from django.test.runner import DiscoverRunner

    runner = DiscoverRunner(verbosity=0, interactive=False)
    old = runner.setup_databases()
    try:
        return _timed_pages(Client())
    finally:
        runner.teardown_databases(old)


def _timed_pages(client: Any) -> dict[str, float]:
    from django.core.management import call_command
    from django.db import connection
    from django.urls import reverse

    from unkett.core.settings import DEFAULTS
    from unkett.web.bikes.queries import standing
    from unkett.web.catalogue import queries
    from unkett.web.catalogue.models import CataloguePart
    from unkett.web.catalogue.services import add_parts
    from unkett.web.plans.models import Plan
    from unkett.web.workshop.models import User

    call_command("load_demo", verbosity=0)
    owner = User.objects.get(username="rona")
    kinds = list(CataloguePart.objects.values("kind", "attrs"))
    entries = (
        {"name": f"Part {n}", "price": n % 300, **_varied(kinds[n % len(kinds)], n % VARIANTS)}
        for n in range(PARTS)
    )
    add_parts(owner.workshop, entries)
    with connection.cursor() as cursor:
        cursor.execute("ANALYZE")  # what the database does by itself a little later
    client.force_login(owner)
    plan = Plan.objects.get(name="Wide tens")
    part = CataloguePart.objects.filter(kind="cassette").first()
    fragment = {"HTTP_HX_REQUEST": "true"}

    def change() -> None:
        plan.refresh_from_db()
        data = {"version": plan.version, "part": part.pk}
        answer = client.post(reverse("plans:part-swap", args=[plan.pk, "cassette"]), data, **fragment)
        assert answer.status_code == 200, answer.status_code

    def drawer() -> None:
        answer = client.get(reverse("plans:drawer", args=[plan.pk, "cassette"]), **fragment)
        assert answer.status_code == 200, answer.status_code

    build = standing(owner, plan.bike_id).build

    def search() -> None:
        queries.what_goes(owner, build, "cassette", DEFAULTS)

    def bare() -> None:
        parts = CataloguePart.objects.filter(workshop=owner.workshop, kind="cassette")
        list(parts.order_by("price", "id")[: queries.PAGE])

    def first() -> None:
        queries._verdicts.cache_clear()
        search()

    classes = len(queries.class_verdicts(owner, build, "cassette", DEFAULTS).by_class)
    first_ms = median_ms(first, 5)
    fit_ms, bare_ms, ratio = paired_ms(search, bare, 60)
    return {
        "fit_search_ms": fit_ms,
        "fit_search_first_ms": first_ms,
        "fit_search_classes": classes,
        "bare_query_ms": bare_ms,
        "fit_search_ratio": ratio,
        "catalogue_parts": PARTS,
        "plan_fragment_ms": median_ms(change, 30),
        "drawer_ms": median_ms(drawer, 10),
        "bare_page_ms": median_ms(lambda: client.get(reverse("workshop:log-list")), 30),
    }


def _varied(entry: dict[str, Any], n: int) -> dict[str, Any]:
    """A catalogue entry made a little different, so that kinds have many distinct sorts."""
    attrs = dict(entry["attrs"])
    for name, value in list(attrs.items()):
        if name.endswith("_mm") and isinstance(value, (int, float)):
            attrs[name] = round(value + n / 1000, 3)
        elif name == "teeth" and len(value) > 1:
            attrs[name] = [*value[:-1], min(60, value[-1] + n % 9)]
            attrs["extra_spacer_mm" if entry["kind"] == "cassette" else "x_n"] = round(n / 200, 3)
    return {"kind": entry["kind"], "attrs": attrs}


def main() -> int:
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "unkett.web.site.settings")
    print(
        json.dumps({"format": "unkett.bench/1", **core_figures(), **cli_figures(), **web_figures()}, indent=2)
    )
    return 0


if __name__ == "__main__":
    sys.exit(main())
