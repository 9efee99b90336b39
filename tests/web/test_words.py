"""Plain words: nothing of the old dialect on the pages that owner, mechanic and customer can reach."""

import html
import re
from pathlib import Path

import pytest
from django.test import Client

from unkett.web.plans.links import address_of_link, give_link
from unkett.web.plans.models import Plan
from unkett.web.workshop.models import User

pytestmark = pytest.mark.own_database("demo")
PAGES_MOST = 60
GONE = [
    line
    for line in (Path(__file__).parents[1] / "gone_phrases.txt").read_text(encoding="utf-8").splitlines()
    if line and not line.startswith("#")
]


def said(page: str) -> str:
    """The words of a page: its text and what is said to a screen reader, without markup."""
    body = re.sub(r"<(script|style|datalist)\b.*?</\1>", " ", page, flags=re.S)
    labels = " ".join(re.findall(r'(?:aria-label|title|placeholder)="([^"]*)"', body))
    return " ".join(html.unescape(re.sub(r"<[^>]+>", " ", body) + " " + labels).split())


def reached(client: Client, start: str) -> dict[str, str]:
    """Pages from a start by their links, one of each kind of address first, with what they say."""
    found: dict[str, str] = {}
    waiting, kinds = [start], set()
    while waiting and len(found) < PAGES_MOST:
        address = waiting.pop(0)
        answer = client.get(address, follow=True)
        if answer.status_code != 200 or "text/html" not in answer["Content-Type"]:
            continue
        page = answer.text
        found[address] = said(page)
        for link in re.findall(r'href="(/[^"#]*)"', page):
            link = html.unescape(link)
            kind = re.sub(r"\d+", "N", link.partition("?")[0])
            if kind not in kinds and "/static/" not in link and "sign-out" not in link:
                kinds.add(kind)
                waiting.append(link)
    return found


@pytest.mark.parametrize(("who", "least"), [("rona", 40), ("eskil", 30), ("", 1)])
def test_no_page_speaks_the_old_dialect(db: None, client: Client, who: str, least: int) -> None:
    start = "/"
    if who:
        client.force_login(User.objects.get(username=who))
    else:
        link = give_link(
            actor=User.objects.get(username="rona"), plan_id=Plan.objects.get(name="Wide tens").pk
        )
        start = f"/look/{address_of_link(link)}/"
    pages = reached(client, start)
    assert len(pages) >= least, sorted(pages)
    old = {
        address: [phrase for phrase in GONE if re.search(rf"(?<!\w){re.escape(phrase)}", text)]
        for address, text in pages.items()
    }
    assert {address: phrases for address, phrases in old.items() if phrases} == {}
