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

from bench import bins, instruments, jobs, kills, load, ways
from unkett.core.vocabulary import KINDS
from unkett.core.vocabulary.types import Number

ROOT = Path(__file__).resolve().parents[1]
DEMO = ROOT / "src/unkett/web/demo/bikes.json"
PARTS = 100_000
CHECKED_PARTS = 35  # a whole bike
BIKES = 10_000
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
    from unkett.core.check.engine import check
    from unkett.core.formats.reader import build_from

    whole = json.loads(DEMO.read_text())[0]["build"]
    parts = dict(list(whole["parts"].items())[:CHECKED_PARTS])
    build = build_from({**whole, "parts": parts})
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
    settings.ROOT_URLCONF = "bench.bare"
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

    from unkett.core.bike.routes import lines_of
    from unkett.core.settings import DEFAULTS
    from unkett.web.bikes.models import Bike
    from unkett.web.bikes.queries import current_bike
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
    client.force_login(owner)
    plan = Plan.objects.get(name="Wide tens")
    part = CataloguePart.objects.filter(kind="cassette").first()
    fragment = {"HTTP_HX_REQUEST": "true"}

    def change() -> None:
        plan.refresh_from_db()
        data = {"version": plan.version, "part": part.pk}
        url = reverse("plans:part-swap", args=[plan.pk, "cassette"])
        answer = client.post(url, data, follow=True, headers={"HX-Request": "true"})
        assert answer.status_code == 200, answer.status_code

    def swap() -> None:
        version = Plan.objects.values_list("version", flat=True).get(pk=plan.pk)
        url = reverse("plans:part-swap", args=[plan.pk, "cassette"])
        answer = client.post(url, {"version": version, "part": part.pk}, headers={"HX-Request": "true"})
        assert answer.status_code == 302, answer.status_code

    def bare_write() -> None:
        version = Plan.objects.values_list("version", flat=True).get(pk=plan.pk)
        answer = client.post("/bare/write/", {"pk": changed.pk, "name": f"Part {version}"})
        assert answer.status_code == 302, answer.status_code

    def drawer() -> None:
        answer = client.get(reverse("plans:drawer", args=[plan.pk, "cassette"]), **fragment)
        assert answer.status_code == 200, answer.status_code

    build = current_bike(owner, plan.bike_id).build
    changed = plan.changes.get(slot="cassette")

    def search() -> None:
        queries.what_goes(owner, build, "cassette", DEFAULTS)

    def bare() -> None:
        parts = CataloguePart.objects.filter(workshop=owner.workshop, kind="cassette")
        list(parts.order_by("price", "id")[: queries.PAGE])

    def first() -> None:
        queries._verdicts.cache_clear()
        search()

    _many_bikes(owner)
    renewal = _renewal(owner.workshop)
    with connection.cursor() as cursor:
        cursor.execute("VACUUM ANALYZE")  # what the database does by itself a little later
    stand_url = reverse("bikes:stand", args=[plan.bike_id])

    def stand() -> None:
        assert client.get(stand_url).status_code == 200

    def yard() -> None:
        assert client.get("/").status_code == 200

    def page() -> None:
        assert client.get("/bare/").status_code == 200

    stand_ms, bare_page_ms, stand_ratio = paired_ms(stand, page, 40)
    yard_ms, _, yard_ratio = paired_ms(yard, page, 20)
    plan_ms, _, plan_ratio = paired_ms(lambda: client.get(reverse("plans:show", args=[plan.pk])), page, 20)
    swap_ms, bare_write_ms, swap_ratio = paired_ms(swap, bare_write, 40)
    lines_url = reverse("bikes:work", args=[plan.bike_id, "lines"])
    causes_url = reverse("bikes:causes", args=[Bike.objects.get(name="Harbour post no. 4").pk])
    causes_ms, _, causes_ratio = paired_ms(lambda: client.get(causes_url), page, 20)
    lines_ms, _, lines_ratio = paired_ms(lambda: client.get(lines_url), page, 20)
    routed = current_bike(owner, plan.bike_id).build
    classes = len(queries.class_verdicts(owner, build, "cassette", DEFAULTS).ranks)
    first_ms = median_ms(first, 5)
    fit_ms, bare_ms, ratio = paired_ms(search, bare, 60)
    return {
        "fit_search_ms": fit_ms,
        "fit_search_first_ms": first_ms,
        "fit_search_classes": classes,
        "bare_query_ms": bare_ms,
        "fit_search_ratio": ratio,
        "catalogue_parts": PARTS,
        "swap_ms": swap_ms,
        "bare_write_ms": bare_write_ms,
        "swap_ratio": swap_ratio,
        "plan_fragment_ms": median_ms(change, 30),
        "drawer_ms": median_ms(drawer, 10),
        "bikes": Bike.objects.count(),
        "bare_page_ms": bare_page_ms,
        "stand_ms": stand_ms,
        "stand_ratio": stand_ratio,
        "plan_ms": plan_ms,
        "plan_ratio": plan_ratio,
        "causes_ms": causes_ms,
        "causes_ratio": causes_ratio,
        "lines_ms": lines_ms,
        "lines_ratio": lines_ratio,
        "lines_laid_ms": median_ms(lambda: lines_of(routed), 20),
        "yard_ms": yard_ms,
        "yard_ratio": yard_ratio,
        "bin": bins.figures(client, owner, paired_ms),
        "renewal": renewal,
    }


