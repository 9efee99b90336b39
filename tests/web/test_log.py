"""The log: one line an action, read in words, older ones a page further."""

import pytest
from django.urls import reverse

from unkett.web.bikes.services import record_measure
from unkett.web.pages.people import log as views
from unkett.web.show.words import log_says
from unkett.web.workshop.models import LogEntry


@pytest.mark.parametrize(
    ("kept", "says"),
    [
        (None, ""),
        ({"cassette": "Wide nine"}, "Cassette: Wide nine"),
        ({"front_derailleur": None}, "Front derailleur: nothing"),
        ({"name": "A", "index_clean_mm": 0.4}, "name: A; indexing error that stays quiet: 0.4"),
        ({"chain": {"links": 110, "also": []}}, "Chain: links: 110; also: nothing"),
        ("as it came", "as it came"),
    ],
)
def test_what_a_line_keeps_in_words(kept, says) -> None:
    assert log_says(kept) == says


def test_a_line_keeps_the_name_of_its_day(client, owner, bike) -> None:
    record_measure(actor=owner, bike_id=bike.pk, version=1, slot="chain", attr="links", value=110)
    bike.refresh_from_db()
    was, bike.name = bike.name, "Renamed since"
    bike.save()
    client.force_login(owner)
    page = client.get(reverse("workshop:log-list")).text
    assert f"bike {was}" in page
    assert "Renamed since" not in page
    assert "Chain" in page
    assert "110" in page
    assert "{&#x27;" not in page


def test_older_lines_are_a_page_further(client, owner, stranger, bike, monkeypatch) -> None:
    monkeypatch.setattr(views, "LOG_LINES", 3)
    LogEntry.objects.all().delete()
    lines = [
        LogEntry.objects.create(
            workshop=owner.workshop, actor=owner, verb=f"did {n}", about="bike", about_id=bike.pk
        )
        for n in range(5)
    ]
    client.force_login(owner)
    url = reverse("workshop:log-list")
    first = client.get(url).text
    assert "did 4" in first
    assert "did 1" not in first
    assert f"?to={lines[2].pk}" in first
    older = client.get(url, {"to": lines[2].pk}).text
    assert "did 1" in older
    assert "did 2" not in older
    assert "Older" not in older
    for bad in ("sofa", "-1", "9" * 30, "1;drop"):
        assert "did 4" in client.get(url, {"to": bad}).text
    client.force_login(stranger)
    assert "did" not in client.get(url).text