def _renewal(workshop: Any) -> dict[str, float]:
    """Seconds to renew every bike's verdict after rules changed: by the clock, and of this process's CPU."""
    from unkett.web.bikes.models import Bike
    from unkett.web.bikes.verdicts import renew_batch

    Bike.objects.filter(workshop=workshop).update(judged_by="other rules")
    begin, cpu, renewed = time.perf_counter(), time.process_time(), 0
    while number := renew_batch(workshop):
        renewed += number
    return {
        "bikes": renewed,
        "s": round(time.perf_counter() - begin, 2),
        "cpu_s": round(time.process_time() - cpu, 2),
    }


def _many_bikes(owner: Any) -> None:
    """So many bikes in the workshop, each a copy of one that is judged already."""
    from unkett.web.bikes.models import Bike, BikePart

    source = Bike.objects.get(name="Coast audax")
    parts = [{"slot": part.slot, **part.stored()} for part in source.fitted.all()]
    kept = {"verdict": source.verdict, "summary": source.summary, "judged_by": source.judged_by}
    bikes = Bike.objects.bulk_create(
        [Bike(workshop=owner.workshop, name=f"Bike {n}", use=source.use, **kept) for n in range(BIKES)],
        batch_size=2000,
    )
    for start in range(0, BIKES, 500):
        BikePart.objects.bulk_create(
            BikePart(workshop=owner.workshop, bike=bike, **part)
            for bike in bikes[start : start + 500]
            for part in parts
        )


VIEWS = {
    "yard": "/",
    "stand": "/bikes/{bike}/",
    "gears": "/bikes/{bike}/work/gears/",
    "chain": "/bikes/{bike}/work/chain/",
    "bracket": "/bikes/{bike}/work/bracket/",
    "brakes": "/bikes/{bike}/work/brakes/",
    "wheels": "/bikes/{bike}/work/wheels/",
    "steering": "/bikes/{bike}/work/steering/",
    "lines": "/bikes/{bike}/work/lines/",
    "plan": "/plans/{plan}/",
    "measure": "/measure/",
    "rules": "/rules/",
}


def paint_figures() -> dict[str, Any]:
    """First contentful paint of the main views in headless Chromium on loopback, against a server of its own."""
    from playwright.sync_api import sync_playwright

    flags = [
        "--no-sandbox",
        "--disable-gpu",
        "--disable-background-networking",
        "--disable-sync",
        "--no-first-run",
    ]
    url, config, stop = _server()
    try:
        with sync_playwright() as playwright:
            chromium = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=flags)
            page = chromium.new_page(viewport={"width": 1280, "height": 800})
            page.goto(f"{url}/sign-in/")
            page.get_by_label("Name").fill("rona")
            page.get_by_label("Password").fill(config["demo_password"])
            page.get_by_role("button", name="Sign in").click()
            bike = page.locator(".big-link").first.get_attribute("href").split("/")[2]
            plan = page.locator(".plans a").first.get_attribute("href").split("/")[2]
            paints = {}
            for name, path in VIEWS.items():
                times = []
                for _ in range(5):
                    page.goto(url + path.format(bike=bike, plan=plan))
                    times.append(page.evaluate(PAINT))
                paints[name] = round(statistics.median(times))
            reading = instruments.reading_ms(page, url, bike)
            chromium.close()
    finally:
        stop()
    return {"first_paint_ms": paints, "instrument_reading_ms": reading}


PAINT = """() => new Promise(done => {
  const seen = () => performance.getEntriesByName('first-contentful-paint')[0];
  const look = () => seen() ? done(seen().startTime) : requestAnimationFrame(look);
  look();
})"""


def _server() -> tuple[str, dict[str, Any], Callable[[], None]]:
    """A production server on a free port with the stored demonstration; its address, its config, and how to stop it."""
    import socket
    import urllib.request

    from unkett.local.state import load_config

    listens = socket.create_server(("127.0.0.1", 0), backlog=256)
    port = listens.getsockname()[1]
    servers = [
        subprocess.Popen(  # noqa: S603
            [sys.executable, "-m", "unkett.web.site.serve", str(listens.fileno())],
            cwd=ROOT, env=os.environ, pass_fds=[listens.fileno()],
        )
        for _ in range(2)
    ]  # fmt: skip
    url = f"http://127.0.0.1:{port}"
    for _ in range(100):
        try:
            urllib.request.urlopen(f"{url}/sign-in/").close()  # noqa: S310 - our own address
            break
        except OSError:
            time.sleep(0.1)

    def stop() -> None:
        for server in servers:
            server.terminate()
            server.wait(20)
        listens.close()

    return url, load_config(), stop


def _varied(entry: dict[str, Any], n: int) -> dict[str, Any]:
    """A catalogue entry made a little different, so that kinds have many distinct sorts."""
    attrs = dict(entry["attrs"])
    for name, value in list(attrs.items()):
        measured = isinstance(KINDS[entry["kind"]].attributes[name].type, Number)
        if name.endswith("_mm") and measured:
            attrs[name] = round(value + n / 1000, 3)
        elif name == "teeth" and len(value) > 1:
            attrs[name] = [*value[:-1], min(60, value[-1] + n % 9)]
            attrs["extra_spacer_mm" if entry["kind"] == "cassette" else "x_n"] = round(n / 200, 3)
    return {"kind": entry["kind"], "attrs": attrs}


def main() -> int:
    if sys.argv[1:2] == ["ways"]:
        return ways.main(sys.argv[2:])
    if sys.argv[1:2] == ["load"]:
        return load.main(sys.argv[2:])
    if sys.argv[1:2] == ["kills"]:
        return kills.main()
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "unkett.web.site.settings")
    print(
        json.dumps(
            {
                "format": "unkett.bench/1",
                **core_figures(),
                **cli_figures(),
                **web_figures(),
                **paint_figures(),
                "jobs": jobs.figures(),
                "ways": ways.times(),
            },
            indent=2,
        )
    )
    return 0


if __name__ == "__main__":
    sys.exit(main())
